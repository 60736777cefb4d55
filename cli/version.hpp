// Envar's own version.
#pragma once

#include <string_view>

namespace envar::cli {

inline constexpr std::string_view version = "0.1.0";

}  // namespace envar::cli
