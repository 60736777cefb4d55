// The machinery of field tables: one row says everything that is known of a field, and reading, validation,
// `envar explain FIELD` and whatever else needs to know of fields is made from the rows.
//
// A path is the keys from the root joined by '.', with "[]" behind a key whose value is a list of tables:
// "dependency[].when.platform".
#pragma once

#include <functional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/document.hpp"

namespace envar::model {

enum class Type {
    text,         // any text
    line,         // text without line ends
    word,         // one of `values`
    name,         // a module, host, target or platform name; what it must look like is the card's business
    version,      // Semantic Versioning 2.0.0
    requirement,  // versions/requirement.hpp
    identity,     // UUID
    inner_path,   // relative path with '/' that stays inside
    pattern,      // RE2
    boolean,
    integer,
    texts,  // list of texts
    names,  // list of names
    pairs,  // list of lists of two texts
    any,    // any scalar value
    table,
    tables,  // list of tables
};

struct FieldInfo {
    std::string_view path;
    Type type = Type::text;
    bool required = false;
    std::vector<std::string_view> values = {};  // of a word
    std::string_view preset = "";               // what holds when the field is left out, as TOML
    std::string_view help = "";                 // one line
    std::string_view example = "";              // as TOML value
    std::string_view since = "0.1.0";           // version of Envar
};

/// A row: what the field is, and how its value is put into a T. For `tables` the setter is called once an
/// element, before the element's own fields.
template <class T>
struct Field {
    FieldInfo info;
    void (*set)(T& into, const Node& value);
};

[[nodiscard]] std::string_view type_name(Type type);

/// Validates `document` against the rows and calls `accept(row, value)` for each value that is fine, parents
/// before children. Findings EV110 to EV114 go to `findings`.
void read_fields(const std::vector<const FieldInfo*>& rows, const Document& document,
                 const std::function<void(std::size_t row, const Node& value)>& accept,
                 std::vector<text::Finding>& findings);

template <class T>
void read_into(T& into, std::span<const Field<T>> fields, const Document& document,
               std::vector<text::Finding>& findings) {
    std::vector<const FieldInfo*> rows;
    for (const auto& field : fields) rows.push_back(&field.info);
    read_fields(
        rows, document,
        [&](std::size_t row, const Node& value) {
            if (fields[row].set != nullptr) fields[row].set(into, value);
        },
        findings);
}

/// All field tables, for `explain`: the document they belong to and their rows.
struct FieldTable {
    std::string_view document;  // "module", "workspace", "card"
    std::vector<const FieldInfo*> rows;
};
[[nodiscard]] std::vector<FieldTable> field_tables();

}  // namespace envar::model
