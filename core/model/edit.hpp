// Edits of TOML text that leave every other byte as it is: comments, order, blank lines, line ends.
//
// Each edit takes the whole text and gives the new one. A table is named by its dotted header; of an array of
// tables, `index` counts its elements from 0. Values are given as TOML. What an edit has added its inverse takes
// out again, and the text is the same to the byte.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/model/document.hpp"
#include "core/text/failure.hpp"
#include "core/text/finding.hpp"

namespace envar::model {

using Assignments = std::vector<std::pair<std::string, std::string>>;  // key → TOML value

/// Appends `[[name]]` with its assignments behind the last element of that array, or at the end of the text.
[[nodiscard]] std::string append_element(const std::string& text, std::string_view name, const Assignments& body);
/// The same for several, in their order, at the cost of one.
[[nodiscard]] std::string append_elements(const std::string& text, std::string_view name,
                                          const std::vector<Assignments>& bodies);

/// Appends `[name]` with its assignments at the end of the text. There must be no such table yet.
[[nodiscard]] std::string append_table(const std::string& text, std::string_view name, const Assignments& body);

/// Takes a table's (index 0) or an element's own lines out: header, keys and what belongs to its sub-tables. Comments
/// stay.
[[nodiscard]] text::Result<std::string> remove_element(const std::string& text, std::string_view name,
                                                       std::size_t index);
/// The same for several elements.
[[nodiscard]] text::Result<std::string> remove_elements(const std::string& text, std::string_view name,
                                                        const std::vector<std::size_t>& indexes);

/// Puts the elements of an array of tables into another order: `order[i]` is the present index of the one that comes
/// i-th. What stands right above an element goes along; what lies between two stays there.
[[nodiscard]] text::Result<std::string> reorder_elements(const std::string& text, std::string_view name,
                                                         const std::vector<std::size_t>& order);

/// Changes the key's value, or adds the key behind the table's last one.
[[nodiscard]] text::Result<std::string> set_key(const std::string& text, std::string_view table, std::size_t index,
                                                std::string_view key, std::string_view value);

/// Takes the key's lines out; fine when it is not there.
[[nodiscard]] text::Result<std::string> remove_key(const std::string& text, std::string_view table, std::size_t index,
                                                   std::string_view key);

/// Turns the keys `before` of a table into the keys `after`: what is the same in both is not touched.
[[nodiscard]] text::Result<std::string> change_keys(const std::string& text, std::string_view table,
                                                    std::size_t index, const Assignments& before,
                                                    const Assignments& after);

/// The same for elements of an array of tables, each named once.
struct ElementChange {
    std::size_t index = 0;
    Assignments before, after;
};
[[nodiscard]] text::Result<std::string> change_elements(const std::string& text, std::string_view name,
                                                        const std::vector<ElementChange>& changes);

/// The same for an inline table as it was read from the text.
[[nodiscard]] std::string change_inline_keys(const std::string& text, const Node& table, const Assignments& before,
                                             const Assignments& after);

/// Adds an element to the list whose brackets `list` spans, behind its last element.
[[nodiscard]] std::string append_to_list(const std::string& text, text::Span list, std::string_view value);

/// Takes an element out of a list, with the comma that belongs to it.
[[nodiscard]] std::string remove_from_list(const std::string& text, text::Span list, text::Span element);

}  // namespace envar::model
