#include "core/order/order.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <queue>
#include <tuple>

#include "core/order/graph.hpp"

namespace envar::order {
namespace {

using model::Module;

class Planner {
  public:
    Planner(const Loading& loading, std::string_view platform)
        : loading_(loading), table_(*loading.table), items_(loading.items), platform_(platform) {}

    Order run() {
        rank_items();
        connect();
        find_cycles();
        skip_dependants();
        grant_wishes();
        place();
        return std::move(order_);
    }

  private:
    using Place = resolve::Place;
    [[nodiscard]] std::string name(Node node) const { return std::string(items_[node].name); }
    [[nodiscard]] const Module* manifest_of(Node node) const { return table_.rows[items_[node].row].from; }

    /// Ties are broken by phase, host and name: the place of each item in that order.
    void rank_items() {
        by_rank_.resize(items_.size());
        std::iota(by_rank_.begin(), by_rank_.end(), Node{0});
        std::sort(by_rank_.begin(), by_rank_.end(), [&](Node a, Node b) {
            return std::tie(items_[a].phase_rank, items_[a].host, items_[a].name) <
                   std::tie(items_[b].phase_rank, items_[b].host, items_[b].name);
        });
        rank_.resize(items_.size());
        for (Node rank = 0; rank < by_rank_.size(); ++rank) rank_[by_rank_[rank]] = rank;
        skipped_.assign(items_.size(), false);
    }

    void connect() {
        std::vector<Graph::Edge> edges;
        edges.reserve(loading_.needs.size());
        for (const Tie& tie : loading_.needs) {
            if (tie.to == nothing) {
                absent(tie);
            } else {
                edges.push_back({tie.from, tie.to});
                if (tie.optional) optional_.emplace_back(tie.from, tie.to);
            }
        }
        hard_ = Graph(items_.size(), edges);
        std::sort(optional_.begin(), optional_.end());
        std::sort(order_.missing.begin(), order_.missing.end(), [](const Missing& a, const Missing& b) {
            return std::tie(a.required_by, a.module) < std::tie(b.required_by, b.module);
        });
    }

    void absent(const Tie& tie) {
        const model::Need& need = table_.needs[tie.need];
        const std::string wanted(table_.names.text(need.module));
        if (tie.optional) {
            order_.notes.push_back(
                fmt::format("{} does without {}, which is optional and not there", items_[tie.from].name, wanted));
            return;
        }
        const Place place = place_of_name(tie);
        const std::string versions =
            need.requirement == model::no_id ? "any" : resolve::range_text(table_.requirement(need.requirement));
        order_.missing.push_back({wanted, name(tie.from), versions, place.file, place.line});
        skip(tie.from, fmt::format("needs {}, which is not there", wanted));
    }

    /// Where the need names its module.
    [[nodiscard]] Place place_of_name(const Tie& tie) const {
        const Module* module = manifest_of(tie.from);
        if (module == nullptr) return resolve::place_of(table_, items_[tie.from].row, table_.needs[tie.need]);
        const auto& d = module->manifest.dependencies[table_.needs[tie.need].written];
        return {module->source.file(), module->source.position(d.module.span.begin).line};
    }

    void find_cycles() {
        ShortestCycles shortest(hard_, [&](Node a, Node b) { return items_[a].name < items_[b].name; });
        for (const auto& group : circular_groups(hard_)) {
            Cycle cycle;
            const auto circle = shortest.in(group);
            for (const Node at : circle) cycle.modules.push_back(name(at));
            for (std::size_t i = 0; i < circle.size(); ++i)
                cycle.edges.push_back(edge(circle[i], circle[(i + 1) % circle.size()]));
            cycle.group = group.size();
            for (const Node at : group) skip(at, "needs itself through a circle");
            order_.cycles.push_back(std::move(cycle));
        }
        std::sort(order_.cycles.begin(), order_.cycles.end(),
                  [](const Cycle& a, const Cycle& b) { return a.modules < b.modules; });
    }

    [[nodiscard]] Edge edge(Node from, Node to) const {
        const auto first = std::lower_bound(loading_.needs.begin(), loading_.needs.end(), from,
                                            [](const Tie& tie, Node wanted) { return tie.from < wanted; });
        const auto tie = std::find_if(first, loading_.needs.end(), [&](const Tie& one) { return one.to == to; });
        const Place place = place_of_name(*tie);
        Edge found{name(from), name(to), place.file, place.line, {}};
        if (const Module* module = manifest_of(from))
            found.span = module->manifest.dependencies[table_.needs[tie->need].written].module.span;
        return found;
    }

    void skip(Node at, std::string reason) {
        if (skipped_[at]) return;
        skipped_[at] = true;
        order_.skipped.push_back({name(at), std::move(reason)});
    }

    void skip_other_platforms() {
        if (platform_.empty()) return;
        for (Node at = 0; at < items_.size(); ++at) {
            const Module* module = manifest_of(at);
            if (module == nullptr || module->manifest.platforms.empty()) continue;
            const auto& platforms = module->manifest.platforms;
            if (std::none_of(platforms.begin(), platforms.end(), [&](const auto& p) { return p.value == platform_; }))
                skip(at, fmt::format("is not for the platform {}", platform_));
        }
    }

    /// Who needs something that cannot be loaded cannot be loaded either.
    void skip_dependants() {
        skip_other_platforms();
        followers_ = hard_.reversed();
        std::vector<Node> open;
        for (Node at = 0; at < items_.size(); ++at)
            if (skipped_[at]) open.push_back(at);
        for (std::size_t next = 0; next < open.size(); ++next)
            for (const Node dependant : followers_[open[next]]) {
                if (skipped_[dependant] ||
                    std::binary_search(optional_.begin(), optional_.end(), std::pair(dependant, open[next])))
                    continue;
                skip(dependant, fmt::format("needs {}, which cannot be loaded", items_[open[next]].name));
                open.push_back(dependant);
            }
        std::sort(order_.skipped.begin(), order_.skipped.end(),
                  [](const Skipped& a, const Skipped& b) { return a.module < b.module; });
    }

    /// Wishes within a circle of needs and wishes cannot be granted.
    void grant_wishes() {
        if (!loading_.wishes.empty()) deny_circular_wishes();
        std::sort(order_.notes.begin(), order_.notes.end());
        order_.notes.erase(std::unique(order_.notes.begin(), order_.notes.end()), order_.notes.end());
    }

    void deny_circular_wishes() {
        std::vector<Graph::Edge> edges;
        for (Node at = 0; at < items_.size(); ++at)
            for (const Node to : hard_[at]) edges.push_back({at, to});
        for (const Tie& wish : loading_.wishes) edges.push_back({wish.from, wish.to});
        std::vector<std::uint32_t> group_of(items_.size(), 0);
        std::uint32_t number = 0;
        for (const auto& group : circular_groups(Graph(items_.size(), edges))) {
            ++number;
            for (const Node at : group) group_of[at] = number;
        }
        edges.clear();
        for (const Tie& wish : loading_.wishes) {
            if (group_of[wish.from] != 0 && group_of[wish.from] == group_of[wish.to]) {
                order_.notes.push_back(fmt::format("{} would like to come after {}, but that closes a circle",
                                                   items_[wish.from].name, items_[wish.to].name));
            } else {
                edges.push_back({wish.from, wish.to});
            }
        }
        soft_ = Graph(items_.size(), edges);
        soft_followers_ = soft_.reversed();
    }

    [[nodiscard]] static std::span<const Node> of(const Graph& graph, Node node) {
        return graph.size() == 0 ? std::span<const Node>() : graph[node];
    }

    void place() {
        std::vector<std::uint32_t> waiting(items_.size(), 0);
        std::priority_queue<Node, std::vector<Node>, std::greater<>> ready;  // ranks
        for (Node at = 0; at < items_.size(); ++at) {
            if (skipped_[at]) continue;
            for (const Graph* graph : {&hard_, &soft_})
                for (const Node need : of(*graph, at)) waiting[at] += skipped_[need] ? 0 : 1;
            if (waiting[at] == 0) ready.push(rank_[at]);
        }
        wave_.assign(items_.size(), 1);
        before_.assign(items_.size(), nothing);
        std::map<std::string_view, PhaseState> phases;  // by host
        Node last = nothing;
        while (!ready.empty()) {
            const Node at = by_rank_[ready.top()];
            ready.pop();
            enter_phase(at, phases[items_[at].host]);
            order_.placed.push_back(placed(at, order_.placed.size() + 1));
            if (last == nothing || wave_[at] > wave_[last]) last = at;
            for (const Graph* graph : {&followers_, &soft_followers_})
                for (const Node follower : of(*graph, at)) {
                    if (skipped_[follower]) continue;
                    if (wave_[follower] < wave_[at] + 1) {
                        wave_[follower] = wave_[at] + 1;
                        before_[follower] = at;
                    }
                    if (--waiting[follower] == 0) ready.push(rank_[follower]);
                }
        }
        for (; last != nothing; last = before_[last]) order_.longest.push_back(name(last));
        std::reverse(order_.longest.begin(), order_.longest.end());
    }

    struct PhaseState {
        std::uint32_t rank = 0;       // of the phase that is being filled
        std::uint32_t floor = 1;      // its first wave
        Node floor_behind = nothing;  // what that wave waits for
        std::uint32_t highest = 0;    // last wave so far
        Node highest_at = nothing;
    };

    /// A later phase of a host begins behind all waves of its earlier ones.
    void enter_phase(Node at, PhaseState& state) {
        if (items_[at].phase_rank > state.rank) {
            state.rank = items_[at].phase_rank;
            state.floor = state.highest + 1;
            state.floor_behind = state.highest_at;
        }
        if (items_[at].phase_rank == state.rank && wave_[at] < state.floor) {
            wave_[at] = state.floor;
            before_[at] = state.floor_behind;
        }
        if (wave_[at] > state.highest) {
            state.highest = wave_[at];
            state.highest_at = at;
        }
    }

    [[nodiscard]] Placed placed(Node at, std::size_t position) const {
        const Item& item = items_[at];
        return {position,
                std::string(item.name),
                std::string(table_.version_text(table_.rows[item.row].version)),
                std::string(item.host),
                item.phase,
                wave_[at],
                names(of(hard_, at)),
                names(of(soft_, at))};
    }

    [[nodiscard]] std::vector<std::string> names(std::span<const Node> nodes) const {
        std::vector<std::string> sorted;
        for (const Node node : nodes)
            if (!skipped_[node]) sorted.emplace_back(items_[node].name);
        std::sort(sorted.begin(), sorted.end());
        sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
        return sorted;
    }

    const Loading& loading_;
    const model::ModuleTable& table_;
    const std::vector<Item>& items_;
    std::string_view platform_;
    std::vector<Node> by_rank_, rank_;
    std::vector<bool> skipped_;
    Graph hard_, followers_, soft_, soft_followers_;
    std::vector<std::pair<Node, Node>> optional_;  // sorted
    std::vector<std::uint32_t> wave_;
    std::vector<Node> before_;  // what the wave of each waits for
    Order order_;
};

/// The version of each module: what is chosen or, where nothing can be chosen, the newest.
std::vector<std::uint32_t> rows_for(const resolve::Question& question, const resolve::Supply& supply) {
    const auto& modules = question.space->modules;
    const bool side_by_side =
        std::adjacent_find(modules.begin(), modules.end(),
                           [](const Module& a, const Module& b) { return a.name() == b.name(); }) != modules.end();
    if (!side_by_side) return chosen_rows(supply.table, {});
    resolve::Request request = resolve::request_of(question);
    request.brief = true;
    if (const auto lock = resolve::read_lock(question.space->root)) request.locked = lock->modules;
    return chosen_rows(supply.table, resolve::resolve(supply, request));
}

}  // namespace

Order load_order(const Loading& loading, std::string_view platform) { return Planner(loading, platform).run(); }

Order load_order(const resolve::Question& question) {
    const resolve::Supply supply = resolve::own_supply(*question.space);
    const auto roots = question.roots.empty() ? resolve::roots_of(*question.space, question.target) : question.roots;
    resolve::Setting setting;
    setting.platform = question.platform;
    setting.target = question.target;
    setting.stages = load_only;
    const Loading loading =
        loading_of(*question.space, supply.table, setting, roots, rows_for(question, supply), question.optional);
    return load_order(loading, question.platform);
}

}  // namespace envar::order
