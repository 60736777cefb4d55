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

FolderName unpacked_name_of(const model::Card& card, const fs::path& folder) {
    FolderName called = folder_name_of(card, folder);
    const std::size_t mark = called.name.rfind('-');
    if (!called.version.empty() || mark == std::string::npos || mark == 0) return called;
    const std::string ending = called.name.substr(mark + 1);
    // `vector-3` is a name.
    if (ending.find('.') == std::string::npos) return called;
    if (std::string version = search::version_in(card, ending); !version.empty())
        return {called.name.substr(0, mark), std::move(version)};
    return called;
}

fs::path without_version(const model::Card& card, const fs::path& folder, const std::string& file) {
    return (folder_name_of(card, folder).version.empty() ? folder : folder.parent_path()) / file;
}

bool GivenNames::give(const std::string& name, const std::string& version, const model::Card& card) {
    const std::string& host = card.name.value;
    const model::Module* const end = space_.modules.data() + space_.modules.size();
    for (const model::Module* one = space_.module(name); one != nullptr && one != end && one->name() == name; ++one) {
        const bool beside = one->manifest.host.value == host && !version.empty() &&
                            search::in_version_folder(card, *one, search::folder_name(card, name));
        if (!beside || one->version() == version) return false;
    }
    Given& given = given_[name];
    if (given.versions.empty()) given.host = host;
    const bool alone = version.empty() || given.versions.count("") != 0;
    if (!given.versions.empty() && (alone || given.host != host)) return false;
    return given.versions.insert(version).second;
}

}  // namespace envar::life
