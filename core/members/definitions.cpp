#include "core/members/definitions.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>

#include "core/members/grammar.hpp"
#include "core/text/glob.hpp"
#include "core/text/pattern.hpp"

namespace envar::members {
namespace {

constexpr std::size_t longest_definition = std::size_t{16} << 10U;  // as far as a pattern looks
constexpr std::string_view usual_parameter =
    R"((?s)^(?P<name>[^\s=:]+)\s*(?::\s*(?P<type>[^=]+?))?\s*(?::?=\s*(?P<default>.*))?$)";
constexpr std::string_view usual_doc_parameter =
    R"(^(?:[@\\]t?param(?:\[[^\]]*\])?|:param)\s+(?:\{(?P<type>[^}]*)\}\s+)?(?P<name>[\w.]+):?\s*(?:[-:]\s*)?(?P<summary>.*))";

int group(const re2::RE2& pattern, const char* name) { return static_cast<int>(text::group_number(pattern, name)); }

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
    while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
    return text;
}

class Groups {
  public:
    bool match(const re2::RE2& pattern, std::string_view text, re2::RE2::Anchor anchor) {
        wanted_ = std::min<int>(static_cast<int>(groups_.size()), pattern.NumberOfCapturingGroups() + 1);
        return pattern.Match(piece(text), 0, text.size(), anchor, groups_.data(), wanted_);
    }
    /// Empty, without a place, when there is no such group or it took no part.
    [[nodiscard]] std::string_view operator[](int number) const {
        if (number <= 0 || number >= wanted_) return {};
        const auto& found = groups_.at(static_cast<std::size_t>(number));
        return {found.data(), found.size()};
    }
    [[nodiscard]] std::size_t size() const { return groups_[0].size(); }

  private:
    std::array<re2::StringPiece, 12> groups_;
    int wanted_ = 0;
};

class Definitions {
  public:
    Definitions(const text::Source& source, const model::Card& card, const Patterns::Compiled& patterns, bool part)
        : source_(source),
          text_(source.text()),
          card_(card),
          patterns_(patterns),
          part_(part),
          lexed_(lex(source.text(), patterns.grammar)),
          code_(lexed_.code) {}

    std::vector<FoundMember> run() {
        find_table();
        for (std::size_t i = 0; i < lexed_.statements.size(); ++i) {
            const Statement& statement = lexed_.statements[i];
            const std::size_t next = i + 1 < lexed_.statements.size() ? lexed_.statements[i + 1].begin : code_.size();
            look_at(statement, next - statement.begin);
        }
        settle_aliases();
        keep_exported();
        std::vector<FoundMember> members;
        for (Found& one : found_)
            if (!one.local) members.push_back(std::move(one.member));
        for (FoundMember& member : members) {
            member.file = source_.file();
            member.line = source_.position(member.span.begin).line;
        }
        return members;
    }

  private:
    struct Found {
        FoundMember member;
        std::string alias;
        bool local = false;
    };

    /// The last line that names the table counts: modules return it at their end.
    void find_table() {
        if (!patterns_.table) return;
        for (std::size_t at = 0; at <= code_.size();) {
            std::array<re2::StringPiece, 2> groups;
            if (!patterns_.table->Match(piece(code_), at, code_.size(), re2::RE2::UNANCHORED, groups.data(),
                                        std::min(2, patterns_.table->NumberOfCapturingGroups() + 1)))
                return;
            table_ = groups[1].as_string();
            at = static_cast<std::size_t>(groups[0].data() - code_.data()) +
                 std::max<std::size_t>(1, groups[0].size());
        }
    }

    /// A pattern looks a little farther than to the next statement, so that all of them together look at little more
    /// than the text.
    void look_at(const Statement& statement, std::size_t size) {
        const std::string_view window = code_.substr(statement.begin, std::min(longest_definition, 4 * size + 256));
        if (patterns_.any && !patterns_.any->Match(piece(window), nullptr)) return;
        for (const auto& member : patterns_.members)
            if (take(member, statement, window)) return;
    }

    bool take(const Patterns::Compiled::Member& member, const Statement& statement, std::string_view window) {
        if (member.only_in_parts && !part_) return false;
        if ((member.owner != nullptr) != (statement.owner != Statement::nobody)) return false;
        if (member.in_line) window = window.substr(0, window.find('\n'));
        Groups groups;
        if (!groups.match(*member.pattern, window, member.in_line ? re2::RE2::UNANCHORED : re2::RE2::ANCHOR_START))
            return false;
        if (member.table != 0 && groups[member.table] != table_) return false;
        if (member.owner) {
            Groups owner;
            if (!owner.match(*member.owner, code_.substr(statement.owner, statement.owner_end - statement.owner),
                             re2::RE2::UNANCHORED))
                return false;
            if (member.owner_table != 0 && owner[member.owner_table] != table_) return false;
        }
        const std::string_view name = groups[member.name];
        if (name.data() == nullptr || name.empty()) return false;
        if (member.role == model::MemberRole::gone) {
            if (const auto known = names_.find(name); known != names_.end() && known->second != 0) {
                found_[known->second - 1].local = true;
                known->second = 0;
            }
            return true;
        }
        const auto begin = static_cast<std::size_t>(name.data() - code_.data());
        add(member, statement, {begin, begin + name.size()}, groups);
        return true;
    }

    void add(const Patterns::Compiled::Member& member, const Statement& statement, text::Span name,
             const Groups& groups) {
        Found found;
        found.local = member.role == model::MemberRole::local;
        found.alias = groups[member.alias];
        found.member.name = source_.text().substr(name.begin, name.end - name.begin);
        found.member.kind = member.kind;
        found.member.span = name;
        found.member.whole = {statement.begin, statement.begin + groups.size()};
        if (!found.local && patterns_.internal && re2::RE2::FullMatch(piece(found.member.name), *patterns_.internal))
            return;
        // Of two definitions the later one is what the host has.
        auto& known = (found.local ? locals_ : names_)[found.member.name];
        parameters_of(groups[member.parameters], found.member);
        document(statement, found.member);
        if (known != 0 && !found.local) {
            found_[known - 1] = std::move(found);
            return;
        }
        found_.push_back(std::move(found));
        known = found_.size();
    }

    // Parameters.

    void parameters_of(std::string_view list, FoundMember& member) const {
        if (list.data() == nullptr) return;
        member.tells_parameters = true;
        member.tells_defaults = !card_.parameter_pattern.empty() && group(*patterns_.parameter, "default") != 0;
        const auto begin = static_cast<std::size_t>(list.data() - code_.data());
        const std::string& separator = card_.parameter_separator;
        std::size_t item = begin;
        std::ptrdiff_t depth = 0;
        const auto take_item = [&](std::size_t end) {
            if (auto parameter = parameter_of(item, end)) member.parameters.push_back(std::move(*parameter));
            item = end + 1;
        };
        for (std::size_t at = begin; at < begin + list.size(); ++at) {
            const char c = code_[at];
            if (c == '(' || c == '[' || c == '{' || (c == '<' && separator == ",")) ++depth;
            if (c == ')' || c == ']' || c == '}' || (c == '>' && separator == "," && code_[at - 1] != '-')) --depth;
            const bool between = separator == " " ? is_space(c) : separator.starts_with(c);
            if (between && depth <= 0) take_item(at);
        }
        take_item(begin + list.size());
    }

    [[nodiscard]] std::optional<FoundParameter> parameter_of(std::size_t begin, std::size_t end) const {
        std::string_view item = trimmed(code_.substr(begin, end - begin));
        while (item.starts_with('\\')) item = trimmed(item.substr(1));  // the line goes on
        if (item.empty()) return std::nullopt;
        FoundParameter parameter;
        // Defaults may hold strings, so the text itself is looked at where it has as many characters.
        const std::string_view own(text_.data() + (item.data() - code_.data()), item.size());
        Groups groups;
        if (!groups.match(*patterns_.parameter, own, re2::RE2::UNANCHORED)) return std::nullopt;
        parameter.name = groups[group(*patterns_.parameter, "name")];
        parameter.type = trimmed(groups[group(*patterns_.parameter, "type")]);
        const std::string_view preset = groups[group(*patterns_.parameter, "default")];
        parameter.required = preset.data() == nullptr && groups[group(*patterns_.parameter, "optional")].empty();
        parameter.preset = trimmed(preset);
        if (parameter.name.empty()) return std::nullopt;
        return parameter;
    }

    // Documentation.

    void document(const Statement& statement, FoundMember& member) const {
        if (card_.docstrings) member.documentation = string_behind(member.whole.end);
        if (member.documentation.empty()) member.documentation = comment_above(statement.begin);
        if (member.documentation.empty()) return;
        std::string_view rest = member.documentation;
        std::string summary;
        bool over = false;
        for (std::size_t at = 0; at <= rest.size();) {
            const std::size_t end = std::min(rest.find('\n', at), rest.size());
            const std::string_view line = trimmed(rest.substr(at, end - at));
            at = end + 1;
            if (take_documented(line, member)) {
                over = true;
            } else if (line.empty() || line.front() == '@' || line.front() == '\\') {
                over = over || !summary.empty();
            } else if (!over) {
                summary += (summary.empty() ? "" : " ") + std::string(line);
                const std::size_t stop = summary.find(". ");
                over = stop != std::string::npos || summary.back() == '.';
                if (stop != std::string::npos) summary.resize(stop + 1);
            }
        }
        member.summary = std::move(summary);
    }

    /// A line on a parameter.
    bool take_documented(std::string_view line, FoundMember& member) const {
        Groups groups;
        if (!patterns_.doc_parameter || !groups.match(*patterns_.doc_parameter, line, re2::RE2::UNANCHORED))
            return false;
        const std::string name(groups[group(*patterns_.doc_parameter, "name")]);
        const auto found = std::find_if(member.parameters.begin(), member.parameters.end(),
                                        [&](const FoundParameter& p) { return p.name == name; });
        if (found == member.parameters.end()) {
            member.told.push_back(name);
            return true;
        }
        found->summary = trimmed(groups[group(*patterns_.doc_parameter, "summary")]);
        if (found->type.empty()) found->type = trimmed(groups[group(*patterns_.doc_parameter, "type")]);
        return true;
    }

    /// Whether nothing but blanks and one line end stand in between.
    [[nodiscard]] bool is_right_above(std::size_t from, std::size_t to) const {
        std::size_t lines = 0;
        for (; from < to; ++from) {
            if (!is_space(text_[from])) return false;
            if (text_[from] == '\n' && ++lines > 1) return false;
        }
        return true;
    }

    /// The comments right above, without an empty line in between.
    [[nodiscard]] std::string comment_above(std::size_t begin) const {
        if (lexed_.comments.empty() || lexed_.comments.front().begin > begin) return {};
        std::size_t line = begin;
        while (line > 0 && text_[line - 1] != '\n') {
            if (begin - line > longest_definition) return {};
            --line;
        }
        auto next = std::lower_bound(lexed_.comments.begin(), lexed_.comments.end(), line,
                                     [](const text::Span& span, std::size_t at) { return span.begin < at; });
        std::string documentation;
        std::size_t top = line;
        while (next != lexed_.comments.begin()) {
            const text::Span span = *--next;
            if (span.end > top || !is_right_above(span.end, top)) break;
            std::size_t start = span.begin;
            while (start > 0 && (text_[start - 1] == ' ' || text_[start - 1] == '\t')) --start;
            if (start > 0 && text_[start - 1] != '\n') break;  // it stands behind code
            std::string own = without_marks(text_.substr(span.begin, span.end - span.begin), card_);
            documentation = documentation.empty() ? std::move(own) : own + "\n" + documentation;
            top = start;
        }
        return std::string(trimmed(documentation));
    }

    /// A string that is the first thing behind a definition's head.
    [[nodiscard]] std::string string_behind(std::size_t end) const {
        std::size_t at = end;
        // The rest of the head goes up to the end of its line, where code is.
        while (at < code_.size() && (is_space(code_[at]) || code_[at] == ')' || code_[at] == ':')) ++at;
        if (at >= text_.size()) return {};
        if (text_[at] == '-') {  // an annotation of what is returned
            at = code_.find(":\n", at);
            if (at == std::string_view::npos) return {};
            while (at < code_.size() && (is_space(code_[at]) || code_[at] == ':')) ++at;
        }
        std::string_view rest = text_.substr(at);
        while (!rest.empty() && std::string_view("rRuUbB").find(rest.front()) != std::string_view::npos)
            rest.remove_prefix(1);
        for (const std::string_view mark : {"\"\"\"", "'''", "\"", "'"}) {
            if (!rest.starts_with(mark)) continue;
            std::size_t close = mark.size();
            while (close < rest.size() && rest.substr(close, mark.size()) != mark)
                close += rest[close] == '\\' ? 2 : 1;
            if (close >= rest.size()) return {};
            return std::string(trimmed(rest.substr(mark.size(), close - mark.size())));
        }
        return {};
    }

    // What becomes of them.

    /// A member that is another name of a definition has its kind, its parameters, its place and its documentation.
    void settle_aliases() {
        for (Found& one : found_) {
            if (one.alias.empty()) continue;
            // `M.f = M.g` names a member, `M.f = g` a definition that is none by itself.
            const bool of_table = !table_.empty() && one.alias.size() > table_.size() + 1 &&
                                  one.alias.starts_with(table_) && one.alias[table_.size()] == '.';
            const std::string name_of = of_table ? one.alias.substr(table_.size() + 1) : one.alias;
            const auto& among = of_table ? names_ : locals_;
            const auto of = among.find(name_of);
            if (of == among.end() || of->second == 0 || &found_[of->second - 1] == &one) continue;
            const FoundMember& from = found_[of->second - 1].member;
            const std::string summary = one.member.summary;
            std::string name = std::move(one.member.name);
            one.member = from;
            one.member.name = std::move(name);
            if (one.member.summary.empty()) one.member.summary = summary;
        }
        std::stable_sort(found_.begin(), found_.end(),
                         [](const Found& a, const Found& b) { return a.member.span.begin < b.member.span.begin; });
    }

    /// Where the text has a list of what is exported, nothing else counts; `*` in a name stands for any text.
    void keep_exported() {
        if (!patterns_.exports || patterns_.export_group == 0) return;
        std::vector<std::string> names;
        bool has_exports = false;
        std::vector<re2::StringPiece> groups(static_cast<std::size_t>(patterns_.exports->NumberOfCapturingGroups()) +
                                             1);
        // The places are those of the code; the names may stand in strings, so they are read from the text itself.
        for (std::size_t at = 0; at <= code_.size();) {
            if (!patterns_.exports->Match(piece(code_), at, code_.size(), re2::RE2::UNANCHORED, groups.data(),
                                          static_cast<int>(groups.size())))
                break;
            const auto& list = groups[static_cast<std::size_t>(patterns_.export_group)];
            if (list.data() != nullptr)
                add_names(text_.substr(static_cast<std::size_t>(list.data() - code_.data()), list.size()), names);
            at = static_cast<std::size_t>(groups[0].data() - code_.data()) +
                 std::max<std::size_t>(1, groups[0].size());
            has_exports = true;
        }
        if (!has_exports) return;
        const text::Globs exported(names);
        std::erase_if(found_, [&](const Found& one) { return !exported.match(one.member.name); });
    }

    static void add_names(std::string_view list, std::vector<std::string>& names) {
        constexpr std::string_view between = " \t\r\n\"',;()[]{}";
        for (std::size_t at = list.find_first_not_of(between); at != std::string_view::npos;) {
            const std::size_t end = std::min(list.find_first_of(between, at), list.size());
            names.emplace_back(list.substr(at, end - at));
            at = list.find_first_not_of(between, end);
        }
    }

    const text::Source& source_;
    std::string_view text_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    bool part_;
    Lexed lexed_;
    std::string_view code_;
    std::string table_;
    std::vector<Found> found_;
    std::map<std::string, std::size_t, std::less<>> names_, locals_;  // place in found_ plus 1; 0: not there
};

}  // namespace

Patterns::Compiled::Compiled(const model::Card& card) : grammar(card) {
    re2::RE2::Options quiet;
    quiet.set_log_errors(false);
    any = std::make_unique<re2::RE2::Set>(quiet, re2::RE2::ANCHOR_START);
    for (const auto& member : card.members) {
        Member made;
        made.pattern = compile_pattern(member.pattern);
        if (!made.pattern || group(*made.pattern, "name") == 0) continue;
        made.owner = compile_pattern(member.owner);
        if (made.owner) made.owner_table = group(*made.owner, "table");
        made.kind = member.kind;
        made.role = member.role;
        made.only_in_parts = member.only_in_parts;
        made.name = group(*made.pattern, "name");
        made.parameters = group(*made.pattern, "parameters");
        made.table = group(*made.pattern, "table");
        made.alias = group(*made.pattern, "alias");
        made.in_line = !member.pattern.starts_with('^') && !member.pattern.starts_with("(?m)^");
        if (any && (made.in_line || any->Add(member.pattern, nullptr) < 0)) any = nullptr;
        members.push_back(std::move(made));
    }
    if (any && !any->Compile()) any = nullptr;
    internal = compile_pattern(card.internal_pattern);
    if (!card.export_pattern.empty()) exports = compile_pattern("(?m)" + card.export_pattern);
    if (exports) export_group = group(*exports, "names");
    if (!card.table_pattern.empty()) table = compile_pattern("(?m)" + card.table_pattern);
    parameter = compile_pattern(card.parameter_pattern);
    if (!parameter) parameter = compile_pattern(std::string(usual_parameter));
    doc_parameter = compile_pattern(card.doc_parameter_pattern.empty() ? std::string(usual_doc_parameter)
                                                                       : card.doc_parameter_pattern);
}

std::vector<FoundMember> definitions(const text::Source& source, const model::Card& card,
                                     const Patterns::Compiled& patterns, bool part) {
    return Definitions(source, card, patterns, part).run();
}

std::string without_marks(std::string_view comment, const model::Card& card) {
    std::string_view inner = comment;
    std::string_view open, close;
    for (const auto& marks : card.long_comments) {
        const std::string_view first = std::string_view(marks.first).substr(marks.first.starts_with('\n') ? 1 : 0);
        if (!inner.starts_with(first) || marks.second.find("\\1") != std::string::npos) continue;
        inner.remove_prefix(first.size());
        if (inner.ends_with(marks.second)) inner.remove_suffix(marks.second.size());
        break;
    }
    std::string out;
    const std::string& mark = card.comment_begins.empty() ? card.language.comment : card.comment_begins;
    for (std::size_t at = 0; at <= inner.size();) {
        const std::size_t end = std::min(inner.find('\n', at), inner.size());
        std::string_view line = inner.substr(at, end - at);
        at = end + 1;
        const std::string_view without = trimmed(line);
        if (!mark.empty() && without.starts_with(mark)) {
            line = without.substr(mark.size());
            while (!line.empty() && (line.front() == mark.back() || line.front() == '!' || line.front() == '<'))
                line.remove_prefix(1);
        } else if (without.starts_with('*')) {
            line = without.substr(1);
        } else {
            line = without;
        }
        if (line.starts_with(' ')) line.remove_prefix(1);
        while (!line.empty() && is_space(line.back())) line.remove_suffix(1);
        out += (out.empty() ? "" : "\n") + std::string(line);
    }
    return out;
}

}  // namespace envar::members
