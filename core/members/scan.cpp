#include "core/members/scan.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <memory>
#include <set>

#include "core/files/read.hpp"
#include "core/members/masked.hpp"
#include "core/text/template.hpp"

namespace envar::members {
namespace {

constexpr std::size_t largest_source = std::size_t{16} << 20U;

re2::StringPiece piece(std::string_view text) { return {text.data(), text.size()}; }

struct CompiledPattern {
    std::unique_ptr<re2::RE2> pattern;
    std::string kind;
    int name_group = 0;
    int parameters_group = 0;  // 0: none
    int table_group = 0;
};

std::unique_ptr<re2::RE2> compile(const std::string& pattern) {
    auto compiled = std::make_unique<re2::RE2>(pattern, re2::RE2::Quiet);
    return compiled->ok() ? std::move(compiled) : nullptr;
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

class Scanner {
  public:
    Scanner(const text::Source& source, const model::Card& card)
        : source_(source), card_(card), code_(masked(source.text(), card)) {
        for (const auto& member : card.members) add_pattern(member);
        for (const auto& [open, close] : card.nesting) nesting_.emplace_back(compile(open), compile(close));
        if (!card.internal_pattern.empty()) internal_ = compile(card.internal_pattern);
        find_table();
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
        return std::move(found_);
    }

  private:
    void add_pattern(const model::MemberPattern& member) {
        CompiledPattern compiled;
        compiled.pattern = compile(member.pattern);
        if (!compiled.pattern) return;
        const auto& groups = compiled.pattern->NamedCapturingGroups();
        const auto group = [&](const char* name) {
            const auto found = groups.find(name);
            return found == groups.end() ? 0 : found->second;
        };
        compiled.kind = member.kind;
        compiled.name_group = group("name");
        compiled.parameters_group = group("parameters");
        compiled.table_group = group("table");
        if (compiled.name_group != 0) patterns_.push_back(std::move(compiled));
    }

    /// The last line that names the table counts: modules return it at their end.
    void find_table() {
        const auto pattern = card_.table_pattern.empty() ? nullptr : compile("(?m)" + card_.table_pattern);
        if (!pattern || pattern->NumberOfCapturingGroups() < 1) return;
        re2::StringPiece rest = piece(code_);
        std::string name;
        while (re2::RE2::FindAndConsume(&rest, *pattern, &name)) table_ = name;
    }

    [[nodiscard]] std::ptrdiff_t change_of_depth(std::string_view line) const {
        std::ptrdiff_t change = 0;
        const auto count = [&](const std::unique_ptr<re2::RE2>& pattern, std::ptrdiff_t by) {
            if (!pattern) return;
            re2::StringPiece rest = piece(line);
            while (!rest.empty() && re2::RE2::FindAndConsume(&rest, *pattern)) change += by;
        };
        for (const auto& [open, close] : nesting_) {
            count(open, 1);
            count(close, -1);
        }
        return change;
    }

    void match_line(std::string_view line, std::size_t offset, std::size_t number) {
        for (const CompiledPattern& compiled : patterns_) {
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
        if (internal_ && re2::RE2::FullMatch(piece(name), *internal_)) return;
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
            if (card_.comment.empty() || line.substr(0, card_.comment.size()) != card_.comment) break;
            line.remove_prefix(std::min(line.find_first_not_of(card_.comment + " \t"), line.size()));
            summary = line;
        }
        return summary;
    }

    const text::Source& source_;
    const model::Card& card_;
    std::string code_;
    std::vector<CompiledPattern> patterns_;
    std::vector<std::pair<std::unique_ptr<re2::RE2>, std::unique_ptr<re2::RE2>>> nesting_;
    std::unique_ptr<re2::RE2> internal_;
    std::string table_;
    std::set<std::string> seen_;
    std::vector<FoundMember> found_;
};

}  // namespace

std::filesystem::path entry_file(const model::Module& module, const model::Card& card) {
    const std::string& declared = module.manifest.entry.file.value;
    return module.folder / (declared.empty() ? text::fill(card.entry_file, {{"name", module.name()}}) : declared);
}

Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root) {
    Scan result;
    const auto file = entry_file(module, card);
    auto content = files::read_file(file, largest_source);
    result.readable = content.has_value();
    result.source = text::Source(files::shown_path(file, root), content ? std::move(*content) : std::string());
    if (result.readable) result.members = Scanner(result.source, card).run();
    return result;
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
