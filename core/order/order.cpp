#include "core/order/order.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <queue>
#include <set>
#include <tuple>

#include "core/order/graph.hpp"
#include "core/search/naming.hpp"

namespace envar::order {
namespace {

using model::Dependency;
using model::Module;
using model::Space;

std::size_t phase_index(const model::Card* card, const std::string& phase) {
    if (card == nullptr) return 0;
    const auto found = std::find(card->phases.begin(), card->phases.end(), phase);
    return found == card->phases.end() ? 0 : static_cast<std::size_t>(found - card->phases.begin());
}

std::string phase_of(const Module& module, const model::Card* card) {
    if (card != nullptr) return search::phase_of(module.manifest, *card);
    const std::string& written = module.manifest.entry.phase.value;
    return written.empty() ? "main" : written;
}

class Planner {
  public:
    explicit Planner(const resolve::Question& question) : question_(question), space_(*question.space) {}

    Order run() {
        gather();
        connect();
        find_cycles();
        skip_dependants();
        place();
        return std::move(order_);
    }

  private:
    struct Item {
        const Module* module = nullptr;
        std::string phase;
        std::size_t phase_rank = 0;
        bool skipped = false;
    };

    [[nodiscard]] bool counts(const Dependency& d) const {
        return !d.system && d.stage == model::Stage::load &&
               model::holds(d.when, question_.platform, question_.target);
    }

    /// The roots and what they need, each once.
    void gather() {
        auto roots = question_.roots.empty() ? resolve::roots_of(space_, question_.target) : question_.roots;
        for (const auto& root : roots) add(root);
        for (std::size_t i = 0; i < items_.size(); ++i) {
            const Module& module = *items_[i].module;
            for (const Dependency& d : module.manifest.dependencies) {
                if (!counts(d)) continue;
                if (space_.module(d.module.value) != nullptr) {
                    if (!d.optional) add(d.module.value);
                } else {
                    absent(module, d);
                }
            }
        }
        std::sort(order_.missing.begin(), order_.missing.end(), [](const Missing& a, const Missing& b) {
            return std::tie(a.required_by, a.module) < std::tie(b.required_by, b.module);
        });
    }

    void add(const std::string& name) {
        const Module* module = space_.module(name);
        if (module == nullptr || index_.count(name) != 0) return;
        index_[name] = items_.size();
        const model::Card* card = space_.card(module->manifest.host.value);
        Item item{module, phase_of(*module, card), 0, false};
        item.phase_rank = phase_index(card, item.phase);
        items_.push_back(std::move(item));
    }

    void absent(const Module& module, const Dependency& d) {
        const std::string versions = d.versions.is_any() ? "any" : d.versions.text;
        if (d.optional) {
            order_.notes.push_back(
                fmt::format("{} does without {}, which is optional and not there", module.name(), d.module.value));
            return;
        }
        order_.missing.push_back({d.module.value, module.name(), versions, module.source.file(),
                                  module.source.position(d.module.span.begin).line});
    }

    void connect() {
        hard_.assign(items_.size(), {});
        soft_.assign(items_.size(), {});
        for (std::size_t i = 0; i < items_.size(); ++i) {
            const Module& module = *items_[i].module;
            for (const Dependency& d : module.manifest.dependencies)
                if (counts(d)) join(hard_[i], d.module.value);
            for (const model::Word& after : module.manifest.entry.after) join(soft_[i], after.value);
        }
    }

    void join(std::vector<std::size_t>& edges, const std::string& name) const {
        const auto found = index_.find(name);
        if (found == index_.end()) return;
        if (std::find(edges.begin(), edges.end(), found->second) == edges.end()) edges.push_back(found->second);
    }

    void find_cycles() {
        for (const auto& group : circular_groups(hard_)) {
            Cycle cycle;
            for (const std::size_t at : shortest_cycle(hard_, group, [&](std::size_t a, std::size_t b) {
                     return items_[a].module->name() < items_[b].module->name();
                 }))
                cycle.modules.push_back(items_[at].module->name());
            for (std::size_t i = 0; i < cycle.modules.size(); ++i)
                cycle.edges.push_back(edge(cycle.modules[i], cycle.modules[(i + 1) % cycle.modules.size()]));
            for (const std::size_t at : group) skip(at, "needs itself through a circle");
            order_.cycles.push_back(std::move(cycle));
        }
        std::sort(order_.cycles.begin(), order_.cycles.end(),
                  [](const Cycle& a, const Cycle& b) { return a.modules < b.modules; });
    }

    [[nodiscard]] Edge edge(const std::string& from, const std::string& to) const {
        const Module& module = *space_.module(from);
        for (const Dependency& d : module.manifest.dependencies)
            if (d.module.value == to)
                return {from, to, module.source.file(), module.source.position(d.module.span.begin).line,
                        d.module.span};
        return {from, to, module.source.file(), 1, {}};
    }

    void skip(std::size_t at, const std::string& reason) {
        if (items_[at].skipped) return;
        items_[at].skipped = true;
        order_.skipped.push_back({items_[at].module->name(), reason});
    }

    /// Who needs something that cannot be loaded cannot be loaded either.
    void skip_dependants() {
        for (const Missing& missing : order_.missing)
            skip(index_.at(missing.required_by), fmt::format("needs {}, which is not there", missing.module));
        for (std::size_t i = 0; i < items_.size(); ++i) {
            const auto& platforms = items_[i].module->manifest.platforms;
            const bool fits = platforms.empty() || question_.platform.empty() ||
                              std::any_of(platforms.begin(), platforms.end(),
                                          [&](const model::Word& p) { return p.value == question_.platform; });
            if (!fits) skip(i, fmt::format("is not for the platform {}", question_.platform));
        }
        std::vector<std::vector<std::size_t>> dependants(items_.size());
        for (std::size_t i = 0; i < items_.size(); ++i)
            for (const std::size_t need : hard_[i]) dependants[need].push_back(i);
        std::vector<std::size_t> open;
        for (std::size_t i = 0; i < items_.size(); ++i)
            if (items_[i].skipped) open.push_back(i);
        while (!open.empty()) {
            const std::size_t at = open.back();
            open.pop_back();
            for (const std::size_t dependant : dependants[at]) {
                if (items_[dependant].skipped || is_optional(dependant, at)) continue;
                skip(dependant, fmt::format("needs {}, which cannot be loaded", items_[at].module->name()));
                open.push_back(dependant);
            }
        }
        std::sort(order_.skipped.begin(), order_.skipped.end(),
                  [](const Skipped& a, const Skipped& b) { return a.module < b.module; });
    }

    [[nodiscard]] bool is_optional(std::size_t from, std::size_t to) const {
        const auto& dependencies = items_[from].module->manifest.dependencies;
        return std::any_of(dependencies.begin(), dependencies.end(), [&](const Dependency& d) {
            return d.optional && d.module.value == items_[to].module->name();
        });
    }

    /// Soft edges within a circle of hard and soft ones are wishes that cannot be granted.
    void grant_wishes() {
        Graph both = hard_;
        for (std::size_t i = 0; i < items_.size(); ++i)
            both[i].insert(both[i].end(), soft_[i].begin(), soft_[i].end());
        std::vector<std::size_t> group_of(items_.size(), 0);
        std::size_t number = 0;
        for (const auto& group : circular_groups(both)) {
            ++number;
            for (const std::size_t at : group) group_of[at] = number;
        }
        for (std::size_t i = 0; i < items_.size(); ++i) {
            std::erase_if(soft_[i], [&](std::size_t to) {
                const bool denied = group_of[i] != 0 && group_of[i] == group_of[to];
                if (denied)
                    order_.notes.push_back(fmt::format("{} would like to come after {}, but that closes a circle",
                                                       items_[i].module->name(), items_[to].module->name()));
                return denied;
            });
        }
        std::sort(order_.notes.begin(), order_.notes.end());
        order_.notes.erase(std::unique(order_.notes.begin(), order_.notes.end()), order_.notes.end());
    }

    void place() {
        grant_wishes();
        std::vector<std::size_t> waiting(items_.size(), 0);
        std::vector<std::vector<std::size_t>> followers(items_.size());
        for (std::size_t i = 0; i < items_.size(); ++i) {
            if (items_[i].skipped) continue;
            for (const auto* edges : {&hard_[i], &soft_[i]})
                for (const std::size_t need : *edges)
                    if (!items_[need].skipped) {
                        followers[need].push_back(i);
                        ++waiting[i];
                    }
        }
        using Key = std::tuple<std::size_t, std::string, std::string, std::size_t>;
        std::priority_queue<Key, std::vector<Key>, std::greater<>> ready;
        const auto key = [&](std::size_t i) {
            return Key{items_[i].phase_rank, items_[i].module->manifest.host.value, items_[i].module->name(), i};
        };
        for (std::size_t i = 0; i < items_.size(); ++i)
            if (!items_[i].skipped && waiting[i] == 0) ready.push(key(i));
        std::vector<std::size_t> wave(items_.size(), 1);
        std::map<std::string, PhaseState> phases;  // by host
        std::size_t position = 0;
        while (!ready.empty()) {
            const std::size_t at = std::get<3>(ready.top());
            ready.pop();
            wave[at] = wave_in_phase(at, wave[at], phases);
            order_.placed.push_back(placed(at, ++position, wave[at]));
            for (const std::size_t follower : followers[at]) {
                wave[follower] = std::max(wave[follower], wave[at] + 1);
                if (--waiting[follower] == 0) ready.push(key(follower));
            }
        }
    }

    struct PhaseState {
        std::size_t rank = 0;     // of the phase that is being filled
        std::size_t floor = 1;    // its first wave
        std::size_t highest = 0;  // last wave so far
    };

    /// A later phase of a host begins behind all waves of its earlier ones.
    [[nodiscard]] std::size_t wave_in_phase(std::size_t at, std::size_t wave,
                                            std::map<std::string, PhaseState>& phases) const {
        PhaseState& state = phases[items_[at].module->manifest.host.value];
        if (items_[at].phase_rank > state.rank) {
            state.rank = items_[at].phase_rank;
            state.floor = state.highest + 1;
        }
        if (items_[at].phase_rank == state.rank) wave = std::max(wave, state.floor);
        state.highest = std::max(state.highest, wave);
        return wave;
    }

    [[nodiscard]] Placed placed(std::size_t at, std::size_t position, std::size_t wave) const {
        const Item& item = items_[at];
        return {position, item.module->name(), item.module->version(), item.module->manifest.host.value, item.phase,
                wave,     names(hard_[at]),    names(soft_[at])};
    }

    [[nodiscard]] std::vector<std::string> names(const std::vector<std::size_t>& nodes) const {
        std::set<std::string> sorted;
        for (const std::size_t node : nodes)
            if (!items_[node].skipped) sorted.insert(items_[node].module->name());
        return {sorted.begin(), sorted.end()};
    }

    const resolve::Question& question_;
    const Space& space_;
    std::vector<Item> items_;
    std::map<std::string, std::size_t> index_;
    Graph hard_;
    Graph soft_;
    Order order_;
};

}  // namespace

Order load_order(const resolve::Question& question) { return Planner(question).run(); }

}  // namespace envar::order
