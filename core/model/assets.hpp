// Assets: which files the declared folders of a module hold.
#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/model/manifest.hpp"

namespace envar::model {

struct AssetFile {
    std::string path;  // relative to the module, with '/'
    std::uintmax_t bytes = 0;
};

/// What one [[asset]] table leads to; all lists are sorted by path.
struct AssetScan {
    bool folder_there = false;
    std::vector<AssetFile> files;            // that match
    std::vector<std::string> near_misses;    // files whose names end nearly so
    std::vector<std::string> leaving;        // links that lead out of the module
    std::vector<std::string> other_endings;  // how the names of the files end that do not match, most frequent first
    std::size_t ignored = 0;                 // files that match but are to be ignored
    std::size_t deeper = 0;                  // files that would match if folders within counted
    bool cut_short = false;                  // more files than are looked at
};

inline constexpr std::size_t most_asset_files = 200000;  // looked at for one table

/// Walks the folder of the table, in a module that lies in `module_folder`. Links are followed as long as they
/// stay in the module.
[[nodiscard]] AssetScan scan_asset(const Asset& asset, const std::filesystem::path& module_folder);

}  // namespace envar::model
