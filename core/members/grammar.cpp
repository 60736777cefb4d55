#include "core/members/grammar.hpp"

#include <algorithm>

namespace envar::members {
namespace {

using Tables = Grammar::Tables;

bool is_word(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

class Maker {
  public:
    Maker(const model::Card& card, Tables& tables) : card_(card), tables_(tables) {}

    void run() {
        letters();
        tables_.commands = !card_.command_after.empty();
        tables_.raw_blocks = card_.raw_blocks;
        tables_.escapes_in_code = tables_.commands || card_.raw_blocks;
        if (tables_.escapes_in_code) special('\\');
        comments();
        quotes();
        blocks();
        for (const auto& text : card_.plain) {
            auto pattern = compile_pattern(text);
            const std::string first = text.substr(text.starts_with('\\') ? 1 : 0, 1);
            if (!pattern || first.empty()) continue;
            auto& begins = special(first.front());
            begins.plain = true;
            if (is_word(first.front())) begins.every_word = true;
            text::Opening opening(*pattern);
            tables_.plain.push_back({first.front(), std::move(pattern), std::move(opening)});
        }
        for (const auto& mark : card_.raw_lines) raw_line(mark);
        tables_.heredoc = compile_pattern(card_.heredoc);
        if (tables_.heredoc) {
            auto& begins = special(card_.heredoc.front());
            begins.document = true;
            if (is_word(card_.heredoc.front())) begins.every_word = true;
            tables_.heredoc_opening = text::Opening(*tables_.heredoc);
            for (const auto& [name, number] : tables_.heredoc->NamedCapturingGroups()) {
                if (name == "indent") tables_.heredoc_indent = number;
                if (name.starts_with("word")) tables_.heredoc_words.push_back(number);
            }
        }
        for (const auto& text : card_.command_after) {
            if (text.empty()) continue;
            if (is_word(text.front())) {
                after_word(text);
            } else {
                tables_.after_marks += text.back();
            }
            special(text.front());
        }
        special(';');
        for (std::uint32_t block = 0; block < tables_.blocks.size(); ++block) hidden_letters(block);
    }

  private:
    void letters() {
        for (int c = 0; c < 256; ++c) {
            const bool is_word_letter = c >= 128 || is_word(static_cast<char>(c));
            tables_.letters.set(static_cast<unsigned char>(c), c == '\n'                        ? Letter::newline
                                                               : is_blank(static_cast<char>(c)) ? Letter::blank
                                                               : is_word_letter                 ? Letter::word
                                                                                                : Letter::ordinary);
        }
    }

    Tables::Begins& special(char c) {
        const auto index = static_cast<unsigned char>(c);
        const Letter letter = tables_.letters[index];
        if (letter == Letter::word) tables_.letters.set(index, Letter::special_word);
        if (letter == Letter::ordinary) tables_.letters.set(index, Letter::special);
        return tables_.begins.at(index);
    }

    void special_word(const std::string& word) {
        const auto size = std::uint64_t{1} << std::min<std::size_t>(word.size(), 63);
        special(word.front()).word_sizes |= size;
        tables_.ending_sizes.at(static_cast<unsigned char>(word.back())) |= size;
    }

    void after_word(const std::string& word) {
        tables_.after_words.push_back(word);
        special_word(word);
    }

    void long_form(const std::pair<std::string, std::string>& marks, bool comment) {
        Tables::LongForm form;
        form.comment = comment;
        form.open = marks.first;
        form.close = marks.second;
        if (form.open.starts_with('\n')) {
            form.at_line_start = true;
            form.open.erase(0, 1);
        }
        if (form.open.empty() || form.close.empty()) return;
        if (form.close.find("\\1") != std::string::npos) {
            form.pattern = compile_pattern(form.open);
            if (!form.pattern || form.pattern->NumberOfCapturingGroups() < 1) return;
            const std::size_t first = form.open.front() == '\\' && form.open.size() > 1 ? 1 : 0;
            form.open = form.open.substr(first, 1);
            form.opening = text::Opening(*form.pattern);
        }
        auto& begins = special(form.open.front());
        (comment ? begins.comment : begins.long_string) = true;
        if (is_word(form.open.front())) begins.every_word = true;
        tables_.long_forms.push_back(std::move(form));
    }

    void raw_line(const std::string& mark) {
        if (mark.empty() || is_word(mark.front())) return;
        special(mark.front()).raw_line = true;
        tables_.raw_lines.push_back(mark);
        tables_.raw_stops.at('\n') = true;
        for (const auto& form : tables_.long_forms)
            if (form.comment) tables_.raw_stops.at(static_cast<unsigned char>(form.open.front())) = true;
    }

    void comments() {
        for (const auto& marks : card_.long_comments) long_form(marks, true);
        for (const auto& marks : card_.long_strings) long_form(marks, false);
        tables_.comment = card_.comment_begins.empty() ? card_.language.comment : card_.comment_begins;
        tables_.form_comment = card_.form_comment;
        tables_.nested_comments = card_.nested_comments;
        for (const auto* mark : {&tables_.comment, &tables_.form_comment})
            if (!mark->empty()) special(mark->front()).comment = true;
        using Where = Tables::CommentWhere;
        // A mark of one character counts only where a word begins: `${#list}` and `a#b` hold no comment.
        tables_.comment_where = card_.comment_where == "anywhere"  ? Where::anywhere
                                : card_.comment_where == "command" ? Where::command
                                : card_.comment_where == "word"    ? Where::word
                                : card_.comment_where == "spaced"  ? Where::spaced
                                : tables_.comment.size() == 1      ? Where::word
                                                                   : Where::anywhere;
    }

    void quotes() {
        std::vector<model::LanguageQuote> quotes = card_.quotes;
        if (quotes.empty()) {
            // In most shells nothing is special between single quotes; elsewhere a backslash is.
            const auto& escapes = card_.language.escapes;
            const bool raw_singles =
                !card_.language.string_marks.empty() && card_.language.string_marks.front() == "'" &&
                std::none_of(escapes.begin(), escapes.end(), [](const auto& pair) { return pair.first == "\\"; });
            quotes.resize(2);
            quotes[0].open = "\"";
            quotes[0].escape = "\\";
            quotes[1].open = "'";
            if (!raw_singles) quotes[1].escape = "\\";
        }
        for (const auto& quote : quotes) {
            for (const auto& word : quote.words)
                if (!word.empty()) {
                    tables_.word_quotes.push_back({word, quote.parts, quote.escape});
                    special_word(word);
                }
            if (quote.open.empty()) continue;
            if (quote.close.find("\\1") != std::string::npos) {
                long_form({quote.open, quote.close}, false);
                continue;
            }
            Tables::Quote made;
            made.open = quote.open;
            made.close = quote.close.empty() ? quote.open : quote.close;
            made.escape = quote.escape;
            made.lines = quote.lines;
            made.value = quote.value;
            made.after = quote.after;
            for (const auto& mark : quote.plain_in) made.plain_in.push_back(block_of(mark));
            for (const auto& pair : quote.code)
                if (!pair.first.empty() && !pair.second.empty())
                    made.code.push_back({pair.first, pair.second, block_of(pair.first)});
            const auto stop = [&](char c) { made.stops.at(static_cast<unsigned char>(c)) = true; };
            stop(made.close.front());
            if (!made.escape.empty()) stop(made.escape.front());
            for (const auto& code : made.code) stop(code.open.front());
            if (!made.lines) stop('\n');
            special(made.open.front()).quote = true;
            for (const auto& code : made.code) special(code.close.front()).mark = true;
            tables_.quotes.push_back(std::move(made));
        }
        std::stable_sort(tables_.quotes.begin(), tables_.quotes.end(),
                         [](const auto& a, const auto& b) { return a.open.size() > b.open.size(); });
        for (std::uint32_t i = 0; i < tables_.quotes.size(); ++i) tables_.quotes[i].number = i;
    }

    /// The block that the mark opens.
    [[nodiscard]] std::uint32_t block_of(const std::string& open) const {
        for (std::uint32_t i = 0; i < card_.blocks.size(); ++i)
            if (std::find(card_.blocks[i].open.begin(), card_.blocks[i].open.end(), open) !=
                card_.blocks[i].open.end())
                return i;
        return Tables::no_block;
    }

    void blocks() {
        for (const auto& block : card_.blocks) {
            if (block.indented) {
                tables_.indented = true;
                tables_.indented_head = compile_pattern(block.head);
            }
            const auto number = static_cast<std::uint32_t>(tables_.blocks.size());
            Tables::Block made;
            made.anywhere = block.anywhere;
            made.documents = block.documents;
            made.inner = block.inner;
            if (!block.separator.empty()) special(made.separator = block.separator.front());
            made.hides = block.hides;
            made.head = compile_pattern(block.head);
            made.unless = compile_pattern(block.unless);
            tables_.blocks.push_back(std::move(made));
            for (const bool opens : {true, false})
                for (const auto& text : opens ? block.open : block.close)
                    add_mark(text, number, opens, tables_.commands && !is_operators(block.open));
        }
        for (auto& list : tables_.marks) {
            std::stable_sort(list.begin(), list.end(),
                             [](const auto& a, const auto& b) { return a.text.size() > b.text.size(); });
            for (auto& mark : list)
                mark.number = static_cast<std::uint32_t>(
                    std::find_if(list.begin(), list.end(), [&](const auto& one) { return one.text == mark.text; }) -
                    list.begin());
        }
    }

    /// Marks that end words of commands by themselves.
    static bool is_operators(const std::vector<std::string>& marks) {
        return !marks.empty() &&
               (marks.front().starts_with('$') || marks.front().find_first_not_of("()<>;&|=") == std::string::npos);
    }

    void add_mark(const std::string& text, std::uint32_t block, bool opens, bool whole_word) {
        if (text.empty()) return;
        tables_.marks.at(static_cast<unsigned char>(text.front()))
            .push_back({text, block, opens, whole_word, may_be_passed_over(block), 0});
        if (whole_word && !opens) after_word(text);
        special(text.front()).mark = true;
        special_word(text);
    }

    /// Commands, lines and rules of inner blocks need every mark.
    void hidden_letters(std::uint32_t number) {
        Tables::Block& block = tables_.blocks[number];
        if (tables_.escapes_in_code || tables_.indented || !block.inner.empty() || !block.documents) return;
        block.hidden = std::make_unique<Letters>(tables_.letters);
        tables_.passes_over = true;
        for (std::size_t c = 0; c < 256; ++c) {
            const auto& begins = tables_.begins.at(c);
            const auto index = static_cast<unsigned char>(c);
            if (tables_.letters[index] != Letter::special || begins.plain || begins.comment || begins.long_string ||
                begins.document || begins.quote || begins.raw_line)
                continue;
            const auto& marks = tables_.marks.at(c);
            const auto own =
                std::find_if(marks.begin(), marks.end(), [&](const auto& m) { return m.block == number; });
            if (own == marks.end()) {
                if (std::all_of(marks.begin(), marks.end(), [&](const auto& m) { return m.passed_over; }))
                    block.hidden->set(index, Letter::ordinary);
            } else if (marks.size() == 1 && own->text.size() == 1) {
                block.hidden->set(index, own->opens ? Letter::deeper : Letter::shallower);
            }
        }
    }

    [[nodiscard]] bool may_be_passed_over(std::uint32_t number) const {
        const auto& block = card_.blocks[number];
        const auto by_words = [](const std::vector<std::string>& marks) {
            return std::any_of(marks.begin(), marks.end(), [](const auto& m) { return is_word(m.front()); });
        };
        return block.inner.empty() && block.documents && !by_words(block.open) && !by_words(block.close);
    }

    const model::Card& card_;
    Tables& tables_;
};

}  // namespace

std::unique_ptr<re2::RE2> compile_pattern(const std::string& pattern) {
    if (pattern.empty()) return nullptr;
    auto made = std::make_unique<re2::RE2>(pattern, re2::RE2::Quiet);
    return made->ok() ? std::move(made) : nullptr;
}

Grammar::Grammar(const model::Card& card) : tables_(std::make_unique<Tables>()) { Maker(card, *tables_).run(); }
Grammar::Grammar(Grammar&&) noexcept = default;
Grammar& Grammar::operator=(Grammar&&) noexcept = default;
Grammar::~Grammar() = default;

}  // namespace envar::members
