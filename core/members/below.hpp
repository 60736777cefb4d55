// What a host can load below a module's name: its further files, each found under a longer name.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/members/contract.hpp"
#include "core/members/scan.hpp"

namespace envar::members {

struct Below {
    std::string name;  // as the host is asked for it
    Scan scan;         // of that file alone
};

/// The module's files that are found under names of their own, by name. None where the module says what it exports,
/// in a list or with all its entry file has: then they are its own business. Neither are tests, nor names that the
/// card calls internal. At most 2,000 files are read.
[[nodiscard]] std::vector<Below> scan_below(const model::Module& module, const model::Card& card,
                                            const std::filesystem::path& root);

/// Adds to the differences of two states those of what can be loaded below them.
[[nodiscard]] std::vector<Difference> with_those_below(std::vector<Difference> own, const std::vector<Below>& before,
                                                       const std::vector<Below>& after);

}  // namespace envar::members
