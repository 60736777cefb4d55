// The shared small grammar of versions and requirements.
#pragma once

#include <optional>
#include <string_view>

#include "core/versions/requirement.hpp"
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

/// Takes a comparator's operator off the front of the text; nothing when there is none.
[[nodiscard]] std::optional<Operator> take_operator(std::string_view& text);

/// The first numbers behind all that begin with the first `count` ones (1 to 4); nothing behind the largest.
[[nodiscard]] std::optional<Numbers> behind(Numbers numbers, int count);

/// How many numbers a version shares with those that it is compatible with: the major, or major and minor while the
/// major is 0 and a minor is written.
[[nodiscard]] inline int breaking_count(const Numbers& numbers, int written) {
    return numbers[0] == 0 && written > 1 ? 2 : 1;
}

}  // namespace envar::versions
