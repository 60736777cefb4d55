// Numbers for texts, for tables and for telling lines apart. Not for trust: see files/digest.hpp for that.
#pragma once

#define XXH_INLINE_ALL
#include <xxhash.h>

#include <cstdint>
#include <string_view>

namespace envar::text {

/// The same in every run and on every machine.
[[nodiscard]] inline std::uint64_t hash_of(std::string_view text) { return XXH3_64bits(text.data(), text.size()); }

}  // namespace envar::text
