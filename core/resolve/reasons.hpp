// A minimal core in brief, for saying why something was not taken.
#pragma once

#include <string>
#include <vector>

#include "core/resolve/explain.hpp"

namespace envar::resolve {

/// Only what modules and pins ask for, without what each leaves; the roots where there is nothing else to say.
[[nodiscard]] std::vector<std::string> reasons_for(const Universe& universe, const Demand& demand,
                                                   const std::vector<Tag>& core);

}  // namespace envar::resolve
