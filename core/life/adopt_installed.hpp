// What the files of a build system say of a tree, by the statements that its card tells.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/card.hpp"

namespace envar::life {

struct BuildFile {
    std::string file;  // relative to the tree
    std::string text;
};

/// The tree's build files, those that lie highest first, without what lies beside the code.
[[nodiscard]] std::vector<BuildFile> build_files(const model::BuildStatements& build,
                                                 const std::filesystem::path& folder);

/// Those of the tree's headers that its build files install, sorted. Names of lists are followed to what the lists
/// hold; the end of a path stands for the only header of that name. None where lists are worked out as it is built.
[[nodiscard]] std::vector<std::string> installed_headers(const model::BuildStatements& build,
                                                         const std::vector<BuildFile>& files,
                                                         const std::vector<std::string>& headers);

/// How other modules ask for a module that its build file calls `name`: where that says so in other letters, with
/// other marks between them or other capitals. Else the name itself.
[[nodiscard]] std::string spelled_outside(const model::BuildStatements& build, const std::string& entry,
                                          const std::string& name);

}  // namespace envar::life
