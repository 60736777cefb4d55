// Source text with everything that is not code blanked out, as the card's language says.
#pragma once

#include <string>
#include <string_view>

#include "core/model/card.hpp"

namespace envar::members {

/// The text with comments and the insides of strings replaced by blanks; line ends and lengths stay, so that
/// places in the result are places in the text. Linear.
[[nodiscard]] std::string masked(std::string_view text, const model::Card& card);

}  // namespace envar::members
