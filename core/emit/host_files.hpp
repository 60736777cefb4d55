// Files that belong to a host as a whole and not to one module: in its first search folder, at the root of the
// workspace, and one for each target.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/emit/generated.hpp"

namespace envar::emit {

/// What such files can speak of: workspace, host, target (empty: of none), base (what the host starts from: the
/// folder that some of the modules lie in), phases (with a part for each that a module is loaded in), card_phases
/// (phase), and `loads`, the modules of the host in the order in which it will load them (module, module_version,
/// module_path, module_folder, entry, start, stop, phase, in_phase, first_in_phase, module_pascal, at (the way to its
/// folder), below (the same from the search folder), based (it is part of the base), has_needs (of the same host),
/// needs (need, same_host), assets (folder, extension, recursive), first, last). `file` is where the file will lie.
[[nodiscard]] nlohmann::json host_values(const model::Space& space, const model::Card& card,
                                         const std::string& target, const std::filesystem::path& file);

/// The phases of a card: phase, first, last.
[[nodiscard]] nlohmann::json phase_values(const model::Card& card);

/// Generated and shared files of scope search, workspace and target, not yet compared with what lies there. Those of
/// a search folder only when the workspace names one for the host.
[[nodiscard]] text::Result<std::vector<GeneratedFile>> host_files(const model::Space& space, const model::Card& card);

}  // namespace envar::emit
