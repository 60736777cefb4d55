#include "core/members/definitions.hpp"

#include <algorithm>
#include <array>
#include <memory_resource>
#include <optional>
#include <set>
#include <unordered_map>
#include <utility>

#include "core/members/conditions.hpp"
#include "core/members/documentation.hpp"
#include "core/members/extents.hpp"
#include "core/members/matching.hpp"
#include "core/members/namespaces.hpp"
#include "core/members/parameters.hpp"

namespace envar::members {
namespace {

constexpr std::size_t longest_definition = std::size_t{16} << 10U;  // as far as a pattern looks
constexpr std::string_view worked_out = "${}";  // what the code puts together as it runs, to written_out()
constexpr std::size_t most_tables = 16;         // names that a table has

/// Which definitions are wanted: what a module's entry file exports, what another file of it brings, or all.
enum class Wanted { of_entry, of_part, all };

class Definitions {
  public:
    Definitions(const text::Source& source, const model::Card& card, const Patterns::Compiled& patterns,
                Wanted wanted)
        : source_(source),
          text_(source.text()),
          card_(card),
          patterns_(patterns),
          wanted_(wanted),
          lexed_(lex(source.text(), patterns.grammar, wanted == Wanted::all)),
          code_(lexed_.code),
          extents_(text_, lexed_, card, patterns),
          documentation_(text_, lexed_, card, patterns),
          parameters_(text_, code_, card, patterns) {}

    /// `module`: the one that the text is of; empty where nobody knows.
    std::vector<FoundMember> run(std::string_view module, Outside* outside = nullptr) {
        table_ = card_.own_table && !module.empty() ? module : patterns_.table.last(code_);  // returned at their end
        names_.reserve(lexed_.statements.size());
        read_exports();
        for (std::size_t i = 0; i < lexed_.statements.size(); ++i) look_at(i);
        settle_aliases();
        if (wanted_ == Wanted::of_entry && !outside_.lists.empty()) add_made();
        if (wanted_ != Wanted::all) keep_exported();
        std::vector<FoundMember> members;
        members.reserve(found_.size());
        for (const Found& one : found_)
            if (!one.local) tell(one, members.emplace_back());
        if (outside != nullptr) *outside = std::move(outside_);
        return members;
    }

    [[nodiscard]] std::vector<Everything::Other> others(const std::vector<FoundMember>& defined) const {
        return extents_.others(defined);
    }

    /// Another name of a definition is a piece of text by itself, whatever it names.
    void find_only_pieces() { only_pieces_ = true; }
    [[nodiscard]] Lexed take_lexed() { return std::move(lexed_); }

  private:
    /// A definition by its places: most turn out to be nobody's, so no more is made of them until they count.
    struct Found {
        const Patterns::Compiled::Member* by = nullptr;
        std::size_t statement = 0;
        text::Span name;
        std::size_t end = 0;  // as far as the pattern goes
        std::string_view alias, parameters, table;
        std::string_view full_name;  // with the namespaces that it is in, where the language has some
        std::size_t of = 0;          // place in found_ of the definition that it is another name of, else its own
        bool local = false;
    };

    /// A pattern looks a little farther than to the next statement, so that all of them together look at little more
    /// than the text.
    void look_at(std::size_t index) {
        const std::size_t begin = extents_.begin_of(index);
        // The rest of a definition over several lines, but for raw lines in it, is none.
        if (begin < taken_to_ && !lexed_.statements[index].inside) return;
        const std::size_t size = extents_.begin_of(extents_.next_of(index)) - begin;
        const std::size_t few = extents_.begin_of(index + 3) - begin;  // a head may stand in a line of its own
        std::string_view window = code_.substr(begin, std::min(longest_definition, std::max(few, 4 * size + 256)));
        for (std::size_t before = size_before(window); before > 0; before = size_before(window))
            window.remove_prefix(before);
        if (window.empty()) return;
        if (namespaces_.change_at(index, window)) return;
        const auto first = static_cast<unsigned char>(window.front());
        for (const auto* member : patterns_.beginning_with.at(first)[is_item(index) ? 1 : 0])
            if (take(*member, index, window)) return;
    }

    /// How much of the text may stand before a definition, with the blanks behind it.
    [[nodiscard]] std::size_t size_before(std::string_view text) const {
        if (text.empty() || !patterns_.begins_before.at(static_cast<unsigned char>(text.front()))) return 0;
        for (const auto& one : patterns_.before) {
            if (!one.opening.admits(text)) continue;
            re2::StringPiece found;
            if (!one.pattern->Match(piece(text), 0, text.size(), re2::RE2::ANCHOR_START, &found, 1)) continue;
            std::size_t size = found.size();
            while (size > 0 && size < text.size() && is_space(text[size])) ++size;
            if (size > 0) return size;
        }
        return 0;
    }

    /// Whether the statement is an item of a block.
    [[nodiscard]] bool is_item(std::size_t index) const {
        return lexed_.statements[index].owner != Statement::nobody;
    }

    bool take(const Patterns::Compiled::Member& member, std::size_t index, std::string_view window) {
        const Statement& statement = lexed_.statements[index];
        if (member.only_in_parts && wanted_ != Wanted::of_part) return false;
        if (!member.bare.empty() && (wanted_ == Wanted::all || !is_table(member.bare))) return false;
        if (member.role == model::MemberRole::listed && !outside_.lists_exports && wanted_ != Wanted::all)
            return false;
        Groups groups;
        const bool matches =
            member.in_line ? groups.match(*member.pattern, window.substr(0, window.find('\n')), re2::RE2::UNANCHORED)
                           : groups.match_here(*member.pattern, member.opening, window);
        if (!matches) return false;
        if (!member.bare.empty() && member.role == model::MemberRole::member &&
            place_in(locals_, groups[member.name]) != 0)
            return false;
        if (member.role == model::MemberRole::table)
            return name_table(index, groups[member.name], groups[member.table]);
        if (member.table != 0 && !is_table(groups[member.table]) && wanted_ != Wanted::all) return false;
        if (member.owner) {
            Groups owner;
            if (!owner.match(*member.owner, code_.substr(statement.owner, statement.owner_end - statement.owner),
                             re2::RE2::UNANCHORED))
                return false;
            if (wanted_ == Wanted::all) return true;  // an item of a table cannot be moved by itself
            if (member.owner_table != 0 && !is_table(owner[member.owner_table])) return false;
        }
        if (only_pieces_ && groups[member.behind].data() != nullptr) return true;
        if (member.role == model::MemberRole::none) return true;
        if (member.role == model::MemberRole::taken) {
            // A path stands in a string, or in part, so it is read from the text itself.
            const auto path = [&](int group) {
                const text::Span place = place_of(groups[group]);
                return std::string(text_.substr(place.begin, place.end - place.begin));
            };
            if (member.file != 0) {
                outside_.taken.push_back({path(member.file), {}, true});
            } else if (member.ending != 0) {
                std::string ending = path(member.ending);
                if (!ending.ends_with(card_.extension)) return false;
                if (!ending.starts_with('/')) ending.insert(0, "/");  // what is before it ends so
                outside_.taken.push_back({ending.insert(0, worked_out), {}, true});
            } else if (member.names != 0) {
                outside_.taken.push_back({std::string(groups[member.from]), place_of(groups[member.names])});
            } else {
                // A value like others; or one that is given back under some condition, where else the table is.
                const bool is_nested = lexed_.statements[index].nested;
                if (wanted_ == Wanted::all || (member.table == 0 && is_nested && !table_.empty())) return false;
                outside_.taken.push_back({path(member.from), {}, false, true});
            }
            return true;
        }
        if (member.names != 0) return take_names(member, index, groups);
        return take_name(member, index, groups,
                         member.declared != 0 ? patterns_.declared(groups[member.declared]).name
                                              : unqualified(groups[member.name]),
                         groups[member.table]);
    }

    [[nodiscard]] bool is_table(std::string_view name) const {
        if (card_.own_table && place_in(locals_, name) != 0) return false;  // the file has one for itself
        return name == table_ || std::find(tables_.begin(), tables_.end(), name) != tables_.end();
    }

    /// One name of the table that members are put into may be given another one.
    bool name_table(std::size_t index, std::string_view name, std::string_view table) {
        if (table_.empty() || lexed_.statements[index].nested || tables_.size() == most_tables ||
            is_table(name) == is_table(table))
            return false;
        tables_.push_back(is_table(name) ? table : name);
        return true;
    }

    /// Where a piece of the code stands.
    [[nodiscard]] text::Span place_of(std::string_view piece) const {
        if (piece.data() == nullptr) return {};
        const auto begin = static_cast<std::size_t>(piece.data() - code_.data());
        return {begin, begin + piece.size()};
    }

    /// Each of several names; one that is written with a table counts if that is the module's.
    bool take_names(const Patterns::Compiled::Member& member, std::size_t index, const Groups& groups) {
        constexpr std::string_view between = " \t\r\n,()";
        bool any = false;
        if (!member.each.finds_nothing()) {
            member.each.each(groups[member.names],
                             [&](std::string_view name) { any = take_name(member, index, groups, name, {}) || any; });
            return any;
        }
        for (std::string_view rest = groups[member.names]; !rest.empty();) {
            const std::size_t begin = std::min(rest.find_first_not_of(between), rest.size());
            const std::size_t end = std::min(rest.find_first_of(between, begin), rest.size());
            const std::string_view word = rest.substr(begin, end - begin);
            rest.remove_prefix(end);
            const std::size_t dot = card_.table_pattern.empty() ? std::string_view::npos : word.rfind('.');
            const std::string_view table = dot == std::string_view::npos ? std::string_view() : word.substr(0, dot);
            if (member.bare.empty() && !is_table(table) && wanted_ != Wanted::all) continue;
            any = take_name(member, index, groups, word.substr(table.empty() ? 0 : dot + 1), table) || any;
            if (any && wanted_ == Wanted::all && member.role != model::MemberRole::gone) break;  // one piece of text
        }
        return any;
    }

    bool take_name(const Patterns::Compiled::Member& member, std::size_t index, const Groups& groups,
                   std::string_view name, std::string_view table) {
        if (name.data() == nullptr || name.empty()) return false;
        if (member.role == model::MemberRole::gone) {
            if (wanted_ == Wanted::all && patterns_.has_other_names) return true;  // its other names stay
            const auto known = names_.find(name);
            if (known != names_.end() && known->second != 0 &&
                is_macro(member) != is_macro(*found_[known->second - 1].by))
                return true;
            if (known == names_.end() || known->second == 0) {
                if (!lexed_.statements[index].nested) outside_.gone.emplace(name);
                return true;
            }
            // What goes under some condition only is there all the same.
            Found& defined = found_[known->second - 1];
            if (lexed_.statements[index].nested && !lexed_.statements[defined.statement].nested) return true;
            if (is_conditional(defined.name.begin, extents_.begin_of(index))) return true;
            defined.local = true;
            locals_[name] = known->second;
            known->second = 0;
            return true;
        }
        // A value that is given to a name does not hide the definition of it, but that of another definition does.
        const std::string_view alias = groups[member.alias];
        const bool defines = member.role == model::MemberRole::other_name && !lexed_.statements[index].nested &&
                             alias != name && (place_in(names_, alias) != 0 || place_in(locals_, alias) != 0);
        const bool gives = member.role == model::MemberRole::listed || member.role == model::MemberRole::other_name;
        const auto full = [&] { return patterns_.has_scopes() ? namespaces_.full_name_of(index, name, name) : name; };
        if (gives && !defines && names_.find(full()) != names_.end()) return true;
        const auto begin = static_cast<std::size_t>(name.data() - code_.data());
        add(member, index, {begin, begin + name.size()}, groups, table);
        return true;
    }

    /// A macro may stand before a function or a type of its name, which is there all the same.
    static bool is_macro(const Patterns::Compiled::Member& member) { return member.kind == "macro"; }

    [[nodiscard]] bool is_conditional(std::size_t from, std::size_t to) {
        if (patterns_.condition_begins.finds_nothing()) return false;
        if (!conditions_) conditions_.emplace(patterns_.condition_begins, patterns_.condition_ends, code_);
        return conditions_->begins_between(from, to);
    }

    [[nodiscard]] std::string_view unqualified(std::string_view name) const {
        const std::size_t last = card_.qualifier.empty() ? std::string_view::npos : name.rfind(card_.qualifier);
        return last == std::string_view::npos ? name : name.substr(last + card_.qualifier.size());
    }

    void add(const Patterns::Compiled::Member& member, std::size_t index, text::Span name, const Groups& groups,
             std::string_view table) {
        Found found;
        found.by = &member;
        found.statement = index;
        found.name = name;
        found.end = static_cast<std::size_t>(groups.end() - code_.data());
        taken_to_ = found.end;
        found.alias = groups[member.alias];
        found.parameters = groups[member.parameters];
        found.table = table;
        found.local = member.role == model::MemberRole::local && wanted_ != Wanted::all;
        if (!found.local && wanted_ != Wanted::all && is_internal(found)) {
            if (!patterns_.has_other_names) return;
            found.local = true;  // but for its other names
        }
        // Of two definitions the later one is what the host has.
        if (patterns_.has_scopes())
            found.full_name = namespaces_.full_name_of(index, name_of(found), groups[member.name]);
        auto& known = (found.local ? locals_ : names_)[patterns_.has_scopes() ? found.full_name : name_of(found)];
        if (known != 0 && !found.local) {
            if (is_macro(member) && !is_macro(*found_[known - 1].by)) return;  // which is there besides
            found.of = known - 1;
            found_[known - 1] = found;
            return;
        }
        found.of = found_.size();
        found_.push_back(found);
        known = found_.size();
    }

    /// By its name, and no list of exports says otherwise.
    [[nodiscard]] bool is_internal(const Found& found) const {
        const std::string_view name = name_of(found);
        const auto& exports = outside_.exports;
        return patterns_.internal && shown_name(found) == name &&
               re2::RE2::FullMatch(piece(name), *patterns_.internal) &&
               std::find(exports.begin(), exports.end(), name) == exports.end();
    }

    [[nodiscard]] std::string_view name_of(const Found& found) const {
        return text_.substr(found.name.begin, found.name.end - found.name.begin);
    }

    /// As others see it.
    [[nodiscard]] std::string_view shown_name(const Found& found) const {
        const std::string_view name = name_of(found);
        if (outside_.renamed.empty() || wanted_ == Wanted::all) return name;
        const auto renamed = outside_.renamed.find(name);
        return renamed == outside_.renamed.end() ? name : renamed->second;
    }

    /// Whether it counts for nothing but a list of exports.
    [[nodiscard]] bool is_only_listed(const Found& found) const {
        const auto given = [](const Found& one) {
            return one.by->role == model::MemberRole::listed || one.by->role == model::MemberRole::other_name;
        };
        return given(found) &&
               (found.by->role == model::MemberRole::listed || originals_.empty() || given(originals_[found.of]));
    }

    /// Tells all that is said of it. One that is another name of a definition has its kind, its parameters, its place
    /// and its documentation.
    void tell(const Found& found, FoundMember& member) {
        const Found& by = originals_.empty() ? found : originals_[found.of];
        const std::size_t begin = extents_.begin_of(by.statement);
        member.name = shown_name(found);
        member.kind = by.by->kind;
        member.file = source_.file();
        member.line = source_.line_of(by.name.begin);
        member.span = by.name;
        member.whole = {begin, by.end};
        member.extent = {extents_.head_of(by.statement), extents_.end_of(by.statement, by.end)};
        member.owner = by.table;
        if (const std::size_t end = by.full_name.rfind(card_.qualifier);
            !by.full_name.empty() && end != std::string_view::npos)
            member.scope = by.full_name.substr(0, end);
        if (wanted_ == Wanted::all && namespaces_.is_of_file(member.scope)) member.scope.clear();
        member.only_listed = is_only_listed(found);
        member.nested = lexed_.statements[by.statement].nested;
        parameters_.read(by.parameters, member);
        documentation_.describe(member);
        if (&by == &found || by.name.begin == found.name.begin || !member.summary.empty()) return;
        FoundMember own;
        own.name = member.name;
        own.whole = {extents_.begin_of(found.statement), found.end};
        own.extent = {extents_.head_of(found.statement), extents_.end_of(found.statement, found.end)};
        documentation_.describe(own);
        member.summary = std::move(own.summary);
    }

    // What becomes of them.

    using Places = std::pmr::unordered_map<std::string_view, std::size_t>;  // place in found_ plus 1; 0: not there
    static std::size_t place_in(const Places& places, std::string_view name) {
        const auto known = places.find(name);
        return known == places.end() ? 0 : known->second;
    }

    /// The place of a name as it is meant where the other one stands: by itself, or in the same namespace.
    [[nodiscard]] std::size_t place_from(const Found& one, const Places& places, std::string_view name) const {
        const std::size_t place = place_in(places, name);
        const std::size_t end = one.full_name.rfind(card_.qualifier);
        if (place != 0 || one.full_name.empty() || end == std::string_view::npos) return place;
        return place_in(places, std::string(one.full_name.substr(0, end + card_.qualifier.size())).append(name));
    }

    /// Finds out what members that are other names of definitions are names of.
    void settle_aliases() {
        for (std::size_t at = 0; at < found_.size(); ++at) {
            Found& one = found_[at];
            if (one.alias.empty() || only_pieces_) continue;
            // `M.f = M.g` names a member, `M.f = g` a definition that is none by itself.
            const std::size_t dot = table_.empty() ? std::string_view::npos : one.alias.find('.');
            const bool of_table =
                dot != std::string_view::npos && dot + 1 < one.alias.size() && is_table(one.alias.substr(0, dot));
            const std::string_view of_what = of_table ? one.alias.substr(dot + 1) : one.alias;
            const auto& among = of_table || card_.table_pattern.empty() ? names_ : locals_;
            std::size_t of = place_from(one, among, of_what);
            if (of == 0 && one.by->role == model::MemberRole::other_name) of = place_from(one, locals_, of_what);
            // A name that is only declared tells nothing of what it stands for.
            if (of != 0 && found_[of - 1].local && !found_[of - 1].by->bare.empty()) of = 0;
            if (of == 0 && !one.by->bare.empty()) of = place_from(one, names_, of_what);
            // A field of another table has another value before it is defined here.
            const bool is_field = !of_table && of_what.find('.') != std::string_view::npos;
            if (is_field && of != 0 && found_[of - 1].name.begin > one.name.begin) of = 0;
            if (of == 0 || of - 1 == at) {
                if (one.by->role == model::MemberRole::other_name)
                    outside_.other_names.push_back({std::string(name_of(one)), std::string(one.alias), one.name});
                continue;
            }
            one.of = found_[of - 1].of;
            if (originals_.empty()) originals_ = found_;
        }
        const auto place = [this](const Found& one) {
            return (originals_.empty() ? one : originals_[one.of]).name.begin;
        };
        const auto before = [&](const Found& a, const Found& b) { return place(a) < place(b); };
        if (!std::is_sorted(found_.begin(), found_.end(), before))
            std::stable_sort(found_.begin(), found_.end(), before);
    }

    void read_exports() {
        patterns_.exports.each(code_, [&](std::string_view list) {
            if (list.data() != nullptr) patterns_.export_lists.add(list, code_, text_, outside_);
            outside_.lists_exports = true;
        });
        patterns_.export_lists.follow(code_, text_, outside_);
    }

    void add_made() {
        std::set<std::string_view> shown;
        const bool other_names = patterns_.has_scopes() || !outside_.renamed.empty();
        if (other_names)
            for (const Found& one : found_)
                if (!one.local) shown.insert(shown_name(one));
        const auto is_defined = [&](std::string_view name) {
            return other_names ? shown.count(name) != 0 : place_in(names_, name) != 0;
        };
        patterns_.export_lists.add_made(is_defined, code_, text_, outside_);
    }

    /// Where the text has a list of what is exported, nothing else counts.
    void keep_exported() {
        if (!outside_.lists_exports) {
            std::erase_if(found_, [this](const Found& one) { return is_only_listed(one); });
            return;
        }
        const ListedNames listed(outside_.exports, card_.export_globs);
        std::erase_if(found_, [&](const Found& one) { return !listed.has(shown_name(one)); });
    }

    const text::Source& source_;
    std::string_view text_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    Wanted wanted_;
    Lexed lexed_;
    std::string_view code_;
    Extents extents_;
    Documentation documentation_;
    Parameters parameters_;
    std::string_view table_;
    std::vector<std::string_view> tables_;  // its other names
    Outside outside_;
    std::optional<Conditions> conditions_;  // once they are asked for
    bool only_pieces_ = false;
    std::size_t taken_to_ = 0;  // where the latest definition ends, as far as its pattern goes
    std::vector<Found> found_;
    Namespaces namespaces_{card_, patterns_, lexed_};
    std::vector<Found> originals_;  // as found_ was before it was sorted; empty: no definition has another name
    std::pmr::monotonic_buffer_resource room_;
    Places names_{&room_}, locals_{&room_};
};

}  // namespace

std::vector<FoundMember> definitions(const text::Source& source, const model::Card& card,
                                     const Patterns::Compiled& patterns, bool part, std::string_view module,
                                     Outside* outside) {
    Definitions wanted(source, card, patterns, part ? Wanted::of_part : Wanted::of_entry);
    return wanted.run(module, outside);
}

std::vector<FoundMember> all_definitions(const text::Source& source, const model::Card& card,
                                         const Patterns::Compiled& patterns, Outside& outside) {
    return Definitions(source, card, patterns, Wanted::all).run({}, &outside);
}

Everything everything_in(const text::Source& source, const model::Card& card, const Patterns::Compiled& patterns) {
    Everything out;
    Definitions all(source, card, patterns, Wanted::all);
    all.find_only_pieces();
    out.defined = all.run({});
    std::erase_if(out.defined,
                  [](const FoundMember& one) { return one.kind == "variable" || one.kind == "constant"; });
    out.others = all.others(out.defined);
    out.lexed = all.take_lexed();
    return out;
}

}  // namespace envar::members
