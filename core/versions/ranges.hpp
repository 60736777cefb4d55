// Requirements as ranges of releases, for hosts that know versions of their own: `>=1.1, <2 | =3` is [1.1, 2) and
// [3, 4).
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/versions/requirement.hpp"

namespace envar::versions {

/// From `least`, which is in it, to `limit`, which is not; nothing: without end. Pre-releases are left out of it.
struct Range {
    Version least;
    std::optional<Version> limit;
};

/// The releases that meet the requirement as ranges in order that neither touch nor overlap; none when nothing does.
[[nodiscard]] std::vector<Range> ranges_of(const Requirement& requirement);

/// The numbers without zeros at the end: 1.2.0 → "1.2", 0.0.0 → "0".
[[nodiscard]] std::string short_text(const Version& version);

}  // namespace envar::versions
