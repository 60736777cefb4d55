// The modules that a script asks for.
#pragma once

#include <string_view>
#include <vector>

#include "core/members/includes.hpp"
#include "core/members/scan.hpp"

namespace envar::members {

/// Modules that a script asks for by its card's import pattern, in its code.
[[nodiscard]] std::vector<NamedPlace> scan_imports(std::string_view text, const Patterns& patterns);

}  // namespace envar::members
