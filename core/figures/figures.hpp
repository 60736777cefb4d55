// Figures: graphs in the DOT language, drawn by Graphviz.
#pragma once

#include <filesystem>
#include <string>

#include "core/order/order.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::figures {

/// Who needs whom: a box a module with name and version, clusters by host; public solid, private dashed,
/// optional dotted; what is missing or in a circle in red, with a legend.
[[nodiscard]] std::string dependencies_dot(const resolve::Question& question);

/// The load order in waves from left to right, numbered, the longest chain of needs marked.
[[nodiscard]] std::string order_dot(const resolve::Question& question);

/// Has Graphviz draw `dot` as "svg" or "png". Fails when it is not installed or refuses.
[[nodiscard]] text::Result<std::string> draw(const std::string& dot, const std::string& format,
                                             const std::string& program_path, const std::filesystem::path& temporary);

}  // namespace envar::figures
