// Why there is no choice, on random universes: minimal, true, and with advice that helps.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <atomic>
#include <set>

#include "core/resolve/turning.hpp"
#include "tests/support/universe_oracle.hpp"

using namespace envar;
using namespace envar::testing;

namespace {

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

}  // namespace

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

TEST_CASE("a contradiction near the roots is seen, however hard all the rest may be") {
    constexpr std::size_t universes = std::max<std::size_t>(30 / share, 6);
    CHECK(for_all(universes, [&](std::size_t i, const tests::Scratch& scratch) -> std::string {
              UniverseShape hard;
              hard.modules = 300, hard.fewest = hard.versions = 12, hard.roots = 6;
              hard.least = hard.needs = 3 + i % 3, hard.width = i % 2 == 0 ? 30 : 40, hard.clash = 1 + i % 5;
              const RandomUniverse universe(hard, i + 410000);
              resolve::Request request = request_of(universe);
              request.limits.conflicts = 3000;
              const auto resolution = resolve::resolve(supply_of(universe, scratch), request);
              if (!resolution.unsolved) return "not seen";
              if (!resolution.unsolved->is_minimal) return "no short reason";
              const auto& named = resolution.unsolved->requirements;
              if (has_model(only_named(universe, named, named.size()))) return "what is named can be met";
              for (std::size_t out = 0; out < named.size(); out += 23)
                  if (!has_model(only_named(universe, named, out)))
                      return fmt::format("the {}th requirement is not needed", out);
              return {};
          }) == "");
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
    constexpr std::size_t universes = std::max<std::size_t>(80 / share, 8);
    std::atomic<std::size_t> unsolvable = 0, advised = 0, many = 0;
    CHECK(for_all(universes, [&](std::size_t at, const tests::Scratch& scratch) -> std::string {
              const std::size_t i = at * (80 / universes);  // of all sizes, also where there are few
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
    CHECK(unsolvable > universes / 2);
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
