// Random universes chosen from by the program's own parts, and what slow, obvious ways and a general SAT solver say.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/resolve/resolve.hpp"
#include "tests/support/random_universe.hpp"
#include "tests/support/scratch.hpp"
#include "tests/support/share.hpp"

namespace envar::testing {

/// Runs work(i) for i below count with two threads; the first problem told ends it.
std::string for_all(std::size_t count, const std::function<std::string(std::size_t, const tests::Scratch&)>& work);

/// 5 to 60 modules, about half of them without a solution.
UniverseShape shape_of(std::size_t i);

/// Small enough to try everything.
UniverseShape small_shape(std::size_t i);

resolve::Supply supply_of(const RandomUniverse& universe, const tests::Scratch& scratch);
resolve::Request request_of(const RandomUniverse& universe);

/// Whether a general SAT solver finds a solution; it throws when that gives no verdict.
bool has_model(const RandomUniverse& universe);

/// Versions by module, counted from 1.
std::vector<std::size_t> chosen(const RandomUniverse& universe, const resolve::Resolution& resolution);

/// What is wrong with a choice; empty: nothing.
std::string fault_of(const RandomUniverse& universe, const std::vector<std::size_t>& versions);

/// The newest-first solution by its definition: module by module as they are needed, the newest version with which
/// some solution agrees.
std::vector<std::size_t> newest_first(const RandomUniverse& universe);

/// The universe with just the requirements that an explanation names, without the left-out-th of them.
RandomUniverse only_named(const RandomUniverse& universe, const std::vector<resolve::Clash>& named,
                          std::size_t left_out);

/// The universe with the advice followed.
RandomUniverse followed(const RandomUniverse& universe, const std::vector<resolve::Advice>& advice);

}  // namespace envar::testing
