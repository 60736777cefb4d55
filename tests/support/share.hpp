// How much of a long test is done.
#pragma once

#include <cstddef>

namespace envar::testing {

// Under the sanitizers every step is watched, and a twentieth is enough.
#ifdef ENVAR_SANITIZED
inline constexpr std::size_t share = 20;
#else
inline constexpr std::size_t share = 1;
#endif

}  // namespace envar::testing
