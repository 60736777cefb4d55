// Members as they are written on the command line: `place(magnitude:number, epoch=J2000)`.
#pragma once

#include <string_view>

#include "core/model/manifest.hpp"
#include "core/text/failure.hpp"

namespace envar::life {

/// NAME, or NAME(PARAMETER, …) with PARAMETER = NAME[:TYPE][=DEFAULT]; a parameter with a default is not required.
/// A default that reads as a number, or as true or false, is one; everything else is text.
[[nodiscard]] text::Result<model::Member> parse_signature(std::string_view text);

/// A value as it is written without quotes: what reads as a number, or as true or false, is one.
[[nodiscard]] model::Scalar scalar(std::string_view text);

}  // namespace envar::life
