// The machinery of field tables. One row says everything that is known of a field; reading, validation, writing,
// the JSON Schema, `envar explain FIELD` and the reference page are all made from the rows.
//
// A row is bound to a member of the struct that its table is read into, so that a field's C++ type and its place
// in a file stand side by side and nowhere else.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/model/document.hpp"

namespace envar::model {

enum class Type {
    text,         // any text
    line,         // text without line ends
    word,         // one of `values`
    name,         // a module, host, target or platform name; what it must look like is the card's business
    version,      // in one of the schemes of versions/version.hpp; which one is the card's business
    requirement,  // versions/requirement.hpp
    identity,     // UUID
    license,      // SPDX licence expression, text/spdx.hpp
    inner_path,   // relative path with '/' that stays inside
    pattern,      // RE2
    boolean,
    integer,
    number,       // whole or with a fraction
    texts,        // list of texts
    names,        // list of names
    inner_paths,  // list of relative paths that stay inside
    pairs,        // list of lists of two texts
    any,          // text, number, true or false, or a list
    table,
    tables,  // list of tables
};

struct Field;
using Fields = std::vector<Field>;  // of one table, in the order in which they are shown and written

/// How values get into the struct behind a table and out of it again. Null functions: the value is only checked.
struct Binding {
    void (*set)(void* owner, const Field& field, const Node& value) = nullptr;
    /// The value as TOML, or nothing when it is unset.
    std::string (*get)(const void* owner, const Field& field) = nullptr;
    /// Of a table: the struct it is read into. Of a list of tables: a new element of it.
    void* (*enter)(void* owner, const Node& value) = nullptr;
    /// Of a table or a list of tables: the structs that are there.
    std::vector<const void*> (*elements)(const void* owner) = nullptr;
};

struct Field {
    std::string_view key;
    Type type = Type::text;
    bool required = false;
    std::vector<std::string_view> values = {};    // of a word; for a bool the first stands for false
    std::string_view preset = "";                 // what holds when the field is left out, as TOML
    std::string_view help = "";                   // one line
    std::string_view example = "";                // as TOML value
    std::vector<std::string_view> synonyms = {};  // what people write instead
    Binding bound = {};
    const Fields* fields = nullptr;    // of a table or a list of tables
    std::string_view since = "0.1.0";  // version of Envar
};

/// "a relative path in quotes".
[[nodiscard]] std::string_view type_name(Type type);

/// Validates `document` against the table of its root and puts what is fine into `root`, the struct behind it.
/// Findings EV105 and EV110 to EV115 go to `findings`.
void read_fields(const Fields& fields, void* root, const Document& document, std::vector<text::Finding>& findings);

/// The set fields of one table as keys and TOML values in the table's order. A field that holds its preset is
/// left out unless it is required. Tables within become inline tables, lists of them too.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> assignments_of(const Fields& fields,
                                                                              const void* owner);

/// The same as an inline table: `{ module = "sidereal", versions = ">=1" }`; empty when no field is set.
[[nodiscard]] std::string inline_table(const Fields& fields, const void* owner);

/// A whole document: a header and its keys for each table, in the table's order.
[[nodiscard]] std::string document_text(const Fields& fields, const void* root);

/// The row of a key that is known to be there.
[[nodiscard]] const Field& field_of(const Fields& fields, std::string_view key);

/// A kind of document and the table of its root.
struct FieldTable {
    std::string_view document;  // "module", "workspace", "card"
    std::string_view title;     // "module manifest"
    std::string_view file;      // "module.envar.toml"
    const Fields* fields = nullptr;
};
[[nodiscard]] const std::vector<FieldTable>& field_tables();

/// Visits every row of a table and of those within, a table before its fields. The path is the keys joined by
/// '.': "dependency.when.platform".
void visit_fields(const Fields& fields,
                  const std::function<void(const std::string& path, const Field& field)>& visit);

}  // namespace envar::model
