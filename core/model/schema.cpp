#include "core/model/schema.hpp"

#include <fmt/format.h>

#include <cstdlib>
#include <nlohmann/json.hpp>

#include "core/files/read.hpp"
#include "core/model/field_values.hpp"
#include "core/model/limits.hpp"

namespace envar::model {
namespace {

using nlohmann::ordered_json;
namespace fs = std::filesystem;

constexpr std::string_view lead = "#:schema";

ordered_json json_of(const Node& node) {
    switch (node.kind) {
        case NodeKind::integer:
            return node.integer;
        case NodeKind::number:
            return std::strtod(node.text.c_str(), nullptr);
        case NodeKind::boolean:
            return node.boolean;
        case NodeKind::list: {
            ordered_json list = ordered_json::array();
            for (const Node& item : node.items) list.push_back(json_of(item));
            return list;
        }
        case NodeKind::table: {
            ordered_json table = ordered_json::object();
            for (const Entry& entry : node.entries) table[entry.key] = json_of(entry.value);
            return table;
        }
        default:
            return node.text;
    }
}

/// A TOML value as JSON.
ordered_json value_of(std::string_view toml) {
    const Document document = parse_document(text::Source("", fmt::format("x = {}\n", toml)));
    const Node* node = document.root.find("x");
    return node == nullptr ? ordered_json() : json_of(*node);
}

ordered_json table_schema(const Fields& fields);

ordered_json text_schema(const Field& field) {
    ordered_json schema = {{"type", "string"}};
    if (!field.values.empty()) schema["enum"] = field.values;
    // Some validators let `$` match before a last line end; a look-ahead keeps them from it.
    if (std::string pattern(type_info(field.type).pattern); !pattern.empty())
        schema["pattern"] = pattern.insert(pattern.size() - 1, "(?!\\n)");
    if (field.type == Type::name || field.type == Type::names) schema["maxLength"] = longest_name;
    return schema;
}

ordered_json list_schema(const ordered_json& items) {
    return {{"type", "array"}, {"items", items}, {"maxItems", longest_list}};
}

ordered_json type_schema(const Field& field) {
    switch (field.type) {
        case Type::boolean:
            return {{"type", "boolean"}};
        case Type::integer:
            return {{"type", "integer"}};
        case Type::number:
            return {{"type", "number"}};
        case Type::any:
            return {{"type", {"string", "number", "boolean", "array"}}};
        case Type::texts:
        case Type::names:
        case Type::inner_paths:
            return list_schema(text_schema(field));
        case Type::pairs:
            return list_schema(
                {{"type", "array"}, {"items", {{"type", "string"}}}, {"minItems", 2}, {"maxItems", 2}});
        case Type::table:
            return table_schema(*field.fields);
        case Type::tables:
            return list_schema(table_schema(*field.fields));
        default:
            return text_schema(field);
    }
}

ordered_json field_schema(const Field& field) {
    ordered_json schema = {{"description", field.help}};
    schema.update(type_schema(field));
    if (!field.preset.empty()) schema["default"] = value_of(field.preset);
    schema["examples"] = ordered_json::array({value_of(field.example)});
    return schema;
}

ordered_json table_schema(const Fields& fields) {
    ordered_json properties = ordered_json::object();
    ordered_json required = ordered_json::array();
    for (const Field& field : fields) {
        properties[std::string(field.key)] = field_schema(field);
        if (field.required) required.push_back(field.key);
    }
    ordered_json schema = {{"type", "object"}, {"properties", properties}, {"additionalProperties", false}};
    if (!required.empty()) schema["required"] = required;
    return schema;
}

}  // namespace

std::string schema_text(const FieldTable& table) {
    ordered_json schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                           {"$id", fmt::format("urn:envar:schema:{}", table.document)},
                           {"title", fmt::format("Envar {}", table.title)},
                           {"description", fmt::format("{}: made from Envar's field table.", table.file)}};
    schema.update(table_schema(*table.fields));
    return schema.dump(2) + "\n";
}

std::string schema_place(std::string_view document) { return fmt::format(".envar/schema/{}.schema.json", document); }

void add_schemas(files::Plan& plan) {
    for (const FieldTable& table : field_tables()) {
        const fs::path path = plan.root / schema_place(table.document);
        auto there = files::read_file(path, largest_document);
        plan.add({path, there ? std::optional(*there) : std::nullopt, schema_text(table),
                  fmt::format("schema of the {}, for editors", table.title)});
    }
    plan.drop_idle();
}

std::string schema_directive(const fs::path& root, const fs::path& folder, std::string_view document) {
    const fs::path path =
        (root / schema_place(document)).lexically_normal().lexically_relative(folder.lexically_normal());
    return fmt::format("{} {}\n", lead, path.generic_string());
}

std::optional<WrittenDirective> written_directive(std::string_view text) {
    const std::size_t start = text.substr(0, 3) == "\xEF\xBB\xBF" ? 3 : 0;
    if (text.substr(start, lead.size()) != lead) return std::nullopt;
    const std::size_t end = std::min(text.find('\n', start), text.size());
    const std::size_t begin = text.find_first_not_of(" \t", start + lead.size());
    WrittenDirective written;
    written.line = {start, std::min(end + 1, text.size())};
    if (begin == std::string_view::npos || begin >= end) return written;
    std::size_t last = end;
    while (last > begin && (text[last - 1] == '\r' || text[last - 1] == ' ' || text[last - 1] == '\t')) --last;
    written.path_span = {begin, last};
    written.path = text.substr(begin, last - begin);
    return written;
}

std::string with_directive(const std::string& text, const std::string& directive) {
    std::string out = text;
    const auto written = written_directive(text);
    if (written && !written->path.empty())
        return out.replace(written->path_span.begin, written->path_span.end - written->path_span.begin,
                           directive.substr(lead.size() + 1, directive.size() - lead.size() - 2));
    const bool mark = text.substr(0, 3) == "\xEF\xBB\xBF";
    const std::size_t first = text.find('\n');
    const bool crlf = first != std::string::npos && first > 0 && text[first - 1] == '\r';
    std::string line = directive;
    if (crlf) line.insert(line.size() - 1, "\r");
    if (written) return out.replace(written->line.begin, written->line.end - written->line.begin, line);
    return out.insert(mark ? 3 : 0, line);
}

}  // namespace envar::model
