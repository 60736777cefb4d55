// Where sentences end.
#pragma once

#include <string_view>

namespace envar::text {

/// Whether the dot there belongs to a word that is cut short, such as `e.g.`, and ends no sentence.
[[nodiscard]] bool is_cut_short(std::string_view text, std::size_t dot);

/// The dot that ends the first sentence, with a blank behind it; npos: there is none.
[[nodiscard]] std::size_t end_of_sentence(std::string_view text);

}  // namespace envar::text
