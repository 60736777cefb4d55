// In which namespace a definition lies, in languages that have some.
#pragma once

#include <cstdint>
#include <deque>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "core/members/definitions.hpp"

namespace envar::members {

class Namespaces {
  public:
    Namespaces(const model::Card& card, const Patterns::Compiled& patterns, const Lexed& lexed)
        : card_(card), patterns_(patterns), lexed_(lexed) {}

    /// Whether the statement is one behind which names are in another namespace; from then on they are. Statements
    /// are asked for in their order, `window` is the text that begins with it.
    bool change_at(std::size_t statement, std::string_view window);

    /// With its namespaces, from the outermost one on: those of its name as it is written, and of what is around it.
    /// Lasts as long as this object.
    [[nodiscard]] std::string_view full_name_of(std::size_t statement, std::string_view name,
                                                std::string_view written);

    /// Whether the text as a whole is in it: it was said before any name was asked for, and what is in none is
    /// nowhere told apart from it.
    [[nodiscard]] bool is_of_file(std::string_view space) const {
        return !space.empty() && space == of_file_ && !leaves_it_;
    }

  private:
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    const Lexed& lexed_;
    std::unordered_map<std::uint32_t, std::string_view> said_in_;  // by block: what was said last
    std::string_view of_file_;
    bool leaves_it_ = false;  // the outermost one was said
    std::deque<std::string> full_names_;
};

/// In languages with namespaces: leaves what is in the one of this name, or is called like it; all where nothing is.
/// Of several of one name the last one.
void keep_own(const model::Card& card, const std::string& name, std::vector<FoundMember>& members);

}  // namespace envar::members
