// Loose shell scripts with functions that are there twice on purpose.
#pragma once

#include <cstddef>
#include <filesystem>
#include <map>
#include <set>
#include <string>

namespace envar::tests {

/// What was planted: names of functions, for copies and alike ones those of both.
struct Planted {
    std::set<std::string> same, versions;
    std::set<std::set<std::string>> copies, alike;
};

/// Writes `count` scripts of about ten functions each into the folder; the same ones for the same seed.
Planted write_loose_scripts(const std::filesystem::path& folder, std::size_t count, unsigned seed);

}  // namespace envar::tests
