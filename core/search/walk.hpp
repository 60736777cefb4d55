// Hosts that go through the folders of their search path by themselves.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/card.hpp"

namespace envar::search {

/// A folder that the host takes for a module.
struct WalkedModule {
    std::string name;    // by its own file, or the folder's
    std::string folder;  // below the entry, with '/' between its parts
    bool grouped = false;
};

/// Whether the host comes through the folder to the modules in it.
[[nodiscard]] bool is_group(const model::SearchWalk& walk, const std::filesystem::path& folder);

/// The modules in an entry's folder, in the order of their folders' names, those of a group in the group's place.
/// Folders that begin with a dot are passed over; groups are gone into up to 16 levels deep.
[[nodiscard]] std::vector<WalkedModule> walk_entry(const model::SearchWalk& walk, const std::filesystem::path& entry);

}  // namespace envar::search
