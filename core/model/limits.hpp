// Limits that keep hostile files harmless. They are far above what anyone writes by hand; what goes beyond one is
// a finding, never a crash, and `envar explain limits` prints them.
#pragma once

#include <cstddef>

namespace envar::model {

inline constexpr std::size_t largest_document = std::size_t{1} << 20U;  // bytes of one file
inline constexpr std::size_t deepest_key = 16;                          // parts of one dotted key or header
inline constexpr std::size_t deepest_value = 64;                        // lists and inline tables within each other
inline constexpr std::size_t longest_list = 10000;                      // elements of one list, of values or tables
inline constexpr std::size_t longest_name = 255;                        // bytes of a name or of one part of a path
inline constexpr std::size_t most_syntax_errors = 20;                   // told of one file

}  // namespace envar::model
