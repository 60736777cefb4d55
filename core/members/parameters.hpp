// The parameters of definitions, by a card's pattern.
#pragma once

#include <optional>
#include <string_view>
#include <unordered_map>

#include "core/members/definitions.hpp"
#include "core/text/opening.hpp"

namespace envar::members {

class Parameters {
  public:
    /// `code` is the text with blanks for what is no code.
    Parameters(std::string_view text, std::string_view code, const model::Card& card,
               const Patterns::Compiled& patterns);

    /// Of the list, a part of the code; without a place there is none, and nothing is known of parameters.
    void read(std::string_view list, FoundMember& member);

  private:
    [[nodiscard]] std::optional<FoundParameter> parameter_of(std::size_t begin, std::size_t end);
    [[nodiscard]] std::optional<FoundParameter> parameter_in(std::string_view own) const;

    std::string_view text_, code_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    text::Characters marks_;  // what says where a parameter ends, and the brackets that keep it from that
    std::unordered_map<std::string_view, std::optional<FoundParameter>> known_;  // most are written many times
};

}  // namespace envar::members
