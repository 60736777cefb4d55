// Comments, quotes, documents: text whose marks are none of the code's.
#include <algorithm>
#include <array>
#include <cstring>
#include <utility>

#include "core/members/lexing.hpp"

namespace envar::members {
namespace {

using Tables = Grammar::Tables;

constexpr std::size_t deepest_code = 100;  // of code in quotes in code
constexpr std::size_t most_unclosed = 20;  // after so many, words begin no quotes

}  // namespace

void Lexer::skip_documents() {
    for (const Document& document : documents_) {
        std::size_t line = at_;
        for (;;) {
            if (line >= text_.size()) {  // it never ends: no document then
                no_documents_ = true;
                break;
            }
            const std::size_t end = std::min(text_.find('\n', line), text_.size());
            std::string_view content = text_.substr(line, end - line);
            if (content.ends_with('\r')) content.remove_suffix(1);
            if (document.indented) content.remove_prefix(std::min(content.find_first_not_of(" \t"), content.size()));
            if (content == document.word) {
                blank(at_, end);
                out_.documents.push_back({at_, end});
                at_ = std::min(end + 1, text_.size());
                break;
            }
            line = end + 1;
        }
        if (no_documents_) break;
    }
    documents_.clear();
}

bool Lexer::begins_comment() const {
    if (starts(at_, tables_.form_comment)) return true;
    for (const auto& form : tables_.long_forms)
        if (form.comment && length_of_open(form) > 0) return true;
    return begins_line_comment();
}

bool Lexer::begins_line_comment() const {
    if (!starts(at_, tables_.comment) || !has_documents()) return false;
    if (tables_.comment_where == Tables::CommentWhere::anywhere || at_ == 0) return true;
    const char before = text_[at_ - 1];
    if (tables_.comment_where == Tables::CommentWhere::spaced) return is_space(before) || before == ';';
    if (tables_.comment_where == Tables::CommentWhere::word)
        return is_space(before) || before == ';' || before == '(' || before == ')' || before == '&' || before == '|';
    std::size_t back = at_;
    while (back > 0 && is_blank(text_[back - 1])) --back;
    return back == 0 || text_[back - 1] == '\n' || text_[back - 1] == ';' || text_[back - 1] == '{';
}

bool Lexer::comment() {
    for (const auto& form : tables_.long_forms)
        if (form.comment && take_long_form(form)) return true;
    if (starts(at_, tables_.form_comment)) {
        const std::size_t begin = at_;
        at_ += tables_.form_comment.size();
        skip_form();
        blank(begin, at_);
        return true;
    }
    if (!begins_line_comment()) return false;
    std::size_t end = std::min(text_.find('\n', at_), text_.size());
    std::memset(&out_.code[at_], ' ', end - at_);
    // A comment that ends in a backslash goes on where commands can.
    while (tables_.raw_blocks && end < text_.size() && text_[end - 1] == '\\') {
        const std::size_t line = std::exchange(end, std::min(text_.find('\n', end + 1), text_.size()));
        blank(line, end);
    }
    if (hidden_ == 0 || all_comments_) out_.comments.push_back({at_, end});
    // Braces in such comments count within a block.
    at_ = tables_.raw_blocks && !frames_.empty() ? at_ + tables_.comment.size() : end;
    return true;
}

void Lexer::skip_form() {
    while (at_ < text_.size() && is_space(text_[at_])) ++at_;
    if (depth_ >= deepest_code) return;
    frames_.emplace_back();  // so that every block in the form has one of its own
    const std::size_t frames = frames_.size();
    ++hidden_;
    ++depth_;
    bool first = true;
    while (at_ < text_.size()) {
        if (!first && frames_.size() <= frames && (is_space(text_[at_]) || text_[at_] == ')')) break;
        if (first && text_[at_] == ')') break;
        if (frames_.size() > frames || letter(at_) == Letter::special) {
            step();
        } else {
            ++at_;
        }
        if (frames_.size() <= frames && text_[at_ - 1] == ')') break;
        first = false;
    }
    while (frames_.size() >= frames) drop_frame();
    --depth_;
    --hidden_;
}

std::size_t Lexer::length_of_open(const Tables::LongForm& form) const {
    if (form.at_line_start && at_ > 0 && text_[at_ - 1] != '\n') return 0;
    if (!form.pattern) return starts(at_, form.open) ? form.open.size() : 0;
    if (text_[at_] != form.open.front() || !form.opening.admits(text_.substr(at_))) return 0;
    re2::StringPiece found;
    return form.pattern->Match(piece(text_), at_, text_.size(), re2::RE2::ANCHOR_START, &found, 1) ? found.size() : 0;
}

bool Lexer::take_long_form(const Tables::LongForm& form) {
    const std::size_t open = length_of_open(form);
    if (open == 0) return false;
    std::string close = form.close;
    if (form.pattern) {
        std::array<re2::StringPiece, 2> groups;
        form.pattern->Match(piece(text_), at_, text_.size(), re2::RE2::ANCHOR_START, groups.data(), 2);
        close.replace(close.find("\\1"), 2, groups[1].data() == nullptr ? "" : groups[1].as_string());
    }
    const std::size_t begin = at_;
    const std::size_t found =
        form.comment && tables_.nested_comments ? end_of_nested(form, begin + open) : text_.find(close, begin + open);
    const std::size_t inner_end = std::min(found, text_.size());
    const std::size_t end = std::min(inner_end + (found == nowhere ? 0 : close.size()), text_.size());
    if (form.comment) {
        if (hidden_ == 0 || all_comments_) out_.comments.push_back({begin, end});
        blank(begin, end);
    } else {
        blank(begin + open, inner_end);
    }
    at_ = end;
    return true;
}

std::size_t Lexer::end_of_nested(const Tables::LongForm& form, std::size_t at) const {
    for (std::size_t depth = 1;;) {
        const std::size_t close = text_.find(form.close, at);
        if (close == nowhere) return nowhere;
        for (std::size_t open = text_.find(form.open, at); open < close; open = text_.find(form.open, at)) {
            ++depth;
            at = open + form.open.size();
        }
        at = std::max(at, close + form.close.size());
        if (--depth == 0) return close;
    }
}

bool Lexer::document() {
    if (!tables_.heredoc || no_documents_ || text_[at_] != tables_.heredoc->pattern().front()) return false;
    if (!has_documents()) return false;
    std::array<re2::StringPiece, 10> groups;
    if (!tables_.heredoc_opening.admits(text_.substr(at_))) return false;
    const int wanted = std::min(10, tables_.heredoc->NumberOfCapturingGroups() + 1);
    const std::size_t line_end = std::min(text_.find('\n', at_), text_.size());
    if (!tables_.heredoc->Match(piece(text_), at_, line_end, re2::RE2::ANCHOR_START, groups.data(), wanted))
        return false;
    if (groups[0].empty()) return false;
    Document document;
    for (const int number : tables_.heredoc_words)
        if (number < wanted && groups.at(static_cast<std::size_t>(number)).data() != nullptr) {
            const auto& found = groups.at(static_cast<std::size_t>(number));
            document.word = {found.data(), found.size()};
        }
    if (tables_.heredoc_indent > 0)
        document.indented = !groups.at(static_cast<std::size_t>(tables_.heredoc_indent)).empty();
    documents_.push_back(document);
    at_ += groups[0].size();
    return true;
}

bool Lexer::quote() {
    if (tables_.raw_blocks && !frames_.empty()) return false;
    for (const auto& quote : tables_.quotes) {
        if (!starts(at_, quote.open) || quote_is_open_[quote.number]) continue;
        if (quote.value && !may_be_value(quote)) continue;
        if (is_plain_here(quote)) continue;
        const std::size_t begin = at_ + quote.open.size();
        std::size_t end = end_of_quote(quote, begin);
        if (failed_ && depth_ > 0) return true;  // all is given up, out to the outermost quote
        if (failed_) {
            failed_ = false;
            end = end_of_quote(quote, begin);
        }
        if (end == nowhere) {
            quote_is_open_[quote.number] = true;  // it never closes, nor does any later one
            continue;
        }
        blank(begin, end);
        at_ = end < text_.size() && starts(end, quote.close) ? end + quote.close.size() : end;
        if (quote.value) go_over_flags();
        return true;
    }
    return false;
}

/// In code in another quote, and in what is nested in that, until something else opens.
bool Lexer::is_plain_here(const Tables::Quote& quote) const {
    if (quote.plain_in.empty()) return false;
    for (auto frame = frames_.rbegin(); frame != frames_.rend(); ++frame) {
        if (std::find(quote.plain_in.begin(), quote.plain_in.end(), frame->rules) == quote.plain_in.end())
            return false;
        if (frame->block == code_block) return true;
    }
    return false;
}

std::size_t Lexer::end_of_quote(const Tables::Quote& quote, std::size_t at) {
    for (;;) {
        while (at < text_.size() && !quote.stops[static_cast<unsigned char>(text_[at])]) ++at;
        if (at >= text_.size()) return nowhere;
        if (starts(at, quote.escape)) {
            at += quote.escape.size() + 1;
            continue;
        }
        if (starts(at, quote.close)) return at;
        if (text_[at] == '\n' && !quote.lines) return at;
        bool code = false;
        for (const auto& one : quote.code)
            if (!code && !no_code_ && starts(at, one.open)) {
                at = end_of_code(at + one.open.size(), one);
                code = true;
            }
        if (failed_) return nowhere;
        if (!code) ++at;
    }
}

std::size_t Lexer::end_of_code(std::size_t at, const Tables::Code& code) {
    if (depth_ >= deepest_code) return at;
    ++depth_;
    ++hidden_;
    const std::size_t before = at_, frames = frames_.size(), floor = command_floor_;
    const auto documents = documents_.size();
    frames_.push_back({code_block, false, code.block, code.close, 0, 0, 0, 0});
    at_ = command_floor_ = at;
    while (at_ < text_.size() && frames_.size() > frames && !failed_) step();
    const bool open = frames_.size() > frames;
    const std::size_t end = open ? text_.size() : at_;
    while (frames_.size() > frames) drop_frame();
    // Code that never closes: from now on quotes are taken as if there were no code in them.
    if (open) failed_ = no_code_ = true;
    if (open) documents_.resize(std::min(documents, documents_.size()));
    at_ = before;
    command_floor_ = floor;
    --hidden_;
    --depth_;
    return end;
}

bool Lexer::may_be_value(const Tables::Quote& quote) const {
    std::size_t back = at_;
    while (back > 0 && is_blank(out_.code[back - 1])) --back;
    if (back == 0) return true;
    const char last = out_.code[back - 1];
    if (back == at_ && last == text_[at_]) return false;  // `a // b`: the second mark of an operator
    if (is_word_at(back - 1)) {
        std::size_t begin = back;
        while (begin > 0 && is_word_at(begin - 1)) --begin;
        if (begin > 0 && std::strchr("$@%&>", out_.code[begin - 1]) != nullptr) return false;
        return std::find(quote.after.begin(), quote.after.end(), out_.code.substr(begin, back - begin)) !=
               quote.after.end();
    }
    return last != ')' && last != ']' && last != '}' && last != '"' && last != '\'' && last != '$';
}

/// `m,/,`: right behind the word, and as many in the line as the quote has marks.
bool Lexer::has_commas_as_marks(const Tables::WordQuote& quote, std::size_t at) const {
    const std::string_view line = text_.substr(at, std::min(text_.find('\n', at), text_.size()) - at);
    return line.size() > 1 && !is_space(line[1]) && std::count(line.begin(), line.end(), ',') > quote.parts;
}

bool Lexer::word_quote(const Tables::WordQuote& quote, std::size_t end) {
    if (unclosed_ > most_unclosed) return false;
    const char before = at_ == 0 ? '\n' : text_[at_ - 1];
    if (std::strchr("$@%&>{-", before) != nullptr && before != '\0' && !(before == '{' && !is_key(end))) return false;
    std::size_t at = end;
    while (at < text_.size() && is_space(text_[at])) ++at;
    if (at >= text_.size() || is_word_at(at)) return false;
    const char mark = text_[at];
    if (mark == ',' && !(at == end && has_commas_as_marks(quote, at))) return false;
    if (mark == ';' || mark == ')' || (mark == '#' && at > end) || text_.substr(at, 2) == "=>" ||
        (mark == '=' && at > end))
        return false;
    const std::size_t begin = at;
    for (std::int64_t part = 0; part < quote.parts; ++part) {
        const char open = text_[at];
        const char close = open == '(' ? ')' : open == '[' ? ']' : open == '{' ? '}' : open == '<' ? '>' : open;
        at = end_of_part(at + 1, open, close, quote.escape);
        if (at == nowhere) {
            ++unclosed_;
            return false;
        }
        if (part + 1 < quote.parts) {
            if (open == close) continue;  // the mark in the middle opens the next part too
            ++at;
            while (at < text_.size() && is_space(text_[at])) ++at;
            if (at >= text_.size()) return false;
        }
    }
    blank(begin + 1, at);
    at_ = at + 1;
    go_over_flags();
    return true;
}

std::size_t Lexer::end_of_part(std::size_t at, char open, char close, const std::string& escape) {
    constexpr std::size_t longest = std::size_t{1} << 20U;
    const std::size_t limit = std::min(text_.size(), at + longest);
    for (std::size_t depth = 1; at < limit; ++at) {
        if (starts(at, escape) && close != escape.front()) {
            at += escape.size();
        } else if (text_[at] == close) {
            if (--depth == 0) return at;
        } else if (text_[at] == open) {
            ++depth;
        }
    }
    return nowhere;
}

}  // namespace envar::members
