// Three-way merge of texts by lines: what two sides made of a common origin, put together.
#pragma once

#include <string>
#include <string_view>

namespace envar::text {

struct Merge {
    std::string text;
    std::size_t conflicts = 0;  // places that both sides changed differently, marked in the text
};

/// Every line of `mine` and of `theirs` that is not of `base` is in the result. Where both changed the same lines
/// in different ways, both versions stand between conflict marks with the names given. Runs of lines that differ
/// are found by line_edits; runs of both sides that touch or overlap make one place.
[[nodiscard]] Merge merge(std::string_view base, std::string_view mine, std::string_view theirs,
                          std::string_view mine_name, std::string_view theirs_name);

}  // namespace envar::text
