// Names: the forms a name can be written in, and which known word a wrong one was probably meant to be.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// The forms of a name that templates and cards can ask for: star_field, star-field, starField, StarField,
/// STAR_FIELD.
enum class NameForm { snake, kebab, camel, pascal, upper };

[[nodiscard]] std::optional<NameForm> name_form(std::string_view word);

/// Splits at '_', '-', '.', spaces and at changes from lower to upper case; all words in lower case.
[[nodiscard]] std::vector<std::string> name_words(std::string_view name);

[[nodiscard]] std::string in_form(std::string_view name, NameForm form);

/// Number of insertions, removals, changes and swaps of neighbours that turn `a` into `b` (optimal string
/// alignment distance), or `limit` + 1 when there are more than `limit`. Bytes are compared.
[[nodiscard]] std::size_t edit_distance(std::string_view a, std::string_view b, std::size_t limit);

/// The candidate that is nearest to `word`, ignoring case, when it is near enough to be worth suggesting
/// (about one slip in three letters). Ties go to the first in order.
[[nodiscard]] std::optional<std::string> nearest(std::string_view word, const std::vector<std::string>& candidates);

/// The same with at most `limit` slips.
[[nodiscard]] std::optional<std::string> nearest(std::string_view word, const std::vector<std::string>& candidates,
                                                 std::size_t limit);

/// "did you mean `x`?" or an empty string.
[[nodiscard]] std::string did_you_mean(std::string_view word, const std::vector<std::string>& candidates);

/// "a, b, c and 4 more": at most `most` of them.
[[nodiscard]] std::string listed(const std::vector<std::string>& names, std::size_t most);

}  // namespace envar::text
