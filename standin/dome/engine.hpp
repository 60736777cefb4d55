// Loads the modules of a plan, starts them phase by phase, stops them in reverse.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "standin/dome/plan.hpp"

namespace dome {

/// One module that was started.
struct Loaded {
    std::string module;
    std::string version;
    std::string phase;
    std::filesystem::path folder;
    std::filesystem::path descriptor;
    std::filesystem::path library;
    std::vector<std::string> assets;
    std::vector<std::string> said;
    double milliseconds = 0;  // from finding it to the end of its start hook
};

/// What one round did.
struct Round {
    std::vector<Loaded> loaded;        // in the order of their start
    std::vector<std::string> stopped;  // in the order of their stop
    std::vector<Problem> problems;
};

/// Loads, starts, stops and unloads everything once. A module is looked for as PATH/NAME/VERSION/NAME.dome.xml, in
/// the order of `path`; one that cannot be started is a problem, and so is each that needs it.
[[nodiscard]] Round run_round(const Plan& plan, const std::vector<std::filesystem::path>& path);

/// A plan with one module alone, in the first version that the path has of it.
[[nodiscard]] Plan plan_for(const std::string& module, const std::vector<std::filesystem::path>& path);

}  // namespace dome
