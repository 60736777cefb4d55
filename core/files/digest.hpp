// SHA-256 of bytes, as lower-case hexadecimal (FIPS 180-4, by OpenSSL).
#pragma once

#include <string>
#include <string_view>

namespace envar::files {

/// 64 hexadecimal digits.
[[nodiscard]] std::string sha256(std::string_view bytes);

}  // namespace envar::files
