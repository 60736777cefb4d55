// What modules that were made without Envar load of each other.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "core/life/adopt_find.hpp"
#include "core/members/scan.hpp"

namespace envar::life {

/// A module that another one's code loads.
struct Loaded {
    std::string module;
    std::string file;       // that loads it first
    bool later = false;     // nowhere at a file's own level: when a function runs, or on some condition
    bool at_once = false;   // at its entry file's own level
    std::size_t files = 0;  // that load it
};

/// Takes out what is not loaded at once and would make a circle: by then the host has begun with the other one. What
/// few files load goes before what many do. Gives what was taken out, by module.
std::map<std::string, std::vector<std::string>> break_circles(std::map<std::string, std::vector<Loaded>>& needs);

/// Who gives what a host loads by name.
class Givers {
  public:
    /// A module with its entry file; `names` is what else can be loaded from its files.
    void add(const model::Card& card, const std::string& module, const std::filesystem::path& entry,
             const std::vector<std::string>& names = {});

    /// The module that gives the name: it is called so, or has a file that the host finds by that name. Empty: none.
    [[nodiscard]] std::string of(const model::Card& card, const std::string& name) const;

    /// The modules that the code of a module in the folder loads, each once. `reads` is a file that its entry file
    /// will read in; empty: none.
    [[nodiscard]] std::vector<Loaded> needs_of(const std::string& module, const Foreign& foreign,
                                               const std::string& reads, const members::Patterns& patterns) const;

  private:
    using Key = std::pair<std::string, std::string>;  // host, name
    std::map<Key, std::string> modules_;              // by what they give
    std::map<Key, std::filesystem::path> roots_;      // by the module's own name: where the host looks
};

}  // namespace envar::life
