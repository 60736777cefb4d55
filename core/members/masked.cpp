#include "core/members/masked.hpp"

#include <algorithm>
#include <array>

namespace envar::members {
namespace {

bool starts(std::string_view text, std::size_t at, std::string_view with) {
    return !with.empty() && text.substr(at, with.size()) == with;
}

class Masker {
  public:
    Masker(std::string_view text, const model::Card& card) : text_(text), card_(card), out_(text) {}

    std::string run() {
        while (at_ < text_.size()) {
            if (!long_form(card_.long_comments, false) && !line_comment() && !long_form(card_.long_strings, true) &&
                !quoted())
                ++at_;
        }
        return std::move(out_);
    }

  private:
    void blank(std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end && i < out_.size(); ++i)
            if (out_[i] != '\n' && out_[i] != '\r') out_[i] = ' ';
    }

    bool long_form(const std::vector<std::pair<std::string, std::string>>& forms, bool keep_marks) {
        for (const auto& [open, close] : forms) {
            if (!starts(text_, at_, open)) continue;
            const std::size_t found = text_.find(close, at_ + open.size());
            const std::size_t inner_end = found == std::string_view::npos ? text_.size() : found;
            const std::size_t end = std::min(inner_end + close.size(), text_.size());
            if (keep_marks) {
                blank(at_ + open.size(), inner_end);
            } else {
                blank(at_, end);
            }
            at_ = end;
            return true;
        }
        return false;
    }

    bool line_comment() {
        if (!starts(text_, at_, card_.language.comment)) return false;
        // A mark of one character counts only where a word begins: `${#list}` and `a#b` hold no comment.
        if (card_.language.comment.size() == 1 && at_ > 0 &&
            std::string_view(" \t\n;()").find(text_[at_ - 1]) == std::string_view::npos)
            return false;
        const std::size_t end = std::min(text_.find('\n', at_), text_.size());
        blank(at_, end);
        at_ = end;
        return true;
    }

    bool quoted() {
        const char quote = text_[at_];
        if (quote == '\\') {
            at_ += 2;
            return true;
        }
        if (quote != '"' && quote != '\'') return false;
        // In most shells nothing is special between single quotes; elsewhere a backslash is.
        const auto& escapes_of = card_.language.escapes;
        const bool raw_singles =
            !card_.language.string_marks.empty() && card_.language.string_marks.front() == "'" &&
            std::none_of(escapes_of.begin(), escapes_of.end(), [](const auto& pair) { return pair.first == "\\"; });
        const bool escapes = quote == '"' || !raw_singles;
        std::size_t end = at_ + 1;
        while (end < text_.size() && text_[end] != quote) end += escapes && text_[end] == '\\' ? 2 : 1;
        end = std::min(end, text_.size());
        blank(at_ + 1, end);
        at_ = end + 1;
        return true;
    }

    std::string_view text_;
    const model::Card& card_;
    std::string out_;
    std::size_t at_ = 0;
};

}  // namespace

std::string masked(std::string_view text, const model::Card& card) { return Masker(text, card).run(); }

}  // namespace envar::members
