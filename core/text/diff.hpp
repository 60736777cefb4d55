// Unified diffs for people: --dry-run plans, drift of generated files.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// A line of both texts (' '), of the old one alone ('-') or of the new one alone ('+'), with its line end.
struct LineEdit {
    char kind;
    std::string_view line;
};

/// What turns the old text into the new one, by the method of unified_diff. The lines are views of the texts.
[[nodiscard]] std::vector<LineEdit> line_edits(std::string_view old_text, std::string_view new_text);

/// The difference in unified form with three lines of context, empty when both texts are the same.
/// `old_name` or `new_name` may be "/dev/null". A last line without line end is marked as the form asks.
/// Method: Myers, "An O(ND) Difference Algorithm and Its Variations" (1986), with common ends trimmed first;
/// beyond 2,000 differing lines the differing middle is shown as one replaced block.
[[nodiscard]] std::string unified_diff(std::string_view old_text, std::string_view new_text,
                                       std::string_view old_name, std::string_view new_name);

}  // namespace envar::text
