// What a tree of C or C++ code that some build system builds tells of the module that it is.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace envar::life {

/// Which module has a public header, by the path that it is included by.
using HeaderOwners = std::map<std::string, std::string, std::less<>>;

/// The public headers of a native module that lies in a folder, by the path that they are included by.
void add_headers(const std::filesystem::path& folder, const model::Card& card, const std::string& module,
                 HeaderOwners& owners);

struct NativeTree {
    model::Native native;
    bool usual = true;                       // public headers lie in `include`, the rest in `src`
    bool installs = false;                   // its build files tell which headers are public
    std::string version, version_by;         // as its build file or a header tells it, and which one; or empty
    std::string summary, summary_by;         // as a file for those who build against it tells it; or empty
    std::vector<std::string> public_needs;   // modules whose headers its public headers include, each once
    std::vector<std::string> private_needs;  // that only its other code includes
};

/// `entry` is the build system's own file, `text` what it says.
[[nodiscard]] NativeTree read_native_tree(const std::filesystem::path& folder, const model::Card& card,
                                          const std::string& entry, const std::string& text,
                                          const std::string& module, const HeaderOwners& owners);

/// What a build system's file asks for that is no module of the workspace, in a sentence. At least one name.
[[nodiscard]] std::string asks_for(const std::string& entry, std::vector<std::string> names);

}  // namespace envar::life
