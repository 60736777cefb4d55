// Members that a module's entry file takes over from other files of the module.
#pragma once

#include <filesystem>
#include <set>
#include <string>

#include "core/members/definitions.hpp"
#include "core/members/scan.hpp"

namespace envar::members {

struct TakerOf {
    const model::Module& module;
    const model::Card& card;
    const std::filesystem::path& root;  // the workspace's
    const Patterns& patterns;
};

/// Adds to the scan what the entry file takes over: the definitions of the module's other files, under the names that
/// it gives them, as far as it exports them; and what it exports of what comes from elsewhere. `known` holds the
/// names that are there already.
void add_taken(const TakerOf& taker, const std::filesystem::path& entry, const Outside& outside,
               std::set<std::string>& known, Scan& scan);

}  // namespace envar::members
