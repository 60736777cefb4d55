// Choosing versions against slow, obvious oracles and a general SAT solver, on random universes.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <atomic>

#include "tests/support/universe_oracle.hpp"

using namespace envar;
using namespace envar::testing;

TEST_CASE("verdicts are those of a general SAT solver, and choices hold") {
    std::atomic<std::size_t> solvable = 0;
    CHECK(for_all(2000 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              const RandomUniverse universe(shape_of(i), i + 1000);
              const resolve::Supply supply = supply_of(universe, scratch);
              const auto resolution = resolve::resolve(supply, request_of(universe));
              if (resolution.unsolved.has_value() == has_model(universe))
                  return "another verdict than the SAT solver's";
              if (resolution.unsolved) return {};
              ++solvable;
              return fault_of(universe, chosen(universe, resolution));
          }) == "");
    CHECK(solvable > 700 / share);
    CHECK(solvable < 1500 / share);
}

TEST_CASE("of all solutions the newest-first one is taken, by whichever way it is searched") {
    std::atomic<std::size_t> compared = 0;
    CHECK(for_all(1500 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              const RandomUniverse universe(small_shape(i), i);
              const auto wanted = newest_first(universe);
              const resolve::Supply supply = supply_of(universe, scratch);
              resolve::Request request = request_of(universe);
              if (i % 3 == 0) request.limits.patience = 0;
              if (i % 3 == 1) request.limits.patience = 1;
              const auto resolution = resolve::resolve(supply, request);
              if (resolution.unsolved) return wanted.empty() ? "" : "a solution was not found";
              ++compared;
              return chosen(universe, resolution) == wanted ? "" : "not the newest-first solution";
          }) == "");
    CHECK(compared > 500 / share);
}

TEST_CASE(
    "where the search for newer versions has a limit, there is a choice all the same, and what is open is told") {
    std::atomic<std::size_t> open = 0, proven = 0;
    CHECK(for_all(160 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              UniverseShape shape;
              shape.modules = 200, shape.fewest = 10, shape.versions = 15, shape.needs = 4, shape.width = 20;
              shape.roots = 8, shape.conflicts = i % 2 * 3;
              const RandomUniverse universe(shape, i + 520000);
              const resolve::Supply supply = supply_of(universe, scratch);
              resolve::Request request = request_of(universe);
              const auto newest = resolve::resolve(supply, request);
              if (newest.unsolved) return {};
              request.limits.patience = i % 5;
              request.limits.proving = i % 4 * 2'000;
              const auto limited = resolve::resolve(supply, request);
              if (limited.stopped || limited.unsolved) return "no choice with a limit";
              ++(limited.unproven == 0 ? proven : open);
              const auto versions = chosen(universe, limited);
              if ((limited.unproven == 0) != (limited.findings.empty())) return "what is open is not told";
              if (limited.unproven == 0 && versions != chosen(universe, newest)) return "what is open is not counted";
              return fault_of(universe, versions);
          }) == "");
    CHECK(open > 20 / share);
    CHECK(proven > 20 / share);
}

TEST_CASE("in larger universes, where ranges end with each major version") {
    std::atomic<std::size_t> solvable = 0, of_many = 0;
    CHECK(for_all(120 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              UniverseShape shape;
              shape.modules = 40 + i % 4 * 30, shape.roots = 3, shape.layered = true, shape.blocks = 2 + i % 3;
              shape.fewest = 6, shape.versions = 12, shape.least = i % 2, shape.needs = 2;
              const RandomUniverse universe(shape, i + 410000);
              const resolve::Supply supply = supply_of(universe, scratch);
              resolve::Request request = request_of(universe);
              const auto resolution = resolve::resolve(supply, request);
              if (resolution.unsolved.has_value() == has_model(universe)) return "another verdict";
              if (!resolution.unsolved) {
                  ++solvable;
                  const auto wanted = chosen(universe, resolution);
                  for (request.limits.patience = 0; request.limits.patience < 9; request.limits.patience += 4)
                      if (chosen(universe, resolve::resolve(supply, request)) != wanted) return "another choice";
                  return fault_of(universe, wanted);
              }
              const auto& named = resolution.unsolved->requirements;
              of_many += named.size() > 100 ? 1 : 0;
              if (has_model(only_named(universe, named, named.size()))) return "what is named can be met";
              for (std::size_t out = i % 7; out < named.size(); out += 1 + named.size() / 10)
                  if (!has_model(only_named(universe, named, out))) return "not every requirement is needed";
              for (const auto& advice : resolution.unsolved->advice)
                  if (!has_model(followed(universe, advice))) return "it does not help: " + advice.front().sentence;
              return {};
          }) == "");
    CHECK(solvable > 40 / share);
    CHECK(of_many > 15 / share);
}

TEST_CASE("as few locked versions as possible change") {
    std::atomic<std::size_t> compared = 0, moved = 0;
    CHECK(for_all(1200 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              RandomUniverse universe(small_shape(i), i + 7);
              std::vector<std::vector<std::size_t>> all;
              universe.solutions([&](const auto& one) {
                  all.push_back(one);
                  return true;
              });
              if (all.size() < 2) return {};
              const std::vector<std::size_t> locked = all[i * 31 % all.size()];
              if (i % 2 == 0) {  // something that was chosen is there no more
                  const std::size_t root = universe.roots.front();
                  universe.modules[root][locked[root] - 1].needs.push_back({universe.modules.size(), 0, 1, false});
                  all.clear();
                  universe.solutions([&](const auto& one) {
                      all.push_back(one);
                      return true;
                  });
              }
              const auto changes = [&](const std::vector<std::size_t>& one) {
                  std::size_t count = 0;
                  for (std::size_t m = 0; m < one.size(); ++m)
                      count += one[m] != 0 && locked[m] != 0 && one[m] != locked[m] ? 1 : 0;
                  return count;
              };
              const resolve::Supply supply = supply_of(universe, scratch);
              resolve::Request request = request_of(universe);
              for (std::size_t m = 0; m < locked.size(); ++m)
                  if (locked[m] != 0)
                      request.locked.push_back(
                          {RandomUniverse::name(m), fmt::format("{}.0.0", locked[m]), "", "c.jsonl", "", {}});
              const auto resolution = resolve::resolve(supply, request);
              if (resolution.unsolved) return all.empty() ? "" : "a solution was not found";
              std::size_t fewest = SIZE_MAX;
              for (const auto& one : all) fewest = std::min(fewest, changes(one));
              ++compared;
              moved += fewest > 0 ? 1 : 0;
              return changes(chosen(universe, resolution)) == fewest ? "" : "more changes than are needed";
          }) == "");
    CHECK(compared > 300 / share);
    CHECK(moved > 20 / share);
}
