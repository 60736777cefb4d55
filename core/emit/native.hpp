// What the descriptors of build systems can speak of: the files of a native module, what it needs with its
// conditions, its fronts, and the modules of a workspace in the order in which they are built.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/emit/native_files.hpp"
#include "core/emit/values.hpp"
#include "core/model/space.hpp"

namespace envar::emit {

/// The card by which a front is built: the module's own for a command, that of the front's host for another; null:
/// there is none.
struct FrontCard {
    const model::Card* card = nullptr;
    const model::CardFront* front = nullptr;
};
[[nodiscard]] FrontCard front_card(const model::Front& front, const model::Card& own,
                                   const std::vector<model::Card>* cards);

/// Adds to a module's values: native (static, shared, headers, program, plugin, library, linked, compiled, standard,
/// cxx, soversion, same_major, sources, public_headers (file, inner), header_groups, private_headers, parts, tests,
/// examples), needs and its parts public_needs, private_needs, test_needs (module, versions, bounds, ranges, single,
/// system, optional, conditions), fronts (front, program, loadable, file, ending, install, packages, sources),
/// inputs, outputs and settings.
void add_native(nlohmann::json& values, const model::Manifest& manifest, const model::Card& card, const Place& place,
                const NativeFiles& files);

/// For files at the root of a workspace: workspace, modules in the order in which they are built (module, folder,
/// parent, conditions), targets with their modules, and `folder`, the one that holds all of them. Null when no
/// module is for the card.
[[nodiscard]] nlohmann::json workspace_values(const model::Space& space, const model::Card& card);

/// Whether descriptors of the card are written for the module.
[[nodiscard]] bool is_described(const model::Manifest& manifest, const model::Card& card);

}  // namespace envar::emit
