#include "core/members/scan.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <map>
#include <set>

#include "core/files/plan.hpp"
#include "core/files/read.hpp"
#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"
#include "core/members/namespaces.hpp"
#include "core/members/taken.hpp"
#include "core/search/naming.hpp"
#include "core/text/glob.hpp"
#include "core/text/template.hpp"

namespace envar::members {
namespace {

constexpr std::string_view public_folder = "include";
constexpr std::array<std::string_view, 5> header_endings = {".h", ".hh", ".hpp", ".hxx", ".inc"};

}  // namespace

Patterns::Patterns(const model::Card& card) : compiled_(std::make_unique<Compiled>(card)) {}
Patterns::Patterns(Patterns&&) noexcept = default;
Patterns& Patterns::operator=(Patterns&&) noexcept = default;
Patterns::~Patterns() = default;

InternalNames::InternalNames(const model::Card& card) : pattern_(compile_pattern(card.internal_pattern)) {}
InternalNames::InternalNames(InternalNames&&) noexcept = default;
InternalNames& InternalNames::operator=(InternalNames&&) noexcept = default;
InternalNames::~InternalNames() = default;

bool InternalNames::has(std::string_view name) const {
    return pattern_ && re2::RE2::FullMatch(piece(name), *pattern_);
}

namespace {

/// The files that a part names, sorted. The entry file is one of them only where files are members and the manifest
/// declares one of its name. Where the entry file of the card's layout lies among the parts, one that lies elsewhere
/// has none: it is a file by itself.
std::vector<std::filesystem::path> part_files(const model::Module& module, const model::Card& card,
                                              const model::LanguagePart& part) {
    const std::string pattern = text::fill(part.files, search::path_values(module.manifest, card));
    const std::size_t slash = pattern.rfind('/');
    const std::filesystem::path folder =
        slash == std::string::npos ? module.folder : module.folder / pattern.substr(0, slash);
    const std::vector<std::string> names = files::list_folder(folder);
    if (names.empty()) return {};
    const text::Globs glob({slash == std::string::npos ? pattern : pattern.substr(slash + 1)});
    const bool ends = pattern.find('.', slash == std::string::npos ? 0 : slash) != std::string::npos;
    const auto entry = entry_file(module, card);
    const bool among =
        std::filesystem::path(card.entry_file).parent_path() == part.files.substr(0, part.files.rfind('/'));
    if (among && entry.parent_path() != folder) return {};
    const bool own = part.named && std::any_of(module.manifest.members.begin(), module.manifest.members.end(),
                                               [&](const auto& m) { return m.name.value == entry.stem().string(); });
    std::vector<std::filesystem::path> out;
    for (const auto& name : names) {
        const auto path = folder / name;
        // Functions of a shell lie in files without an ending; one that has one there is something else.
        if (part.named && !ends && name.find('.') != std::string::npos) continue;
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
    if (member.extent.end == 0) member.extent = {0, source.text().size()};
    member.file = source.file();
    return member;
}

/// What a native module lets others see: the headers that it lists, else those in its folder of public ones. What
/// Envar made of the manifest is no source.
std::vector<std::filesystem::path> public_headers(const model::Module& module) {
    std::vector<std::filesystem::path> out;
    for (const auto& header : module.manifest.native.public_headers)
        if (files::stays_inside(header.value)) out.push_back(module.folder / header.value);
    const auto folder = module.folder / public_folder;
    std::error_code error;
    if (out.empty() && !std::filesystem::is_symlink(folder))
        for (std::filesystem::recursive_directory_iterator it(folder, error), end; !error && it != end;
             it.increment(error)) {
            const std::string extension = it->path().extension().string();
            if (std::find(header_endings.begin(), header_endings.end(), extension) != header_endings.end() &&
                !it->is_symlink() && it->is_regular_file())
                out.push_back(it->path());
        }
    std::erase_if(out, [](const auto& path) {
        return files::read_first(path, 512).find(files::generated_mark) != std::string::npos;
    });
    std::sort(out.begin(), out.end());
    return out;
}

void add_part(const std::filesystem::path& path, const model::LanguagePart& part, const std::string& module,
              const model::Card& card, const std::filesystem::path& root, const Patterns& patterns,
              std::set<std::string>& known, Scan& scan) {
    auto content = files::read_file(path, largest_source);
    if (!content) return;
    text::Source source(files::shown_path(path, root), std::move(*content));
    std::vector<FoundMember> found = definitions(source, card, patterns.compiled(), true, module);
    if (part.named) {
        const std::string name = path.stem().string();
        const auto& internal = patterns.compiled().internal;
        if (internal && re2::RE2::FullMatch(name, *internal)) return;
        found = {named_member(source, name, std::move(found))};
    }
    for (FoundMember& member : found)
        if (known.insert(member.name).second) scan.members.push_back(std::move(member));
    scan.parts.push_back(std::move(source));
}

/// Whether the name is that of a module in the folder that the entry file stands for.
bool is_module_within(const std::string& name, const std::filesystem::path& entry, const model::Card& card) {
    const auto lies = [&](const std::string& candidate) {
        return files::is_file(entry.parent_path() / text::fill(candidate, {{"path", name}}));
    };
    return std::any_of(card.candidates.begin(), card.candidates.end(),
                       [&](const auto& one) { return one == "{{path}}/" + entry.filename().string(); }) &&
           std::any_of(card.candidates.begin(), card.candidates.end(), lies);
}

/// What the entry file exports though no source defines it.
void add_written(const Outside& outside, const std::filesystem::path& entry, Scan& scan) {
    std::set<std::string> known(outside.gone.begin(), outside.gone.end());
    for (const auto& member : scan.members) known.insert(member.name);
    for (const WrittenName& name : outside.written) {
        if (!known.insert(name.name).second || is_module_within(name.name, entry, *scan.card)) continue;
        scan.members.push_back(listed_only(name.name, "function", name.span, scan.source));
    }
}

}  // namespace

std::vector<std::filesystem::path> member_files(const model::Module& module, const model::Card& card) {
    std::vector<std::filesystem::path> out;
    for (const auto& part : card.parts)
        if (part.named)
            for (auto& file : part_files(module, card, part)) out.push_back(std::move(file));
    return out;
}

std::filesystem::path entry_file(const model::Module& module, const model::Card& card) {
    const std::string& declared = module.manifest.entry.file.value;
    return module.folder /
           (declared.empty() ? text::fill(card.entry_file, search::path_values(module.manifest, card)) : declared);
}

Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root) {
    return scan(module, card, root, Patterns(card));
}

Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root,
          const Patterns& patterns, std::optional<std::string> entry_text) {
    Scan result;
    result.card = &card;
    std::set<std::string> known;  // of what is defined in several files the first one counts
    if (card.is_native()) {
        result.readable = result.of_headers = true;
        result.source = text::Source(module.source.file(), "");
        for (const auto& path : public_headers(module))
            add_part(path, {}, module.name(), card, root, patterns, known, result);
        return result;
    }
    const auto file = entry_file(module, card);
    auto content = files::read_file(file, largest_source);
    if (entry_text) content = std::move(*entry_text);
    result.readable = content.has_value();
    result.source = text::Source(files::shown_path(file, root), content ? std::move(*content) : std::string());
    if (!result.readable) return result;
    Outside outside;
    result.members = definitions(result.source, card, patterns.compiled(), false, module.name(), &outside);
    for (const auto& member : result.members) known.insert(member.name);
    if (!outside.taken.empty()) add_taken({module, card, root, patterns}, file, outside, known, result);
    std::set<std::string> read;  // what the entry file reads in may be among the parts
    for (const text::Source& part : result.parts) read.insert(part.file());
    for (const auto& part : card.parts)
        for (const auto& path : part_files(module, card, part))
            if (part.named || read.count(files::shown_path(path, root)) == 0)
                add_part(path, part, module.name(), card, root, patterns, known, result);
    keep_own(card, module.name(), result.members);
    if (!outside.written.empty()) add_written(outside, file, result);
    std::erase_if(result.members,
                  [&](const FoundMember& member) { return is_handle(member.name, module.manifest, card); });
    return result;
}

bool is_handle(const std::string& name, const model::Manifest& manifest, const model::Card& card) {
    if (!card.by_name || name != manifest.name.value) return false;
    return std::none_of(manifest.members.begin(), manifest.members.end(),
                        [&](const model::Member& member) { return member.name.value == name; });
}

std::string given(const FoundParameter& parameter) {
    if (parameter.rest) return parameter.named ? "rest_by_name" : "rest";
    return parameter.named ? "by_name" : "in_place";
}

const text::Source& Scan::source_of(const FoundMember& member) const {
    const auto found = std::find_if(parts.begin(), parts.end(),
                                    [&](const text::Source& part) { return part.file() == member.file; });
    return found == parts.end() ? source : *found;
}

std::vector<std::string> parameter_names(const FoundMember& member) {
    std::vector<std::string> names;
    for (const auto& parameter : member.parameters)
        if (parameter.name != "...") names.push_back(parameter.name);
    return names;
}

std::vector<std::string> parameter_names(const model::Member& member) {
    std::vector<std::string> names;
    for (const auto& parameter : member.parameters) names.push_back(parameter.name.value);
    return names;
}

bool is_called_differently(const model::Member& declared, const FoundMember& found) {
    return found.tells_parameters && !declared.parameters.empty() &&
           parameter_names(found) != parameter_names(declared);
}

Comparison compare(const model::Manifest& manifest, const Scan& scan) {
    Comparison comparison;
    std::map<std::string_view, const FoundMember*> found;
    for (const FoundMember& member : scan.members) found.try_emplace(member.name, &member);
    std::set<std::string_view> listed;
    for (const auto& declared : manifest.members) {
        listed.insert(declared.name.value);
        const auto own = found.find(declared.name.value);
        if (own == found.end()) {
            if (!declared.dynamic) comparison.not_found.push_back(&declared);
        } else if (is_called_differently(declared, *own->second)) {
            comparison.differently_called.push_back({&declared, own->second});
        }
    }
    if (exports_all(manifest, scan)) return comparison;
    for (const FoundMember& member : scan.members)
        if (listed.count(member.name) == 0) comparison.not_listed.push_back(&member);
    return comparison;
}

bool exports_all(const model::Manifest& manifest, const Scan& scan) {
    return manifest.exports_all || scan.of_headers;
}

std::vector<std::string> expected_members(const model::Manifest& manifest, const Scan& scan) {
    std::set<std::string> names;
    for (const auto& member : manifest.members) names.insert(member.name.value);
    for (const auto& member : scan.members) names.insert(member.name);
    return {names.begin(), names.end()};
}

}  // namespace envar::members
