// The search folders that the workspace file names for a host.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace envar::search {

/// Folders that the workspace declares for a host, absolute, in order, without those that cannot be held.
[[nodiscard]] std::vector<std::string> workspace_folders(const model::Space& space, const model::Card& card);

/// A folder that a declared one leads to: itself; where the host looks only right inside its folders, the subfolder
/// of each module in it; where modules lie deeper in what a variable names, each of the folders there.
struct DeclaredFolder {
    std::string folder;                               // absolute
    const model::SearchFolder* search = nullptr;      // what declares it; null: it is the view
    const model::SearchVariable* variable = nullptr;  // that it is for; null: the host has none
    bool is_view = false;                             // the folder of links, which nothing declares
    std::string base;  // the folder right below the declared one that it lies in, if deeper
};
[[nodiscard]] std::vector<DeclaredFolder> declared_folders(const model::Space& space, const model::Card& card);

/// The folders that a session puts into the variable (null: of a host that has none): declared ones without those
/// that cannot be held.
[[nodiscard]] std::vector<std::string> session_folders(const model::Space& space, const model::Card& card,
                                                       const model::SearchVariable* variable);

/// The variable that a declared folder is for: the one that it names, else the host's first.
[[nodiscard]] const model::SearchVariable* variable_of(const model::Card& card, const model::SearchFolder& search);

/// The declared folder, as `declared_folders` gives them, that the module lies in; null: there is none.
[[nodiscard]] const DeclaredFolder* holder_of(const std::vector<DeclaredFolder>& folders,
                                              const model::Module& module);

/// Existing folders that a pattern such as `*/mods` leads to below a folder, sorted.
[[nodiscard]] std::vector<std::string> folders_below(const std::filesystem::path& folder, const std::string& pattern);

}  // namespace envar::search
