// Where the statements of a TOML text lie, byte by byte, whether or not the whole text is valid.
//
// This is the ground that edits stand on: it knows keys, strings, brackets and comments, and nothing of what
// values mean. Linear in the size of the text.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::model {

enum class StatementKind { blank, comment, table, table_array, assignment, unclear };

struct Statement {
    StatementKind kind = StatementKind::blank;
    text::Span whole;               // from the start of its line, line end included
    std::vector<std::string> path;  // the parts of the header or of the key
    text::Span key;                 // the header with its brackets, or the key
    text::Span value;               // of an assignment
};

/// Statements in order; together they cover the text without a gap.
[[nodiscard]] std::vector<Statement> toml_layout(std::string_view text);

/// An element of a list as it is written, and the comma behind it when there is one.
struct ListItem {
    text::Span value;
    std::optional<std::size_t> comma;
};

/// The elements of the list whose brackets `list` spans, in order.
[[nodiscard]] std::vector<ListItem> list_layout(std::string_view text, text::Span list);

/// The text as a TOML basic string with quotes.
[[nodiscard]] std::string toml_string(std::string_view text);

/// The key as it must be written: bare where that is possible, else quoted.
[[nodiscard]] std::string toml_key(std::string_view key);

}  // namespace envar::model
