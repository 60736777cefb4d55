// What dependants of a module may rely on, and how two states of it differ for them.
#pragma once

#include <string>
#include <vector>

#include "core/members/scan.hpp"
#include "core/model/manifest.hpp"

namespace envar::members {

/// What a difference means for whoever uses the module.
enum class Weight { fix, addition, breaking };
[[nodiscard]] std::string_view weight_name(Weight weight);

struct Difference {
    Weight weight = Weight::fix;
    std::string what;    // "removed", "renamed", "added", "parameter removed", …: see contract.cpp
    std::string member;  // or module, for dependencies; empty: of the whole module
    std::string sentence;
    std::size_t line = 0;  // in `file`; 0: there is no place
    std::string file;
    std::string below = {};  // the longer name by which the file with the member is loaded; empty: the module's own
};

/// One state of a module: its manifest, and what its sources define.
struct State {
    const model::Manifest* manifest = nullptr;
    const Scan* scan = nullptr;
    std::string file;  // the manifest, as shown
};

/// A manifest with what dependants may rely on and nothing else: members with what the sources tell of them,
/// dependencies, the phase.
[[nodiscard]] model::Manifest promise_of(const State& state);

/// Breaking ones first, then by member. A member that is gone counts as renamed when a new one has the same body, or
/// the same documentation and parameters.
[[nodiscard]] std::vector<Difference> differences(const State& before, const State& after);
/// Into the order of `differences`.
void sort(std::vector<Difference>& differences);

/// The lowest version that promises no more than it keeps: next major, minor or patch; while major is 0, next minor
/// for what breaks and next patch else. In a scheme without such parts, the next number.
[[nodiscard]] versions::Version version_that_follows(const versions::Version& before,
                                                     const std::vector<Difference>& differences);

}  // namespace envar::members
