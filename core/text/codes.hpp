// The table of finding codes: the one place that says what a code means, how grave it is, and what
// `envar explain CODE` prints.
//
// EV1xx documents and fields · EV2xx names and layout · EV3xx dependencies · EV4xx search path ·
// EV5xx generated files · EV6xx lock and load order · EV7xx members · EV8xx cards
#pragma once

#include <span>
#include <string_view>

#include "core/text/finding.hpp"

namespace envar::text {

struct Code {
    std::string_view code;
    Severity severity;
    std::string_view title;        // one line, lower case
    std::string_view explanation;  // why it matters and what to do; plain paragraphs
    std::string_view example;      // text that brings the finding about and how it is mended
};

/// All codes in ascending order.
[[nodiscard]] std::span<const Code> codes();

/// The row of a code, or null.
[[nodiscard]] const Code* find_code(std::string_view code);

/// Severity of a code; an unknown code counts as an error.
[[nodiscard]] Severity code_severity(std::string_view code);

}  // namespace envar::text
