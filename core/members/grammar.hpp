// What the lexer goes by, made from a card's [language], and small helpers: within this part only.
#pragma once

#include <re2/re2.h>

#include <array>
#include <cstdint>
#include <cstring>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/members/letters.hpp"
#include "core/members/lexer.hpp"
#include "core/text/opening.hpp"

namespace envar::members {

inline re2::StringPiece piece(std::string_view text) { return {text.data(), text.size()}; }
inline bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\f'; }
inline bool is_space(char c) { return is_blank(c) || c == '\n'; }
inline bool is_operator(char c) { return c != '\0' && std::strchr("()<>;&|`", c) != nullptr; }

/// Null when the pattern is empty or refused, which is a finding elsewhere.
[[nodiscard]] std::unique_ptr<re2::RE2> compile_pattern(const std::string& pattern);

struct Grammar::Tables {
    using Pattern = std::unique_ptr<re2::RE2>;
    static constexpr std::uint32_t no_block = UINT32_MAX;

    /// Comments and strings over several lines. Where `pattern` is set, its first group stands for `\1` in `close`.
    struct LongForm {
        std::string open, close;
        Pattern pattern;
        text::Opening opening;
        bool at_line_start = false;
        bool comment = false;
    };
    struct Code {
        std::string open, close;
        std::uint32_t block = no_block;  // that the mark opens elsewhere
    };
    struct Quote {
        std::string open, close, escape;
        std::vector<Code> code;
        bool lines = true, value = false;
        std::vector<std::string> after;
        std::vector<std::uint32_t> plain_in;  // blocks, as code in other quotes
        std::array<bool, 256> stops{};        // where its inside has to be looked at
        std::uint32_t number = 0;
    };
    struct WordQuote {
        std::string word;
        std::int64_t parts = 1;
        std::string escape;
    };
    struct Block {
        bool anywhere = false, documents = true;
        std::vector<std::string> inner;  // opening marks that count in it; empty: all
        char separator = 0;
        model::BlockHides hides = model::BlockHides::all;
        Pattern head, unless;
        /// Of code in it that is hidden: marks of other blocks mean nothing there, but for those that are words.
        std::unique_ptr<Letters> hidden;  // null: as anywhere
    };
    /// A word or mark that opens or closes a block.
    struct BlockMark {
        std::string text;
        std::uint32_t block = 0;
        bool opens = false;
        bool whole_word = false;   // counts only between blanks and operators
        bool passed_over = false;  // means nothing in hidden code of other blocks that have letters of their own
        std::uint32_t number = 0;  // the same for the same text
    };

    struct Plain {
        char first = 0;
        Pattern pattern;
        text::Opening opening;
    };
    /// What may begin with a character.
    struct Begins {
        bool plain = false, comment = false, long_string = false, document = false, quote = false, mark = false;
        bool raw_line = false;
        bool every_word = false;       // words that begin with it mean something, whatever they are
        std::uint64_t word_sizes = 0;  // words of so many characters mean something; the last bit: so many or more
    };

    Letters letters;
    std::array<Begins, 256> begins{};
    std::array<std::uint64_t, 256> ending_sizes{};  // as word_sizes, by the last character
    std::vector<LongForm> long_forms;
    std::vector<Quote> quotes;  // the longer ones first
    std::vector<WordQuote> word_quotes;
    std::vector<Block> blocks;
    std::array<std::vector<BlockMark>, 256> marks;  // by first character, the longer ones first
    std::vector<Plain> plain;
    std::vector<std::string> raw_lines;
    std::array<bool, 256> raw_stops{};  // where such a line may end, or a comment begin in it
    Pattern heredoc;
    text::Opening heredoc_opening;
    int heredoc_indent = 0;
    std::vector<int> heredoc_words;  // groups that may hold the word
    std::string comment, form_comment;
    enum class CommentWhere { anywhere, word, spaced, command } comment_where = CommentWhere::word;
    bool nested_comments = false;
    bool commands = false;  // words of blocks count only where a command begins
    std::string after_marks;
    std::vector<std::string> after_words;
    bool raw_blocks = false;
    bool escapes_in_code = false;
    bool indented = false;
    bool passes_over = false;  // some block has letters of its own
    Pattern indented_head;
};

}  // namespace envar::members
