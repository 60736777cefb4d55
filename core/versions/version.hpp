// Versions: Semantic Versioning 2.0.0 (major.minor.patch, pre-release, build metadata) and its precedence.
#pragma once

#include <array>
#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace envar::versions {

struct Version {
    std::array<std::uint64_t, 3> numbers{};  // major, minor, patch
    std::vector<std::string> prerelease;     // dot-separated identifiers, empty for a release
    std::string build;                       // without '+'; takes no part in precedence

    [[nodiscard]] std::string text() const;
};

/// Parses exactly the grammar of Semantic Versioning 2.0.0, section "Backus-Naur Form": no leading zeros, no
/// leading 'v', all three numbers. Numbers go up to 2^64 - 1.
[[nodiscard]] std::optional<Version> parse_version(std::string_view text);

/// Precedence, section 11; build metadata is passed over.
[[nodiscard]] std::strong_ordering compare(const Version& a, const Version& b);
inline bool operator<(const Version& a, const Version& b) { return std::is_lt(compare(a, b)); }

/// What a person probably meant by a text that is no version ("1.2" → "1.2.0", "v1.2.3" → "1.2.3").
[[nodiscard]] std::optional<std::string> mended_version(std::string_view text);

}  // namespace envar::versions
