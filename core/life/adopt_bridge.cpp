#include "core/life/adopt_bridge.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <vector>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/members/definitions.hpp"
#include "core/members/scan.hpp"
#include "core/search/root.hpp"
#include "core/text/glob.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view by_itself = "{{name}}";  // a place without an ending

bool is_module_name(const model::Card& card, const std::string& name) {
    const re2::RE2 pattern(card.module_pattern.value, re2::RE2::Quiet);
    return card.module_pattern.value.empty() || !pattern.ok() || re2::RE2::FullMatch(name, pattern);
}

bool is_own_file(const fs::path& folder, const fs::path& file) {
    return files::is_file(folder / file) && files::resolves_inside(folder / file, folder);
}

/// The files of the folder that a path with `*` in its last part stands for, relative to the folder.
std::vector<std::string> matching(const fs::path& folder, const std::string& path) {
    const std::size_t slash = path.rfind('/');
    const std::string below = slash == std::string::npos ? "" : path.substr(0, slash + 1);
    const text::Globs glob({path.substr(below.size())});
    std::vector<std::string> out;
    for (const auto& name : files::list_folder(folder / below))
        if (name.front() != '.' && glob.match(name) && is_own_file(folder, below + name)) out.push_back(below + name);
    return out;
}

/// The file of that name, else the only one whose name has the same letters: `sky_map` of sky-map.
std::string called_alike(const fs::path& folder, const std::string& name) {
    if (is_own_file(folder, name)) return name;
    std::vector<std::string> alike;
    for (const auto& file : files::list_folder(folder))
        if (file.find('.') == std::string::npos && letters_of(file) == letters_of(name) && is_own_file(folder, file))
            alike.push_back(file);
    return alike.size() == 1 ? alike.front() : name;
}

/// Whether the file defines anything; a name without an ending tells nothing of what is in it.
bool is_script(const model::Card& card, const fs::path& folder, const std::string& file) {
    model::Module module;
    module.folder = folder;
    module.manifest.name.value = folder_name_of(card, folder).name;
    module.manifest.entry.file.value = file;
    return !members::scan(module, card, folder).members.empty();
}

/// Whether reading it in ends the host.
bool is_program(const model::Card& card, const fs::path& file) {
    const re2::RE2 ends(card.adopt.bridge.ends, re2::RE2::Quiet);
    auto content = files::read_file(file, members::largest_source);
    if (card.adopt.bridge.ends.empty() || !ends.ok() || !content) return false;
    const text::Source source(file.string(), std::move(*content));
    const members::Patterns patterns(card);
    const members::Everything all = members::everything_in(source, card, patterns.compiled());
    return std::any_of(all.others.begin(), all.others.end(), [&](const auto& other) {
        const std::string_view text = source.text();
        return re2::RE2::PartialMatch(
            re2::StringPiece(text.data() + other.span.begin, other.span.end - other.span.begin), ends);
    });
}

}  // namespace

std::optional<Bridged> bridged_in(const model::Card& card, const fs::path& folder, bool asked_for) {
    const model::Bridge& bridge = card.adopt.bridge;
    if (bridge.path.empty()) return std::nullopt;
    const std::string called = unpacked_name_of(card, folder).name;
    // A script at the top of what is compiled prepares that, and is no module.
    const bool any_name = asked_for && emit::code_below(folder, ".").empty();
    for (const auto& place : bridge.reads) {
        std::string path = text::fill(place, {{"name", called}});
        if (place == by_itself && asked_for) path = called_alike(folder, path);
        const std::size_t star = place.find('*');
        if (star == std::string::npos) {
            if (!files::stays_inside(path) || !is_own_file(folder, path)) continue;
            if (fs::path(place).has_extension() || (asked_for && is_script(card, folder, path)))
                return Bridged{path, {}, true};
        } else if (const auto found = any_name ? matching(folder, path) : std::vector<std::string>();
                   found.size() == 1) {
            const std::size_t behind = path.size() - path.find('*') - 1;
            const std::string& file = found.front();
            if (is_program(card, folder / file)) continue;
            return Bridged{file, file.substr(path.find('*'), file.size() - behind - path.find('*')), false};
        }
    }
    model::Module module;
    module.folder = folder;
    module.manifest.name.value = folder_name_of(card, folder).name;
    module.manifest.entry.file.value = text::fill(bridge.path, {{"name", module.name()}});
    if (members::member_files(module, card).empty()) return std::nullopt;
    return Bridged{{}, {}, true};
}

std::optional<Bridged> bridged_file(const model::Card& card, const fs::path& folder, const std::string& file) {
    for (const auto& place : card.adopt.bridge.reads) {
        const std::size_t star = place.find('*');
        if (star == std::string::npos || !text::Globs({place}).match(file) || !is_own_file(folder, file)) continue;
        return Bridged{file, file.substr(star, file.size() - place.size() + 1), false};
    }
    return std::nullopt;
}

bool is_loaded_by(const model::Card& card, const std::string& name, const fs::path& entry) {
    return search::root_of(card, name, entry).has_value() &&
           (!card.adopt.bridge.renames || is_module_name(card, name));
}

std::optional<std::string> bridge_name(const model::Card& card, const std::string& name) {
    if (is_module_name(card, name)) return name;
    std::string better = text::in_form(name, text::name_form(card.form).value_or(text::NameForm::snake));
    if (!is_module_name(card, better)) return std::nullopt;
    return better;
}

}  // namespace envar::life
