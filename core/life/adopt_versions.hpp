// Modules that lie in several versions side by side, each in a folder that is called like its version.
#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>

#include "core/model/space.hpp"

namespace envar::life {

/// What a folder says of the module in it: `strings`, `strings/1.2.0`, `strings/v1.2`.
struct FolderName {
    std::string name;
    std::string version;  // as manifests write it; empty: the folder is not called like one
};
[[nodiscard]] FolderName folder_name_of(const model::Card& card, const std::filesystem::path& folder);

/// What a folder that was unpacked says: `sky-1.9.4` holds version 1.9.4 of sky. Without such an ending its own name.
[[nodiscard]] FolderName unpacked_name_of(const model::Card& card, const std::filesystem::path& folder);

/// The path of a file of the module as a host that knows no versions would have it: without the folder of the
/// version.
[[nodiscard]] std::filesystem::path without_version(const model::Card& card, const std::filesystem::path& folder,
                                                    const std::string& file);

/// Names that are given, to modules of the workspace and to those on their way.
class GivenNames {
  public:
    explicit GivenNames(const model::Space& space) : space_(space) {}
    /// Gives the name to one more module; `version` is empty for one that lies in no folder of a version. False when
    /// it is taken: by a module of another host, by one that lies in no such folder, by the same version.
    bool give(const std::string& name, const std::string& version, const model::Card& card);
    /// Whether a module on its way has it.
    [[nodiscard]] bool has(const std::string& name) const { return given_.count(name) != 0; }
    /// Whether several on their way do.
    [[nodiscard]] bool has_several(const std::string& name) const {
        const auto known = given_.find(name);
        return known != given_.end() && known->second.versions.size() > 1;
    }

  private:
    struct Given {
        std::string host;
        std::set<std::string> versions;
    };
    const model::Space& space_;
    std::map<std::string, Given> given_;
};

}  // namespace envar::life
