// Versions: Semantic Versioning 2.0.0 (major.minor.patch, pre-release, build metadata) and its precedence, and the
// two simpler schemes that a host may use instead.
#pragma once

#include <array>
#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace envar::versions {

/// How a host writes versions: 1.2.3-rc.1 · 42 · two to four numbers, as 1.2 or 1.2.3.4.
enum class Scheme { semantic, integer, dotted };

/// "major.minor.patch, as in 1.2.0".
[[nodiscard]] std::string_view scheme_form(Scheme scheme);

using Numbers = std::array<std::uint64_t, 4>;

struct Version {
    Numbers numbers{};                    // major, minor, patch; the fourth is of the scheme `dotted` alone
    int count = 3;                        // numbers written
    std::vector<std::string> prerelease;  // dot-separated identifiers, empty for a release
    std::string build;                    // without '+'; takes no part in precedence

    [[nodiscard]] std::string text() const;
};

/// Parses exactly the grammar of Semantic Versioning 2.0.0, section "Backus-Naur Form": no leading zeros, no
/// leading 'v', all three numbers. Numbers go up to 2^64 - 1.
[[nodiscard]] std::optional<Version> parse_version(std::string_view text);

/// The same in any scheme. `integer` and `dotted` know no pre-releases; what is not written counts as 0.
[[nodiscard]] std::optional<Version> parse_version(std::string_view text, Scheme scheme);

/// Precedence, section 11; build metadata is passed over.
[[nodiscard]] std::strong_ordering compare(const Version& a, const Version& b);
inline bool operator<(const Version& a, const Version& b) { return std::is_lt(compare(a, b)); }

/// What a person probably meant by a text that is no version ("1.2" → "1.2.0", "v1.2.3" → "1.2.3", "1.02" → "1.2").
[[nodiscard]] std::optional<std::string> mended_version(std::string_view text, Scheme scheme = Scheme::semantic);

/// The same for what others have published, of which more numbers than have a meaning become build metadata
/// ("1.2.3.4" → "1.2.3+4"). Not to be advised: 1.2.3+4 and 1.2.3+5 have the same precedence.
[[nodiscard]] std::optional<std::string> nearest_version(std::string_view text, Scheme scheme = Scheme::semantic);

}  // namespace envar::versions
