// Made-up mods for the voxel engine.
#pragma once

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/driver.hpp"

namespace envar::tests {

/// A made-up mod: where it lies, what its mod.conf says.
struct Mod {
    std::string folder;  // below the folder with all mods; every folder above it is a pack
    std::string name;    // empty: mod.conf does not tell
    std::vector<std::string> needs;
    std::vector<std::string> wishes;

    [[nodiscard]] std::string called() const {
        return name.empty() ? std::filesystem::path(folder).filename().string() : name;
    }
};

inline void write_mod(const Driver& driver, const std::string& mods, const Mod& mod) {
    const std::string folder = mods + "/" + mod.folder;
    std::string conf = mod.name.empty() ? "" : "name = " + mod.name + "\n";
    if (!mod.needs.empty()) conf += fmt::format("depends = {}\n", fmt::join(mod.needs, ", "));
    if (!mod.wishes.empty()) conf += fmt::format("optional_depends = {}\n", fmt::join(mod.wishes, ", "));
    driver.write(folder + "/mod.conf", conf);
    driver.write(folder + "/init.lua", "");
    for (std::filesystem::path above = std::filesystem::path(mod.folder).parent_path(); !above.empty();
         above = above.parent_path())
        driver.write(mods + "/" + above.string() + "/modpack.conf", "name = pack\n");
}

/// Paths and contents of all files below a folder.
inline std::map<std::string, std::string> contents(const std::filesystem::path& folder) {
    std::map<std::string, std::string> files;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) {
        if (!entry.is_regular_file()) continue;
        std::ifstream in(entry.path(), std::ios::binary);
        files[entry.path().lexically_relative(folder).string()] = {std::istreambuf_iterator<char>(in), {}};
    }
    return files;
}

inline nlohmann::json result_of(const Run& run) {
    CHECK_MESSAGE(nlohmann::json::accept(run.output), run.output << run.errors);
    return nlohmann::json::parse(run.output, nullptr, false);
}

}  // namespace envar::tests
