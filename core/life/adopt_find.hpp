// Modules that were made without Envar, in a folder or anywhere below it.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/life/adopt_placed.hpp"
#include "core/model/space.hpp"
#include "core/text/failure.hpp"

namespace envar::life {

struct Foreign {
    const model::Card* card = nullptr;
    std::filesystem::path folder;
    std::string below;               // from the folder that was named; empty: it is that folder
    std::string entry;               // its entry file, relative to the folder
    std::string name, name_by;       // by which the host finds it, and what tells that; empty: to be found out
    std::string version;             // empty: to be found out
    std::vector<std::string> names;  // of all that can be loaded from its files, where they tell
    bool one_of_many = false;        // it could as well be called like another of its files
    bool alone = false;              // a file that is a module by itself, among others in the folder
    bool bridged = false;            // the host cannot load it: `entry` is what an entry file would have to read in
    std::vector<std::string> others = {};     // hosts that it could be for as well
    std::optional<Placement> placement = {};  // its code lies elsewhere than its host would look
};

struct FoundForeign {
    std::vector<Foreign> modules;
    std::vector<std::string> passed_over;  // folders that look as if there were modules in them, and why not
};

/// The entry file that a module of the card has in the folder, relative to it; empty: there is none.
[[nodiscard]] std::string entry_in(const model::Card& card, const std::filesystem::path& folder);

/// The module that the folder is, or else those below it, sorted by folder; or the one that is in the file of that
/// path, by itself where its folder has others. `host` is empty for any. Fails when there is none, and when it cannot
/// be told for which host one is. `shown` is how the folder is called.
[[nodiscard]] text::Result<FoundForeign> find_foreign(const model::Space& space, const std::string& host,
                                                      const std::filesystem::path& folder, const std::string& shown);

}  // namespace envar::life
