#include "cli/terminal.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <map>
#include <memory>

#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

std::string_view escape_of(Style style) {
    switch (style) {
        case Style::plain:
            return "";
        case Style::strong:
            return "\x1b[1m";
        case Style::quiet:
            return "\x1b[90m";
        case Style::good:
            return "\x1b[32m";
        case Style::warning:
            return "\x1b[33m";
        case Style::bad:
            return "\x1b[1;31m";
        case Style::accent:
            return "\x1b[36m";
    }
    return "";
}

std::string coloured(std::string_view text, Style style, bool color) {
    if (!color || style == Style::plain || text.empty()) return std::string(text);
    return fmt::format("{}{}\x1b[0m", escape_of(style), text);
}

void put(std::FILE* stream, std::string_view text) { std::fwrite(text.data(), 1, text.size(), stream); }

std::string padded(std::string_view text, std::size_t width) {
    const std::size_t length = text::count_code_points(text);
    return std::string(text) + std::string(width > length ? width - length : 0, ' ');
}

Style severity_style(text::Severity severity) {
    switch (severity) {
        case text::Severity::error:
            return Style::bad;
        case text::Severity::warning:
            return Style::warning;
        case text::Severity::hint:
            return Style::accent;
    }
    return Style::plain;
}

/// The part of a long line around the underlined place.
struct Excerpt {
    std::string text;
    std::size_t column;  // of the underlined place in `text`, from 1
};

Excerpt cut_excerpt(const text::Finding& finding) {
    constexpr std::size_t widest = 100;
    const std::string& line = finding.excerpt;
    if (text::count_code_points(line) <= widest) return {line, finding.position.column};
    const text::Source one_line("", line);
    const std::size_t first = finding.position.column > 40 ? finding.position.column - 40 : 1;
    const std::size_t begin = one_line.offset({1, first});
    const std::size_t end = one_line.offset({1, first + widest});
    const std::string lead = first > 1 ? "..." : "";
    return {lead + line.substr(begin, end - begin) + (end < line.size() ? "..." : ""),
            finding.position.column - first + 1 + lead.size()};
}

/// Blanks up to the underlined place; tabs stay tabs, so that both lines run alike.
std::string caret_indent(const Excerpt& excerpt) {
    std::string out;
    for (const char c : excerpt.text) {
        if (text::count_code_points(out) + 1 >= excerpt.column) break;
        if ((static_cast<unsigned char>(c) & 0xC0U) != 0x80U) out += c == '\t' ? '\t' : ' ';
    }
    return out;
}

struct Branch {
    std::map<std::string, std::unique_ptr<Branch>> inner;
    std::string note;
};

struct TreeLine {
    std::string head;
    std::string note;
};

void tree_lines(const Branch& branch, const std::string& indent, std::vector<TreeLine>& lines) {
    std::size_t left = branch.inner.size();
    for (const auto& [name, inner] : branch.inner) {
        const bool last = --left == 0;
        const std::string_view branch_mark = last ? "└── " : "├── ";
        lines.push_back(
            {fmt::format("{}{}{}{}", indent, branch_mark, name, inner->inner.empty() ? "" : "/"), inner->note});
        tree_lines(*inner, indent + (last ? "    " : "│   "), lines);
    }
}

}  // namespace

void Terminal::line(std::string_view text) {
    put(stdout, text);
    put(stdout, "\n");
}

void Terminal::raw(std::string_view text) { put(stdout, text); }

void Terminal::remark(std::string_view text) {
    if (!settings_.quiet) line(text);
}

void Terminal::detail(std::string_view text) {
    if (!settings_.verbose) return;
    put(stderr, coloured(text, Style::quiet, settings_.color_errors));
    put(stderr, "\n");
}

void Terminal::progress(std::string_view text) const {
    if (settings_.quiet || isatty(STDERR_FILENO) == 0) return;
    fmt::print(stderr, "\r\x1b[K{}", text);
    std::fflush(stderr);
}

void Terminal::failure(const text::Failure& failure) {
    std::fflush(stdout);
    put(stderr,
        fmt::format("envar: {} {}\n", coloured("error:", Style::bad, settings_.color_errors), failure.message));
    if (!failure.hint.empty())
        put(stderr, fmt::format("  {} {}\n", coloured("hint:", Style::accent, settings_.color_errors), failure.hint));
}

void Terminal::warn(std::string_view text) {
    std::fflush(stdout);
    put(stderr, fmt::format("envar: {} {}\n", coloured("warning:", Style::warning, settings_.color_errors), text));
}

void Terminal::table(const Table& table) {
    std::vector<std::size_t> widths;
    for (const auto& cell : table.head) widths.push_back(text::count_code_points(cell));
    for (const auto& row : table.rows)
        for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], text::count_code_points(row[i]));
    const auto joined = [&](const std::vector<std::string>& row) {
        std::string out;
        for (std::size_t i = 0; i < row.size(); ++i)
            out += i + 1 < row.size() ? padded(row[i], widths[i]) + "  " : row[i];
        while (!out.empty() && out.back() == ' ') out.pop_back();
        return out;
    };
    line(styled(joined(table.head), Style::strong));
    for (const auto& row : table.rows) line(joined(row));
}

void Terminal::tree(std::string_view top, const std::vector<TreeItem>& items) {
    Branch root;
    for (const auto& item : items) {
        Branch* at = &root;
        for (std::size_t begin = 0; begin <= item.path.size();) {
            const std::size_t end = std::min(item.path.find('/', begin), item.path.size());
            auto& next = at->inner[text::printable(item.path.substr(begin, end - begin))];
            if (!next) next = std::make_unique<Branch>();
            at = next.get();
            begin = end + 1;
        }
        at->note = item.note;
    }
    std::vector<TreeLine> lines;
    tree_lines(root, "", lines);
    std::size_t width = 0;
    for (const auto& one : lines) width = std::max(width, text::count_code_points(one.head));
    line(styled(top, Style::strong));
    for (const auto& one : lines)
        line(one.note.empty() ? one.head : padded(one.head, width + 2) + styled(one.note, Style::quiet));
}

void Terminal::findings(const std::vector<text::Finding>& findings) {
    for (std::size_t i = 0; i < findings.size(); ++i) {
        if (i > 0) line();
        finding(findings[i]);
    }
}

void Terminal::finding(const text::Finding& finding) {
    std::string place = text::printable(finding.file);
    if (!place.empty() && finding.width > 0)
        place += fmt::format(":{}:{}", finding.position.line, finding.position.column);
    line(fmt::format(
        "{}{} {} {}", place.empty() ? "" : styled(place + ":", Style::strong) + " ",
        styled(fmt::format("{}:", text::severity_name(finding.severity)), severity_style(finding.severity)),
        text::printable(finding.message), styled("[" + finding.code + "]", Style::quiet)));
    if (finding.width > 0) {
        const Excerpt excerpt = cut_excerpt(finding);
        const std::string number = std::to_string(finding.position.line);
        const std::string gutter(number.size(), ' ');
        const std::size_t room = text::count_code_points(excerpt.text) + 1 -
                                 std::min(text::count_code_points(excerpt.text), excerpt.column - 1);
        std::string shown;
        for (const char c : excerpt.text) shown += static_cast<unsigned char>(c) < 0x20 && c != '\t' ? '?' : c;
        if (text::first_invalid_utf8(shown)) shown = text::printable(shown);
        line(fmt::format("  {} {}", styled(number + " |", Style::quiet), shown));
        line(fmt::format("  {} {}{}", styled(gutter + " |", Style::quiet), caret_indent(excerpt),
                         styled(std::string(std::max<std::size_t>(1, std::min(finding.width, room)), '^'),
                                severity_style(finding.severity))));
    }
    if (!finding.hint.empty())
        line(fmt::format("  {} {}", styled("hint:", Style::accent), text::printable(finding.hint)));
}

void Terminal::diff(std::string_view unified) {
    while (!unified.empty()) {
        const std::size_t end = std::min(unified.find('\n'), unified.size());
        const std::string_view one = unified.substr(0, end);
        Style style = Style::plain;
        if (one.substr(0, 3) == "+++" || one.substr(0, 3) == "---") {
            style = Style::strong;
        } else if (one.substr(0, 1) == "+") {
            style = Style::good;
        } else if (one.substr(0, 1) == "-") {
            style = Style::bad;
        } else if (one.substr(0, 2) == "@@") {
            style = Style::accent;
        }
        line(styled(one, style));
        unified.remove_prefix(std::min(end + 1, unified.size()));
    }
}

std::string Terminal::styled(std::string_view text, Style style) const {
    return coloured(text, style, settings_.color_out);
}

bool Terminal::flush() { return std::fflush(stdout) == 0 && std::ferror(stdout) == 0; }

std::string csv(const Table& table) {
    std::string out;
    const auto add = [&](const std::vector<std::string>& row) {
        for (std::size_t i = 0; i < row.size(); ++i) {
            if (i > 0) out += ',';
            if (row[i].find_first_of(",\"\n\r") == std::string::npos) {
                out += row[i];
                continue;
            }
            out += '"';
            for (const char c : row[i]) out += c == '"' ? std::string("\"\"") : std::string(1, c);
            out += '"';
        }
        out += '\n';
    };
    add(table.head);
    for (const auto& row : table.rows) add(row);
    return out;
}

std::string counted(std::size_t count, std::string_view one, std::string_view many) {
    if (count == 1) return fmt::format("1 {}", one);
    return many.empty() ? fmt::format("{} {}s", count, one) : fmt::format("{} {}", count, many);
}

}  // namespace envar::cli
