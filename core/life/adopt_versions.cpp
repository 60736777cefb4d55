#include "core/life/adopt_versions.hpp"

#include <utility>

#include "core/search/naming.hpp"
#include "core/search/view.hpp"

namespace envar::life {

namespace fs = std::filesystem;

FolderName folder_name_of(const model::Card& card, const fs::path& folder) {
    const std::string own = folder.filename().string(), above = folder.parent_path().filename().string();
    std::string version = above.empty() ? "" : search::version_in(card, own);
    return {version.empty() ? own : above, std::move(version)};
}

fs::path without_version(const model::Card& card, const fs::path& folder, const std::string& file) {
    return (folder_name_of(card, folder).version.empty() ? folder : folder.parent_path()) / file;
}

bool GivenNames::give(const std::string& name, const std::string& version, const model::Card& card) {
    const std::string& host = card.name.value;
    for (const model::Module& module : space_.modules) {
        if (module.name() != name) continue;
        const bool beside = module.manifest.host.value == host && !version.empty() &&
                            search::in_version_folder(card, module, search::folder_name(card, name));
        if (!beside || module.version() == version) return false;
    }
    Given& given = given_[name];
    if (given.versions.empty()) given.host = host;
    const bool alone = version.empty() || given.versions.count("") != 0;
    if (!given.versions.empty() && (alone || given.host != host)) return false;
    return given.versions.insert(version).second;
}

}  // namespace envar::life
