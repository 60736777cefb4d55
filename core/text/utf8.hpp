// UTF-8: the only text encoding Envar reads and writes.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>

namespace envar::text {

/// Byte offset of the first byte that is not part of well-formed UTF-8 (no surrogates, no overlong forms),
/// or nothing when all of `text` is well formed.
[[nodiscard]] std::optional<std::size_t> first_invalid_utf8(std::string_view text);

/// Number of code points in well-formed `text`; stray continuation bytes count as nothing.
[[nodiscard]] std::size_t count_code_points(std::string_view text);

/// `text` with every control character shown as `\n`, `\t` or `\xHH`, and every malformed byte as `\xHH`,
/// so that it can stand in a one-line message on a terminal.
[[nodiscard]] std::string printable(std::string_view text);

/// `text` shortened to at most `limit` code points, ending in "..." when something was cut.
[[nodiscard]] std::string shortened(std::string_view text, std::size_t limit);

}  // namespace envar::text
