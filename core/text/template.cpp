#include "core/text/template.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <kainjow/mustache.hpp>
#include <nlohmann/json.hpp>

#include "core/text/template_tags.hpp"

namespace envar::text {
namespace {

namespace mustache = kainjow::mustache;

mustache::data to_data(const nlohmann::json& value) {
    switch (value.type()) {
        case nlohmann::json::value_t::object: {
            mustache::data object = mustache::data::type::object;
            for (const auto& [key, item] : value.items()) object.set(key, to_data(item));
            return object;
        }
        case nlohmann::json::value_t::array: {
            mustache::data list = mustache::data::type::list;
            for (const auto& item : value) list.push_back(to_data(item));
            return list;
        }
        case nlohmann::json::value_t::boolean:
            return value.get<bool>() ? mustache::data::type::bool_true : mustache::data::type::bool_false;
        case nlohmann::json::value_t::string:
            if (value.get_ref<const std::string&>().empty()) return mustache::data::type::bool_false;
            return value.get<std::string>();
        case nlohmann::json::value_t::null:
            return mustache::data::type::bool_false;
        default:
            return value.dump();
    }
}

/// Position behind a section or comment tag that stands alone on the line from `start` to `end`, or 0.
std::size_t lone_tag_end(std::string_view text, std::size_t start, std::size_t end) {
    const std::size_t open = text.find_first_not_of(" \t", start);
    if (open >= end || text.substr(open, 2) != "{{" || open + 2 >= end) return 0;
    if (std::string_view("#^/!").find(text[open + 2]) == std::string_view::npos) return 0;
    const std::size_t close = text.find("}}", open);
    if (close == std::string_view::npos || close >= end) return 0;
    const std::size_t rest = text.find_first_not_of(" \t\r", close + 2);
    return rest >= end ? close + 2 : 0;
}

/// Marks the end of every line that is to stay; no UTF-8 text contains this byte.
constexpr char line_mark = '\xFF';

std::string without_marks(std::string text) {
    std::erase(text, line_mark);
    return text;
}

/// The spec has a section tag that is alone on its line vanish with the line. The engine gets this wrong where
/// such a section is skipped or begins with a blank line, so lines that vanish are joined before it sees them,
/// and all others are marked, so that none looks empty to it.
std::string without_lone_lines(std::string_view text) {
    std::string out;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        if (const std::size_t tag_end = lone_tag_end(text, at, end); tag_end != 0) {
            const std::size_t open = text.find("{{", at);
            out += text.substr(open, tag_end - open);
        } else {
            out += text.substr(at, end - at);
            if (end < text.size()) out += std::string(1, line_mark) + '\n';
        }
        at = end + 1;
    }
    return out;
}

template <class Wrap>
mustache::data lambda(Wrap wrap) {
    return mustache::lambda2{[wrap](const std::string& inside, const mustache::renderer& renderer) {
        return wrap(without_marks(renderer(inside, false)));
    }};
}

std::string escaped(const Dialect::Escapes& escapes, std::string_view value) {
    std::string out;
    for (std::size_t at = 0; at < value.size();) {
        const auto fits = [&](const auto& pair) {
            return !pair.first.empty() && value.substr(at, pair.first.size()) == pair.first;
        };
        const auto found = std::find_if(escapes.begin(), escapes.end(), fits);
        if (found == escapes.end()) {
            out += value[at++];
        } else {
            out += found->second;
            at += found->first.size();
        }
    }
    return out;
}

/// No language takes every control character within a comment, and no reader sees them.
std::string without_controls(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if ((byte < 0x20 && c != '\t' && c != '\n') || byte == 0x7F) {
            out += "\xEF\xBF\xBD";
        } else {
            out += c;
        }
    }
    return out;
}

std::string prose(const Dialect& dialect, const std::string& value) {
    std::string lines = "\n";
    for (std::size_t at = 0; at < value.size(); ++at) {
        const bool pair = value[at] == '\r' && at + 1 < value.size() && value[at + 1] == '\n';
        if (!pair) lines += value[at] == '\r' ? '\n' : value[at];
    }
    std::string out = escaped(dialect.prose_escapes, without_controls(lines));
    if (!out.empty() && out.front() == '\n') out.erase(0, 1);
    return out;
}

}  // namespace

std::string escape_for(const Dialect& dialect, std::string_view value) { return escaped(dialect.escapes, value); }

std::string string_literal(const Dialect& dialect, std::string_view value) {
    return dialect.string_open + escape_for(dialect, value) + dialect.string_close;
}

std::string comment_lines(const Dialect& dialect, std::string_view value) {
    std::string out;
    for (std::size_t at = 0; at <= value.size();) {
        const std::size_t end = std::min(value.find_first_of("\n\r", at), value.size());
        std::string line = escaped(dialect.comment_escapes, without_controls(value.substr(at, end - at)));
        // A last backslash would carry the comment on in some languages.
        while (!line.empty() && (line.back() == ' ' || line.back() == '\\')) line.pop_back();
        if (at > 0) out += '\n';
        out += line.empty() ? dialect.comment : dialect.comment + " " + line;
        if (!dialect.comment_end.empty()) out += " " + dialect.comment_end;
        at = end + 1;
        if (end < value.size() && value[end] == '\r' && at < value.size() && value[at] == '\n') ++at;
    }
    return out;
}

Result<std::string> render(const std::string& template_text, const nlohmann::json& values, const Dialect& dialect) {
    if (auto fine = template_within_limits(template_text, values); !fine) return tl::unexpected(fine.error());
    mustache::mustache engine(without_lone_lines(template_text));
    engine.set_custom_escape([&](const std::string& value) { return escape_for(dialect, value); });
    mustache::data data = to_data(values);
    data.set("string", lambda([&](const std::string& inside) { return string_literal(dialect, inside); }));
    data.set("comment", lambda([&](const std::string& inside) { return comment_lines(dialect, inside); }));
    data.set("doc", lambda([&](const std::string& inside) {
                 const std::string lines = comment_lines(dialect, inside);
                 return dialect.doc_comment.empty() ? lines
                                                    : dialect.doc_comment + lines.substr(dialect.comment.size());
             }));
    data.set("prose", lambda([&](const std::string& inside) { return prose(dialect, inside); }));
    std::string out = engine.render(data);
    if (!engine.is_valid()) return fail(FailureKind::machine_failed, engine.error_message());
    return without_marks(std::move(out));
}

std::string fill(const std::string& text, const Values& values) {
    std::string out;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t open = text.find("{{", at);
        const std::size_t close = open == std::string::npos ? open : text.find("}}", open);
        if (close == std::string::npos) return out + text.substr(at);
        const std::string name = text.substr(open + 2, close - open - 2);
        const auto value = std::find_if(values.begin(), values.end(), [&](const auto& v) { return v.first == name; });
        out += text.substr(at, open - at);
        out += value == values.end() ? text.substr(open, close + 2 - open) : value->second;
        at = close + 2;
    }
    return out;
}

}  // namespace envar::text
