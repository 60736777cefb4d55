// The lexer's state and its parts: within this part only. lexer.cpp has lines, words and blocks; quotes.cpp has
// comments, quotes and documents.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>
#include <vector>

#include "core/members/grammar.hpp"
#include "core/members/lexer.hpp"

namespace envar::members {

inline constexpr std::size_t nowhere = std::string_view::npos;

/// One text on its way to being taken apart.
class Lexer {
  public:
    Lexer(std::string_view text, const Grammar::Tables& tables, bool all_comments)
        : text_(text), tables_(tables), all_comments_(all_comments) {
        out_.code.assign(text);
        quote_is_open_.assign(tables.quotes.size(), false);
    }

    Lexed run();

  private:
    static constexpr std::uint32_t code_block = Grammar::Tables::no_block;  // of code in a quote
    struct Frame {
        std::uint32_t block = code_block;
        bool hides = false;
        std::uint32_t rules = code_block;  // the block whose rules count in it
        std::string_view close;            // of code in a quote
        std::uint32_t head = 0, opens = 0;
        std::uint32_t number = 0;  // of the innermost block that does not hide; 0: none
        std::uint32_t deeper = 0;  // blocks of its kind that are open in it, where all of it is hidden
    };

    [[nodiscard]] bool starts(std::size_t at, std::string_view with) const {
        if (with.empty() || at >= text_.size() || text_[at] != with.front()) return false;
        return with.size() == 1 || text_.compare(at, with.size(), with) == 0;
    }
    [[nodiscard]] Letter letter(std::size_t at) const { return tables_.letters[text_[at]]; }
    [[nodiscard]] bool is_word_at(std::size_t at) const { return at < text_.size() && letter(at) >= Letter::word; }

    void blank(std::size_t begin, std::size_t end);

    void step() {
        // What means nothing is gone over, unless it begins a statement.
        if (!pending_ || hidden_ > 0) {
            at_ = next_of_meaning(at_);
            if (at_ >= text_.size()) return;
        }
        const Letter now = letter(at_);
        if (now == Letter::blank) {
            do ++at_;
            while (at_ < text_.size() && letter(at_) == Letter::blank);
            return;
        }
        if (now == Letter::newline) return end_line();
        if (pending_ && hidden_ == 0) {
            if (const auto& begins = tables_.begins[static_cast<unsigned char>(text_[at_])];
                begins.comment && !begins.plain && comment())
                return;
            begin_statement();
        }
        if (now == Letter::ordinary) {
            ++at_;
            return;
        }
        if (now == Letter::word) {
            at_ = end_of_word(at_);
            return;
        }
        if (special()) return;
        if (text_[at_] == ';' || (hidden_ == 0 && text_[at_] == separator()) ||
            tables_.after_marks.find(text_[at_]) != std::string::npos)
            separate();
        ++at_;
    }

    [[nodiscard]] std::size_t end_of_word(std::size_t at) const {
        do ++at;
        while (is_word_at(at));
        return at;
    }

    /// The next place of a mark, or of a word that may mean something; of a line end where lines count.
    [[nodiscard]] std::size_t next_of_meaning(std::size_t at);

    /// The same with these letters; `with_depth` counts blocks of the kind at hand instead of taking them up.
    template <bool with_depth>
    [[nodiscard]] std::size_t next_among(const Letters& letters, bool lines, std::size_t at);

    /// Sees the characters around a place, unless these are seen already.
    void look(const Letters& letters, std::size_t begin) {
        if (seen_with_ == &letters && seen_from_ == begin) return;
        seen_with_ = &letters;
        seen_from_ = begin;
        letters.see(text_.substr(begin), sight_);
    }

    /// The letters of the block at hand, where all of it is hidden and it has some of its own; else null.
    [[nodiscard]] const Letters* hidden_letters() const {
        if (hidden_ == 0 || !tables_.passes_over || frames_.empty() || frames_.back().block >= tables_.blocks.size())
            return nullptr;
        return tables_.blocks[frames_.back().block].hidden.get();
    }

    /// Whether a word may, by its first and last letter and its size.
    [[nodiscard]] bool means_something(std::size_t begin, std::size_t end) const {
        const auto& begins = tables_.begins[static_cast<unsigned char>(text_[begin])];
        const auto sizes = begins.word_sizes & tables_.ending_sizes[static_cast<unsigned char>(text_[end - 1])];
        return begins.every_word || (sizes >> std::min<std::size_t>(end - begin, 63) & 1U) != 0;
    }

    /// Of the block at hand; 0: it has none.
    [[nodiscard]] char separator() const {
        if (frames_.empty() || frames_.back().block >= tables_.blocks.size()) return 0;
        return tables_.blocks[frames_.back().block].separator;
    }

    void separate() {
        if (hidden_ == 0) pending_ = ended_ = true;
    }

    /// A block that opens right behind the mark of the one at hand has the same head.
    [[nodiscard]] bool is_first_in_block() const;

    /// A statement may begin here: not where a comment does, which is passed over first.
    void begin_statement();

    // Lines.

    /// Whether a backslash takes the meaning off the line end there.
    [[nodiscard]] bool is_continued(std::size_t line_end) const;

    void end_line();

    /// Of languages with blocks by indentation: finds out whether the next line stands in a body that hides.
    void end_logical_line();

    [[nodiscard]] std::size_t column(std::size_t at) const;

    void skip_documents();

    // What a special character begins; true when something was taken.

    bool special();

    /// The mark that code in a quote ends with opens nothing itself, even where it could.
    bool closes_code();

    /// What a pattern of the card says to be neither quote nor comment nor block.
    bool plain();

    /// A line that is taken as it is, but for comments over several lines.
    bool raw_line();

    bool word();

    /// `$if`, `x.end`, `end =>`: a name, and no word of the language.
    [[nodiscard]] bool is_part_of_name(std::size_t end) const;

    /// Between blanks and operators.
    [[nodiscard]] bool is_whole(std::size_t begin, std::size_t end) const;

    /// Whether what stands before lets a command begin.
    [[nodiscard]] bool begins_command(std::size_t at) const;

    // Comments.

    [[nodiscard]] bool begins_comment() const;

    [[nodiscard]] bool begins_line_comment() const;

    bool comment();

    /// Goes over one form of a language of forms: what stands in brackets, else up to the next blank.
    void skip_form();

    // Long forms and quotes.

    /// 0: it does not open here.
    [[nodiscard]] std::size_t length_of_open(const Grammar::Tables::LongForm& form) const;

    bool take_long_form(const Grammar::Tables::LongForm& form);

    [[nodiscard]] std::size_t end_of_nested(const Grammar::Tables::LongForm& form, std::size_t at) const;

    bool document();

    /// Whether the mark can open a block in the one at hand.
    [[nodiscard]] bool may_open(const std::string& mark) const {
        if (frames_.empty() || frames_.back().rules >= tables_.blocks.size()) return true;
        const auto& inner = tables_.blocks[frames_.back().rules].inner;
        return inner.empty() || std::find(inner.begin(), inner.end(), mark) != inner.end();
    }

    /// Whether documents, and comments, can begin in the block at hand.
    [[nodiscard]] bool has_documents() const {
        return frames_.empty() || frames_.back().rules >= tables_.blocks.size() ||
               tables_.blocks[frames_.back().rules].documents;
    }

    bool quote();
    [[nodiscard]] bool is_plain_here(const Grammar::Tables::Quote& quote) const;

    /// Where its closing mark stands; the line's end where it must end there; `nowhere`: it never closes.
    std::size_t end_of_quote(const Grammar::Tables::Quote& quote, std::size_t at);

    /// Behind the closing mark of code in a quote.
    std::size_t end_of_code(std::size_t at, const Grammar::Tables::Code& code);

    /// Whether a value may begin here, so that the mark is no operator.
    [[nodiscard]] bool may_be_value(const Grammar::Tables::Quote& quote) const;

    bool word_quote(const Grammar::Tables::WordQuote& quote, std::size_t end);
    [[nodiscard]] bool has_commas_as_marks(const Grammar::Tables::WordQuote& quote, std::size_t at) const;

    /// `{word}`: the key of a table.
    [[nodiscard]] bool is_key(std::size_t end) const { return end < text_.size() && text_[end] == '}'; }

    /// `/x/s || y`: letters right behind the closing mark are the quote's, and no word that begins one.
    void go_over_flags() {
        while (is_word_at(at_)) ++at_;
    }

    std::size_t end_of_part(std::size_t at, char open, char close, const std::string& escape);

    // Blocks.

    bool mark();

    [[nodiscard]] bool opens_nothing(const re2::RE2& unless) const;
    [[nodiscard]] bool has_head(const re2::RE2& pattern) const;

    bool take_mark(const Grammar::Tables::BlockMark& mark, std::size_t end);

    void drop_frame() {
        if (frames_.back().hides) --hidden_;
        frames_.pop_back();
    }

    struct Document {
        std::string_view word;
        bool indented = false;
    };

    std::string_view text_;
    const Grammar::Tables& tables_;
    bool all_comments_;
    Lexed out_;
    std::size_t at_ = 0;
    std::size_t head_ = 0;           // where the statement at hand begins
    std::size_t command_floor_ = 0;  // where code in a quote begins
    std::size_t body_indent_ = nowhere;
    std::size_t hidden_ = 0;  // frames and bodies that hide
    std::size_t depth_ = 0;
    bool pending_ = true;       // the next thing begins a statement
    bool ended_ = true;         // the statement before is over for certain
    std::size_t unclosed_ = 0;  // quotes that a word began and nothing closed
    bool no_documents_ = false;
    bool no_code_ = false;  // in quotes: some never closed
    bool failed_ = false;   // on the way out of code that never closed
    std::vector<Frame> frames_;
    std::vector<Document> documents_;
    Sight sight_;
    const Letters* seen_with_ = nullptr;
    std::size_t seen_from_ = 0;
    std::vector<bool> quote_is_open_;  // by quote: one was found that never closes
};

}  // namespace envar::members
