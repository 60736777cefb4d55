// One run of a host: its modules are loaded in a folder of their own, by the card's probe.
#pragma once

#include <string>
#include <vector>

#include "core/trial/trial.hpp"

namespace envar::trial {

/// Takes the modules in the orders in which they may be loaded, the first being the likely one. Fails when the host
/// is not installed or cannot be started.
[[nodiscard]] text::Result<HostTrial> run_host(const Settings& settings, const model::Card& card,
                                               std::vector<std::vector<std::string>> sequences);

}  // namespace envar::trial
