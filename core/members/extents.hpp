// How far statements and definitions of a text reach: the pieces that can be taken out of it by themselves.
#pragma once

#include <string_view>
#include <vector>

#include "core/members/definitions.hpp"

namespace envar::members {

class Extents {
  public:
    /// All of them must outlive it; `lexed` is what became of the text.
    Extents(std::string_view text, const Lexed& lexed, const model::Card& card, const Patterns::Compiled& patterns)
        : text_(text), lexed_(lexed), code_(lexed.code), card_(card), patterns_(patterns) {}

    /// Where a statement begins, by its place among them; behind the last one the text's end.
    [[nodiscard]] std::size_t begin_of(std::size_t index) const {
        return index < lexed_.statements.size() ? lexed_.statements[index].begin : code_.size();
    }

    /// The statement behind it, and behind what stands within it.
    [[nodiscard]] std::size_t next_of(std::size_t index) const {
        const auto& all = lexed_.statements;
        const bool inside = index < all.size() && all[index].inside;
        do ++index;
        while (!inside && index < all.size() && all[index].inside);
        return index;
    }

    /// Where the statement ends, whose head goes to `head`: before the next one, but for a block that opens right
    /// behind the head.
    [[nodiscard]] std::size_t end_of(std::size_t index, std::size_t head) const;

    /// Where the statement begins, with those above that belong to it.
    [[nodiscard]] std::size_t head_of(std::size_t index) const;

    /// What stands between the definitions at the outermost level, statement by statement, with the blocks in them.
    [[nodiscard]] std::vector<Everything::Other> others(const std::vector<FoundMember>& defined) const;

  private:
    [[nodiscard]] bool belong_together(text::Span first, text::Span second) const;
    [[nodiscard]] std::size_t redirected(std::string_view rest) const;
    /// Behind the here-documents that begin before `limit`, where these reach farther than `end`.
    [[nodiscard]] std::size_t behind_documents(std::size_t end, std::size_t limit) const;

    std::string_view text_;
    const Lexed& lexed_;
    std::string_view code_;
    const model::Card& card_;
    const Patterns::Compiled& patterns_;
};

}  // namespace envar::members
