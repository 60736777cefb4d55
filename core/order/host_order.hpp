// The order in which a host will really load modules, where it has a rule of its own and does not go by what is
// written down for it.
//
// The rule `last_ready_first`, found by running the host and compared with it in the tests: modules are lined up by
// the folders they lie in, those in groups before all others. Those that need nothing are put on a stack. The top one
// is taken off and loaded; whatever then has all that it needs goes onto the stack, in the line's order. Wishes
// (`after`, optional needs) count as needs as soon as the other is there. What never gets all it needs is dropped.
#pragma once

#include <vector>

#include "core/order/order.hpp"

namespace envar::order {

/// Load order with the modules of `card` in the host's own sequence; modules of other hosts are left out. What the
/// host drops is in `skipped`; circles and missing modules are as in `load_order`. `notes` tell where the rule is not
/// known.
[[nodiscard]] Order host_order(const resolve::Question& question, const model::Card& card);

/// All orders that may be the host's, that one first: several where nobody knows in which order it goes through its
/// search folders. Of more than four such folders, only the first.
[[nodiscard]] std::vector<Order> host_orders(const resolve::Question& question, const model::Card& card);

}  // namespace envar::order
