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

    /// All tables of that name, in the text's order.
    [[nodiscard]] std::vector<Range> all(std::string_view name) const {
        const auto path = header_path(name);
        std::vector<Range> out;
        for (std::size_t i = 0; i < statements.size(); ++i)
            if (is_header(statements[i]) && statements[i].path == path) out.push_back(range(i));
        return out;
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

/// Inserts whole lines at `offset`, which is a line start or the end of the text. A text whose last line has no
/// end stays so.
std::string insert_lines(std::string text, std::size_t offset, const std::string& lines) {
    const bool open_line = offset == text.size() && !text.empty() && text.back() != '\n';
    if (!open_line) return text.insert(offset, lines);
    const std::string end = line_end(text);
    return text + end + lines.substr(0, lines.size() - end.size());
}

/// What is left of `before`, whose last line has no end, after its last lines were taken out.
std::string with_open_end(std::string left, const std::string& before) {
    const bool open_line = !before.empty() && before.back() != '\n';
    if (!open_line || left.empty() || left.back() != '\n') return left;
    left.pop_back();
    if (!left.empty() && left.back() == '\r') left.pop_back();
    return left;
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

/// A header and its keys, with a blank line before them.
std::string section(const std::string& text, const std::string& header, const Assignments& body, bool first = true) {
    const std::string end_of_line = line_end(text);
    std::string lines = (text.empty() && first ? "" : end_of_line) + header + end_of_line;
    for (const auto& [key, value] : body) lines += fmt::format("{} = {}{}", toml_key(key), value, end_of_line);
    return lines;
}

const std::string* value_in(const Assignments& keys, const std::string& key) {
    const auto found = std::find_if(keys.begin(), keys.end(), [&](const auto& row) { return row.first == key; });
    return found == keys.end() ? nullptr : &found->second;
}

/// Takes the n-th entry out of an inline table, with the comma before it, or the one behind it when it is the first.
std::string without_entry(std::string text, const Node& table, std::size_t n) {
    const Entry& entry = table.entries[n];
    if (n > 0) {
        const std::size_t begin = table.entries[n - 1].value.span.end;
        return text.erase(begin, entry.value.span.end - begin);
    }
    std::size_t end = entry.value.span.end;
    const std::size_t next = text.find_first_not_of(" \t", end);
    if (next != std::string::npos && text[next] == ',') end = text.find_first_not_of(" \t", next + 1);
    return text.erase(entry.key_span.begin, end - entry.key_span.begin);
}

std::size_t line_start_of(const std::string& text, std::size_t at) {
    const std::size_t before = at == 0 ? std::string::npos : text.rfind('\n', at - 1);
    return before == std::string::npos ? 0 : before + 1;
}

/// Where the line of `at` ends: at its line end, or the end of the text.
std::size_t line_end_of(const std::string& text, std::size_t at) {
    std::size_t end = std::min(text.find('\n', at), text.size());
    if (end > at && text[end - 1] == '\r') --end;
    return end;
}

}  // namespace

std::string append_element(const std::string& text, std::string_view name, const Assignments& body) {
    return append_elements(text, name, {body});
}

std::string append_elements(const std::string& text, std::string_view name, const std::vector<Assignments>& bodies) {
    if (bodies.empty()) return text;
    const Layout layout(text);
    std::size_t at = text.size();
    if (const auto there = layout.all(name); !there.empty())
        at = offset_of(layout.statements, behind_comments(layout.statements, there.back().end), text);
    std::string lines;
    for (const Assignments& body : bodies) lines += section(text, fmt::format("[[{}]]", name), body, lines.empty());
    return insert_lines(text, at, lines);
}

std::string append_table(const std::string& text, std::string_view name, const Assignments& body) {
    return insert_lines(text, text.size(), section(text, fmt::format("[{}]", name), body));
}

text::Result<std::string> remove_element(const std::string& text, std::string_view name, std::size_t index) {
    return remove_elements(text, name, {index});
}

text::Result<std::string> remove_elements(const std::string& text, std::string_view name,
                                          const std::vector<std::size_t>& indexes) {
    const Layout layout(text);
    const auto& statements = layout.statements;
    const std::vector<Range> ranges = layout.all(name);
    std::vector<bool> goes(statements.size());
    for (const std::size_t index : indexes) {
        if (index >= ranges.size()) return no_such_table(name);
        const Range& range = ranges[index];
        for (std::size_t i = range.begin; i < range.end; ++i) goes[i] = statements[i].kind != StatementKind::comment;
        // The blank line in front goes with it, as it came with it.
        if (range.begin > 0 && statements[range.begin - 1].kind == StatementKind::blank) goes[range.begin - 1] = true;
    }
    std::string out;
    for (std::size_t i = 0; i < statements.size(); ++i)
        if (!goes[i])
            out.append(text, statements[i].whole.begin, statements[i].whole.end - statements[i].whole.begin);
    return with_open_end(std::move(out), text);
}

text::Result<std::string> reorder_elements(const std::string& text, std::string_view name,
                                           const std::vector<std::size_t>& order) {
    const Layout layout(text);
    const auto& statements = layout.statements;
    std::vector<Span> places;
    const std::vector<Range> ranges = layout.all(name);
    if (ranges.size() < order.size()) return no_such_table(name);
    for (std::size_t i = 0; i < order.size(); ++i) {
        std::size_t begin = ranges[i].begin, end = ranges[i].end;
        while (begin > 0 && statements[begin - 1].kind == StatementKind::comment) --begin;
        while (end > ranges[i].begin + 1 && (statements[end - 1].kind == StatementKind::blank ||
                                             statements[end - 1].kind == StatementKind::comment))
            --end;
        places.push_back({statements[begin].whole.begin, statements[end - 1].whole.end});
    }
    std::string out;
    std::size_t at = 0;
    for (std::size_t i = 0; i < order.size(); ++i) {
        const Span from = places.at(order[i]);
        out += text.substr(at, places[i].begin - at) + text.substr(from.begin, from.end - from.begin);
        if (out.back() != '\n') out += '\n';
        at = places[i].end;
    }
    return with_open_end(out + text.substr(at), text);
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
    return with_open_end(out.erase(whole.begin, whole.end - whole.begin), text);
}

text::Result<std::string> change_keys(const std::string& text, std::string_view table, std::size_t index,
                                      const Assignments& before, const Assignments& after) {
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

text::Result<std::string> change_elements(const std::string& text, std::string_view name,
                                          const std::vector<ElementChange>& changes) {
    const Layout layout(text);
    const std::vector<Range> ranges = layout.all(name);
    std::vector<const ElementChange*> in_order;
    for (const ElementChange& change : changes) {
        if (change.index >= ranges.size()) return no_such_table(name);
        in_order.push_back(&change);
    }
    std::sort(in_order.begin(), in_order.end(), [](const auto* a, const auto* b) { return a->index < b->index; });
    std::string out;
    std::size_t at = 0;
    for (const ElementChange* change : in_order) {
        const Range& range = ranges[change->index];
        const std::size_t begin = layout.statements[range.begin].whole.begin;
        const std::size_t end = offset_of(layout.statements, range.end, text);
        const auto changed = change_keys(text.substr(begin, end - begin), name, 0, change->before, change->after);
        if (!changed) return tl::unexpected(changed.error());
        out.append(text, at, begin - at);
        out += *changed;
        at = end;
    }
    return out + text.substr(at);
}

std::string change_inline_keys(const std::string& text, const Node& table, const Assignments& before,
                               const Assignments& after) {
    std::string out = text;
    std::string added;
    for (const auto& [key, value] : after)
        if (table.find(key) == nullptr)
            added += fmt::format("{}{} = {}", added.empty() ? "" : ", ", toml_key(key), value);
    if (table.entries.empty()) {
        out.insert(table.span.begin + 1, added.empty() ? "" : " " + added + " ");
    } else if (!added.empty()) {
        out.insert(table.entries.back().value.span.end, ", " + added);
    }
    for (std::size_t n = table.entries.size(); n-- > 0;) {  // from behind, so that places hold
        const Entry& entry = table.entries[n];
        const std::string* was = value_in(before, entry.key);
        const std::string* is = value_in(after, entry.key);
        const Span old = entry.value.span;
        if (is != nullptr && (was == nullptr || *was != *is)) out.replace(old.begin, old.end - old.begin, *is);
        if (is == nullptr && was != nullptr) out = without_entry(std::move(out), table, n);
    }
    return out;
}

std::string append_to_list(const std::string& text, Span list, std::string_view value) {
    const auto items = list_layout(text, list);
    std::string out = text;
    if (items.empty()) return out.insert(list.begin + 1, value);
    const ListItem& last = items.back();
    const std::size_t behind = last.comma ? *last.comma + 1 : last.value.end;
    const std::size_t line = line_start_of(text, last.value.begin);
    const bool own_line = line > list.begin && leading_blanks(text, line).size() == last.value.begin - line;
    if (!own_line) return out.insert(behind, last.comma ? fmt::format(" {},", value) : fmt::format(", {}", value));
    // The new element gets a line of its own behind the last one's, whose comment stays where it is.
    const std::string added =
        fmt::format("{}{}{}{}", line_end(text), leading_blanks(text, line), value, last.comma ? "," : "");
    out.insert(std::min(line_end_of(text, behind), list.end - 1), added);
    return last.comma ? out : out.insert(last.value.end, ",");
}

std::string remove_from_list(const std::string& text, Span list, Span element) {
    const auto items = list_layout(text, list);
    std::string out = text;
    for (std::size_t i = 0; i < items.size(); ++i) {
        if (items[i].value.begin != element.begin) continue;
        const bool last = i + 1 == items.size();
        std::size_t begin = element.begin;
        std::size_t end = items[i].comma ? *items[i].comma + 1 : element.end;
        const std::size_t line = line_start_of(text, begin);
        const bool own_line = line > list.begin && leading_blanks(text, line).size() == begin - line &&
                              (line_end_of(text, end) == end || end == list.end - 1);
        if (own_line) {
            begin = line - 1;
            if (begin > 0 && text[begin - 1] == '\r') --begin;
        } else if (leading_blanks(text, line).size() == begin - line && line > list.begin &&
                   text[text.find_first_not_of(" \t", end)] == '#') {
            end = text.find('#', end);  // its comment stays, where the element was
        } else if (last && i > 0) {
            while (text[begin - 1] == ' ' || text[begin - 1] == '\t') --begin;
        } else if (!last) {
            while (text[end] == ' ' || text[end] == '\t') ++end;
        }
        out.erase(begin, end - begin);
        // The last of a list without a comma at its end: the one before it is the last now.
        if (last && i > 0 && !items[i].comma && items[i - 1].comma) out.erase(*items[i - 1].comma, 1);
        break;
    }
    return out;
}

}  // namespace envar::model
