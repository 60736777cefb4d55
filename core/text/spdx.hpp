// SPDX licence expressions (SPDX specification 2.3, annex D): identifiers joined by AND, OR and WITH.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>

namespace envar::text {

struct LicenseError {
    std::size_t begin = 0;  // bytes in the expression
    std::size_t end = 0;
    std::string message;
    std::string hint;
};

/// What is wrong with the expression, or nothing. Identifiers are not looked up in the licence list, but common
/// ways to write a licence that are no identifiers ("Apache 2", "GPLv3") are told with the right one.
[[nodiscard]] std::optional<LicenseError> license_error(std::string_view expression);

}  // namespace envar::text
