#include "core/members/documentation.hpp"

#include <algorithm>
#include <array>

#include "core/members/matching.hpp"

namespace envar::members {
namespace {

/// Of a text over several lines, the blanks that all lines but the first begin with are taken off.
std::string without_margin(std::string_view text) {
    std::size_t margin = std::string_view::npos;
    const auto each_line = [&](const auto& take) {
        for (std::size_t at = 0; at <= text.size();) {
            const std::size_t end = std::min(text.find('\n', at), text.size());
            take(at == 0, text.substr(at, end - at));
            at = end + 1;
        }
    };
    each_line([&](bool first, std::string_view line) {
        const std::size_t begin = line.find_first_not_of(" \t");
        if (!first && begin != std::string_view::npos) margin = std::min(margin, begin);
    });
    std::string out;
    each_line([&](bool first, std::string_view line) {
        if (!first) {
            out += '\n';
            line.remove_prefix(std::min(margin, line.size()));
        }
        out += line;
    });
    return out;
}

constexpr std::size_t farthest_line = std::size_t{16} << 10U;  // before a definition in its line

}  // namespace

void Documentation::describe(FoundMember& member) const {
    member.top = member.extent.begin;
    std::string above = comment_above(member.extent.begin, member.top);
    if (card_.docstrings) member.documentation = string_behind(member.whole.end);
    if (member.documentation.empty()) member.documentation = std::move(above);
    // What belongs to the head may have the comment below it.
    if (std::size_t unused = 0; member.documentation.empty() && member.extent.begin != member.whole.begin)
        member.documentation = comment_above(member.whole.begin, unused);
    if (member.documentation.empty()) return;
    std::string_view rest = member.documentation;
    std::string summary;
    bool over = false;
    for (std::size_t at = 0; at <= rest.size();) {
        const std::size_t end = std::min(rest.find('\n', at), rest.size());
        const std::string_view whole = rest.substr(at, end - at);
        const std::string_view line = trimmed(whole);
        at = end + 1;
        // A first line such as `name --` says only what is documented.
        if (summary.empty() && !over && (line == member.name + " --" || line == member.name + ":")) continue;
        if (take_documented(line, member)) {
            over = true;
        } else if (take_returned(line, member)) {
            over = true;
        } else if (line.empty() || line.front() == '@' || line.front() == '\\') {
            over = over || !summary.empty();
            if (line.empty() && !member.description.empty()) member.description += '\n';
        } else if (!over) {
            summary += (summary.empty() ? "" : " ") + std::string(line);
            const std::size_t stop = summary.find(". ");
            over = stop != std::string::npos || summary.back() == '.';
            if (stop == std::string::npos) continue;
            member.description = summary.substr(stop + 2) + "\n";
            summary.resize(stop + 1);
        } else {
            member.description += std::string(whole) + "\n";
        }
    }
    while (!member.description.empty() && is_space(member.description.back())) member.description.pop_back();
    member.summary = std::move(summary);
}

/// A line on what is returned.
bool Documentation::take_returned(std::string_view line, FoundMember& member) {
    static const re2::RE2 returned(R"(^(?:[@\\:]t?returns?:?|Returns?:|Results?:)\s+(.+)$)");
    if (line.empty() || std::string_view("@\\:R").find(line.front()) == std::string_view::npos) return false;
    std::string said;
    if (!re2::RE2::FullMatch(piece(line), returned, &said)) return false;
    member.returns += (member.returns.empty() ? "" : " ") + said;
    return true;
}

/// A line on a parameter.
bool Documentation::take_documented(std::string_view line, FoundMember& member) const {
    Groups groups;
    const auto first = static_cast<unsigned char>(line.empty() ? 0 : line.front());
    if (line.empty() || first < patterns_.doc_least || first > patterns_.doc_most) return false;
    const re2::RE2* pattern = patterns_.doc_parameter.get();
    if (patterns_.typed_doc_parameter && groups.match(*patterns_.typed_doc_parameter, line, re2::RE2::UNANCHORED)) {
        pattern = patterns_.typed_doc_parameter.get();
    } else if (pattern == nullptr || !groups.match(*pattern, line, re2::RE2::UNANCHORED)) {
        return false;
    }
    const std::string name(groups[group(*pattern, "name")]);
    const auto found = std::find_if(member.parameters.begin(), member.parameters.end(),
                                    [&](const FoundParameter& p) { return p.name == name; });
    if (found == member.parameters.end()) {
        member.told.push_back(name);
        return true;
    }
    found->summary = trimmed(groups[group(*pattern, "summary")]);
    if (found->type.empty()) found->type = trimmed(groups[group(*pattern, "type")]);
    return true;
}

/// Whether nothing but blanks and one line end stand in between.
bool Documentation::is_right_above(std::size_t from, std::size_t to) const {
    std::size_t lines = 0;
    for (; from < to; ++from) {
        if (!is_space(text_[from])) return false;
        if (text_[from] == '\n' && ++lines > 1) return false;
    }
    return true;
}

/// The comments right above, without an empty line in between.
std::string Documentation::comment_above(std::size_t begin, std::size_t& top_of_it) const {
    if (lexed_.comments.empty() || lexed_.comments.front().begin > begin) return {};
    std::size_t line = begin;
    while (line > 0 && text_[line - 1] != '\n') {
        if (begin - line > farthest_line) return {};
        --line;
    }
    auto next = std::lower_bound(lexed_.comments.begin(), lexed_.comments.end(), line,
                                 [](const text::Span& span, std::size_t at) { return span.begin < at; });
    std::string documentation;
    std::size_t top = line;
    while (next != lexed_.comments.begin()) {
        const text::Span span = *--next;
        if (span.end > top || !is_right_above(span.end, top)) break;
        std::size_t start = span.begin;
        while (start > 0 && (text_[start - 1] == ' ' || text_[start - 1] == '\t')) --start;
        if (start > 0 && text_[start - 1] != '\n') break;  // it stands behind code
        std::string own = without_marks(text_.substr(span.begin, span.end - span.begin), card_);
        documentation = documentation.empty() ? std::move(own) : own + "\n" + documentation;
        top = start;
        top_of_it = span.begin;
    }
    return std::string(trimmed(documentation));
}

/// A string that is the first thing behind a definition's head.
std::string Documentation::string_behind(std::size_t end) const {
    std::size_t at = end;
    // The rest of the head goes up to the end of its line, where code is.
    while (at < lexed_.code.size() && (is_space(lexed_.code[at]) || lexed_.code[at] == ')' || lexed_.code[at] == ':'))
        ++at;
    if (at >= text_.size()) return {};
    if (text_[at] == '-') {  // an annotation of what is returned
        at = lexed_.code.find(":\n", at);
        if (at == std::string_view::npos) return {};
        while (at < lexed_.code.size() && (is_space(lexed_.code[at]) || lexed_.code[at] == ':')) ++at;
    }
    std::string_view rest = text_.substr(at);
    while (!rest.empty() && std::string_view("rRuUbB").find(rest.front()) != std::string_view::npos)
        rest.remove_prefix(1);
    for (const std::string_view mark : {"\"\"\"", "'''", "\"", "'"}) {
        if (!rest.starts_with(mark)) continue;
        std::size_t close = mark.size();
        while (close < rest.size() && rest.substr(close, mark.size()) != mark) close += rest[close] == '\\' ? 2 : 1;
        if (close >= rest.size()) return {};
        return without_margin(trimmed(rest.substr(mark.size(), close - mark.size())));
    }
    return {};
}

std::string without_marks(std::string_view comment, const model::Card& card) {
    std::string_view inner = comment;
    std::string_view open, close;
    for (const auto& marks : card.long_comments) {
        const std::string_view first = std::string_view(marks.first).substr(marks.first.starts_with('\n') ? 1 : 0);
        if (marks.second.find("\\1") != std::string::npos) {
            // The mark is a pattern, and what closes has its group.
            const auto pattern = compile_pattern(std::string(first));
            std::array<re2::StringPiece, 2> found;
            if (!pattern || pattern->NumberOfCapturingGroups() < 1 ||
                !pattern->Match(piece(inner), 0, inner.size(), re2::RE2::ANCHOR_START, found.data(), 2))
                continue;
            std::string end = marks.second;
            end.replace(end.find("\\1"), 2, found[1].data(), found[1].size());
            inner.remove_prefix(found[0].size());
            if (inner.ends_with(end)) inner.remove_suffix(end.size());
            break;
        }
        if (!inner.starts_with(first)) continue;
        inner.remove_prefix(first.size());
        if (inner.ends_with(marks.second)) inner.remove_suffix(marks.second.size());
        break;
    }
    std::string out;
    const std::string& mark = card.comment_begins.empty() ? card.language.comment : card.comment_begins;
    for (std::size_t at = 0; at <= inner.size();) {
        const std::size_t end = std::min(inner.find('\n', at), inner.size());
        std::string_view line = inner.substr(at, end - at);
        at = end + 1;
        const std::string_view without = trimmed(line);
        if (!mark.empty() && without.starts_with(mark)) {
            line = without.substr(mark.size());
            while (!line.empty() && (line.front() == mark.back() || line.front() == '!' || line.front() == '<'))
                line.remove_prefix(1);
        } else if (without.starts_with('*')) {
            line = without.substr(1);
        } else {
            line = without;
        }
        if (line.starts_with(' ')) line.remove_prefix(1);
        while (!line.empty() && is_space(line.back())) line.remove_suffix(1);
        out += (out.empty() ? "" : "\n") + std::string(line);
    }
    return out;
}

}  // namespace envar::members
