// Editing a module's dependencies in place.
#pragma once

#include <functional>
#include <optional>
#include <string>

#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

struct DependOrder {
    std::string module;  // whose manifest
    std::string on;      // "NAME REQUIREMENT", or a name alone
    std::optional<bool> is_public;
    std::optional<bool> optional;
    std::optional<std::string> stage;
    std::optional<std::string> reason;
    bool system = false;  // the host brings it along
    bool remove = false;
    /// Whether another place than the workspace has a version that meets the requirement; may be empty.
    std::function<bool(const std::string&, const versions::Requirement&)> is_elsewhere = {};
};

/// The plan that adds, changes or removes the dependency; every other byte of the manifest stays.
[[nodiscard]] text::Result<files::Plan> depend_plan(const model::Space& space, const DependOrder& order);

}  // namespace envar::life
