// Choosing versions against slow, obvious oracles and a general SAT solver, on random universes.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <atomic>
#include <mutex>
#include <set>
#include <thread>

#include "core/process/run.hpp"
#include "core/resolve/resolve.hpp"
#include "core/resolve/turning.hpp"
#include "tests/support/random_universe.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using testing::RandomUniverse;
using testing::UniverseShape;

namespace {

// Under the sanitizers every step is watched, and a twentieth of the universes is enough.
#ifdef __SANITIZE_ADDRESS__
constexpr std::size_t share = 20;
#else
constexpr std::size_t share = 1;
#endif

/// Runs work(i) for i below count with two threads; the first problem told ends it.
std::string for_all(std::size_t count, const std::function<std::string(std::size_t, const tests::Scratch&)>& work) {
    std::atomic<std::size_t> next = 0;
    std::mutex mutex;
    std::string problem;
    const auto loop = [&] {
        const tests::Scratch scratch;
        for (std::size_t i = next++; i < count; i = next++) {
            const std::string one = work(i, scratch);
            if (one.empty()) continue;
            const std::lock_guard guard(mutex);
            if (problem.empty()) problem = fmt::format("{}: {}", i, one);
            next = count;
        }
    };
    std::thread other(loop);
    loop();
    other.join();
    return problem;
}

/// 5 to 60 modules, about half of them without a solution.
UniverseShape shape_of(std::size_t i) {
    UniverseShape shape;
    shape.modules = 5 + i % 56;
    shape.versions = 1 + i % 7;
    shape.needs = 2 + i % 5;
    shape.width = static_cast<unsigned>(10 + i * 7 % 40);
    shape.optional = i % 3 == 0 ? 20 : 0;
    shape.conflicts = i % 4 == 0 ? 15 : 0;
    shape.missing = i % 5 == 0 ? 3 : 0;
    shape.roots = 1 + i % 4;
    return shape;
}

/// Small enough to try everything.
UniverseShape small_shape(std::size_t i) {
    UniverseShape shape = shape_of(i);
    shape.modules = 3 + i % 6;
    shape.versions = 1 + i % 4;
    shape.needs = 1 + i % 3;
    shape.width = static_cast<unsigned>(30 + i * 7 % 40);
    shape.optional = 0;
    return shape;
}

resolve::Supply supply_of(const RandomUniverse& universe, const tests::Scratch& scratch) {
    scratch.write("c.jsonl", universe.catalogue());
    return std::move(*resolve::supply_of_catalogue(scratch / "c.jsonl", "c.jsonl", nullptr, 1));
}

resolve::Request request_of(const RandomUniverse& universe) {
    resolve::Request request;
    for (const std::size_t root : universe.roots)
        request.roots.push_back(
            {RandomUniverse::name(root), {}, RandomUniverse::name(root) + " is asked for", "", 0});
    return request;
}

bool has_model(const RandomUniverse& universe) {
    process::Command command;
    command.arguments = {"/usr/bin/cadical", "-q"};
    command.folder = "/";
    command.input = universe.formula();
    command.time_limit_seconds = 60;
    const auto outcome = process::run(command);
    if (!outcome || (outcome->exit_status != 10 && outcome->exit_status != 20))
        throw std::runtime_error("the SAT solver gave no verdict");
    return outcome->exit_status == 10;
}

std::size_t number_of(const std::string& module) { return std::stoul(module.substr(1)); }

/// Versions by module, counted from 1.
std::vector<std::size_t> chosen(const RandomUniverse& universe, const resolve::Resolution& resolution) {
    std::vector<std::size_t> versions(universe.modules.size(), 0);
    for (const auto& one : resolution.selected) versions[number_of(one.module)] = std::stoul(one.version);
    return versions;
}

bool accepts(const RandomUniverse::Need& need, const std::vector<std::size_t>& versions) {
    if (need.module >= versions.size() || versions[need.module] == 0) return false;
    return versions[need.module] > need.from && versions[need.module] <= need.to;
}

/// What is wrong with a choice; empty: nothing.
std::string fault_of(const RandomUniverse& universe, const std::vector<std::size_t>& versions) {
    for (const std::size_t root : universe.roots)
        if (versions[root] == 0) return fmt::format("root m{} is not there", root);
    for (std::size_t module = 0; module < versions.size(); ++module) {
        if (versions[module] == 0) continue;
        const auto& release = universe.modules[module][versions[module] - 1];
        for (const auto& need : release.needs) {
            const bool there = need.module < versions.size() && versions[need.module] != 0;
            if ((there || !need.optional) && !accepts(need, versions))
                return fmt::format("m{} {} has not what it needs of m{}", module, versions[module], need.module);
        }
        for (const auto& need : release.conflicts)
            if (accepts(need, versions)) return fmt::format("m{} is with m{}", module, need.module);
    }
    return {};
}

/// The newest-first solution by its definition: module by module as they are needed, the newest version with which
/// some solution agrees.
std::vector<std::size_t> newest_first(const RandomUniverse& universe) {
    std::vector<std::vector<std::size_t>> all;
    universe.solutions([&](const auto& one) {
        all.push_back(one);
        return true;
    });
    if (all.empty()) return {};
    std::vector<std::size_t> queue = universe.roots, versions(universe.modules.size(), 0);
    for (std::size_t at = 0; at < queue.size(); ++at) {
        const std::size_t module = queue[at];
        for (const auto& one : all) versions[module] = std::max(versions[module], one[module]);
        std::erase_if(all, [&](const auto& one) { return one[module] != versions[module]; });
        for (const auto& need : universe.modules[module][versions[module] - 1].needs)
            if (std::find(queue.begin(), queue.end(), need.module) == queue.end()) queue.push_back(need.module);
    }
    return versions;
}

/// The universe with just the requirements that an explanation names, without the left-out-th of them.
RandomUniverse only_named(const RandomUniverse& universe, const std::vector<resolve::Clash>& named,
                          std::size_t left_out) {
    RandomUniverse bare = universe;
    bare.roots.clear();
    for (auto& releases : bare.modules)
        for (auto& release : releases) release = {};
    for (std::size_t i = 0; i < named.size(); ++i) {
        if (i == left_out) continue;
        const resolve::Clash& clash = named[i];
        const std::size_t to = number_of(clash.requires_module);
        if (clash.kind == "root") {
            bare.roots.push_back(to);
            continue;
        }
        const std::size_t module = number_of(clash.module), version = std::stoul(clash.version) - 1;
        const auto take = [&](const auto& from, auto& into) {
            for (const auto& need : from)
                if (need.module == to && RandomUniverse::range(need) == clash.versions) into.push_back(need);
        };
        const auto& release = universe.modules[module][version];
        auto& made = bare.modules[module][version];
        clash.kind == "conflict" ? take(release.conflicts, made.conflicts) : take(release.needs, made.needs);
    }
    return bare;
}

/// A universe as the parts of the choice see it.
struct Posed {
    resolve::Supply supply;
    resolve::Universe universe;
    resolve::Demand demand;
    Posed(const RandomUniverse& random, const tests::Scratch& scratch)
        : supply(supply_of(random, scratch)), universe(supply.table, {}) {
        demand.roots = request_of(random).roots;
    }
};

/// The universe with the advice followed.
RandomUniverse followed(const RandomUniverse& universe, const std::vector<resolve::Advice>& advice) {
    RandomUniverse changed = universe;
    for (const resolve::Advice& one : advice) {
        const std::size_t to = number_of(one.requires_module);
        if (one.kind == "root") {
            if (one.change == "drop") std::erase(changed.roots, to);
            continue;
        }
        auto& release = changed.modules[number_of(one.module)][std::stoul(one.version) - 1];
        std::erase_if(release.conflicts,
                      [&](const auto& need) { return one.kind == "conflict" && need.module == to; });
        for (auto at = release.needs.begin(); one.kind != "conflict" && at != release.needs.end(); ++at) {
            if (at->module != to) continue;
            if (one.change == "drop") {
                release.needs.erase(at);
                break;
            }
            // Several ranges of versions 1, 2 … are one here as long as they have no gap.
            const auto requirement = versions::parse_requirement(one.versions);
            std::vector<std::size_t> in;
            for (std::size_t v = 0; to < changed.modules.size() && v < changed.modules[to].size(); ++v)
                if (versions::meets(*versions::parse_version(fmt::format("{}.0.0", v + 1)), *requirement))
                    in.push_back(v);
            if (in.empty()) continue;
            RandomUniverse::Need wide = *at;
            wide.from = in.front();
            wide.to = in.back() + 1;
            *at = wide;
            for (std::size_t v = in.front(); v <= in.back(); ++v)  // gaps, as conflicts
                if (std::find(in.begin(), in.end(), v) == in.end())
                    release.conflicts.push_back({to, v, v + 1, false});
        }
    }
    return changed;
}

}  // namespace

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

TEST_CASE("every explanation is minimal, and every advice works") {
    std::atomic<std::size_t> explained = 0, advised = 0, several = 0, without = 0;
    CHECK(for_all(9000 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              if (explained >= 2000 / share) return {};
              const RandomUniverse universe(shape_of(i), i + 90000);
              const resolve::Supply supply = supply_of(universe, scratch);
              const auto resolution = resolve::resolve(supply, request_of(universe));
              if (!resolution.unsolved) return {};
              ++explained;
              const auto& named = resolution.unsolved->requirements;
              if (resolution.unsolved->sentences.empty()) return "no sentence";
              if (only_named(universe, named, named.size()).solvable()) return "what is named can be met";
              for (std::size_t out = 0; out < named.size(); ++out)
                  if (!only_named(universe, named, out).solvable())
                      return fmt::format("the {}th requirement is not needed", out);
              for (const auto& advice : resolution.unsolved->advice) {
                  ++advised;
                  if (!has_model(followed(universe, advice)))
                      return "advice does not help: " + advice.front().sentence;
              }
              // Several changes together are told only where none of them would do by itself.
              const auto& all = resolution.unsolved->advice;
              without += all.empty() ? 1 : 0;
              if (all.empty() || all.front().size() == 1) return {};
              ++several;
              for (const resolve::Clash& one : named)
                  if (has_model(followed(universe, {{"drop", one.module, one.version, one.requires_module, "",
                                                     one.kind, "", one.place}})))
                      return fmt::format("a single change helps: {} {} on {}", one.module, one.version,
                                         one.requires_module);
              return {};
          }) == "");
    CHECK(explained >= 2000 / share);
    CHECK(advised > explained);
    CHECK(several > 100 / share);
    CHECK(100 * without <= explained);  // so many changes would be needed that they are not looked for
}

TEST_CASE("an explanation that would take too long says so, and holds all the same") {
    std::atomic<std::size_t> given_up = 0, proven = 0, advised = 0;
    CHECK(for_all(1500 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              const RandomUniverse universe(shape_of(i), i + 250000);
              const resolve::Supply supply = supply_of(universe, scratch);
              resolve::Request request = request_of(universe);
              request.work_for_least = i % 3 * 15;
              const auto resolution = resolve::resolve(supply, request);
              if (!resolution.unsolved) return {};
              const resolve::Unsolved& unsolved = *resolution.unsolved;
              const bool told = unsolved.sentences.back().find("no short reason was found") != std::string::npos;
              if (told == unsolved.is_minimal) return "it is not told whether the reason is the shortest";
              ++(unsolved.is_minimal ? proven : given_up);
              const auto& named = unsolved.requirements;
              if (only_named(universe, named, named.size()).solvable()) return "what is named can be met";
              for (const auto& advice : unsolved.advice) {
                  ++advised;
                  if (!has_model(followed(universe, advice)))
                      return "advice does not help: " + advice.front().sentence;
              }
              return {};
          }) == "");
    CHECK(given_up > 150 / share);
    CHECK(proven > 20 / share);
    CHECK(advised > 100 / share);
}

TEST_CASE("where much is wrong, a set of changes is told of which each is needed") {
    std::atomic<std::size_t> unsolvable = 0, advised = 0, many = 0;
    CHECK(for_all(80 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              UniverseShape narrow;
              narrow.modules = 15 + i % 30, narrow.fewest = 2, narrow.versions = 5;
              narrow.least = 2, narrow.needs = 3, narrow.width = 25, narrow.roots = 4;
              const RandomUniverse universe(narrow, i + 310000);
              const auto resolution = resolve::resolve(supply_of(universe, scratch), request_of(universe));
              if (!resolution.unsolved) return {};
              ++unsolvable;
              for (const auto& advice : resolution.unsolved->advice) {
                  ++advised;
                  many += advice.size() > 5 ? 1 : 0;
                  if (!has_model(followed(universe, advice))) return "it does not help: " + advice.front().sentence;
                  for (std::size_t without = 0; without < advice.size(); ++without) {
                      auto fewer = advice;
                      fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(without));
                      if (has_model(followed(universe, fewer))) return "not needed: " + advice[without].sentence;
                  }
              }
              return {};
          }) == "");
    CHECK(unsolvable > 40 / share);
    CHECK(10 * advised > 9 * unsolvable);
    CHECK(many > 20 / share);
}

TEST_CASE("what a refusal rests on leaves no solution by itself") {
    std::atomic<std::size_t> refused = 0, met = 0;
    CHECK(for_all(3000 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              const Posed made(RandomUniverse(shape_of(i), i + 170000), scratch);
              const auto& [supply, universe, demand] = made;
              resolve::Problem whole(universe, demand);
              if (whole.solver().solve(resolve::Decisions::free, {}) != resolve::Verdict::impossible) return {};
              const auto core = resolve::minimal_core(universe, demand, whole.solver().core(), {}).tags;
              const std::set<resolve::Tag> selectable(core.begin(), core.end());
              // One problem for all tries: what it has learnt must not lean on what was assumed.
              resolve::Problem posed(universe, demand, resolve::Variation{nullptr, &selectable});
              for (const resolve::Tag out : core) {
                  std::vector<resolve::Literal> assumed;
                  for (const resolve::Tag tag : selectable)
                      assumed.push_back(
                          posed.counting(tag, tag == out ? resolve::Counts::not_at_all : resolve::Counts::as_it_is));
                  const auto verdict = posed.solver().solve(resolve::Decisions::free, {}, assumed);
                  const std::set<resolve::Tag> without = {out};
                  resolve::Problem asked(universe, demand, resolve::Variation{nullptr, nullptr, &without});
                  const bool possible =
                      asked.solver().solve(resolve::Decisions::free, {}) == resolve::Verdict::solved;
                  if (possible != (verdict == resolve::Verdict::solved)) return fmt::format("without {}: wrong", out);
                  ++(possible ? met : refused);
                  if (possible) continue;
                  const auto rests_on = posed.solver().core();
                  const std::set<resolve::Tag> only(rests_on.begin(), rests_on.end());
                  if (only.count(out) != 0) return fmt::format("{} was left out and is told", out);
                  resolve::Problem alone(universe, demand, resolve::Variation{&only});
                  if (alone.solver().solve(resolve::Decisions::free, {}) != resolve::Verdict::impossible)
                      return fmt::format("without {}: what is told can be met", out);
              }
              return {};
          }) == "");
    CHECK(refused > 2000 / share);
    CHECK(met > 500 / share);
}

TEST_CASE("what a choice is turned into proves what it says") {
    std::atomic<std::size_t> turned = 0, proofs = 0;
    CHECK(for_all(2000 / share, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              const Posed made(RandomUniverse(shape_of(i), i + 410000), scratch);
              const auto& [supply, universe, demand] = made;
              resolve::Problem whole(universe, demand);
              if (whole.solver().solve(resolve::Decisions::free, {}) != resolve::Verdict::impossible) return {};
              const std::vector<resolve::Tag> core = whole.solver().core();
              resolve::Turning turning(universe, demand, core);
              std::vector<bool> proven(core.size());
              // The first that cannot be left out is enough to begin with.
              for (std::size_t out = 0; out < core.size() && proven == std::vector<bool>(core.size()); ++out) {
                  std::set<resolve::Tag> only(core.begin(), core.end());
                  only.erase(core[out]);
                  resolve::Problem posed(universe, demand, resolve::Variation{&only});
                  if (posed.solver().solve(resolve::Decisions::free, {}) != resolve::Verdict::solved) continue;
                  ++turned;
                  const std::vector<bool> all(core.size(), true);
                  turning.turn([&](model::Id module) { return posed.chosen_row(module); }, out, all, proven);
                  proven[out] = true;
              }
              for (std::size_t out = 0; out < core.size(); ++out) {
                  if (!proven[out]) continue;
                  ++proofs;
                  std::set<resolve::Tag> only(core.begin(), core.end());
                  only.erase(core[out]);
                  resolve::Problem posed(universe, demand, resolve::Variation{&only});
                  if (posed.solver().solve(resolve::Decisions::free, {}) != resolve::Verdict::solved)
                      return fmt::format("{} can be left out", core[out]);
              }
              return {};
          }) == "");
    CHECK(turned > 500 / share);
    CHECK(proofs > 2 * turned);  // it saves searches
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
