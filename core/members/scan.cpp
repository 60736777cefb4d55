#include "core/members/scan.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <optional>
#include <set>

#include "core/files/read.hpp"
#include "core/members/masked.hpp"
#include "core/search/naming.hpp"
#include "core/text/glob.hpp"
#include "core/text/pattern.hpp"
#include "core/text/template.hpp"

namespace envar::members {
namespace {

constexpr std::size_t largest_source = std::size_t{16} << 20U;

re2::StringPiece piece(std::string_view text) { return {text.data(), text.size()}; }

/// Null when the pattern is empty or refused, which is a finding elsewhere.
std::unique_ptr<re2::RE2> compile(const std::string& pattern) {
    if (pattern.empty()) return nullptr;
    auto compiled = std::make_unique<re2::RE2>(pattern, re2::RE2::Quiet);
    return compiled->ok() ? std::move(compiled) : nullptr;
}

/// Calls `found` with group 1 of each match in `text`. The last character of a match may begin the next one, as
/// a blank does that stands between two words; a pattern that matches nothing at all moves on too.
template <class Found>
void each_match(const re2::RE2& pattern, std::string_view text, Found found) {
    std::array<re2::StringPiece, 2> groups;
    const int wanted = std::min(2, pattern.NumberOfCapturingGroups() + 1);
    for (std::size_t at = 0; at <= text.size();) {
        if (!pattern.Match(piece(text), at, text.size(), re2::RE2::UNANCHORED, groups.data(), wanted)) return;
        found(groups[1]);
        const auto begin = static_cast<std::size_t>(groups[0].data() - text.data());
        at = begin + std::max<std::size_t>(2, groups[0].size()) - 1;
    }
}

std::vector<std::string> split_parameters(std::string_view text) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        std::string_view part = text.substr(at, end - at);
        while (!part.empty() && (part.front() == ' ' || part.front() == '\t')) part.remove_prefix(1);
        while (!part.empty() && (part.back() == ' ' || part.back() == '\t')) part.remove_suffix(1);
        if (!part.empty()) out.emplace_back(part);
        at = end + 1;
    }
    return out;
}

}  // namespace

struct Patterns::Compiled {
    struct Member {
        std::unique_ptr<re2::RE2> pattern;
        std::string kind;
        int name_group = 0;
        int parameters_group = 0;  // 0: none
        int table_group = 0;
        bool only_in_parts = false;
    };

    std::vector<Member> members;

    std::vector<std::pair<std::unique_ptr<re2::RE2>, std::unique_ptr<re2::RE2>>> nesting;
    std::unique_ptr<re2::RE2> internal;
    std::unique_ptr<re2::RE2> table;
    std::unique_ptr<re2::RE2> exports;
    int export_group = 0;

    static std::optional<Member> compile_member(const model::MemberPattern& member) {
        Member compiled;
        compiled.pattern = compile(member.pattern);
        if (!compiled.pattern) return std::nullopt;
        const auto group = [&](const char* name) {
            return static_cast<int>(text::group_number(*compiled.pattern, name));
        };
        compiled.kind = member.kind;
        compiled.only_in_parts = member.only_in_parts;
        compiled.name_group = group("name");
        compiled.parameters_group = group("parameters");
        compiled.table_group = group("table");
        if (compiled.name_group == 0) return std::nullopt;
        return compiled;
    }
};

Patterns::Patterns(const model::Card& card) : compiled_(std::make_unique<Compiled>()) {
    for (const auto& member : card.members)
        if (auto compiled = Compiled::compile_member(member)) compiled_->members.push_back(std::move(*compiled));
    for (const auto& [open, close] : card.nesting) compiled_->nesting.emplace_back(compile(open), compile(close));
    compiled_->internal = compile(card.internal_pattern);
    if (!card.export_pattern.empty()) compiled_->exports = compile("(?m)" + card.export_pattern);
    if (compiled_->exports)
        compiled_->export_group = static_cast<int>(text::group_number(*compiled_->exports, "names"));
    if (!card.table_pattern.empty()) compiled_->table = compile("(?m)" + card.table_pattern);
}

Patterns::Patterns(Patterns&&) noexcept = default;
Patterns& Patterns::operator=(Patterns&&) noexcept = default;
Patterns::~Patterns() = default;

namespace {

class Scanner {
  public:
    Scanner(const text::Source& source, const model::Card& card, const Patterns::Compiled& patterns, bool part)
        : source_(source), card_(card), patterns_(patterns), part_(part), code_(masked(source.text(), card)) {
        // The last line that names the table counts: modules return it at their end.
        if (patterns.table)
            each_match(*patterns.table, code_, [&](re2::StringPiece name) { table_ = name.as_string(); });
    }

    std::vector<FoundMember> run() {
        std::ptrdiff_t depth = 0;
        std::size_t line_number = 1;
        for (std::size_t at = 0; at < code_.size(); ++line_number) {
            const std::size_t end = std::min(code_.find('\n', at), code_.size());
            const std::string_view line = std::string_view(code_).substr(at, end - at);
            if (depth <= 0) match_line(line, at, line_number);
            depth = std::max<std::ptrdiff_t>(0, depth + change_of_depth(line));
            at = end + 1;
        }
        keep_exported();
        for (FoundMember& member : found_) member.file = source_.file();
        return std::move(found_);
    }

  private:
    /// Where the text has a list of what is exported, nothing else counts; `*` in a name stands for any text.
    void keep_exported() {
        if (!patterns_.exports || patterns_.export_group == 0) return;
        std::vector<std::string> names;
        std::vector<re2::StringPiece> groups(static_cast<std::size_t>(patterns_.exports->NumberOfCapturingGroups()) +
                                             1);
        std::size_t at = 0;
        // The places are those of the code; the names may stand in strings, so they are read from the text itself.
        while (at <= code_.size() && patterns_.exports->Match(piece(code_), at, code_.size(), re2::RE2::UNANCHORED,
                                                              groups.data(), static_cast<int>(groups.size()))) {
            const auto& list = groups[static_cast<std::size_t>(patterns_.export_group)];
            if (list.data() != nullptr)
                add_names(source_.text().substr(static_cast<std::size_t>(list.data() - code_.data()), list.size()),
                          names);
            at = static_cast<std::size_t>(groups[0].data() - code_.data()) +
                 std::max<std::size_t>(1, groups[0].size());
            has_exports_ = true;
        }
        if (!has_exports_) return;
        const text::Globs exported(names);
        std::erase_if(found_, [&](const FoundMember& member) { return !exported.match(member.name); });
    }

    static void add_names(const std::string& list, std::vector<std::string>& names) {
        constexpr std::string_view between = " \t\r\n\"',;()[]{}";
        for (std::size_t at = list.find_first_not_of(between); at != std::string::npos;) {
            const std::size_t end = std::min(list.find_first_of(between, at), list.size());
            names.emplace_back(list.substr(at, end - at));
            at = list.find_first_not_of(between, end);
        }
    }

    [[nodiscard]] std::ptrdiff_t change_of_depth(std::string_view line) const {
        std::ptrdiff_t change = 0;
        for (const auto& [open, close] : patterns_.nesting) {
            if (open) each_match(*open, line, [&](re2::StringPiece) { ++change; });
            if (close) each_match(*close, line, [&](re2::StringPiece) { --change; });
        }
        return change;
    }

    void match_line(std::string_view line, std::size_t offset, std::size_t number) {
        for (const Patterns::Compiled::Member& compiled : patterns_.members) {
            if (compiled.only_in_parts && !part_) continue;
            std::array<re2::StringPiece, 8> groups;
            const int wanted = std::min<int>(8, compiled.pattern->NumberOfCapturingGroups() + 1);
            if (!compiled.pattern->Match(piece(line), 0, line.size(), re2::RE2::UNANCHORED, groups.data(), wanted))
                continue;
            const auto group = [&](int index) {
                return index > 0 && index < wanted ? groups.at(static_cast<std::size_t>(index)) : re2::StringPiece();
            };
            if (compiled.table_group != 0 && group(compiled.table_group) != piece(table_)) continue;
            const re2::StringPiece name = group(compiled.name_group);
            add(name.as_string(), compiled.kind, offset + static_cast<std::size_t>(name.data() - line.data()), number,
                group(compiled.parameters_group));
            return;
        }
    }

    void add(std::string name, const std::string& kind, std::size_t at, std::size_t number,
             re2::StringPiece parameters) {
        if (patterns_.internal && re2::RE2::FullMatch(piece(name), *patterns_.internal)) return;
        if (!seen_.insert(name).second) return;
        FoundMember member;
        member.span = {at, at + name.size()};
        member.name = std::move(name);
        member.kind = kind;
        member.line = number;
        if (!parameters.empty()) member.parameters = split_parameters({parameters.data(), parameters.size()});
        member.summary = comment_above(number);
        found_.push_back(std::move(member));
    }

    /// The first line of the comment that ends right above `number`, without its marks.
    [[nodiscard]] std::string comment_above(std::size_t number) const {
        std::string summary;
        for (std::size_t above = number - 1; above > 0; --above) {
            std::string_view line = source_.line(above);
            line.remove_prefix(std::min(line.find_first_not_of(" \t"), line.size()));
            if (card_.language.comment.empty() ||
                line.substr(0, card_.language.comment.size()) != card_.language.comment)
                break;
            line.remove_prefix(std::min(line.find_first_not_of(card_.language.comment + " \t"), line.size()));
            summary = line;
        }
        return summary;
    }

    const text::Source& source_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    bool part_;
    std::string code_;
    std::string table_;
    bool has_exports_ = false;
    std::set<std::string> seen_;
    std::vector<FoundMember> found_;
};

/// The files that a part names, sorted. The entry file is one of them only where files are members and the manifest
/// declares one of its name.
std::vector<std::filesystem::path> part_files(const model::Module& module, const model::Card& card,
                                              const model::LanguagePart& part) {
    const std::string pattern = text::fill(part.files, search::path_values(module.manifest, card));
    const std::size_t slash = pattern.rfind('/');
    const std::filesystem::path folder =
        slash == std::string::npos ? module.folder : module.folder / pattern.substr(0, slash);
    const text::Globs glob({slash == std::string::npos ? pattern : pattern.substr(slash + 1)});
    const auto entry = entry_file(module, card);
    const bool own = part.named && std::any_of(module.manifest.members.begin(), module.manifest.members.end(),
                                               [&](const auto& m) { return m.name.value == entry.stem().string(); });
    std::vector<std::filesystem::path> out;
    for (const auto& name : files::list_folder(folder)) {
        const auto path = folder / name;
        if (name.front() == '.' || !glob.match(name) || (path == entry && !own)) continue;
        if (files::is_file(path) && files::resolves_inside(path, module.folder)) out.push_back(path);
    }
    return out;
}

/// What a file of one member says of it: the definition of that name, else the first one.
FoundMember named_member(const text::Source& source, const std::string& name, std::vector<FoundMember> defined) {
    FoundMember member;
    const auto own =
        std::find_if(defined.begin(), defined.end(), [&](const FoundMember& m) { return m.name == name; });
    if (own != defined.end()) {
        member = *own;
    } else if (!defined.empty()) {
        member = defined.front();
    }
    member.name = name;
    if (member.kind.empty()) member.kind = "function";
    if (member.line == 0) member.line = 1;
    member.file = source.file();
    return member;
}

void add_part(const std::filesystem::path& path, const model::LanguagePart& part, const model::Card& card,
              const std::filesystem::path& root, const Patterns& patterns, Scan& scan) {
    auto content = files::read_file(path, largest_source);
    if (!content) return;
    text::Source source(files::shown_path(path, root), std::move(*content));
    std::vector<FoundMember> found = Scanner(source, card, patterns.compiled(), true).run();
    if (part.named) {
        const std::string name = path.stem().string();
        const auto& internal = patterns.compiled().internal;
        if (internal && re2::RE2::FullMatch(name, *internal)) return;
        found = {named_member(source, name, std::move(found))};
    }
    for (FoundMember& member : found) {
        const bool known = std::any_of(scan.members.begin(), scan.members.end(),
                                       [&](const FoundMember& m) { return m.name == member.name; });
        if (!known) scan.members.push_back(std::move(member));
    }
    scan.parts.push_back(std::move(source));
}

}  // namespace

std::filesystem::path entry_file(const model::Module& module, const model::Card& card) {
    const std::string& declared = module.manifest.entry.file.value;
    return module.folder /
           (declared.empty() ? text::fill(card.entry_file, search::path_values(module.manifest, card)) : declared);
}

Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root) {
    return scan(module, card, root, Patterns(card));
}

Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root,
          const Patterns& patterns) {
    Scan result;
    const auto file = entry_file(module, card);
    auto content = files::read_file(file, largest_source);
    result.readable = content.has_value();
    result.source = text::Source(files::shown_path(file, root), content ? std::move(*content) : std::string());
    if (!result.readable) return result;
    result.members = Scanner(result.source, card, patterns.compiled(), false).run();
    for (const auto& part : card.parts)
        for (const auto& path : part_files(module, card, part)) add_part(path, part, card, root, patterns, result);
    std::erase_if(result.members,
                  [&](const FoundMember& member) { return is_handle(member.name, module.manifest, card); });
    return result;
}

bool is_handle(const std::string& name, const model::Manifest& manifest, const model::Card& card) {
    if (!card.by_name || name != manifest.name.value) return false;
    return std::none_of(manifest.members.begin(), manifest.members.end(),
                        [&](const model::Member& member) { return member.name.value == name; });
}

const text::Source& Scan::source_of(const FoundMember& member) const {
    const auto found = std::find_if(parts.begin(), parts.end(),
                                    [&](const text::Source& part) { return part.file() == member.file; });
    return found == parts.end() ? source : *found;
}

Comparison compare(const model::Manifest& manifest, const Scan& scan) {
    Comparison comparison;
    for (const auto& declared : manifest.members) {
        const bool found = std::any_of(scan.members.begin(), scan.members.end(),
                                       [&](const FoundMember& m) { return m.name == declared.name.value; });
        if (!found) comparison.not_found.push_back(&declared);
    }
    if (manifest.exports_all) return comparison;
    for (const FoundMember& found : scan.members) {
        const bool listed = std::any_of(manifest.members.begin(), manifest.members.end(),
                                        [&](const model::Member& m) { return m.name.value == found.name; });
        if (!listed) comparison.not_listed.push_back(&found);
    }
    return comparison;
}

std::vector<std::string> expected_members(const model::Manifest& manifest, const Scan& scan) {
    std::set<std::string> names;
    for (const auto& member : manifest.members) names.insert(member.name.value);
    for (const auto& member : scan.members) names.insert(member.name);
    return {names.begin(), names.end()};
}

}  // namespace envar::members
