// Load order: dependencies first, phases in the card's order, soft wishes where they do no harm; what cannot
// be loaded and why.
//
// Ties are broken by phase, host and name, so that the same modules always give the same order. A wave is a
// set of modules that need nothing of each other: all of wave 1 may load at the same time, then all of wave 2.
#pragma once

#include <string>
#include <vector>

#include "core/model/space.hpp"
#include "core/order/loading.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::order {

struct Placed {
    std::size_t position = 0;  // from 1
    std::string module;
    std::string version;
    std::string host;
    std::string phase;
    std::size_t wave = 0;            // from 1
    std::vector<std::string> needs;  // modules of the order that must come before, sorted
    std::vector<std::string> after;  // modules that it was wished to come after, and does, sorted
};

struct Skipped {
    std::string module;
    std::string reason;
};

struct Missing {
    std::string module;
    std::string required_by;
    std::string versions;
    std::string file;
    std::size_t line = 0;
};

/// "a needs b", with its place.
struct Edge {
    std::string from;
    std::string to;
    std::string file;
    std::size_t line = 0;
    text::Span span;
};

/// One shortest circle of a group of modules that need each other; the first module has the smallest name.
struct Cycle {
    std::vector<std::string> modules;
    std::vector<Edge> edges;  // edges[i] leads from modules[i] to the next
    std::size_t group = 0;    // modules that reach each other, these among them
};

struct Order {
    std::vector<Placed> placed;
    std::vector<Skipped> skipped;
    std::vector<Cycle> cycles;
    std::vector<Missing> missing;
    std::vector<std::string> notes;    // soft wishes that were dropped, optional ones that are absent
    std::vector<std::string> longest;  // the longest chain of modules of which each waits for the one before it
};

/// Time and space are linear in modules and dependencies, times the logarithm of the modules that are ready
/// at once; no recursion. `platform` tells which modules are for another one; empty: none.
[[nodiscard]] Order load_order(const Loading& loading, std::string_view platform);

/// The order of a workspace's modules in the versions that `resolve` chooses, as far as it can choose.
[[nodiscard]] Order load_order(const resolve::Question& question);

}  // namespace envar::order
