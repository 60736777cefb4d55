#include "core/versions/bounds.hpp"

#include <algorithm>

#include "core/versions/scan.hpp"

namespace envar::versions {
namespace {

constexpr int most_digits = 18;  // they fit, whatever they are
constexpr int most_read = 16;    // comparators; more are for the slow way

struct Written {
    Numbers numbers{};
    int count = 0;
};

void skip_blanks(std::string_view& text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == '\t')) text.remove_prefix(1);
}

bool is_digit(char c) { return c >= '0' && c <= '9'; }

/// Takes up to four numbers between dots; nothing when something else begins where they end.
std::optional<Written> take_numbers(std::string_view& text) {
    Written written;
    for (;;) {
        if (written.count == 4 || text.empty() || !is_digit(text.front())) return std::nullopt;
        const bool is_zero = text.front() == '0';
        std::uint64_t& number = written.numbers[static_cast<std::size_t>(written.count++)];
        int digits = 0;
        for (; !text.empty() && is_digit(text.front()); text.remove_prefix(1), ++digits) {
            if (digits == (is_zero ? 1 : most_digits)) return std::nullopt;
            number = 10 * number + static_cast<std::uint64_t>(text.front() - '0');
        }
        if (!text.starts_with('.')) break;
        text.remove_prefix(1);
    }
    if (text.empty() || text.front() == ',' || text.front() == ' ' || text.front() == '\t') return written;
    return std::nullopt;
}

bool narrow(ReleaseBounds& bounds, Operator op, const Written& written) {
    std::optional<Numbers> least, limit;
    const auto next = behind(written.numbers, written.count);
    switch (op) {
        case Operator::not_equal:
            return false;
        case Operator::equal:
            least = written.numbers;
            limit = next;
            break;
        case Operator::less:
            limit = written.numbers;
            break;
        case Operator::less_equal:
            limit = next;
            break;
        case Operator::greater:
            least = next;
            break;
        case Operator::greater_equal:
            least = written.numbers;
            break;
        case Operator::compatible:
            least = written.numbers;
            limit = behind(written.numbers, breaking_count(written.numbers, written.count));
            if (!limit) return false;
            break;
    }
    if (!next) return false;
    if (least) bounds.least = std::max(bounds.least, *least);
    if (limit) bounds.limit = std::min(bounds.limit.value_or(*limit), *limit);
    return true;
}

}  // namespace

std::optional<ReleaseBounds> release_bounds(std::string_view requirement) {
    ReleaseBounds bounds;
    skip_blanks(requirement);
    if (requirement.starts_with("any")) {
        requirement.remove_prefix(3);
        skip_blanks(requirement);
        return requirement.empty() ? std::optional(bounds) : std::nullopt;
    }
    for (int comparators = 0; comparators < most_read; ++comparators) {
        skip_blanks(requirement);
        const auto op = take_operator(requirement);
        if (!op) return std::nullopt;
        skip_blanks(requirement);
        const auto written = take_numbers(requirement);
        if (!written || !narrow(bounds, *op, *written)) return std::nullopt;
        skip_blanks(requirement);
        if (requirement.empty()) return bounds;
        if (requirement.front() != ',') return std::nullopt;
        requirement.remove_prefix(1);
    }
    return std::nullopt;
}

}  // namespace envar::versions
