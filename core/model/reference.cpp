#include "core/model/reference.hpp"

#include <fmt/format.h>

#include "core/model/fields.hpp"
#include "core/model/limits.hpp"

namespace envar::model {
namespace {

/// Text for a cell of a table.
std::string cell(std::string_view text) {
    std::string out;
    for (const char c : text) out += c == '|' ? std::string("\\|") : std::string(1, c);
    return out;
}

std::string code(std::string_view text) { return text.empty() ? "" : fmt::format("`{}`", cell(text)); }

std::string what_it_is(const Field& field) {
    std::string out(field.help);
    if (!field.values.empty()) {
        out += "; one of ";
        for (std::size_t i = 0; i < field.values.size(); ++i)
            out += fmt::format("{}`{}`", i == 0 ? "" : ", ", field.values[i]);
    }
    return cell(out);
}

void append_rows(std::string& out, const Fields& fields, const std::string& before) {
    for (const Field& field : fields) {
        const std::string key = before + std::string(field.key);
        out += fmt::format("| `{}` | {} | {} | {} | {} |\n", key, type_name(field.type), what_it_is(field),
                           field.required ? "**required**" : code(field.preset),
                           code(fmt::format("{} = {}", field.key, field.example)));
        if (field.fields != nullptr) append_rows(out, *field.fields, key + ".");
    }
}

void append_table(std::string& out, const Field& table) {
    const bool list = table.type == Type::tables;
    out += fmt::format("\n### `{}{}{}`\n\n{}{}.\n\n", list ? "[[" : "[", table.key, list ? "]]" : "]",
                       static_cast<char>(table.help.front() - 'a' + 'A'), table.help.substr(1));
    out += "| key | type | what it is | default | example |\n|---|---|---|---|---|\n";
    append_rows(out, *table.fields, "");
}

}  // namespace

std::string reference_page() {
    std::string out =
        "# Reference of all fields\n\n"
        "Made from the field tables by `envar explain --page`; do not edit. The same is told by `envar explain FIELD`,\n"
        "and editors get it as JSON Schema from `envar schema`.\n";
    for (const FieldTable& document : field_tables()) {
        out += fmt::format("\n## {}{}: `{}`\n", static_cast<char>(document.title.front() - 'a' + 'A'),
                           document.title.substr(1), document.file);
        for (const Field& table : *document.fields) append_table(out, table);
    }
    out += fmt::format(
        "\n## Limits\n\nWhat goes beyond a limit is a finding (EV104, EV105) and is not read.\n\n"
        "| limit | of what |\n|---|---|\n| {} | bytes of a file |\n| {} | parts of a dotted key or table header |\n"
        "| {} | lists and inline tables within each other |\n| {} | elements of a list, of values or of tables |\n"
        "| {} | bytes of a name, or of one part of a path |\n| {} | syntax errors told of one file |\n",
        largest_document, deepest_key, deepest_value, longest_list, longest_name, most_syntax_errors);
    return out;
}

}  // namespace envar::model
