#include "core/versions/widen.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace envar::versions {
namespace {

std::string_view word(Operator op) {
    switch (op) {
        case Operator::equal:
            return "=";
        case Operator::not_equal:
            return "!=";
        case Operator::less:
            return "<";
        case Operator::less_equal:
            return "<=";
        case Operator::greater:
            return ">";
        case Operator::greater_equal:
            return ">=";
        case Operator::compatible:
            return "compatible ";
    }
    return "";
}

std::string written(const Version& version, int count) {
    std::string out = fmt::format("{}", fmt::join(version.numbers.begin(), version.numbers.begin() + count, "."));
    for (std::size_t i = 0; i < version.prerelease.size(); ++i) out += (i == 0 ? "-" : ".") + version.prerelease[i];
    return out;
}

/// The next breaking version, as short as can be.
std::string next_breaking(const Version& version) {
    if (version.numbers[0] == 0) return fmt::format("0.{}", version.numbers[1] + 1);
    return std::to_string(version.numbers[0] + 1);
}

}  // namespace

std::string widened(const Requirement& requirement, const Version& version) {
    std::string exactly = "=" + version.text().substr(0, version.text().find('+'));
    std::string alternative = requirement.text + " | " + exactly;
    if (requirement.is_any()) return exactly;
    if (requirement.alternatives.size() > 1 || !version.prerelease.empty()) return alternative;
    std::vector<std::string> parts;
    for (const Comparator& c : requirement.alternatives.front()) {
        const std::string as_is = std::string(word(c.op)) + written(c.version, c.count);
        if (meets(version, {{{c}}, as_is}, true)) {
            parts.push_back(as_is);
            continue;
        }
        const bool below = version < c.version;
        switch (c.op) {
            case Operator::equal:
                return alternative;
            case Operator::not_equal:
                break;
            case Operator::less:
            case Operator::less_equal:
                parts.push_back("<" + next_breaking(version));
                break;
            case Operator::greater:
            case Operator::greater_equal:
                parts.push_back(">=" + written(version, version.count));
                break;
            case Operator::compatible:
                parts.push_back(">=" + written(below ? version : c.version, below ? version.count : c.count));
                parts.push_back("<" + next_breaking(below ? c.version : version));
        }
    }
    return parts.empty() ? "any" : fmt::format("{}", fmt::join(parts, ", "));
}

}  // namespace envar::versions
