// What comments and strings say of a definition: within this part only.
#pragma once

#include <string>
#include <string_view>

#include "core/members/definitions.hpp"

namespace envar::members {

class Documentation {
  public:
    /// All of them must outlive it.
    Documentation(std::string_view text, const Lexed& lexed, const model::Card& card,
                  const Patterns::Compiled& patterns)
        : text_(text), lexed_(lexed), card_(card), patterns_(patterns) {}

    /// Gives a member its documentation and its summary, and its parameters what is said of them. `extent` and
    /// `whole` must be known.
    void describe(FoundMember& member) const;

  private:
    bool take_documented(std::string_view line, FoundMember& member) const;
    static bool take_returned(std::string_view line, FoundMember& member);
    /// The lines of a comment: its marks and the column that they stand at are taken off.
    void add_without_marks(std::string_view comment, std::string& out) const;
    [[nodiscard]] std::string_view without_long_marks(std::string_view comment) const;
    [[nodiscard]] bool is_right_above(std::size_t from, std::size_t to) const;
    [[nodiscard]] std::string comment_above(std::size_t begin, std::size_t& top_of_it) const;
    [[nodiscard]] std::string string_behind(std::size_t end) const;

    std::string_view text_;
    const Lexed& lexed_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
};

}  // namespace envar::members
