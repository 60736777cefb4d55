// Entry files that adopt writes where a host could not load by its name what somebody else wrote: it reads that in.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/model/card.hpp"

namespace envar::life {

/// What an entry file would have to read in.
struct Bridged {
    std::string reads;  // relative to the folder; empty: nothing, but it would make functions known
    std::string name;   // that the file gives the module; empty: it is called like the folder
    bool sure = true;   // the file's place tells that it is a module
};

/// Nothing where the card writes no such files, and where no file of the folder is one to read in. `*` in the card
/// counts for a folder that was named.
[[nodiscard]] std::optional<Bridged> bridged_in(const model::Card& card, const std::filesystem::path& folder,
                                                bool asked_for);

/// The same of one file of a folder that has others: where `*` in the card stands for it.
[[nodiscard]] std::optional<Bridged> bridged_file(const model::Card& card, const std::filesystem::path& folder,
                                                  const std::string& file);

/// Whether the host finds the entry file by the module's name and, where names matter to it, can be asked for that.
[[nodiscard]] bool is_loaded_by(const model::Card& card, const std::string& name, const std::filesystem::path& entry);

/// What the module is called then: the name as it is, or in the card's form of names. Nothing: it cannot be made one.
[[nodiscard]] std::optional<std::string> bridge_name(const model::Card& card, const std::string& name);

}  // namespace envar::life
