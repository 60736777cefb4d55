// A TOML document as a tree whose every key and value knows its place in the text, in file order.
//
// toml++ does the reading; it is seen by document.cpp alone.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::model {

enum class NodeKind { text, integer, number, boolean, time, list, table };

struct Entry;

struct Node {
    NodeKind kind = NodeKind::table;
    text::Span span;  // the value; of a [table] its header
    std::string text;
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

/// Limits that keep hostile files harmless.
inline constexpr std::size_t largest_document = std::size_t{1} << 20U;  // bytes
inline constexpr std::size_t deepest_key = 16;                          // parts of one dotted key or header

struct Document {
    text::Source source;
    Node root;
    bool valid = false;  // false: `root` is empty and `findings` says why
    std::vector<text::Finding> findings;
};

/// Reads TOML text. Findings: EV102 (syntax), EV103 (not UTF-8), EV104 (too large).
[[nodiscard]] Document parse_document(text::Source source);

}  // namespace envar::model
