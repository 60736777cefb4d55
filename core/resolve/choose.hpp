// Which of all solutions is taken.
//
// Newest first: going through the modules in the order in which they are needed, from the roots on, each has the
// newest version that any solution with the same versions before it has. What is locked comes before that: as few
// locked modules as possible change their version; those that are to be refreshed go first. Optional modules are
// taken last, where they fit what is chosen. So the result is a property of the problem and not of the way it was
// found; only behind a limit of work, which Limits sets, does a module keep the version of the best solution known.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/resolve/problem.hpp"

namespace envar::resolve {

struct Wish {
    Demand demand;
    std::vector<std::uint32_t> locked;  // rows that the lock holds
    std::vector<model::Id> refresh;     // modules that need not keep their locked version
    bool optional = true;               // optional modules are taken where they fit
    Limits limits;
};

struct Choice {
    Verdict verdict = Verdict::solved;
    std::vector<std::uint32_t> rows;  // chosen, in the order in which they are needed
    std::vector<Tag> core;            // after `impossible`
    std::uint64_t conflicts = 0;
    std::size_t unproven = 0;          // modules of which a limit kept open whether a newer version would do
    std::vector<model::Id> left_open;  // optional ones, in order, of which it kept open whether they fit
};

[[nodiscard]] Choice choose(const Universe& universe, const Wish& wish);

/// The smallest set of numbers that has one of each list; of several the first. Beyond a bound of work, a small one.
[[nodiscard]] std::vector<std::uint32_t> smallest_hit(const std::vector<std::vector<std::uint32_t>>& lists);

}  // namespace envar::resolve
