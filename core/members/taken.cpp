#include "core/members/taken.hpp"

#include <algorithm>
#include <map>
#include <memory>
#include <optional>
#include <unordered_map>
#include <utility>

#include "core/files/read.hpp"
#include "core/members/grammar.hpp"
#include "core/members/read_in.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/template.hpp"

namespace envar::members {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_files = 2000;

struct Name {
    std::string name, as;
    text::Span span;
};

/// "a, b as c", or "a b" where blanks are between names: of each what it is called there and here. Comments are
/// blanks in the code.
std::vector<Name> names_in(std::string_view code, const TakenNames& taken, bool by_blanks) {
    const std::size_t begin = taken.names.begin;
    const std::string_view list = code.substr(begin, taken.names.end - begin);
    constexpr std::string_view blanks = " \t\r\n\\";
    std::vector<Name> out;
    for (std::size_t at = 0; at < list.size();) {
        const std::size_t end = std::min(list.find(',', at), list.size());
        std::vector<text::Span> words;
        for (std::size_t word = list.find_first_not_of(blanks, at); word < end;) {
            const std::size_t after = std::min(list.find_first_of(blanks, word), end);
            words.push_back({word, after});
            word = list.find_first_not_of(blanks, after);
        }
        const auto text = [&](const text::Span& span) {
            return std::string(list.substr(span.begin, span.end - span.begin));
        };
        for (const text::Span& word : words)
            if (by_blanks) out.push_back({text(word), text(word), {begin + word.begin, begin + word.end}});
        if (!by_blanks && (words.size() == 1 || words.size() == 3))
            out.push_back(
                {text(words.front()), text(words.back()), {begin + words.back().begin, begin + words.back().end}});
        at = end + 1;
    }
    return out;
}

class Taker {
  public:
    explicit Taker(const TakerOf& taker)
        : taker_(taker), by_blanks_(taker.card.parameter_separator == " "), read_in_(taker.module.folder) {
        const auto start = search::root_of(taker.card, taker.module.name(), entry_file(taker.module, taker.card));
        own_folder_ = start ? *start / search::name_path(taker.card, taker.module.name()) : taker.module.folder;
    }

    void run(const fs::path& entry, const Outside& outside, std::set<std::string>& known, Scan& scan) {
        std::vector<fs::path> inner;
        std::set<std::string> visited = {entry.string()};
        add_read_in(outside, entry, visited, inner);
        const Outside whole = with_those_of(outside, inner);
        const ListedNames exported(whole.exports, taker_.card.export_globs);
        const auto& internal = taker_.patterns.compiled().internal;
        const auto counts = [&](const std::string& name) {
            if (whole.gone.count(name) != 0) return false;
            if (whole.lists_exports) return exported.has(name);
            return !internal || !re2::RE2::FullMatch(name, *internal);
        };
        if (whole.lists_exports && !outside.lists_exports)
            std::erase_if(scan.members, [&](const FoundMember& member) { return !exported.has(member.name); });
        for (const fs::path& path : inner) {
            File* file = read(path);
            if (file == nullptr) continue;
            file->used = true;
            for (const FoundMember& member : file->defined)
                if (counts(member.name)) add(member, member.name, whole, known, scan);
        }
        std::set<std::string> whole_files = {entry.string()};
        add_whole(outside, entry, whole_files, known, scan);
        for (const From& from : taken_by(outside, scan.source, entry)) {
            for (const Name& one : from.order) {
                if (one.name == "*") {
                    if (!from.path) continue;
                    std::set<std::string> seen;
                    for (const auto& name : all_of(*from.path, seen))
                        if (counts(name))
                            if (auto found = find(*from.path, name))
                                add(std::move(*found), name, outside, known, scan);
                } else if (counts(one.as)) {
                    auto found = from.path ? find(*from.path, one.name) : std::nullopt;
                    if (!found && outside.lists_exports)
                        found = listed_only(one.as, "variable", one.span, scan.source);
                    if (found) add(std::move(*found), one.as, outside, known, scan);
                }
            }
        }
        for (auto& [path, file] : files_)
            if (file && file->used) scan.parts.push_back(std::move(file->source));
    }

  private:
    /// Names that a file takes over from another one.
    struct From {
        std::optional<fs::path> path;                        // of the module's; else it is none of those
        std::vector<Name> order;                             // as they stand, `*` too
        std::unordered_map<std::string, std::string> names;  // as they are called here → there
        bool all = false;
    };
    struct File {
        text::Source source;
        std::vector<FoundMember> defined;
        std::unordered_map<std::string, std::size_t> places;  // in `defined`, by name
        std::vector<std::string> exports;
        std::set<std::string> listed;  // the same
        bool lists_exports = false;
        std::vector<From> taken;
        Outside outside;
        bool used = false;
    };

    /// Files that a text reads in, and those that they read in before them.
    void add_read_in(const Outside& outside, const fs::path& by, std::set<std::string>& seen,
                     std::vector<fs::path>& out) {
        for (const TakenNames& taken : outside.taken) {
            if (!taken.read_in) continue;
            for (const fs::path& path : read_in_.meant(taken.from, by)) {
                if (!seen.insert(path.string()).second) continue;
                if (const File* file = read(path)) add_read_in(file->outside, path, seen, out);
                out.push_back(path);
            }
        }
    }

    /// What files export whose exports are those of a text, and in their turn those of others.
    void add_whole(const Outside& outside, const fs::path& by, std::set<std::string>& seen,
                   std::set<std::string>& known, Scan& scan) {
        for (const TakenNames& taken : outside.taken) {
            if (!taken.whole || seen.size() == most_files) continue;
            const auto path = file_of(taken.from, by);
            if (!path || !seen.insert(path->string()).second) continue;
            auto content = files::read_file(*path, largest_source);
            if (!content) continue;
            text::Source source(files::shown_path(*path, taker_.root), std::move(*content));
            Outside theirs;
            for (FoundMember& member :
                 definitions(source, taker_.card, taker_.patterns.compiled(), false, taker_.module.name(), &theirs))
                if (known.insert(member.name).second) scan.members.push_back(std::move(member));
            scan.parts.push_back(std::move(source));
            add_whole(theirs, *path, seen, known, scan);
        }
    }

    /// What the texts say together.
    [[nodiscard]] Outside with_those_of(const Outside& entry, const std::vector<fs::path>& inner) {
        Outside whole = entry;
        for (const fs::path& path : inner) {
            const File* file = read(path);
            if (file == nullptr) continue;
            whole.lists_exports = whole.lists_exports || file->lists_exports;
            whole.exports.insert(whole.exports.end(), file->exports.begin(), file->exports.end());
            whole.gone.insert(file->outside.gone.begin(), file->outside.gone.end());
        }
        return whole;
    }

    [[nodiscard]] std::string masked_of(const text::Source& source) const {
        return lex(source.text(), taker_.patterns.compiled().grammar, false).code;
    }

    /// Of what is taken twice under one name the later one is there in the end.
    void add(FoundMember member, const std::string& name, const Outside& outside, std::set<std::string>& known,
             Scan& scan) {
        if (member.only_listed && !outside.lists_exports) return;
        member.name = name;
        const auto mine = taken_.find(name);
        if (mine != taken_.end()) {
            scan.members[mine->second] = std::move(member);
        } else if (known.insert(name).second) {
            taken_.emplace(name, scan.members.size());
            scan.members.push_back(std::move(member));
        }
    }

    /// The module's file that is meant: marks between names at the front lead from the file's own folder upwards.
    [[nodiscard]] std::optional<fs::path> file_of(std::string from, const fs::path& by) const {
        const model::Card& card = taker_.card;
        const std::string& separator = card.name_separator;
        if (separator.empty()) return std::nullopt;
        fs::path folder = by.parent_path();
        if (from.starts_with(separator)) {
            from.erase(0, separator.size());
            for (; from.starts_with(separator); from.erase(0, separator.size())) folder = folder.parent_path();
        } else if (from == taker_.module.name()) {
            from.clear();
        } else if (from.starts_with(taker_.module.name() + separator)) {
            folder = own_folder_;
            from.erase(0, taker_.module.name().size() + separator.size());
        } else {
            return std::nullopt;
        }
        const std::string path = from.empty() ? folder.filename().string() : search::name_path(card, from);
        if (from.empty()) folder = folder.parent_path();
        for (const auto& candidate : card.candidates) {
            const fs::path file = folder / text::fill(candidate, {{"path", path}});
            if (candidate.ends_with(card.extension) && files::is_file(file) && file != by &&
                files::resolves_inside(file, taker_.module.folder))
                return file;
        }
        return std::nullopt;
    }

    /// What a file takes over, each with the other names that the file has for it.
    [[nodiscard]] std::vector<From> taken_by(const Outside& outside, const text::Source& source,
                                             const fs::path& path) const {
        std::vector<From> out;
        if (outside.taken.empty()) return out;
        std::unordered_multimap<std::string_view, const OtherName*> others;
        for (const OtherName& one : outside.other_names) others.emplace(one.of, &one);
        const std::string code = masked_of(source);
        for (const TakenNames& taken : outside.taken) {
            if (taken.read_in || taken.whole) continue;
            From& from = out.emplace_back();
            from.path = file_of(taken.from, path);
            from.order = names_in(code, taken, by_blanks_);
            for (std::size_t i = 0, count = from.order.size(); i < count; ++i) {
                const auto [first, behind] = others.equal_range(from.order[i].as);
                for (auto other = first; other != behind; ++other)
                    from.order.push_back({from.order[i].name, other->second->name, other->second->span});
            }
            for (const Name& one : from.order) {
                from.all = from.all || one.name == "*";
                if (one.name != "*") from.names.insert_or_assign(one.as, one.name);
            }
        }
        return out;
    }

    /// Null when it cannot be read.
    [[nodiscard]] File* read(const fs::path& path) {
        const auto known = files_.find(path.string());
        if (known != files_.end()) return known->second.get();
        auto& file = files_[path.string()];
        auto content = files_.size() > most_files
                           ? tl::unexpected(files::ReadError{files::ReadProblem::too_large, ""})
                           : files::read_file(path, largest_source);
        if (!content) return nullptr;
        file = std::make_unique<File>();
        file->source = text::Source(files::shown_path(path, taker_.root), std::move(*content));
        Outside outside;
        const auto& patterns = taker_.patterns.compiled();
        file->defined = taker_.card.own_table
                            ? definitions(file->source, taker_.card, patterns, true, taker_.module.name(), &outside)
                            : all_definitions(file->source, taker_.card, patterns, outside);
        for (std::size_t i = 0; i < file->defined.size(); ++i) file->places.emplace(file->defined[i].name, i);
        file->listed.insert(outside.exports.begin(), outside.exports.end());
        file->exports = std::move(outside.exports);
        file->lists_exports = outside.lists_exports;
        file->taken = taken_by(outside, file->source, path);
        for (const From& from : file->taken)
            for (const Name& one : from.order)
                if (const auto own = file->places.find(one.as);
                    own != file->places.end() && file->defined[own->second].only_listed)
                    file->places.erase(own);
        file->outside = std::move(outside);
        return file.get();
    }

    /// The definition of a name that can be taken from the file, wherever the file has it from.
    [[nodiscard]] std::optional<FoundMember> find(const fs::path& path, const std::string& name) {
        std::set<std::string> seen;
        return find(path, name, seen);
    }

    [[nodiscard]] std::optional<FoundMember> find(const fs::path& path, const std::string& name,
                                                  std::set<std::string>& seen) {
        File* file = seen.insert(path.string() + '\n' + name).second ? read(path) : nullptr;
        if (file == nullptr) return std::nullopt;
        if (const auto own = file->places.find(name); own != file->places.end()) {
            file->used = true;
            FoundMember found = file->defined[own->second];
            const bool listed = file->listed.count(name) != 0;
            found.only_listed = found.only_listed && (!listed || found.kind == "variable");
            return found;
        }
        for (auto from = file->taken.rbegin(); from != file->taken.rend(); ++from) {
            const auto one = from->names.find(name);
            if (one == from->names.end() && !from->all) continue;
            if (!from->path) continue;
            if (auto found = find(*from->path, one == from->names.end() ? name : one->second, seen)) return found;
        }
        return std::nullopt;
    }

    /// The names that are taken from the file when all are.
    [[nodiscard]] std::vector<std::string> all_of(const fs::path& path, std::set<std::string>& seen) {
        File* file = seen.insert(path.string()).second ? read(path) : nullptr;
        if (file == nullptr) return {};
        if (file->lists_exports) return file->exports;
        std::vector<std::string> names;
        for (const FoundMember& one : file->defined) names.push_back(one.name);
        for (const From& from : file->taken) {
            if (!from.path) continue;
            for (const Name& one : from.order)
                if (one.name != "*") names.push_back(one.as);
            if (!from.all) continue;
            for (auto& inner : all_of(*from.path, seen)) names.push_back(std::move(inner));
        }
        return names;
    }

    const TakerOf& taker_;
    const bool by_blanks_;
    fs::path own_folder_;  // of the files whose names begin with the module's
    ReadIn read_in_;
    std::map<std::string, std::unique_ptr<File>> files_;
    std::map<std::string, std::size_t> taken_;  // → place in the scan's members
};

}  // namespace

void add_taken(const TakerOf& taker, const fs::path& entry, const Outside& outside, std::set<std::string>& known,
               Scan& scan) {
    Taker(taker).run(entry, outside, known, scan);
}

}  // namespace envar::members
