// The trial of native modules: each is configured, built, tested and installed from its emitted descriptors, in a
// folder of its own outside the source tree, against the modules that were installed before it; then a small
// project finds it by name and version, and its fronts are started.
#pragma once

#include <string>
#include <vector>

#include "core/files/sandbox.hpp"
#include "core/trial/trial.hpp"

namespace envar::trial {

/// Takes the modules in the order given. Fails when the build system is not installed; what went wrong in a build is
/// in the result.
[[nodiscard]] text::Result<HostTrial> run_build(const Settings& settings, const model::Card& card,
                                                const std::vector<std::string>& names);

/// Builds modules by the steps of a card and installs them into the folder `prefix` of the sandbox, for a host that
/// is run afterwards.
[[nodiscard]] text::Result<std::vector<ModuleTrial>> install_modules(const Settings& settings,
                                                                     const model::Card& card,
                                                                     const std::vector<std::string>& names,
                                                                     const files::Sandbox& sandbox);

/// The place in the manifest that a build system's message speaks of, as `FILE:LINE: what`: the dependency, source,
/// header or front that it names. Empty when it names none.
[[nodiscard]] std::string place_to_blame(const model::Module& module, const std::string& message);

}  // namespace envar::trial
