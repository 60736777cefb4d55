// The shared small grammar of versions and requirements.
#pragma once

#include <optional>
#include <string_view>

#include "core/versions/version.hpp"

namespace envar::versions {

[[nodiscard]] bool is_digits(std::string_view text);

/// A version of which the last numbers may be missing; those are 0. A fourth one is of the scheme `dotted`. A
/// pre-release or build part needs three.
struct PartialVersion {
    Version version;
    int count = 0;  // how many numbers were written, 1 to 4
};

[[nodiscard]] std::optional<PartialVersion> parse_partial(std::string_view text);

}  // namespace envar::versions
