#include "core/model/edit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "core/model/toml_layout.hpp"

namespace envar::model {
namespace {

using text::fail;
using text::FailureKind;
using text::Span;

std::vector<std::string> header_path(std::string_view name) {
    std::vector<std::string> parts;
    for (std::size_t at = 0; at <= name.size();) {
        const std::size_t end = std::min(name.find('.', at), name.size());
        parts.emplace_back(name.substr(at, end - at));
        at = end + 1;
    }
    return parts;
}

bool is_header(const Statement& s) { return s.kind == StatementKind::table || s.kind == StatementKind::table_array; }

bool is_below(const std::vector<std::string>& path, const std::vector<std::string>& parent) {
    return path.size() > parent.size() && std::equal(parent.begin(), parent.end(), path.begin());
}

/// The statements of one table: [begin, own_end) are the header and its own keys, [begin, end) also those of
/// its sub-tables. Blank lines and comments behind the last key are outside.
struct Range {
    std::size_t begin = 0;
    std::size_t own_end = 0;
    std::size_t end = 0;
};

class Layout {
  public:
    explicit Layout(const std::string& text) : statements(toml_layout(text)) {}

    [[nodiscard]] std::optional<Range> find(std::string_view name, std::size_t index) const {
        const auto path = header_path(name);
        for (std::size_t i = 0; i < statements.size(); ++i)
            if (is_header(statements[i]) && statements[i].path == path && index-- == 0) return range(i);
        return std::nullopt;
    }

    [[nodiscard]] std::size_t count(std::string_view name) const {
        const auto path = header_path(name);
        return static_cast<std::size_t>(std::count_if(statements.begin(), statements.end(), [&](const Statement& s) {
            return is_header(s) && s.path == path;
        }));
    }

    std::vector<Statement> statements;

  private:
    [[nodiscard]] Range range(std::size_t begin) const {
        Range found{begin, begin + 1, begin + 1};
        bool own = true;
        for (std::size_t i = begin + 1; i < statements.size(); ++i) {
            const Statement& s = statements[i];
            if (is_header(s)) {
                if (!is_below(s.path, statements[begin].path)) break;
                own = false;
            }
            if (s.kind == StatementKind::blank || s.kind == StatementKind::comment) continue;
            found.end = i + 1;
            if (own) found.own_end = i + 1;
        }
        return found;
    }
};

std::string line_end(const std::string& text) {
    const std::size_t first = text.find('\n');
    return first != std::string::npos && first > 0 && text[first - 1] == '\r' ? "\r\n" : "\n";
}

/// Inserts whole lines at `offset`, which is a line start or the end of the text.
std::string insert_lines(std::string text, std::size_t offset, const std::string& lines) {
    const bool open_line = offset == text.size() && !text.empty() && text.back() != '\n';
    return text.insert(offset, (open_line ? line_end(text) : "") + lines);
}

/// Comments that follow the table's last key without a blank line belong to the table, unless a header
/// follows them just as closely.
std::size_t behind_comments(const std::vector<Statement>& statements, std::size_t end) {
    std::size_t at = end;
    while (at < statements.size() && statements[at].kind == StatementKind::comment) ++at;
    const bool leads_header = at < statements.size() && is_header(statements[at]);
    return leads_header ? end : at;
}

std::size_t offset_of(const std::vector<Statement>& statements, std::size_t index, const std::string& text) {
    return index < statements.size() ? statements[index].whole.begin : text.size();
}

std::optional<std::size_t> find_key(const Layout& layout, const Range& range, std::string_view key) {
    for (std::size_t i = range.begin + 1; i < range.own_end; ++i) {
        const Statement& s = layout.statements[i];
        if (s.kind == StatementKind::assignment && s.path.size() == 1 && s.path[0] == key) return i;
    }
    return std::nullopt;
}

auto no_such_table(std::string_view table) {
    return fail(FailureKind::machine_failed, fmt::format("the file has no table `{}` that can be edited", table),
                "write it as a table of its own, with a header in square brackets");
}

std::string_view leading_blanks(const std::string& text, std::size_t line_start) {
    const std::size_t end = text.find_first_not_of(" \t", line_start);
    return std::string_view(text).substr(line_start, (end == std::string::npos ? text.size() : end) - line_start);
}

}  // namespace

std::string append_element(const std::string& text, std::string_view name, const Assignments& body) {
    const Layout layout(text);
    const std::string end_of_line = line_end(text);
    std::size_t at = text.size();
    if (const std::size_t count = layout.count(name); count > 0) {
        const Range last = *layout.find(name, count - 1);
        at = offset_of(layout.statements, behind_comments(layout.statements, last.end), text);
    }
    std::string lines = text.empty() ? "" : end_of_line;
    lines += fmt::format("[[{}]]", name) + end_of_line;
    for (const auto& [key, value] : body) lines += fmt::format("{} = {}{}", toml_key(key), value, end_of_line);
    return insert_lines(text, at, lines);
}

text::Result<std::string> remove_element(const std::string& text, std::string_view name, std::size_t index) {
    const Layout layout(text);
    const auto range = layout.find(name, index);
    if (!range) return no_such_table(name);
    std::string out;
    const auto& statements = layout.statements;
    // The blank line in front goes with it, as it came with it.
    const bool blank_before = range->begin > 0 && statements[range->begin - 1].kind == StatementKind::blank;
    for (std::size_t i = 0; i < statements.size(); ++i) {
        const bool inside = i >= range->begin && i < range->end;
        const bool kept_comment = inside && statements[i].kind == StatementKind::comment;
        if (inside && !kept_comment) continue;
        if (blank_before && i + 1 == range->begin) continue;
        out += text.substr(statements[i].whole.begin, statements[i].whole.end - statements[i].whole.begin);
    }
    return out;
}

text::Result<std::string> set_key(const std::string& text, std::string_view table, std::size_t index,
                                  std::string_view key, std::string_view value) {
    const Layout layout(text);
    const auto range = layout.find(table, index);
    if (!range) return no_such_table(table);
    std::string out = text;
    if (const auto found = find_key(layout, *range, key)) {
        const Span old = layout.statements[*found].value;
        return out.replace(old.begin, old.end - old.begin, value);
    }
    const std::size_t last = range->own_end - 1;
    const std::string indent(leading_blanks(text, layout.statements[last].whole.begin));
    return insert_lines(out, offset_of(layout.statements, range->own_end, text),
                        fmt::format("{}{} = {}{}", indent, toml_key(key), value, line_end(text)));
}

text::Result<std::string> remove_key(const std::string& text, std::string_view table, std::size_t index,
                                     std::string_view key) {
    const Layout layout(text);
    const auto range = layout.find(table, index);
    if (!range) return no_such_table(table);
    const auto found = find_key(layout, *range, key);
    if (!found) return text;
    std::string out = text;
    const Span whole = layout.statements[*found].whole;
    return out.erase(whole.begin, whole.end - whole.begin);
}

text::Result<std::string> change_keys(const std::string& text, std::string_view table, std::size_t index,
                                      const Assignments& before, const Assignments& after) {
    const auto value_in = [](const Assignments& keys, const std::string& key) -> const std::string* {
        const auto found = std::find_if(keys.begin(), keys.end(), [&](const auto& row) { return row.first == key; });
        return found == keys.end() ? nullptr : &found->second;
    };
    text::Result<std::string> content = text;
    for (const auto& [key, value] : after) {
        const std::string* old = value_in(before, key);
        if (old != nullptr && *old == value) continue;
        content = content.and_then(
            [&, &key = key, &value = value](const std::string& t) { return set_key(t, table, index, key, value); });
    }
    for (const auto& [key, value] : before) {
        if (value_in(after, key) != nullptr) continue;
        content =
            content.and_then([&, &key = key](const std::string& t) { return remove_key(t, table, index, key); });
    }
    return content;
}

std::string append_to_list(const std::string& text, Span list, std::string_view value) {
    const std::size_t close = list.end - 1;
    const auto last_char = text.find_last_not_of(" \t\r\n", close - 1);
    std::string out = text;
    if (last_char == list.begin) return out.replace(list.begin + 1, close - list.begin - 1, value);
    const std::size_t line_start =
        text.rfind('\n', last_char) == std::string::npos ? 0 : text.rfind('\n', last_char) + 1;
    const bool several_lines = text.find('\n', list.begin) < close;
    const bool has_comma = text[last_char] == ',';
    if (!several_lines) return out.insert(last_char + 1, fmt::format("{}{}", has_comma ? " " : ", ", value));
    const std::string indent(line_start > list.begin ? leading_blanks(text, line_start) : "    ");
    const std::string added = fmt::format("{}{}{},", line_end(text), indent, value);
    // A comment behind the last element hides its comma from us: ask the layout of the list's own text.
    const std::size_t hash = text.find('#', line_start);
    if (!has_comma && hash < last_char) {
        const auto code_end = text.find_last_not_of(" \t", hash - 1);
        const bool comma_before = text[code_end] == ',';
        out.insert(last_char + 1, added);
        return comma_before ? out : out.insert(code_end + 1, ",");
    }
    return out.insert(last_char + 1, (has_comma ? "" : ",") + added);
}

std::string remove_from_list(const std::string& text, Span list, Span element) {
    std::size_t begin = element.begin;
    std::size_t end = element.end;
    const auto blank = [&](std::size_t at) { return text[at] == ' ' || text[at] == '\t'; };
    std::size_t next = end;
    while (next < list.end - 1 && (blank(next) || text[next] == '\n' || text[next] == '\r')) ++next;
    if (text[next] == ',') {
        end = next + 1;
        while (end < list.end - 1 && blank(end)) ++end;
        const std::size_t line_start = text.rfind('\n', begin);
        const bool alone = line_start != std::string::npos && line_start > list.begin &&
                           text.find_first_not_of(" \t", line_start + 1) == begin && text[end] == '\n';
        if (alone) begin = line_start;
    } else {
        std::size_t before = begin;
        while (before > list.begin + 1 && (blank(before - 1) || text[before - 1] == '\n')) --before;
        if (text[before - 1] == ',') begin = before - 1;
    }
    std::string out = text;
    return out.erase(begin, end - begin);
}

}  // namespace envar::model
