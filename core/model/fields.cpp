#include "core/model/fields.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/model/field_values.hpp"
#include "core/model/limits.hpp"
#include "core/text/names.hpp"

namespace envar::model {
namespace {

using text::Finding;
using text::Span;

constexpr std::size_t row_limit = 64;  // of rows in one table; a test keeps the tables below it

const Field* find_field(const Fields& fields, std::string_view key) {
    for (const Field& field : fields)
        if (field.key == key) return &field;
    return nullptr;
}

/// Where in the document a table stands: the tables around it, up to the root, which is null.
struct Place {
    const Place* around;
    std::string_view key;
    bool is_list;

    /// The keys joined by '.'.
    static std::string path(const Place* place) {
        if (place == nullptr) return "";
        const std::string before = path(place->around);
        return before.empty() ? std::string(place->key) : fmt::format("{}.{}", before, place->key);
    }
    /// As it is written above the keys: "[entry]", "[[dependency]]".
    static std::string header(const Place* place) {
        if (place == nullptr) return "";
        return place->is_list ? "[[" + path(place) + "]]" : "[" + path(place) + "]";
    }
};

/// Walks a document and its table side by side.
class Reader {
  public:
    Reader(const Document& document, std::vector<Finding>& findings) : document_(document), findings_(findings) {}

    void table(const Fields& fields, void* owner, const Node& node, const Place* place) {
        std::array<bool, row_limit> seen{};
        for (const Entry& entry : node.entries) {
            const Field* field = find_field(fields, entry.key);
            if (field == nullptr) {
                unknown_key(fields, Place::header(place), entry);
                continue;
            }
            seen.at(static_cast<std::size_t>(field - fields.data())) = true;
            value(*field, owner, entry, place);
        }
        for (std::size_t i = 0; i < fields.size(); ++i)
            if (fields[i].required && !seen.at(i)) missing(fields[i], node, Place::path(place));
    }

  private:
    void add(std::string_view code, Span span, std::string message, std::string hint) {
        findings_.push_back(document_.source.finding(code, span, std::move(message), std::move(hint)));
    }

    /// A key that could not be read is not a missing one.
    void missing(const Field& field, const Node& node, const std::string& path) {
        const auto lost = [&](const Lost& part) {
            return (path.empty() ? part.table == field.key || part.table.empty() : part.table == path) &&
                   (part.key.empty() || part.key == field.key);
        };
        if (std::any_of(document_.lost.begin(), document_.lost.end(), lost)) return;
        if (field.type == Type::table) {
            add("EV112", {0, 1}, fmt::format("the table `[{}]` is missing", field.key),
                fmt::format("add it with its keys: {}", field.help));
            return;
        }
        add("EV112", node.span.empty() ? Span{0, 1} : node.span, fmt::format("`{}` is missing", field.key),
            fmt::format("add `{} = {}`: {}", field.key, field.example, field.help));
    }

    void unknown_key(const Fields& fields, const std::string& shown, const Entry& entry) {
        add("EV110", entry.key_span,
            shown.empty() ? fmt::format("unknown table or key {}", ticked(entry.key))
                          : fmt::format("unknown key {} in `{}`", ticked(entry.key), shown),
            key_hint(fields, entry));
    }

    /// What was probably meant: the same letters written otherwise, a slip or two, another word for the same thing,
    /// a key of another table, and at last a key that is at least rather like it.
    static std::string key_hint(const Fields& fields, const Entry& entry) {
        std::vector<std::string> keys;
        for (const Field& field : fields) keys.emplace_back(field.key);
        const std::string plain = text::in_form(entry.key, text::NameForm::snake);
        if (std::find(keys.begin(), keys.end(), plain) != keys.end()) return fmt::format("did you mean `{}`?", plain);
        for (const Field& field : fields)
            if (std::find(field.synonyms.begin(), field.synonyms.end(), plain) != field.synonyms.end())
                return fmt::format("did you mean `{}`? ({})", field.key, field.help);
        if (std::string near = text::did_you_mean(entry.key, keys); !near.empty()) return near;
        if (const std::string home = home_of(fields, entry.key); !home.empty())
            return fmt::format("it belongs to `[{}]`", home);
        if (const auto near = text::nearest(entry.key, keys, (entry.key.size() + 1) / 2))
            return fmt::format("did you mean `{}`?", *near);
        return fmt::format("keys here are: {}", fmt::join(keys, ", "));
    }

    /// The table of the same document that has the key: it was likely written below the wrong header.
    static std::string home_of(const Fields& fields, std::string_view key) {
        std::string home;
        const Fields* root = root_of(fields);
        if (root == nullptr || root == &fields) return home;
        visit_fields(*root, [&](const std::string& path, const Field& field) {
            if (home.empty() && field.key == key && path != key) home = path.substr(0, path.rfind('.'));
        });
        return home;
    }

    /// The table of the document that `fields` is part of.
    static const Fields* root_of(const Fields& fields) {
        for (const FieldTable& table : field_tables()) {
            bool within = table.fields == &fields;
            visit_fields(*table.fields,
                         [&](const std::string&, const Field& field) { within = within || field.fields == &fields; });
            if (within) return table.fields;
        }
        return nullptr;
    }

    void value(const Field& field, void* owner, const Entry& entry, const Place* place) {
        const Node& node = entry.value;
        if (!has_right_kind(field, node)) return wrong_type(field, entry);
        if (node.kind == NodeKind::list && node.items.size() > longest_list)
            return add("EV105", node.span.empty() ? entry.key_span : node.span,
                       fmt::format("`{}` has {} elements", entry.key, node.items.size()),
                       fmt::format("at most {} are read", longest_list));
        if (field.fields != nullptr) return tables(field, owner, entry, place);
        if (is_fine(field, entry) && field.bound.set != nullptr) field.bound.set(owner, field, node);
    }

    static bool has_right_kind(const Field& field, const Node& node) {
        if (field.type == Type::any) return node.kind != NodeKind::table && node.kind != NodeKind::time;
        if (field.type == Type::number) return node.kind == NodeKind::integer || node.kind == NodeKind::number;
        return node.kind == type_info(field.type).kind;
    }

    void tables(const Field& field, void* owner, const Entry& entry, const Place* around) {
        const Place place{around, field.key, field.type == Type::tables};
        const auto enter = [&](const Node& node) {
            table(*field.fields, field.bound.enter(owner, node), node, &place);
        };
        if (field.type == Type::table) return enter(entry.value);
        for (const Node& item : entry.value.items) {
            if (item.kind == NodeKind::table) {
                enter(item);
            } else {
                add("EV111", item.span,
                    fmt::format("`{}` lists {}, but tables are wanted", entry.key, kind_name(item.kind)),
                    fmt::format("as in `{} = {}`", entry.key, field.example));
            }
        }
    }

    bool is_fine(const Field& field, const Entry& entry) {
        switch (field.type) {
            case Type::texts:
            case Type::names:
            case Type::inner_paths:
                return all_texts(field, entry);
            case Type::pairs:
                return all_pairs(field, entry);
            default:
                return entry.value.kind != NodeKind::text || text_is_fine(field, entry.key, entry.value);
        }
    }

    bool all_texts(const Field& field, const Entry& entry) {
        bool fine = true;
        for (const Node& item : entry.value.items) {
            if (item.kind == NodeKind::text) {
                fine = text_is_fine(field, entry.key, item) && fine;
                continue;
            }
            add("EV111", item.span,
                fmt::format("`{}` lists {}, but texts are wanted", entry.key, kind_name(item.kind)),
                "put each element in quotes");
            fine = false;
        }
        return fine;
    }

    bool all_pairs(const Field& field, const Entry& entry) {
        for (const Node& item : entry.value.items) {
            const bool pair = item.kind == NodeKind::list && item.items.size() == 2 &&
                              item.items[0].kind == NodeKind::text && item.items[1].kind == NodeKind::text;
            if (pair) continue;
            add("EV111", item.span, fmt::format("`{}` wants lists of two texts", entry.key),
                fmt::format("as in `{}`", field.example));
            return false;
        }
        return true;
    }

    bool text_is_fine(const Field& field, const std::string& key, const Node& node) {
        if (document_.tested && field.type == Type::pattern) return true;
        auto problem = text_problem(field, key, node.text);
        if (!problem) return true;
        // The part within a text is known by its bytes, which hold in the file when nothing is escaped.
        Span span = node.span;
        const bool unescaped = node.span.end - node.span.begin == node.text.size() + 2;
        if (!problem->part.empty() && unescaped && problem->part.end <= node.text.size() + 1)
            span = {node.span.begin + 1 + problem->part.begin, node.span.begin + 1 + problem->part.end};
        add(problem->code, span, std::move(problem->message), std::move(problem->hint));
        return false;
    }

    void wrong_type(const Field& field, const Entry& entry) {
        const Node& node = entry.value;
        std::string hint = fmt::format("as in `{} = {}`", entry.key, field.example);
        if (field.type == Type::tables) hint = fmt::format("as in `[[{}]]` above its keys", entry.key);
        if (field.type == Type::table) hint = fmt::format("as in `[{}]` above its keys", entry.key);
        add("EV111", node.span.empty() ? entry.key_span : node.span,
            fmt::format("`{}` is {}, but {} is wanted", entry.key, kind_name(node.kind), type_name(field.type)),
            hint);
    }

    const Document& document_;
    std::vector<Finding>& findings_;
};

void visit(const Fields& fields, const std::string& path,
           const std::function<void(const std::string&, const Field&)>& visitor) {
    for (const Field& field : fields) {
        const std::string own = path.empty() ? std::string(field.key) : fmt::format("{}.{}", path, field.key);
        visitor(own, field);
        if (field.fields != nullptr) visit(*field.fields, own, visitor);
    }
}

/// A list of inline tables, one a line.
std::string inline_tables(const Field& field, const void* owner) {
    std::string out;
    for (const void* element : field.bound.elements(owner)) {
        const std::string table = inline_table(*field.fields, element);
        out += fmt::format("    {},\n", table.empty() ? "{}" : table);
    }
    return out.empty() ? "" : "[\n" + out + "]";
}

}  // namespace

void read_fields(const Fields& fields, void* root, const Document& document, std::vector<Finding>& findings) {
    Reader(document, findings).table(fields, root, document.root, nullptr);
}

std::vector<std::pair<std::string, std::string>> assignments_of(const Fields& fields, const void* owner) {
    std::vector<std::pair<std::string, std::string>> out;
    for (const Field& field : fields) {
        std::string value;
        if (field.type == Type::tables) {
            value = inline_tables(field, owner);
        } else if (field.type == Type::table) {
            value = inline_table(*field.fields, field.bound.elements(owner).front());
        } else if (field.bound.get != nullptr) {
            value = field.bound.get(owner, field);
        }
        if (value.empty() && field.required) value = "\"\"";
        if (!value.empty() && (field.required || value != field.preset)) out.emplace_back(field.key, value);
    }
    return out;
}

std::string inline_table(const Fields& fields, const void* owner) {
    std::string out;
    for (const auto& [key, value] : assignments_of(fields, owner))
        out += fmt::format("{}{} = {}", out.empty() ? "{ " : ", ", key, value);
    return out.empty() ? "" : out + " }";
}

std::string document_text(const Fields& fields, const void* root) {
    std::string out;
    const auto append = [&](std::string_view header, const Fields& inner, const void* owner) {
        const auto assignments = assignments_of(inner, owner);
        if (assignments.empty()) return;
        out += fmt::format("{}{}\n", out.empty() ? "" : "\n", header);
        for (const auto& [key, value] : assignments) out += fmt::format("{} = {}\n", key, value);
    };
    for (const Field& field : fields) {
        if (field.fields == nullptr) continue;
        const bool one = field.type == Type::table;
        const std::string header = one ? fmt::format("[{}]", field.key) : fmt::format("[[{}]]", field.key);
        for (const void* element : field.bound.elements(root)) append(header, *field.fields, element);
    }
    return out;
}

const Field& field_of(const Fields& fields, std::string_view key) { return *find_field(fields, key); }

void visit_fields(const Fields& fields, const std::function<void(const std::string&, const Field&)>& visitor) {
    visit(fields, "", visitor);
}

}  // namespace envar::model
