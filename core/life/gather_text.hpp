// What of a script's text is code, and what of it names something.
#pragma once

#include <string>

#include "core/members/lexer.hpp"
#include "core/model/card.hpp"
#include "core/text/finding.hpp"

namespace envar::life {

/// The code with what is code within quotes, such as `$(…)`, put back: as long as the text.
[[nodiscard]] std::string with_code_in_quotes(const std::string& text, const members::Lexed& lexed,
                                              const model::Card& card);

/// A piece of the text without the words that stand in comments, or in quotes without a sign that they name
/// something: `"$top"`, `"{top}"`, `"top=1"` and `"top"` do, `"the top one"` does not; and without those of paths
/// from the root and of options. `code` is with_code_in_quotes.
[[nodiscard]] std::string without_prose(const std::string& text, const std::string& code, const members::Lexed& lexed,
                                        text::Span piece);

}  // namespace envar::life
