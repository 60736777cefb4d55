// Making a module known: the workspace file names the folders that modules lie in and the hosts' search
// folders, and some hosts want a file of their own in the first of these.
#pragma once

#include <filesystem>

#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

/// Adds to the plan what is needed so that the host of `card` finds modules in `search_folder`; nothing when
/// it does already.
[[nodiscard]] text::Result<void> register_module(const model::Space& space, const model::Card& card,
                                                 const std::filesystem::path& search_folder, files::Plan& plan);

}  // namespace envar::life
