// Versions as hosts that choose by them compare: any count of numbers between dots, in which an `a` (alpha) or a `b`
// (beta) may stand for a dot, as in 1.2, 1.10.3 and 2.0b1. Order of Tcl's `package vcompare`.
#pragma once

#include <string>

namespace envar::versions {

[[nodiscard]] bool is_loose_version(const std::string& text);

/// Whether a host takes `a` rather than `b`: any version before none, what is stable before what is not, then what is
/// higher. False for equals.
[[nodiscard]] bool preferred(const std::string& a, const std::string& b);

}  // namespace envar::versions
