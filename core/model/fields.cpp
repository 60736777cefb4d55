#include "core/model/fields.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <optional>

#include "core/files/read.hpp"
#include "core/text/names.hpp"
#include "core/text/utf8.hpp"
#include "core/versions/requirement.hpp"

namespace envar::model {
namespace {

using text::Finding;
using text::Span;

bool is_uuid(std::string_view text) {
    static const re2::RE2 form("[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}");
    return re2::RE2::FullMatch(re2::StringPiece(text.data(), text.size()), form);
}

std::string ticked(std::string_view value) { return "`" + text::shortened(text::printable(value), 60) + "`"; }

std::string listed(const std::vector<std::string_view>& values) {
    std::string out;
    for (std::size_t i = 0; i < values.size(); ++i)
        out += fmt::format("{}`{}`", i == 0 ? "" : i + 1 == values.size() ? " or " : ", ", values[i]);
    return out;
}

struct Problem {
    std::string_view code;
    std::string message;
    std::string hint;
    Span part = {};  // within the text, when known
};

NodeKind wanted_kind(Type type) {
    switch (type) {
        case Type::boolean:
            return NodeKind::boolean;
        case Type::integer:
            return NodeKind::integer;
        case Type::texts:
        case Type::names:
        case Type::pairs:
        case Type::tables:
            return NodeKind::list;
        case Type::table:
            return NodeKind::table;
        default:
            return NodeKind::text;
    }
}

/// Tabs are fine; whatever else a terminal would obey is not.
bool has_control_character(std::string_view value) {
    return std::any_of(value.begin(), value.end(),
                       [](char c) { return (static_cast<unsigned char>(c) < 0x20 && c != '\t') || c == 0x7F; });
}

std::optional<Problem> text_problem(const FieldInfo& row, std::string_view key, const std::string& value) {
    const auto bad = [&](std::string message, std::string hint) {
        return Problem{"EV114", std::move(message), std::move(hint)};
    };
    if (value.find('\0') != std::string::npos) return bad(fmt::format("`{}` contains a NUL", key), "take it out");
    const bool free_text = row.type == Type::text || row.type == Type::texts || row.type == Type::pairs;
    if (!free_text && row.type != Type::line && has_control_character(value))
        return bad(fmt::format("`{}` contains a control character", key), "take it out");
    switch (row.type) {
        case Type::line:
            if (!has_control_character(value)) break;
            return bad(fmt::format("`{}` has more than one line, or a control character", key),
                       "keep it to one line of text");
        case Type::word: {
            if (std::find(row.values.begin(), row.values.end(), value) != row.values.end()) break;
            const std::string meant = text::did_you_mean(value, {row.values.begin(), row.values.end()});
            return Problem{"EV113", fmt::format("{} is not a value of `{}`", ticked(value), key),
                           (meant.empty() ? "" : meant + " ") + "allowed: " + listed(row.values)};
        }
        case Type::name:
        case Type::names:
            if (!value.empty() && value.find('/') == std::string::npos && value != "." && value != "..") break;
            return bad(fmt::format("{} is not a name", ticked(value)), "a name has no `/` and is no `.` or `..`");
        case Type::version: {
            if (versions::parse_version(value)) break;
            const auto mended = versions::mended_version(value);
            return bad(fmt::format("{} is not a version", ticked(value)),
                       mended ? fmt::format("did you mean `{}`?", *mended)
                              : "a version is major.minor.patch, as in 1.2.0 or 2.0.0-rc.1");
        }
        case Type::requirement: {
            const auto parsed = versions::parse_requirement(value);
            if (parsed) break;
            return Problem{"EV114",
                           fmt::format("in the requirement {}: {}", ticked(value), parsed.error().message),
                           parsed.error().hint,
                           {parsed.error().offset, parsed.error().offset + 1}};
        }
        case Type::identity:
            if (is_uuid(value)) break;
            return bad(fmt::format("{} is not a UUID", ticked(value)), "as in 6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10");
        case Type::inner_path:
            if (files::stays_inside(value)) break;
            return Problem{"EV204", fmt::format("the path {} leaves the module", ticked(value)),
                           "write it relative to this file, without a way out through `..`"};
        case Type::pattern: {
            const re2::RE2 compiled(value, re2::RE2::Quiet);
            if (compiled.ok()) break;
            return Problem{"EV801", fmt::format("the pattern {} is refused: {}", ticked(value), compiled.error()),
                           "patterns are RE2: no look-around, no back-references"};
        }
        default:
            break;
    }
    return std::nullopt;
}

/// Walks the document and the rows side by side.
class Reader {
  public:
    Reader(const std::vector<const FieldInfo*>& rows, const Document& document,
           const std::function<void(std::size_t, const Node&)>& accept, std::vector<Finding>& findings)
        : rows_(rows), document_(document), accept_(accept), findings_(findings) {
        for (std::size_t i = 0; i < rows.size(); ++i) {
            const std::string_view path = rows[i]->path;
            const std::size_t dot = path.rfind('.');
            const std::string parent(dot == std::string_view::npos ? "" : path.substr(0, dot));
            std::string key(dot == std::string_view::npos ? path : path.substr(dot + 1));
            if (key.size() > 2 && key.substr(key.size() - 2) == "[]") key.resize(key.size() - 2);
            children_[parent].push_back({std::move(key), i});
        }
    }

    void table(const std::string& path, const Node& node) {
        const auto known = children_.find(path);
        if (known == children_.end()) return;
        for (const Child& child : known->second) {
            const auto* entry = find_entry(node, child.key);
            if (entry != nullptr) {
                value(child, *entry);
            } else if (rows_[child.row]->required) {
                const std::string_view example = rows_[child.row]->example;
                add("EV112", node.span.empty() ? Span{0, 1} : node.span, fmt::format("`{}` is missing", child.key),
                    fmt::format("add `{} = {}`: {}", child.key, example, rows_[child.row]->help));
            }
        }
        for (const Entry& entry : node.entries) unknown_key(path, known->second, entry);
    }

  private:
    struct Child {
        std::string key;
        std::size_t row;
    };

    static const Entry* find_entry(const Node& node, const std::string& key) {
        const auto found =
            std::find_if(node.entries.begin(), node.entries.end(), [&](const Entry& e) { return e.key == key; });
        return found == node.entries.end() ? nullptr : &*found;
    }

    void add(std::string_view code, Span span, std::string message, std::string hint) {
        findings_.push_back(document_.source.finding(code, span, std::move(message), std::move(hint)));
    }

    void unknown_key(const std::string& path, const std::vector<Child>& known, const Entry& entry) {
        std::vector<std::string> keys;
        for (const Child& child : known) {
            if (child.key == entry.key) return;
            keys.push_back(child.key);
        }
        std::string hint = text::did_you_mean(entry.key, keys);
        if (hint.empty()) hint = fmt::format("keys here are: {}", fmt::join(keys, ", "));
        add("EV110", entry.key_span,
            path.empty() ? fmt::format("unknown table or key {}", ticked(entry.key))
                         : fmt::format("unknown key {} in `{}`", ticked(entry.key), table_name(path)),
            hint);
    }

    static std::string table_name(std::string_view path) {
        if (path.size() > 2 && path.substr(path.size() - 2) == "[]")
            return fmt::format("[[{}]]", path.substr(0, path.size() - 2));
        return fmt::format("[{}]", path);
    }

    void value(const Child& child, const Entry& entry) {
        const FieldInfo& row = *rows_[child.row];
        const Node& node = entry.value;
        if (row.type == Type::any) {
            if (node.kind == NodeKind::table) return wrong_type(row, entry);
            return accept_(child.row, node);
        }
        if (node.kind != wanted_kind(row.type)) return wrong_type(row, entry);
        switch (row.type) {
            case Type::table:
                accept_(child.row, node);
                table(std::string(row.path), node);
                break;
            case Type::tables:
                tables(child, row, entry);
                break;
            case Type::texts:
            case Type::names:
                if (all_texts(row, entry)) accept_(child.row, node);
                break;
            case Type::pairs:
                if (all_pairs(row, entry)) accept_(child.row, node);
                break;
            default:
                if (node.kind != NodeKind::text || text_is_fine(row, entry.key, node)) accept_(child.row, node);
        }
    }

    void tables(const Child& child, const FieldInfo& row, const Entry& entry) {
        for (const Node& item : entry.value.items) {
            if (item.kind != NodeKind::table) {
                wrong_type(row, entry);
                continue;
            }
            accept_(child.row, item);
            table(std::string(row.path), item);
        }
    }

    bool all_texts(const FieldInfo& row, const Entry& entry) {
        bool fine = true;
        for (const Node& item : entry.value.items) {
            if (item.kind == NodeKind::text) {
                fine = text_is_fine(row, entry.key, item) && fine;
                continue;
            }
            add("EV111", item.span,
                fmt::format("`{}` lists {}, but texts are wanted", entry.key, kind_name(item.kind)),
                "put each element in quotes");
            fine = false;
        }
        return fine;
    }

    bool all_pairs(const FieldInfo& row, const Entry& entry) {
        for (const Node& item : entry.value.items) {
            const bool pair = item.kind == NodeKind::list && item.items.size() == 2 &&
                              item.items[0].kind == NodeKind::text && item.items[1].kind == NodeKind::text;
            if (pair) continue;
            add("EV111", item.span, fmt::format("`{}` wants lists of two texts", entry.key),
                fmt::format("as in `{}`", row.example));
            return false;
        }
        return true;
    }

    bool text_is_fine(const FieldInfo& row, const std::string& key, const Node& node) {
        auto problem = text_problem(row, key, node.text);
        if (!problem) return true;
        Span span = node.span;
        if (!problem->part.empty() && problem->part.end < node.text.size() + 1) {
            const Span part{node.span.begin + 1 + problem->part.begin, node.span.begin + 1 + problem->part.end};
            if (part.end <= node.span.end && node.span.end - node.span.begin == node.text.size() + 2) span = part;
        }
        add(problem->code, span, std::move(problem->message), std::move(problem->hint));
        return false;
    }

    void wrong_type(const FieldInfo& row, const Entry& entry) {
        const Node& node = entry.value;
        std::string hint = fmt::format("as in `{} = {}`", entry.key, row.example);
        if (row.type == Type::tables) hint = fmt::format("as in `[[{}]]` above its keys", entry.key);
        if (row.type == Type::table) hint = fmt::format("as in `[{}]` above its keys", entry.key);
        add("EV111", node.span.empty() ? entry.key_span : node.span,
            fmt::format("`{}` is {}, but {} is wanted", entry.key, kind_name(node.kind), type_name(row.type)), hint);
    }

    const std::vector<const FieldInfo*>& rows_;
    const Document& document_;
    const std::function<void(std::size_t, const Node&)>& accept_;
    std::vector<Finding>& findings_;
    std::map<std::string, std::vector<Child>> children_;
};

}  // namespace

std::string_view type_name(Type type) {
    switch (type) {
        case Type::text:
            return "text";
        case Type::line:
            return "one line of text";
        case Type::word:
            return "a word in quotes";
        case Type::name:
            return "a name in quotes";
        case Type::version:
            return "a version in quotes";
        case Type::requirement:
            return "a version requirement in quotes";
        case Type::identity:
            return "a UUID in quotes";
        case Type::inner_path:
            return "a relative path in quotes";
        case Type::pattern:
            return "a pattern in quotes";
        case Type::boolean:
            return "true or false";
        case Type::integer:
            return "a whole number";
        case Type::texts:
            return "a list of texts";
        case Type::names:
            return "a list of names";
        case Type::pairs:
            return "a list of pairs";
        case Type::any:
            return "a value";
        case Type::table:
            return "a table";
        case Type::tables:
            return "a list of tables";
    }
    return "a value";
}

void read_fields(const std::vector<const FieldInfo*>& rows, const Document& document,
                 const std::function<void(std::size_t, const Node&)>& accept, std::vector<Finding>& findings) {
    Reader(rows, document, accept, findings).table("", document.root);
}

}  // namespace envar::model
