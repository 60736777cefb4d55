// The tags of a template, and what rendering it would cost: what is needed to judge a template that a stranger
// wrote before it is rendered.
#pragma once

#include <cstddef>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>
#include <vector>

#include "core/text/failure.hpp"
#include "core/text/finding.hpp"

namespace envar::text {

/// A tag with its kind: '#', '^', '/', '!', '>', '=' as in the Mustache spec, '&' for a value as it is (also with
/// three braces), 'v' for an escaped value.
struct TemplateTag {
    char kind = 'v';
    std::string name;
    Span span;  // of the whole tag
};

/// Tags in order; a tag that is not closed ends the list.
[[nodiscard]] std::vector<TemplateTag> template_tags(std::string_view template_text);

inline constexpr std::size_t deepest_section = 32;
inline constexpr std::size_t longest_rendering = std::size_t{4} << 20U;  // bytes
inline constexpr std::size_t most_tags_rendered = 100000;

/// Fails when sections are not closed or nested too deeply, or when rendering with these values would write or
/// visit more than the limits above. Linear in what it counts, which is cut off at the limits.
[[nodiscard]] Result<void> template_within_limits(std::string_view template_text, const nlohmann::json& values);

}  // namespace envar::text
