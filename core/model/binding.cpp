#include "core/model/binding.hpp"

#include <algorithm>

#include "core/model/toml_layout.hpp"

namespace envar::model {
namespace {

bool is_bare_type(NodeKind kind) {
    return kind == NodeKind::integer || kind == NodeKind::number || kind == NodeKind::boolean ||
           kind == NodeKind::list;
}

std::string list_of(const std::vector<std::string>& items) {
    if (items.empty()) return "";
    std::string out = "[";
    for (const auto& item : items) out += (out.size() > 1 ? ", " : "") + item;
    return out + "]";
}

}  // namespace

std::size_t word_index(const Field& field, const Node& value) {
    const auto found = std::find(field.values.begin(), field.values.end(), value.text);
    return found == field.values.end() ? 0 : static_cast<std::size_t>(found - field.values.begin());
}

void assign(std::string& into, const Field& /*field*/, const Node& value) { into = value.text; }
void assign(Word& into, const Field& /*field*/, const Node& value) { into = {value.text, value.span}; }
void assign(std::int64_t& into, const Field& /*field*/, const Node& value) { into = value.integer; }
void assign(Scalar& into, const Field& /*field*/, const Node& value) { into = {value.kind, value.text, value.span}; }

/// A word stands for true when it is the last of the field's values.
void assign(bool& into, const Field& field, const Node& value) {
    into = field.type == Type::word ? value.text == field.values.back() : value.boolean;
}

void assign(std::vector<std::string>& into, const Field& /*field*/, const Node& value) {
    into.clear();
    for (const Node& item : value.items) into.push_back(item.text);
}

void assign(std::vector<Word>& into, const Field& /*field*/, const Node& value) {
    into.clear();
    for (const Node& item : value.items) into.push_back({item.text, item.span});
}

void assign(Pairs& into, const Field& /*field*/, const Node& value) {
    into.clear();
    for (const Node& item : value.items) into.emplace_back(item.items.at(0).text, item.items.at(1).text);
}

void assign(versions::Requirement& into, const Field& /*field*/, const Node& value) {
    if (auto parsed = versions::parse_requirement(value.text)) into = std::move(*parsed);
}

std::string as_toml(const std::string& value, const Field& /*field*/) {
    return value.empty() ? "" : toml_string(value);
}
std::string as_toml(const Word& value, const Field& field) { return as_toml(value.value, field); }
std::string as_toml(std::int64_t value, const Field& /*field*/) { return std::to_string(value); }
std::string as_toml(const versions::Requirement& value, const Field& field) { return as_toml(value.text, field); }

std::string as_toml(bool value, const Field& field) {
    if (field.type != Type::word) return value ? "true" : "false";
    if (value) return toml_string(field.values.back());
    return field.values.size() > 1 ? toml_string(field.values.front()) : "";
}

std::string as_toml(const Scalar& value, const Field& /*field*/) {
    if (!value.given()) return "";
    return is_bare_type(value.kind) ? value.text : toml_string(value.text);
}

std::string as_toml(const std::vector<std::string>& value, const Field& /*field*/) {
    std::vector<std::string> items;
    items.reserve(value.size());
    for (const auto& item : value) items.push_back(toml_string(item));
    return list_of(items);
}

std::string as_toml(const std::vector<Word>& value, const Field& /*field*/) {
    std::vector<std::string> items;
    items.reserve(value.size());
    for (const auto& item : value) items.push_back(toml_string(item.value));
    return list_of(items);
}

std::string as_toml(const Pairs& value, const Field& /*field*/) {
    std::vector<std::string> items;
    for (const auto& [first, second] : value)
        items.push_back("[" + toml_string(first) + ", " + toml_string(second) + "]");
    return list_of(items);
}

}  // namespace envar::model
