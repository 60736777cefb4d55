// TOML text as a tree of nodes with their places. toml++ does the reading; it is seen by toml_reader.cpp alone.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>

#include "core/model/document.hpp"

namespace envar::model {

/// The parser's complaint.
struct SyntaxError {
    std::size_t at = 0;       // byte in the text; npos when the parser tripped over itself
    std::string description;  // in the parser's words; then empty
};

/// Reads `text`, which is the source's own or has parts of it blanked out, into `root`. On failure `root` is left
/// as it was.
[[nodiscard]] std::optional<SyntaxError> read_toml(const text::Source& source, std::string_view text, Node& root);

}  // namespace envar::model
