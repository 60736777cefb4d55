// Findings as SARIF 2.1.0 (OASIS standard), for tools that collect the results of checks.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::check {

/// One run with one result a finding and one rule for every code there is. Files are relative to the workspace;
/// columns count code points. JSON text with a line end.
[[nodiscard]] std::string sarif(const std::vector<text::Finding>& findings, std::string_view program_version);

}  // namespace envar::check
