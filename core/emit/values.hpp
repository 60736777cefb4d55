// What templates can speak of: a module, its workspace and its host as one tree of values.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/model/space.hpp"

namespace envar::emit {

/// name (also as module, and as name_kebab, name_camel, name_pascal, name_upper), version, host, summary, license,
/// authors, entry, start, stop, workspace, dependencies (module, versions, optional, public, any, last), members
/// (name, kind, summary, returns, parameters (name, type, summary, required, default, last), last).
/// Conditional dependencies are not in the list: what is written holds everywhere.
[[nodiscard]] nlohmann::json module_values(const model::Manifest& manifest, const model::Card& card,
                                           const std::string& workspace);

/// For files of a search folder: workspace, host.
[[nodiscard]] nlohmann::json search_values(const model::Card& card, const std::string& workspace);

}  // namespace envar::emit
