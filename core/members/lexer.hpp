// Takes source text apart as a card's [language] says: comments and quotes, documents that begin in the next line,
// blocks by words, marks or indentation; and finds where statements begin that no block hides. One pass, linear in
// the text, whatever the text is.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/card.hpp"

namespace envar::members {

/// A language made ready for lexing: make one for all texts of a card. Patterns that RE2 refuses count for nothing;
/// that is a finding elsewhere.
class Grammar {
  public:
    explicit Grammar(const model::Card& card);
    Grammar(Grammar&&) noexcept;
    Grammar& operator=(Grammar&&) noexcept;
    ~Grammar();

    struct Tables;
    [[nodiscard]] const Tables& tables() const { return *tables_; }

  private:
    std::unique_ptr<Tables> tables_;
};

struct Statement {
    static constexpr std::uint32_t nobody = UINT32_MAX;
    std::uint32_t begin = 0;
    std::uint32_t owner = nobody;  // where the head of the block begins that it is an item of; nobody: it is none
    std::uint32_t owner_end = 0;   // where that block opens
    std::uint32_t block = 0;       // the block that it stands in, by its number; 0: none
    bool nested = false;           // it stands in a block, or in a language of indented ones not at the margin
    bool inside = false;           // it stands within the statement before it, in a block that hides others
};

/// A block that does not hide what stands in it.
struct OpenBlock {
    std::uint32_t head = 0, opens = 0;  // where its head begins, and where it opens
    std::uint32_t outer = 0;            // the number of the block that it stands in; 0: none
};

struct Lexed {
    /// The text with comments and the insides of quotes replaced by blanks; line ends and lengths stay, so that
    /// places in it are places in the text.
    std::string code;
    std::vector<Statement> statements;  // those that no block hides, and raw lines, rising
    std::vector<OpenBlock> blocks;      // as they open; the first one has the number 1
    std::vector<text::Span> comments;   // those that no block hides, rising; all of them where that is asked for
    std::vector<text::Span> documents;  // here-documents, each with the line that ends it, rising
};

/// At most 4 GiB of text.
[[nodiscard]] Lexed lex(std::string_view text, const Grammar& grammar, bool all_comments = false);

}  // namespace envar::members
