// Bringing a manifest's [[member]] tables in line with what the source defines.
#pragma once

#include <string>
#include <vector>

#include "core/files/plan.hpp"
#include "core/members/scan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

/// What a sync did to one module's manifest.
struct Synced {
    std::vector<std::string> added;     // found, and not declared before
    std::vector<std::string> changed;   // other parameters, kind or documentation
    std::vector<std::string> dropped;   // declared, and in no source
    std::vector<std::string> absent;    // the same, but left
    std::vector<std::string> unlisted;  // found, but no name that a manifest can hold
    bool reordered = false;             // those that are in the source stand in its order now
};

/// The member as the source has it, with what was written by hand about it; `before` may be null.
[[nodiscard]] model::Member member_of(const members::FoundMember& found, const model::Member* before);

/// Adds to the plan what makes the manifest declare the members that were found, in the order of the source.
/// Comments, and whatever was written by hand about a member that is there, stay: summaries, types, what it returns.
/// Members that are declared as dynamic are not looked for. `shown`: what the host shows of the module; what of that
/// is neither found nor declared is added as dynamic.
[[nodiscard]] text::Result<Synced> sync_members(const model::Space& space, const model::Module& module,
                                                const members::Scan& scan, bool drop,
                                                const std::vector<members::FoundMember>& shown, files::Plan& plan);

}  // namespace envar::life
