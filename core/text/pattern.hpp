// What patterns of cards have in common.
#pragma once

#include <re2/re2.h>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// The number of a named group; 0: there is none.
[[nodiscard]] inline std::size_t group_number(const re2::RE2& pattern, const char* group) {
    const auto& groups = pattern.NamedCapturingGroups();
    const auto found = groups.find(group);
    return found == groups.end() ? 0U : static_cast<std::size_t>(found->second);
}

/// Whether the pattern matches somewhere in the text, with the name in its group `name` where it has one.
[[nodiscard]] bool holds_with_name(const re2::RE2& pattern, std::string_view text, std::string_view name);

/// Cut where `|` stands outside of groups and classes.
[[nodiscard]] std::vector<std::string> alternatives_of(std::string_view pattern);

}  // namespace envar::text
