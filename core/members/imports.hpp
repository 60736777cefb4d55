// The modules that a script asks for.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/members/scan.hpp"

namespace envar::members {

struct Import {
    std::string name;
    text::Span span;
    bool later = false;  // not at the file's own level: when a function runs, or on some condition
};

/// Modules that a script asks for by its card's import pattern, in its code.
[[nodiscard]] std::vector<Import> scan_imports(std::string_view text, const Patterns& patterns);

}  // namespace envar::members
