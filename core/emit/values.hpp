// What templates can speak of: a module, its workspace and its host as one tree of values.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace envar::emit {

/// Whose files are written, and where they lie.
struct Place {
    std::filesystem::path root;    // of the workspace
    std::filesystem::path folder;  // of the module
    std::filesystem::path search;  // the host's first search folder, or the folder that the module is made in
    std::string workspace;         // its name
    std::vector<std::string> targets = {};            // of the workspace
    const std::vector<model::Card>* cards = nullptr;  // of the workspace, for fronts and further descriptors
    std::vector<std::string> planned = {};            // files that will be there, relative to the module's folder
    std::vector<std::string> absent = {};             // files that will not
    std::vector<std::string> unlinked = {};           // modules of the workspace that are loaded, but never linked
};

/// in_phase (whose one part is the module's phase), name (also as module, and as name_snake, name_kebab, name_camel,
/// name_pascal, name_upper, folder_name, path), version, host, summary, license, authors, entry, start, stop,
/// workspace, dependencies (module, path, versions, optional, public, any, ranges (least, limit, last), last),
/// members (name, kind, summary, returns, parameters (name, type, summary, required, optional, first_optional,
/// default, default_literal, first, last), has_parameters, first, last), writes_exports (its list of exports
/// is to be written), assets, has_required, required and
/// has_wished, wished (module, first, last). Conditional dependencies are not in the list: what is written holds
/// everywhere. For native modules also what native.hpp says.
[[nodiscard]] nlohmann::json module_values(const model::Manifest& manifest, const model::Card& card,
                                           const Place& place);

/// The asset tables: folder, extension, recursive, first, last.
[[nodiscard]] nlohmann::json asset_values(const model::Manifest& manifest);

/// Adds what depends on where the file lies: to_module, to_search and to_workspace, the ways from its folder to
/// those, such as `../..`.
void add_ways(nlohmann::json& values, const std::filesystem::path& file, const Place& place);

/// Says of each item of a list whether it is the first and whether it is the last.
void mark_ends(nlohmann::json& list);

}  // namespace envar::emit
