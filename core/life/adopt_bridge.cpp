#include "core/life/adopt_bridge.hpp"

#include <re2/re2.h>

#include <vector>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/members/scan.hpp"
#include "core/search/root.hpp"
#include "core/text/glob.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

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

/// Whether the file defines anything; a name without an ending tells nothing of what is in it.
bool is_script(const model::Card& card, const fs::path& folder, const std::string& file) {
    model::Module module;
    module.folder = folder;
    module.manifest.name.value = folder_name_of(card, folder).name;
    module.manifest.entry.file.value = file;
    return !members::scan(module, card, folder).members.empty();
}

}  // namespace

std::optional<Bridged> bridged_in(const model::Card& card, const fs::path& folder, bool asked_for) {
    const model::Bridge& bridge = card.adopt.bridge;
    if (bridge.path.empty()) return std::nullopt;
    // A script at the top of what is compiled prepares that, and is no module.
    const bool any_name = asked_for && emit::code_below(folder, ".").empty();
    for (const auto& place : bridge.reads) {
        const std::string path = text::fill(place, {{"name", folder_name_of(card, folder).name}});
        const std::size_t star = place.find('*');
        if (star == std::string::npos) {
            if (!files::stays_inside(path) || !is_own_file(folder, path)) continue;
            if (fs::path(place).has_extension() || (asked_for && is_script(card, folder, path)))
                return Bridged{path, {}, true};
        } else if (const auto found = any_name ? matching(folder, path) : std::vector<std::string>();
                   found.size() == 1) {
            const std::size_t behind = path.size() - path.find('*') - 1;
            const std::string& file = found.front();
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
