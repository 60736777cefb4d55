// The folder on a host's search path that leads to a module.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/model/space.hpp"

namespace envar::search {

/// The folder below which the host, asked for `name`, comes to the file; nothing where no candidate of the card ends
/// so, or the host looks modules up in another way.
[[nodiscard]] std::optional<std::filesystem::path> root_of(const model::Card& card, const std::string& name,
                                                           const std::filesystem::path& file);

/// As root_of, for the entry file that the manifest names.
[[nodiscard]] std::optional<std::filesystem::path> root_of(const model::Card& card, const model::Module& module);

/// Whether the host, led to the folder and asked for `name`, comes to a file.
[[nodiscard]] bool finds_below(const model::Card& card, const std::filesystem::path& root, const std::string& name);

}  // namespace envar::search
