// A new module that at once checks and loads: manifest, authored files of a blueprint, generated files, and
// its place on the host's search path.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/emit/authored.hpp"
#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

struct ScaffoldOrder {
    std::string name;
    std::string host;
    std::string blueprint;                         // empty: the card's first
    std::string version;                           // empty: 0.1.0, or 1 where versions are whole numbers
    std::string folder;                            // relative to the workspace; empty: the host's first search folder
    std::vector<std::string> members;              // signature.hpp; empty: one that tells the module's name
    std::vector<std::string> depends;              // "NAME REQUIREMENT"
    std::map<std::string, std::string> settings;   // summary, license, author, the blueprint's own
    std::string identity;                          // a fresh UUID
    const emit::GatheredCode* gathered = nullptr;  // the files hold this instead of a blueprint's
    std::vector<model::Member> gathered_members = {};
};

/// Settings that `--set` takes for every blueprint.
[[nodiscard]] std::vector<std::string> scaffold_settings();

/// The plan, or why there can be none: an unknown host, blueprint or dependency, a name that the host cannot
/// use, a place that is taken.
[[nodiscard]] text::Result<files::Plan> scaffold_plan(const model::Space& space, const ScaffoldOrder& order);

}  // namespace envar::life
