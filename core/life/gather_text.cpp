#include "core/life/gather_text.hpp"

#include <algorithm>
#include <cctype>
#include <string_view>

namespace envar::life {
namespace {

constexpr std::size_t farthest_bracket = 120;  // that opens code in a string
constexpr std::size_t longest_path = 200;

bool is_word(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

/// Whether a word in quotes names something.
bool names(const std::string& text, std::size_t begin, std::size_t end) {
    constexpr std::string_view before_names = "$@%&{!#*:", behind_names = "=[", quotes = "\"'`";
    const char before = begin == 0 ? ' ' : text[begin - 1], behind = end == text.size() ? ' ' : text[end];
    if (before_names.find(before) != std::string_view::npos || behind_names.find(behind) != std::string_view::npos ||
        text.compare(end, 2, "+=") == 0)
        return true;
    if (quotes.find(before) != std::string_view::npos && quotes.find(behind) != std::string_view::npos) return true;
    const std::string_view line =
        std::string_view(text).substr(begin - std::min(begin, farthest_bracket), std::min(begin, farthest_bracket));
    const std::size_t opened = line.find_last_of("{}\n");
    return opened != std::string_view::npos && line[opened] == '{';
}

/// Whether it stands in brackets of shells for numbers: `((--count))`.
bool is_reckoned(const std::string& text, std::size_t at) {
    const std::size_t few = std::min(at, longest_path);
    const std::string_view before = std::string_view(text).substr(at - few, few);
    const std::size_t opened = before.rfind("((");
    return opened != std::string_view::npos && before.find_first_of(")\n", opened) == std::string_view::npos;
}

/// Whether a word is part of a path from the root, or of an option: `/sys/dev`, `--dry-run`.
bool is_of_path_or_option(const std::string& text, std::size_t begin, std::size_t end) {
    const auto goes_on = [](char c) { return is_word(c) || c == '/' || c == '.' || c == '-'; };
    std::size_t first = begin;
    while (first > 0 && begin - first < longest_path && goes_on(text[first - 1])) --first;
    if (first == begin) return false;
    const char before = first == 0 ? ' ' : text[first - 1];
    if (before == '$' || before == '}' || before == ')') return false;  // it goes on with a value
    const std::string_view way = std::string_view(text).substr(first, begin - first);
    if (way.starts_with("--")) return way.find('/') == std::string_view::npos && !is_reckoned(text, first);
    return way.starts_with('/') && (way.rfind('/') > 0 || (end < text.size() && text[end] == '/'));
}

}  // namespace

std::string with_code_in_quotes(const std::string& text, const members::Lexed& lexed, const model::Card& card) {
    std::string code = lexed.code;
    auto comment = lexed.comments.begin();
    for (std::size_t at = 0; at < text.size(); ++at) {
        while (comment != lexed.comments.end() && comment->end <= at) ++comment;
        if (code[at] == text[at] || (comment != lexed.comments.end() && comment->begin <= at)) continue;
        for (const auto& quote : card.quotes)
            for (const auto& [open, close] : quote.code) {
                if (text.compare(at, open.size(), open) != 0) continue;
                const std::size_t end = text.find(close, at + open.size());
                if (end == std::string::npos) continue;
                code.replace(at, end - at, text, at, end - at);
            }
    }
    return code;
}

std::string without_prose(const std::string& text, const std::string& code, const members::Lexed& lexed,
                          text::Span piece) {
    std::string out = text.substr(piece.begin, piece.end - piece.begin);
    auto comment = std::lower_bound(lexed.comments.begin(), lexed.comments.end(), piece.begin,
                                    [](const text::Span& one, std::size_t at) { return one.end <= at; });
    for (std::size_t at = piece.begin; at < piece.end;) {
        std::size_t end = at + 1;
        if (is_word(text[at])) {
            while (end < piece.end && is_word(text[end])) ++end;
            while (comment != lexed.comments.end() && comment->end <= at) ++comment;
            const bool commented = comment != lexed.comments.end() && comment->begin <= at;
            if ((code[at] != text[at] && (commented || !names(text, at, end))) || is_of_path_or_option(text, at, end))
                out.replace(at - piece.begin, end - at, end - at, ' ');
        }
        at = end;
    }
    return out;
}

}  // namespace envar::life
