#include "core/members/extents.hpp"

#include <algorithm>

#include "core/members/matching.hpp"

namespace envar::members {
namespace {

/// Its size without blanks and `;` at its end. Comments are blanks in the code, and may be long.
std::size_t last_of_code(std::string_view code) {
    constexpr std::size_t many = 16;
    while (code.size() >= many) {
        unsigned others = 0;
        for (std::size_t i = code.size() - many; i < code.size(); ++i)
            others |= static_cast<unsigned>(code[i] != ' ') & static_cast<unsigned>(code[i] != '\n');
        if (others != 0) break;
        code.remove_suffix(many);
    }
    while (!code.empty() && (is_space(code.back()) || code.back() == ';')) code.remove_suffix(1);
    return code.size();
}

std::size_t trimmed_end(std::string_view text) {
    while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
    return text.size();
}

}  // namespace

/// Whether the second piece of code goes on with the first one: another branch, or what a condition is for.
bool Extents::belong_together(text::Span first, text::Span second) const {
    const auto code = [this](text::Span span) { return code_.substr(span.begin, span.end - span.begin); };
    const std::string_view between = code_.substr(first.end, second.begin - first.end);
    if (between.find_first_not_of("; \t\r\n") != std::string_view::npos) return false;
    return patterns_.goes_on(code(second)) ||
           (between.find(';') == std::string_view::npos && patterns_.leads_on(code(first)));
}

std::size_t Extents::end_of(std::size_t index, std::size_t head) const {
    std::size_t next = next_of(index);
    while (begin_of(next) < head) next = next_of(next);
    const std::size_t begin = begin_of(next);
    if (begin < code_.size() && (code_[begin] == '{' || code_[begin] == '(') && head > begin_of(index) &&
        trimmed(code_.substr(head, begin - head)).empty())
        next = next_of(next);
    std::size_t end = begin_of(next);
    end = head + last_of_code(code_.substr(head, end - head));
    const std::size_t line = std::min(code_.find('\n', end), code_.size());
    end += redirected(code_.substr(end, line - end));
    return trimmed(code_.substr(end, line - end)).empty() ? end + trimmed_end(text_.substr(end, line - end)) : end;
}

/// In shells what a body reads and writes may stand behind it.
std::size_t Extents::redirected(std::string_view rest) const {
    if (card_.command_after.empty()) return 0;
    const std::size_t mark = rest.find_first_not_of(" \t&0123456789");
    if (mark == std::string_view::npos || (rest[mark] != '<' && rest[mark] != '>')) return 0;
    return trimmed_end(rest.substr(0, rest.find(';')));
}

std::size_t Extents::behind_documents(std::size_t end, std::size_t limit) const {
    const auto& documents = lexed_.documents;
    const auto behind = std::lower_bound(documents.begin(), documents.end(), limit,
                                         [](const text::Span& one, std::size_t at) { return one.begin < at; });
    return behind == documents.begin() ? end : std::max(end, std::prev(behind)->end);
}

std::size_t Extents::head_of(std::size_t index) const {
    while (patterns_.attached && index > 0) {
        const std::string_view above = code_.substr(begin_of(index - 1), begin_of(index) - begin_of(index - 1));
        if (!re2::RE2::PartialMatch(piece(above), *patterns_.attached)) break;
        --index;
    }
    return begin_of(index);
}

std::vector<Everything::Other> Extents::others(const std::vector<FoundMember>& defined) const {
    std::vector<Everything::Other> out;
    auto next = defined.begin();
    std::size_t before = 0, latest = 0;  // where the two latest pieces of the last one begin
    for (std::size_t i = 0, after = 0; i < lexed_.statements.size(); i = after) {
        for (after = i + 1; after < lexed_.statements.size() && lexed_.statements[after].nested;) ++after;
        const std::size_t begin = begin_of(i);
        while (next != defined.end() && (next->extent.end <= begin || next->nested)) ++next;
        if (next != defined.end() && next->extent.begin <= begin) continue;
        const std::size_t end =
            behind_documents(begin + trimmed_end(code_.substr(begin, begin_of(after) - begin)), begin_of(after));
        if (code_.substr(begin, end - begin).find_first_not_of("; \t\r\n") == std::string_view::npos) {
            // What ends a statement behind a block of its own.
            const bool ends = end > begin && !out.empty() && code_[begin] == ';' &&
                              trimmed(code_.substr(out.back().span.end, begin - out.back().span.end)).empty();
            if (ends) out.back().span.end = begin + 1;
            continue;
        }
        const bool goes_on = !out.empty() && belong_together({before, out.back().span.end}, {begin, end});
        before = goes_on ? latest : begin;
        latest = begin;
        Everything::Other& other = goes_on ? out.back() : out.emplace_back();
        other.span = {goes_on ? other.span.begin : begin, end};
        for (std::size_t inner = i; inner < after; ++inner)  // one that is nothing but blanks lies behind its end
            if (begin_of(inner) < end) other.begins.push_back(begin_of(inner));
    }
    return out;
}

}  // namespace envar::members
