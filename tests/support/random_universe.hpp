// Random universes of modules with versions and needs, as a catalogue and as a formula for a general SAT solver.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace envar::testing {

/// How a universe is made. Chances are in percent.
struct UniverseShape {
    std::size_t modules = 20;
    std::size_t versions = 5;  // up to this many of each
    std::size_t fewest = 1;    // at least this many of each
    std::size_t needs = 3;     // up to this many of each version
    std::size_t least = 0;     // tries at needs of each version
    unsigned width = 60;       // how much of the versions a range takes in, on average
    std::size_t blocks = 0;    // instead of `width`: versions are in so many blocks, and ranges end with theirs
    unsigned optional = 0;     // of a need
    unsigned conflicts = 0;    // of a version having one
    unsigned missing = 0;      // of a need for a module that is not there
    bool layered = false;      // needs lead to modules with higher numbers only
    std::size_t roots = 2;
    /// So many modules from two further roots lie what rules a solution out; 0: nothing does. Not with `missing`.
    std::size_t clash = 0;
};

/// A module's versions are 1.0.0, 2.0.0 …; ranges are `>=A, <B` or `=A`.
class RandomUniverse {
  public:
    struct Need {
        std::size_t module;
        std::size_t from, to;  // versions from..to, counted from 0; to is not in it
        bool optional = false;
    };
    struct Release {
        std::vector<Need> needs;
        std::vector<Need> conflicts;
    };
    std::vector<std::vector<Release>> modules;
    std::vector<std::size_t> roots;

    RandomUniverse(const UniverseShape& shape, std::uint64_t seed);

    [[nodiscard]] static std::string name(std::size_t module);
    [[nodiscard]] static std::string range(const Need& need);
    /// One line a version.
    [[nodiscard]] std::vector<std::string> lines() const;
    [[nodiscard]] std::string catalogue() const;
    /// `--root` arguments.
    [[nodiscard]] std::vector<std::string> root_arguments() const;
    /// DIMACS: a variable a version, at most one of each module.
    [[nodiscard]] std::string formula() const;
    /// Every solution, by trying everything; for small universes. A solution has a version a module, counted from 1;
    /// 0: it is not needed. `take` says whether to go on.
    void solutions(const std::function<bool(const std::vector<std::size_t>&)>& take) const;
    [[nodiscard]] bool solvable() const;
};

}  // namespace envar::testing
