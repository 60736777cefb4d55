// Entries that a host has by itself, asked from the host.
//
// The program is started as the card says, without the search variables and without start-up files, and prints its
// entries one a line. The answer is kept in a cache folder until the program or the question changes.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/model/card.hpp"

namespace envar::search {

struct DefaultsQuestion {
    std::string program_path;            // PATH to find the host in
    std::filesystem::path cache_folder;  // made when it is not there; empty: nothing is kept
    double time_limit = 5;               // seconds
};

/// Nothing when there is no way to ask, or the host is not installed or gives no answer.
[[nodiscard]] std::optional<std::vector<std::string>> ask_defaults(const model::Card& card,
                                                                   const model::SearchAsk& ask,
                                                                   const DefaultsQuestion& question);

/// Puts what the host tells in place of what the card says.
void fill_defaults(model::Card& card, const DefaultsQuestion& question);

}  // namespace envar::search
