#include "core/members/documentation.hpp"

#include <algorithm>
#include <array>
#include <cctype>

#include "core/members/doc_sections.hpp"
#include "core/members/matching.hpp"
#include "core/text/sentence.hpp"

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

/// What is said of a parameter may stand behind a mark of its own: `name: text`, `name - text`.
std::string_view without_dash(std::string_view said) {
    if (said.starts_with(':')) said = trimmed(said.substr(1));
    if (said.starts_with('-') || said.starts_with(':')) said = trimmed(said.substr(1));
    return said;
}

constexpr std::size_t longest_summary = 400;

/// Text without an end is no summary: of a longer one what fits, up to the last blank.
std::string shortened(std::string summary) {
    if (summary.size() <= longest_summary) return summary;
    std::size_t end = summary.rfind(' ', longest_summary);
    if (end == std::string::npos || end == 0) {
        end = longest_summary;
        while (end > 0 && (static_cast<unsigned char>(summary[end]) & 0xC0U) == 0x80U) --end;
    }
    summary.resize(end);
    return summary + " …";
}

constexpr std::string_view tag_marks = "@\\:";

constexpr std::size_t farthest_line = std::size_t{16} << 10U;  // before a definition in its line

std::string_view taken(std::string_view& rest, std::size_t size) {
    size = std::min(size, rest.size());
    const std::string_view front = rest.substr(0, size);
    rest.remove_prefix(size);
    return front;
}

/// How much of the text's beginning a name can be.
std::size_t size_of_name(std::string_view text) {
    std::size_t size = 0;
    while (size < text.size() &&
           (std::isalnum(static_cast<unsigned char>(text[size])) != 0 || text[size] == '_' || text[size] == '.'))
        ++size;
    return size;
}

/// Takes the name, and what is written `type\_` where `type_` is meant.
void take_name(std::string_view& rest, DocumentedParameter& out) {
    out.name = taken(rest, size_of_name(rest));
    out.ends_low = rest.starts_with("\\_");
    if (out.ends_low) rest.remove_prefix(2);
}

/// `@param magnitude what it is`, `@tparam number magnitude what it is`, `@param {number} magnitude - what it is`,
/// `:param number magnitude: what it is`, and each with a backslash instead of the `@`.
bool read_usual(std::string_view line, DocumentedParameter& out) {
    if (line.empty() || tag_marks.find(line.front()) == std::string_view::npos) return false;
    const bool fields = line.front() == ':';
    std::string_view rest = line.substr(1);
    const bool typed = !fields && rest.starts_with('t');
    if (typed) rest.remove_prefix(1);
    if (!rest.starts_with("param")) return false;
    rest.remove_prefix(5);
    if (!fields && rest.starts_with('[')) rest.remove_prefix(std::min(rest.find(']'), rest.size() - 1) + 1);
    if (rest.empty() || !is_space(rest.front())) return false;
    rest = trimmed(rest);
    if (typed || fields) {
        std::string_view behind = rest;
        out.type = taken(behind, rest.find_first_of(fields ? " \t:" : " \t"));
        behind = trimmed(behind);
        take_name(behind, out);
        const bool ends = behind.empty() || behind.front() == ':' || is_space(behind.front());
        out.summary = behind;
        if (!out.name.empty() && ends) return true;
        out.type = {};
    }
    if (rest.starts_with('{') && rest.find('}') != std::string_view::npos) {
        out.type = taken(rest, rest.find('}') + 1);
        out.type = out.type.substr(1, out.type.size() - 2);
        rest = trimmed(rest);
    }
    take_name(rest, out);
    out.summary = rest;
    return !out.name.empty();
}

}  // namespace

void Documentation::describe(FoundMember& member) {
    member.top = find_above(member.extent.begin);
    if (card_.docstrings) member.documentation = string_behind(member.whole.end);
    if (!member.documentation.empty()) {
        find_lines(member.documentation);
    } else {
        // What belongs to the head may have the comment below it.
        if (lines_.empty() && member.extent.begin != member.whole.begin) find_above(member.whole.begin);
        if (lines_.empty()) return;
        member.documentation = joined();
    }
    read_lines(member);
}

namespace {

void go_on(std::string& text, std::string_view line) {
    if (!text.empty()) text += ' ';
    text += line;
}

}  // namespace

/// Reads the section whose heading is a line. Gives the line behind it: that line itself where it is no heading.
std::size_t Documentation::read_section(std::size_t heading, FoundMember& member) const {
    const DocSection section(lines_, heading);
    if (section.about() == DocSection::About::nothing) return heading;
    std::size_t indent = 0;             // of the parameters
    std::vector<FoundParameter*> said;  // of those at hand
    std::size_t at = heading + section.lines_of_heading(), end = at;
    for (bool any = false; at < lines_.size(); ++at) {
        const std::string_view line = trimmed(lines_[at]);
        if (line.empty()) continue;
        if (!section.holds(at)) break;
        if (section.about() == DocSection::About::returned) {
            go_on(member.returns, line);
        } else if (any && indent_of(lines_[at]) > indent) {
            for (FoundParameter* parameter : said) go_on(parameter->summary, line);
        } else {
            const auto told = section.parameters_in(lines_[at]);
            if (told.empty()) break;
            any = true;
            indent = indent_of(lines_[at]);
            said.clear();
            for (const DocumentedParameter& one : told)
                if (FoundParameter* parameter = note(one, member)) said.push_back(parameter);
        }
        end = at + 1;
    }
    return end;
}

void Documentation::read_lines(FoundMember& member) const {
    std::string summary;
    bool over = false;
    std::string* said = nullptr;  // by the line above, which may go on further in
    std::size_t indent = 0;       // of that line
    for (std::size_t at = 0; at < lines_.size(); ++at) {
        const std::string_view whole = lines_[at], line = trimmed(whole);
        if (said != nullptr && !line.empty() && indent_of(whole) > indent &&
            tag_marks.find(line.front()) == std::string_view::npos) {
            go_on(*said, line);
            continue;
        }
        said = nullptr;
        if (const std::size_t behind = read_section(at, member); behind != at) {
            over = over || !summary.empty();
            at = behind - 1;
            continue;
        }
        // A first line such as `name --` says only what is documented.
        if (summary.empty() && !over && line.starts_with(member.name) &&
            (line.substr(member.name.size()) == " --" || line.substr(member.name.size()) == ":"))
            continue;
        if (FoundParameter* parameter = nullptr; take_documented(line, member, parameter)) {
            over = true;
            said = parameter == nullptr ? nullptr : &parameter->summary;
            indent = indent_of(whole);
        } else if (take_returned(line, member)) {
            over = true;
            said = &member.returns;
            indent = indent_of(whole);
        } else if (line.empty() || line.front() == '@' || line.front() == '\\') {
            over = over || !summary.empty();
            if (line.empty() && !member.description.empty()) member.description += '\n';
        } else if (!over) {
            if (!summary.empty()) summary += ' ';
            summary += line;
            const std::size_t stop = text::end_of_sentence(summary);
            over = stop != std::string::npos ||
                   (summary.back() == '.' && !text::is_cut_short(summary, summary.size() - 1));
            if (stop == std::string::npos) continue;
            member.description = std::string(trimmed(summary.substr(stop + 2))) + "\n";
            summary.resize(stop + 1);
        } else {
            if (member.description.empty()) member.description.reserve(member.documentation.size());
            (member.description += whole) += '\n';
        }
    }
    while (!member.description.empty() && is_space(member.description.back())) member.description.pop_back();
    member.summary = shortened(std::move(summary));
}

void Documentation::find_lines(std::string_view text) {
    lines_.clear();
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        lines_.push_back(text.substr(at, end - at));
        at = end + 1;
    }
}

std::string Documentation::joined() const {
    std::size_t size = lines_.size() - 1;
    for (const std::string_view line : lines_) size += line.size();
    std::string out;
    out.reserve(size);
    for (const std::string_view& line : lines_) {
        if (&line != &lines_.front()) out += '\n';
        out += line;
    }
    return out;
}

/// A line on what is returned.
bool Documentation::take_returned(std::string_view line, FoundMember& member) {
    if (line.empty()) return false;
    std::string_view rest = line;
    if (line.front() == 'R') {
        taken(rest, line.starts_with("Return") ? 6 : line.starts_with("Result") ? 6 : line.size());
        if (rest.starts_with('s')) rest.remove_prefix(1);
        if (!rest.starts_with(':')) return false;
        rest.remove_prefix(1);
    } else if (tag_marks.find(line.front()) != std::string_view::npos) {
        rest.remove_prefix(1);
        if (rest.starts_with('t')) rest.remove_prefix(1);
        if (!rest.starts_with("return")) return false;
        rest.remove_prefix(6);
        if (rest.starts_with('s')) rest.remove_prefix(1);
        if (rest.starts_with(':')) rest.remove_prefix(1);
    }
    if (rest.size() == line.size() || rest.empty() || !is_space(rest.front())) return false;
    rest = trimmed(rest);
    if (rest.empty()) return false;
    if (!member.returns.empty()) member.returns += ' ';
    member.returns += rest;
    return true;
}

/// A line on a parameter.
bool Documentation::take_documented(std::string_view line, FoundMember& member, FoundParameter*& parameter) const {
    DocumentedParameter said;
    if (patterns_.doc_parameter) {
        Groups groups;
        if (line.empty() || !patterns_.doc_opening.admits(line) ||
            !groups.match(*patterns_.doc_parameter, line, re2::RE2::UNANCHORED))
            return false;
        const auto& of = patterns_.doc_groups;
        said = {groups[of.name], groups[of.type], groups[of.summary]};
    } else if (patterns_.parameter_groups.declared != 0 &&
               line.substr(std::min<std::size_t>(line.size(), 1)).starts_with("tparam")) {
        parameter = nullptr;  // where the code tells types, that is one of a template
        return true;
    } else if (!read_usual(line, said)) {
        return false;
    }
    parameter = note(said, member);
    return true;
}

/// Null where the member has no such parameter.
FoundParameter* Documentation::note(const DocumentedParameter& said, FoundMember& member) {
    std::string name(said.name);
    if (said.ends_low) name += '_';
    const auto found = std::find_if(member.parameters.begin(), member.parameters.end(),
                                    [&](const FoundParameter& p) { return p.name == name; });
    if (found == member.parameters.end()) {
        member.told.push_back(std::move(name));
        return nullptr;
    }
    found->summary = without_dash(trimmed(said.summary));
    if (found->type.empty()) found->type = trimmed(said.type);
    return &*found;
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
std::size_t Documentation::find_above(std::size_t begin) {
    lines_.clear();
    if (lexed_.comments.empty() || lexed_.comments.front().begin > begin) return begin;
    std::size_t line = begin;
    while (line > 0 && text_[line - 1] != '\n') {
        if (begin - line > farthest_line) return begin;
        --line;
    }
    auto next = std::lower_bound(lexed_.comments.begin(), lexed_.comments.end(), line,
                                 [](const text::Span& span, std::size_t at) { return span.begin < at; });
    const auto below = next;
    std::size_t top = line, top_of_it = begin;
    while (next != lexed_.comments.begin()) {
        const text::Span span = *(next - 1);
        if (span.end > top || !is_right_above(span.end, top)) break;
        std::size_t start = span.begin;
        while (start > 0 && (text_[start - 1] == ' ' || text_[start - 1] == '\t')) --start;
        if (start > 0 && text_[start - 1] != '\n') break;  // it stands behind code
        --next;
        top = start;
        top_of_it = span.begin;
    }
    for (; next != below; ++next) add_without_marks(text_.substr(next->begin, next->end - next->begin));
    const auto says_nothing = [](std::string_view one) { return trimmed(one).empty(); };
    while (!lines_.empty() && says_nothing(lines_.back())) lines_.pop_back();
    lines_.erase(lines_.begin(), std::find_if_not(lines_.begin(), lines_.end(), says_nothing));
    if (!lines_.empty()) lines_.front().remove_prefix(lines_.front().find_first_not_of(" \t\r\f"));
    return top_of_it;
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

std::string_view Documentation::without_long_marks(std::string_view comment) const {
    for (const auto& form : patterns_.grammar.tables().long_forms) {
        if (!form.comment || !comment.starts_with(form.open)) continue;
        std::string close = form.close;
        std::size_t open = form.open.size();
        if (form.pattern) {
            // The mark is a pattern, and what closes has its group.
            std::array<re2::StringPiece, 2> found;
            if (!form.opening.admits(comment) ||
                !form.pattern->Match(piece(comment), 0, comment.size(), re2::RE2::ANCHOR_START, found.data(), 2))
                continue;
            close.replace(close.find("\\1"), 2, found[1].data(), found[1].size());
            open = found[0].size();
        }
        comment.remove_prefix(open);
        if (comment.ends_with(close)) comment.remove_suffix(close.size());
        return comment;
    }
    return comment;
}

namespace {

/// How far in the lines below the first one of a long comment stand; npos: they begin with marks of their own, or
/// there are none.
std::size_t margin_of(std::string_view comment) {
    std::size_t margin = std::string_view::npos;
    for (std::size_t at = comment.find('\n'); at != std::string_view::npos; at = comment.find('\n', at)) {
        ++at;
        const std::string_view line = comment.substr(at, comment.find('\n', at) - at);
        const std::size_t indent = indent_of(line);
        if (trimmed(line).empty()) continue;
        if (line[indent] == '*') return std::string_view::npos;
        margin = std::min(margin, indent);
    }
    return margin;
}

/// A line of a comment without its mark and the column that it stands at.
std::string_view without_mark(std::string_view whole, const std::string& mark, std::size_t margin) {
    std::string_view line = trimmed(whole);
    if (!mark.empty() && line.starts_with(mark)) {
        line.remove_prefix(mark.size());
        while (!line.empty() && (line.front() == mark.back() || line.front() == '!' || line.front() == '<'))
            line.remove_prefix(1);
    } else if (line.starts_with('*')) {
        line.remove_prefix(1);
    } else if (margin != std::string_view::npos && !line.empty()) {
        return {whole.data() + std::min(margin, indent_of(whole)), line.data() + line.size()};
    }
    if (line.starts_with(' ')) line.remove_prefix(1);
    return line;
}

}  // namespace

void Documentation::add_without_marks(std::string_view comment) {
    const std::string_view inner = without_long_marks(comment);
    const std::size_t before = lines_.size(), margin = margin_of(inner);
    for (std::size_t at = 0; at <= inner.size();) {
        const std::size_t end = std::min(inner.find('\n', at), inner.size());
        const std::string_view line = without_mark(inner.substr(at, end - at), patterns_.grammar.tables().comment,
                                                   at == 0 ? std::string_view::npos : margin);
        at = end + 1;
        // A long comment mostly begins behind the line of its mark.
        if (lines_.size() == before + 1 && lines_.back().empty()) lines_.pop_back();
        lines_.push_back(line);
    }
}

}  // namespace envar::members
