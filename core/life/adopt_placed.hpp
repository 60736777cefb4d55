// Modules whose code does not lie where their host would look for it, and is put there when it is installed.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/model/card.hpp"

namespace envar::life {

struct Placement {
    std::string from;   // where the code lies, relative to the folder; empty: in the folder itself
    std::string under;  // below what it would have to lie: `star_chart`, `Net`
};

/// Where the folder's code would have to lie, by the names that its files tell, or by which they load each other.
/// Nothing where it lies right, and where nothing tells that it does not.
[[nodiscard]] std::optional<Placement> placement_of(const model::Card& card, const std::filesystem::path& folder);

/// Where a file of the module goes, relative to its folder as the argument is.
[[nodiscard]] std::string placed(const Placement& placement, const model::Card& card, const std::string& file);

/// The name by which the host finds a file, relative to where it looks; empty: it finds no such file.
[[nodiscard]] std::string name_at(const model::Card& card, const std::string& file);

}  // namespace envar::life
