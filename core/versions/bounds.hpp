// What most requirements come to: releases from one version up to another one, read straight from the text.
#pragma once

#include <optional>
#include <string_view>

#include "core/versions/version.hpp"

namespace envar::versions {

/// Releases from `least`, which is one of them, to `limit`, which is not; nothing: without end. May hold none.
struct ReleaseBounds {
    Numbers least{};
    std::optional<Numbers> limit;
};

/// The releases that meet the requirement: the same as parse_requirement and set_of, and much quicker. Only for
/// `any`, and for one alternative without `!=`, pre-releases and numbers of more than 18 digits. Nothing for others,
/// for what is no requirement, and where no version can lie behind a number.
[[nodiscard]] std::optional<ReleaseBounds> release_bounds(std::string_view requirement);

}  // namespace envar::versions
