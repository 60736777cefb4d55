#include "core/members/masked.hpp"

#include "core/members/lexer.hpp"

namespace envar::members {

std::string masked(std::string_view text, const model::Card& card) { return lex(text, Grammar(card)).code; }

}  // namespace envar::members
