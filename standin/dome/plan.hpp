// What dome reads: a load plan, and the descriptors of the modules that it names. Both are XML.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace dome {

/// Something that went wrong, with the module that it went wrong with, if any.
struct Problem {
    std::string module;
    std::string what;
};

/// A module that is to be loaded, as the plan names it.
struct Planned {
    std::string module;
    std::string version;
    std::string phase;
    std::vector<std::string> needs;
};

struct Plan {
    std::string target;
    std::vector<std::string> phases;  // in the order in which they are gone through
    std::vector<Planned> modules;     // in load order
};

struct AssetFolder {
    std::string folder;     // relative to the module
    std::string extension;  // empty: every file
    bool recursive = false;
};

struct Descriptor {
    std::string module;
    std::string version;
    std::string library;  // file name, beside the descriptor
    std::string start;    // symbol; empty: nothing is called
    std::string stop;
    std::vector<AssetFolder> assets;
};

/// Reads a load plan; what is wrong in it goes to `problems`. Files over 1 MiB are refused; entities are not
/// expanded.
[[nodiscard]] Plan read_plan(const std::filesystem::path& file, std::vector<Problem>& problems);

/// Reads a module's descriptor, the same way.
[[nodiscard]] Descriptor read_descriptor(const std::filesystem::path& file, const std::string& module,
                                         std::vector<Problem>& problems);

}  // namespace dome
