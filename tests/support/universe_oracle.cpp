#include "tests/support/universe_oracle.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <mutex>
#include <stdexcept>
#include <thread>

#include "core/process/run.hpp"

namespace envar::testing {
namespace {

std::size_t number_of(const std::string& module) { return std::stoul(module.substr(1)); }

bool accepts(const RandomUniverse::Need& need, const std::vector<std::size_t>& versions) {
    if (need.module >= versions.size() || versions[need.module] == 0) return false;
    return versions[need.module] > need.from && versions[need.module] <= need.to;
}

}  // namespace

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
    // Small ones seldom meet as many conflicts as it takes usually.
    if (universe.modules.size() % 2 == 0) request.limits.ahead = 2;
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

std::vector<std::size_t> chosen(const RandomUniverse& universe, const resolve::Resolution& resolution) {
    std::vector<std::size_t> versions(universe.modules.size(), 0);
    for (const auto& one : resolution.selected) versions[number_of(one.module)] = std::stoul(one.version);
    return versions;
}

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

}  // namespace envar::testing
