// The content of a folder as one digest.
#pragma once

#include <filesystem>
#include <functional>
#include <string>

namespace envar::files {

/// SHA-256 over the paths and contents of all files below the folder, by path. Hidden ones, links, and folders of
/// which `passes_over` says so are left out. Empty when something cannot be read.
[[nodiscard]] std::string tree_digest(
    const std::filesystem::path& folder,
    const std::function<bool(const std::string& name, const std::filesystem::path&)>& passes_over);

}  // namespace envar::files
