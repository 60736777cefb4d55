// Figures: graphs in the DOT language, drawn by Graphviz.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/order/loading.hpp"
#include "core/order/order.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::figures {

/// What is drawn.
struct Scene {
    std::string title;                            // "skydome"
    const order::Loading* loading = nullptr;      // the modules in their chosen versions
    const order::Order* order = nullptr;          // of the same modules
    const resolve::Unsolved* unsolved = nullptr;  // where versions clash; may be null
    std::string around;                           // only what lies near this module; empty: everything
    std::size_t depth = 1;                        // how many needs away, both ways
};

/// Who needs whom: a box a module with its chosen version, clusters by host; public solid, private dashed, optional
/// dotted; what is missing, in a circle or in conflict in red. With many modules ranges are left out.
[[nodiscard]] std::string dependencies_dot(const Scene& scene);

/// The load order as a chart: a column a wave, numbered, the longest chain marked and linked.
[[nodiscard]] std::string order_dot(const Scene& scene);

/// From how many modules on a figure is too dense to be read as a whole.
inline constexpr std::size_t many_modules = 40;

/// More are not drawn at once: Graphviz would take minutes, and nobody could see anything.
inline constexpr std::size_t most_modules = 2000;

/// Has Graphviz draw `dot` as "svg" or "png". Fails when it is not installed or refuses.
[[nodiscard]] text::Result<std::string> draw(const std::string& dot, const std::string& format,
                                             const std::string& program_path, const std::filesystem::path& temporary);

}  // namespace envar::figures
