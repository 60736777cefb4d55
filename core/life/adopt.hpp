// Manifests for modules that were made without Envar: what the card's [adopt] and its patterns can tell from the
// files.
#pragma once

#include <string>
#include <vector>

#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

struct AdoptOrder {
    std::vector<std::string> folders;     // relative to the workspace
    std::string host;                     // empty: the only one whose entry file is there
    std::vector<std::string> identities;  // a fresh UUID for each folder
};

struct Adopted {
    std::string module;
    std::string folder;  // as shown
    std::string host;
    std::string version;
    std::size_t members = 0;
    std::vector<std::string> guessed;  // what the files did not tell: "version", "summary"
};

struct Adoption {
    files::Plan plan;
    std::vector<Adopted> modules;
};

/// Writes a manifest into each folder and makes it known to the workspace; no other file is touched. The module keeps
/// the files that it came with: the manifest says so. Fails when a folder is no module of a known host, or of
/// several.
[[nodiscard]] text::Result<Adoption> adopt_plan(const model::Space& space, const AdoptOrder& order);

}  // namespace envar::life
