#include "core/versions/loose.hpp"

#include <algorithm>
#include <vector>

namespace envar::versions {
namespace {

/// A version as hosts that choose by it compare: numbers between dots, `a` (alpha) and `b` (beta) below what has
/// neither at their place. Empty when it is none.
std::vector<long long> comparable(const std::string& version) {
    std::vector<long long> parts;
    std::string digits;
    for (const char c : version + ".") {
        if (c >= '0' && c <= '9' && digits.size() < 18) {
            digits += c;
            continue;
        }
        if (digits.empty() || (c != '.' && c != 'a' && c != 'b')) return {};
        parts.push_back(std::stoll(digits));
        if (c != '.') parts.push_back(c == 'a' ? -2 : -1);
        digits.clear();
    }
    while (!parts.empty() && parts.back() == 0) parts.pop_back();
    parts.push_back(0);
    return parts;
}

}  // namespace

bool is_loose_version(const std::string& text) { return !comparable(text).empty(); }

bool preferred(const std::string& a, const std::string& b) {
    const auto left = comparable(a);
    const auto right = comparable(b);
    const auto stable = [](const std::vector<long long>& parts) {
        return std::none_of(parts.begin(), parts.end(), [](long long part) { return part < 0; });
    };
    if (left.empty() != right.empty()) return right.empty();
    if (stable(left) != stable(right)) return stable(left);
    for (std::size_t i = 0; i < std::max(left.size(), right.size()); ++i) {
        const long long x = i < left.size() ? left[i] : 0;
        const long long y = i < right.size() ? right[i] : 0;
        if (x != y) return x > y;
    }
    return false;
}

}  // namespace envar::versions
