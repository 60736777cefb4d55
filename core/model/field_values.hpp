// What a value must look like, type by type: the rules of the reader, and the same as far as JSON Schema can say
// them.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/fields.hpp"

namespace envar::model {

struct TypeInfo {
    Type type;
    std::string_view name;     // "a version in quotes"
    NodeKind kind;             // what TOML makes of it; `any` and `number` are wider
    std::string_view pattern;  // ECMA 262 of the text or of each element; wider than the rule where it must be
};
[[nodiscard]] const TypeInfo& type_info(Type type);

struct ValueProblem {
    std::string_view code;
    std::string message;
    std::string hint;
    text::Span part = {};  // within the text, when known
};

/// What is wrong with a text of the field's type (of a list: with one of its elements), or nothing. Findings
/// EV105, EV113, EV114, EV116, EV204, EV801.
[[nodiscard]] std::optional<ValueProblem> text_problem(const Field& field, std::string_view key,
                                                       const std::string& value);

/// Whether a field for names takes it.
[[nodiscard]] bool is_name(const std::string& value);

/// Tabs are fine; whatever else a terminal would obey is not.
[[nodiscard]] bool has_control_character(std::string_view value);

/// "`a`, `b` or `c`".
[[nodiscard]] std::string listed(const std::vector<std::string_view>& values);

/// The value, printable and shortened, in ticks.
[[nodiscard]] std::string ticked(std::string_view value);

}  // namespace envar::model
