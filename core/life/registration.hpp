// Making a module known: the workspace file names the folders that modules lie in and the hosts' search
// folders, and some hosts want files that name all of their modules.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/emit/generated.hpp"
#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

/// Where a host finds a module, and where Envar finds its manifest.
struct Place {
    std::filesystem::path search_folder;  // absolute; outside the workspace for files that lie there
    std::filesystem::path manifests;      // the folder in the workspace that the manifest's own lies in
    std::string variable;                 // the search variable that the folder is for; empty: the host's first
};

/// Adds to the plan what the workspace file must say so that the host of `card` finds the module, and Envar its
/// manifest; nothing when it does already.
[[nodiscard]] text::Result<void> register_module(const model::Space& space, const model::Card& card,
                                                 const Place& place, files::Plan& plan);

/// Adds to the plan what names all modules of a host and is missing or out of date with `made`, the modules that the
/// plan makes, among them: loaders, build descriptors of the workspace, load plans.
[[nodiscard]] text::Result<void> add_host_files(const model::Space& space, const std::vector<model::Module>& made,
                                                files::Plan& plan);

/// What is behind a file's purpose where files are listed.
[[nodiscard]] std::string ownership_note(const emit::GeneratedFile& file);

}  // namespace envar::life
