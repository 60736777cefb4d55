// What comments and strings say of a definition: within this part only.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/members/definitions.hpp"
#include "core/members/doc_sections.hpp"

namespace envar::members {

class Documentation {
  public:
    /// All of them must outlive it.
    Documentation(std::string_view text, const Lexed& lexed, const model::Card& card,
                  const Patterns::Compiled& patterns)
        : text_(text), lexed_(lexed), card_(card), patterns_(patterns) {}

    /// Gives a member its documentation and its summary, and its parameters what is said of them. `extent` and
    /// `whole` must be known.
    void describe(FoundMember& member);

  private:
    bool take_documented(std::string_view line, FoundMember& member, FoundParameter*& parameter) const;
    static FoundParameter* note(const DocumentedParameter& said, FoundMember& member);
    static bool take_returned(std::string_view line, FoundMember& member);
    /// Adds the lines of a comment: its marks and the column that they stand at are taken off.
    void add_without_marks(std::string_view comment);
    [[nodiscard]] std::string_view without_long_marks(std::string_view comment) const;
    [[nodiscard]] bool is_right_above(std::size_t from, std::size_t to) const;
    /// Finds the lines of the comments above a place. Gives where these begin, else the place.
    std::size_t find_above(std::size_t begin);
    /// Makes the lines of a text that has some already.
    void find_lines(std::string_view text);
    /// What the lines say together.
    [[nodiscard]] std::string joined() const;
    void read_lines(FoundMember& member) const;
    std::size_t read_section(std::size_t heading, FoundMember& member) const;
    [[nodiscard]] std::string string_behind(std::size_t end) const;

    std::string_view text_;
    const Lexed& lexed_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
    std::vector<std::string_view> lines_;  // of the documentation at hand; the first and the last one say something
};

}  // namespace envar::members
