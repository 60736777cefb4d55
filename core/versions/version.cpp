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
    std::string out = fmt::format("{}", fmt::join(numbers.begin(), numbers.begin() + count, "."));
    for (std::size_t i = 0; i < prerelease.size(); ++i) out += (i == 0 ? "-" : ".") + prerelease[i];
    if (!build.empty()) out += "+" + build;
    return out;
}

std::optional<Version> parse_version(std::string_view text) {
    const auto partial = parse_partial(text);
    if (!partial || partial->count != 3) return std::nullopt;
    return partial->version;
}

std::optional<Version> parse_version(std::string_view text, Scheme scheme) {
    if (scheme == Scheme::semantic) return parse_version(text);
    Version version;
    version.count = 0;
    for (std::size_t at = 0; at <= text.size(); ++version.count) {
        const std::size_t end = std::min(text.find('.', at), text.size());
        const std::string_view part = text.substr(at, end - at);
        if (version.count == 4 || !is_digits(part) || (part.size() > 1 && part.front() == '0')) return std::nullopt;
        auto& number = version.numbers.at(static_cast<std::size_t>(version.count));
        if (std::from_chars(part.data(), part.data() + part.size(), number).ec != std::errc()) return std::nullopt;
        at = end + 1;
    }
    const bool fits = scheme == Scheme::integer ? version.count == 1 : version.count > 1;
    return fits ? std::optional(version) : std::nullopt;
}

std::string_view scheme_form(Scheme scheme) {
    switch (scheme) {
        case Scheme::semantic:
            return "major.minor.patch, as in 1.2.0 or 2.0.0-rc.1";
        case Scheme::integer:
            return "whole numbers, as in 42";
        case Scheme::dotted:
            return "two to four numbers, as in 1.2 or 1.2.3.4";
    }
    return "";
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

namespace {

/// Zeros before the digits of its first numbers mean nothing to most who write them.
std::string without_leading_zeros(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] != '.' && (text[i] < '0' || text[i] > '9')) return out.append(text.substr(i));
        const bool begins = out.empty() || out.back() == '.';
        const bool goes_on = i + 1 < text.size() && text[i + 1] >= '0' && text[i + 1] <= '9';
        if (text[i] != '0' || !begins || !goes_on) out += text[i];
    }
    return out;
}

}  // namespace

std::optional<std::string> mended_version(std::string_view text, Scheme scheme) {
    if (!text.empty() && (text.front() == 'v' || text.front() == 'V')) text.remove_prefix(1);
    std::string mended = without_leading_zeros(text);
    const int missing_at_most = scheme == Scheme::semantic ? 3 : scheme == Scheme::dotted ? 2 : 1;
    for (int missing = 0; missing < missing_at_most; ++missing) {
        if (parse_version(mended, scheme)) return mended;
        mended += ".0";
    }
    return std::nullopt;
}

std::optional<std::string> nearest_version(std::string_view text, Scheme scheme) {
    if (auto mended = mended_version(text, scheme)) return mended;
    if (!text.empty() && (text.front() == 'v' || text.front() == 'V')) text.remove_prefix(1);
    std::string mended = without_leading_zeros(text);
    if (scheme != Scheme::semantic || !parse_version(mended, Scheme::dotted)) return std::nullopt;
    std::size_t dot = 0;
    for (int i = 0; i < 3 && dot != std::string::npos; ++i) dot = mended.find('.', dot + (i == 0 ? 0 : 1));
    if (dot == std::string::npos) return std::nullopt;
    const std::string rest = mended.substr(dot + 1);
    mended.resize(dot);
    if (rest.find_first_not_of("0.") != std::string::npos) mended += "+" + rest;
    return parse_version(mended, scheme) ? std::optional(mended) : std::nullopt;
}

}  // namespace envar::versions
