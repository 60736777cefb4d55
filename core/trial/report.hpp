// Reading what a probe reported.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace envar::trial {

using Record = std::vector<std::string>;  // the first field is the kind

/// Records in order; a last one that was cut off is dropped. At most 100,000 are read.
[[nodiscard]] std::vector<Record> read_report(std::string_view text);

}  // namespace envar::trial
