#include "core/versions/scan.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <utility>

namespace envar::versions {
namespace {

bool is_identifier(std::string_view text) {
    return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) {
        return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '-';
    });
}

bool has_leading_zero(std::string_view digits) { return digits.size() > 1 && digits.front() == '0'; }

/// Takes the dot-separated identifiers of a pre-release or build part; numbers in a pre-release have no
/// leading zeros.
std::optional<std::vector<std::string>> identifiers(std::string_view text, bool prerelease) {
    std::vector<std::string> out;
    for (;;) {
        const std::size_t dot = text.find('.');
        const std::string_view part = text.substr(0, dot);
        if (!is_identifier(part)) return std::nullopt;
        if (prerelease && is_digits(part) && has_leading_zero(part)) return std::nullopt;
        out.emplace_back(part);
        if (dot == std::string_view::npos) return out;
        text.remove_prefix(dot + 1);
    }
}

}  // namespace

bool is_digits(std::string_view text) {
    return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

std::optional<PartialVersion> parse_partial(std::string_view text) {
    if (text.size() > 256) return std::nullopt;
    PartialVersion partial;
    const std::size_t plus = text.find('+');
    if (plus != std::string_view::npos) {
        if (!identifiers(text.substr(plus + 1), false)) return std::nullopt;
        partial.version.build = text.substr(plus + 1);
        text = text.substr(0, plus);
    }
    const std::size_t hyphen = text.find('-');
    if (hyphen != std::string_view::npos) {
        auto parts = identifiers(text.substr(hyphen + 1), true);
        if (!parts) return std::nullopt;
        partial.version.prerelease = std::move(*parts);
        text = text.substr(0, hyphen);
    }
    for (;;) {
        const std::size_t dot = text.find('.');
        const std::string_view part = text.substr(0, dot);
        if (partial.count == 4 || !is_digits(part) || has_leading_zero(part)) return std::nullopt;
        auto& number = partial.version.numbers.at(static_cast<std::size_t>(partial.count++));
        if (std::from_chars(part.data(), part.data() + part.size(), number).ec != std::errc()) return std::nullopt;
        if (dot == std::string_view::npos) break;
        text.remove_prefix(dot + 1);
    }
    const bool has_suffix = plus != std::string_view::npos || hyphen != std::string_view::npos;
    if (has_suffix && partial.count != 3) return std::nullopt;
    partial.version.count = std::max(partial.count, 3);
    return partial;
}

std::optional<Operator> take_operator(std::string_view& text) {
    static constexpr std::array<std::pair<std::string_view, Operator>, 7> operators = {
        {{"<=", Operator::less_equal},
         {">=", Operator::greater_equal},
         {"!=", Operator::not_equal},
         {"<", Operator::less},
         {">", Operator::greater},
         {"=", Operator::equal},
         {"compatible", Operator::compatible}}};
    for (const auto& [word, op] : operators) {
        if (!text.starts_with(word)) continue;
        text.remove_prefix(word.size());
        return op;
    }
    return std::nullopt;
}

std::optional<Numbers> behind(Numbers numbers, int count) {
    for (auto at = static_cast<std::size_t>(count); at-- > 0;) {
        std::fill(numbers.begin() + static_cast<std::ptrdiff_t>(at) + 1, numbers.end(), 0);
        if (++numbers.at(at) != 0) return numbers;
    }
    return std::nullopt;
}

}  // namespace envar::versions
