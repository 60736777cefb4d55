// Values of document nodes as the setters of field tables want them.
#pragma once

#include <string>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/manifest.hpp"

namespace envar::model {

/// A text with its place.
inline Word word(const Node& node) { return {node.text, node.span}; }

/// The texts of a list with their places.
inline std::vector<Word> words(const Node& list) {
    std::vector<Word> out;
    for (const Node& item : list.items) out.push_back(word(item));
    return out;
}

/// The texts of a list.
inline std::vector<std::string> texts(const Node& list) {
    std::vector<std::string> out;
    for (const Node& item : list.items) out.push_back(item.text);
    return out;
}

}  // namespace envar::model
