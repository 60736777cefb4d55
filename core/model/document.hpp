// A TOML document as a tree whose every key and value knows its place in the text, in file order.
//
// A text with syntax errors is read as far as it goes: what is wrong is told, and the rest is there.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/limits.hpp"
#include "core/text/finding.hpp"

namespace envar::model {

enum class NodeKind { text, integer, number, boolean, time, list, table };

struct Entry;

struct Node {
    NodeKind kind = NodeKind::table;
    text::Span span;   // the value; of a [table] its header
    std::string text;  // a text's content; a number or a time as it is written
    std::int64_t integer = 0;
    bool boolean = false;
    std::vector<Node> items;     // of a list
    std::vector<Entry> entries;  // of a table, in file order

    /// The value of a key of this table, or null.
    [[nodiscard]] const Node* find(std::string_view key) const;
};

struct Entry {
    std::string key;
    text::Span key_span;
    Node value;
};

[[nodiscard]] std::string_view kind_name(NodeKind kind);

/// What a syntax error took away: a key of a table, or all of the table when the key is not known.
struct Lost {
    std::string table;  // its path joined by '.', of a list of tables that of the list
    std::string key;
};

struct Document {
    text::Source source;
    Node root;
    bool valid = false;     // no syntax error
    bool readable = false;  // `root` holds what could be read: all of it, or what syntax errors left
    bool tested = false;    // patterns in it are known to be fine
    std::vector<Lost> lost;
    std::vector<text::Finding> findings;
};

/// Reads TOML text. A statement with a syntax error is left out and reading goes on behind it.
/// Findings: EV102 (syntax), EV103 (not UTF-8), EV104 (too large), EV105 (nested too deeply).
[[nodiscard]] Document parse_document(text::Source source, std::size_t limit = largest_document);

}  // namespace envar::model
