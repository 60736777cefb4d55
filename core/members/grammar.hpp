// What the lexer goes by, made from a card's [language], and small helpers: within this part only.
#pragma once

#include <re2/re2.h>

#include <array>
#include <cstring>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/members/lexer.hpp"

namespace envar::members {

inline re2::StringPiece piece(std::string_view text) { return {text.data(), text.size()}; }
inline bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\f'; }
inline bool is_space(char c) { return is_blank(c) || c == '\n'; }
inline bool is_operator(char c) { return c != '\0' && std::strchr("()<>;&|`", c) != nullptr; }

/// Null when the pattern is empty or refused, which is a finding elsewhere.
[[nodiscard]] std::unique_ptr<re2::RE2> compile_pattern(const std::string& pattern);

/// What a character can be the beginning of.
enum class Letter : std::uint8_t { ordinary, blank, newline, word, special, special_word };

struct Grammar::Tables {
    using Pattern = std::unique_ptr<re2::RE2>;

    /// Comments and strings over several lines. Where `pattern` is set, its first group stands for `\1` in `close`.
    struct LongForm {
        std::string open, close;
        Pattern pattern;
        bool at_line_start = false;
        bool comment = false;
    };
    struct Quote {
        std::string open, close, escape;
        model::Pairs code;
        bool lines = true, value = false;
        std::vector<std::string> after;
        std::array<bool, 256> stops{};  // where its inside has to be looked at
        std::uint32_t number = 0;
    };
    struct WordQuote {
        std::string word;
        std::int64_t parts = 1;
        std::string escape;
    };
    struct Block {
        bool anywhere = false, documents = true;
        char separator = 0;
        model::BlockHides hides = model::BlockHides::all;
        Pattern head;
    };
    /// A word or mark that opens or closes a block.
    struct BlockMark {
        std::string text;
        std::uint32_t block = 0;
        bool opens = false;
        bool whole_word = false;  // counts only between blanks and operators
    };

    std::array<Letter, 256> letters{};
    std::vector<LongForm> long_forms;
    std::vector<Quote> quotes;  // the longer ones first
    std::vector<WordQuote> word_quotes;
    std::vector<Block> blocks;
    std::array<std::vector<BlockMark>, 256> marks;  // by first character, the longer ones first
    std::vector<std::pair<char, Pattern>> plain;
    Pattern heredoc;
    int heredoc_indent = 0;
    std::vector<int> heredoc_words;  // groups that may hold the word
    std::string comment, form_comment;
    enum class CommentWhere { anywhere, word, command } comment_where = CommentWhere::word;
    bool nested_comments = false;
    bool commands = false;  // words of blocks count only where a command begins
    std::string after_marks;
    std::vector<std::string> after_words;
    bool raw_blocks = false;
    bool escapes_in_code = false;
    bool indented = false;
    Pattern indented_head;
};

}  // namespace envar::members
