// Ranges with as little more as lets a version in, for advice.
#pragma once

#include <string>

#include "core/versions/requirement.hpp"

namespace envar::versions {

/// The requirement as text, widened so that `version` meets it: bounds that shut it out are moved, what cannot be
/// moved becomes an alternative. `>=1.1, <2` for 2.3.0 → `>=1.1, <3`.
[[nodiscard]] std::string widened(const Requirement& requirement, const Version& version);

}  // namespace envar::versions
