// Starting a workspace.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/files/plan.hpp"

namespace envar::life {

/// The plan that writes the workspace file of `folder`, named after it. Fails when there is one, there or in a
/// folder above.
[[nodiscard]] text::Result<files::Plan> begin_plan(const std::filesystem::path& folder, const std::string& name);

}  // namespace envar::life
