// The files in a module's asset folders.
#pragma once

#include "standin/dome/plan.hpp"

namespace dome {

/// Regular files below the folders that the descriptor declares, relative to the module, sorted, each once. Links are
/// not followed; at most 100,000 are taken. A folder that is not there is a problem.
[[nodiscard]] std::vector<std::string> scan_assets(const std::filesystem::path& module_folder,
                                                   const Descriptor& descriptor, std::vector<Problem>& problems);

}  // namespace dome
