#include "core/versions/version.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

#include "core/versions/scan.hpp"

namespace envar::versions {
namespace {

std::strong_ordering compare_identifier(std::string_view a, std::string_view b) {
    const bool a_number = is_digits(a);
    const bool b_number = is_digits(b);
    if (a_number != b_number) return a_number ? std::strong_ordering::less : std::strong_ordering::greater;
    if (a_number && a.size() != b.size()) return a.size() <=> b.size();  // no leading zeros: longer is larger
    return a.compare(b) <=> 0;
}

}  // namespace

std::string Version::text() const {
    std::string out = fmt::format("{}.{}.{}", numbers[0], numbers[1], numbers[2]);
    for (std::size_t i = 0; i < prerelease.size(); ++i) out += (i == 0 ? "-" : ".") + prerelease[i];
    if (!build.empty()) out += "+" + build;
    return out;
}

std::optional<Version> parse_version(std::string_view text) {
    const auto partial = parse_partial(text);
    if (!partial || partial->count != 3) return std::nullopt;
    return partial->version;
}

std::strong_ordering compare(const Version& a, const Version& b) {
    if (const auto order = a.numbers <=> b.numbers; order != 0) return order;
    if (a.prerelease.empty() != b.prerelease.empty())
        return a.prerelease.empty() ? std::strong_ordering::greater : std::strong_ordering::less;
    const std::size_t shorter = std::min(a.prerelease.size(), b.prerelease.size());
    for (std::size_t i = 0; i < shorter; ++i)
        if (const auto order = compare_identifier(a.prerelease[i], b.prerelease[i]); order != 0) return order;
    return a.prerelease.size() <=> b.prerelease.size();
}

std::optional<std::string> mended_version(std::string_view text) {
    if (!text.empty() && (text.front() == 'v' || text.front() == 'V')) text.remove_prefix(1);
    std::string mended(text);
    for (int missing = 0; missing < 3; ++missing) {
        if (parse_version(mended)) return mended;
        mended += ".0";
    }
    return std::nullopt;
}

}  // namespace envar::versions
