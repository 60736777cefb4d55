// A folder of symbolic links, put in place as a whole.
#pragma once

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::files {

/// Makes `folder` hold just these links: relative names, and the absolute paths they lead to. Links are written
/// relative, so that the tree can be moved. Somebody who looks meanwhile sees the old links or the new ones. What was
/// in the folder before is gone: it must be Envar's own.
[[nodiscard]] text::Result<void> make_link_folder(
    const std::filesystem::path& folder, const std::vector<std::pair<std::string, std::filesystem::path>>& links);

}  // namespace envar::files
