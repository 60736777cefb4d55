// What C and C++ files say of other files and of themselves, without compiling them: includes, the include guard,
// macros, namespaces.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/model/card.hpp"

namespace envar::members {

struct Include {
    std::string name;  // as it is written between the quotes or brackets
    bool angled = false;
    bool conditional = false;  // under an #if that is neither the guard nor about __cplusplus
    text::Span span;           // of the name
};

struct NamedPlace {
    std::string name;
    text::Span span;
};

struct CodeFacts {
    std::vector<Include> includes;
    NamedPlace guard;                    // empty name: there is none
    std::vector<NamedPlace> macros;      // defined whatever holds, without the guard, each once
    std::vector<NamedPlace> namespaces;  // outermost ones, each once, without unnamed ones
    std::vector<NamedPlace> words;       // identifiers of the code, each once, at their first place
};

/// Continued lines are joined; comments, strings and raw strings are passed over; what stands under `#if 0` does not
/// count. Linear in the text.
[[nodiscard]] CodeFacts scan_code(std::string_view text);

}  // namespace envar::members
