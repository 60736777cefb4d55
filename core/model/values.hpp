// What fields are read into besides the types of the language: values that know their place in the file.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/model/document.hpp"
#include "core/versions/requirement.hpp"

namespace envar::model {

/// A text and its place in the file.
struct Word {
    std::string value;
    text::Span span;
};

/// A value of a type that the file chooses, such as a default; `kind` is `table` when there is none.
struct Scalar {
    NodeKind kind = NodeKind::table;
    std::string text;  // a text's content, anything else as it is written
    text::Span span;
    [[nodiscard]] bool given() const { return kind != NodeKind::table; }
};

using Pairs = std::vector<std::pair<std::string, std::string>>;

}  // namespace envar::model
