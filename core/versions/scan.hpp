// The shared small grammar of versions and requirements.
#pragma once

#include <optional>
#include <string_view>

#include "core/versions/version.hpp"

namespace envar::versions {

[[nodiscard]] bool is_digits(std::string_view text);

/// A version of which the last one or two numbers may be missing; those are 0. A pre-release or build part
/// needs all three.
struct PartialVersion {
    Version version;
    int count = 0;  // how many numbers were written, 1 to 3
};

[[nodiscard]] std::optional<PartialVersion> parse_partial(std::string_view text);

}  // namespace envar::versions
