#include "core/order/graph.hpp"

#include <algorithm>
#include <deque>
#include <limits>

namespace envar::order {
namespace {

constexpr std::size_t unseen = std::numeric_limits<std::size_t>::max();

class Tarjan {
  public:
    explicit Tarjan(const Graph& graph)
        : graph_(graph), index_(graph.size(), unseen), low_(graph.size(), 0), on_stack_(graph.size(), false) {}

    std::vector<std::vector<std::size_t>> run() {
        for (std::size_t start = 0; start < graph_.size(); ++start)
            if (index_[start] == unseen) visit(start);
        std::sort(groups_.begin(), groups_.end());
        return std::move(groups_);
    }

  private:
    struct Frame {
        std::size_t node;
        std::size_t next = 0;  // edge to look at next
    };

    void visit(std::size_t start) {
        std::vector<Frame> frames = {{start}};
        open(start);
        while (!frames.empty()) {
            Frame& frame = frames.back();
            const std::size_t node = frame.node;
            if (frame.next < graph_[node].size()) {
                const std::size_t to = graph_[node][frame.next++];
                if (index_[to] == unseen) {
                    open(to);
                    frames.push_back({to});
                } else if (on_stack_[to]) {
                    low_[node] = std::min(low_[node], index_[to]);
                }
                continue;
            }
            if (low_[node] == index_[node]) close(node);
            frames.pop_back();
            if (!frames.empty()) low_[frames.back().node] = std::min(low_[frames.back().node], low_[node]);
        }
    }

    void open(std::size_t node) {
        index_[node] = low_[node] = counter_++;
        stack_.push_back(node);
        on_stack_[node] = true;
    }

    void close(std::size_t root) {
        std::vector<std::size_t> group;
        std::size_t node = unseen;
        do {
            node = stack_.back();
            stack_.pop_back();
            on_stack_[node] = false;
            group.push_back(node);
        } while (node != root);
        const auto& own = graph_[root];
        if (group.size() == 1 && std::find(own.begin(), own.end(), root) == own.end()) return;
        std::sort(group.begin(), group.end());
        groups_.push_back(std::move(group));
    }

    const Graph& graph_;
    std::vector<std::size_t> index_;
    std::vector<std::size_t> low_;
    std::vector<bool> on_stack_;
    std::vector<std::size_t> stack_;
    std::vector<std::vector<std::size_t>> groups_;
    std::size_t counter_ = 0;
};

}  // namespace

std::vector<std::vector<std::size_t>> circular_groups(const Graph& graph) { return Tarjan(graph).run(); }

std::vector<std::size_t> shortest_cycle(const Graph& graph, const std::vector<std::size_t>& group,
                                        const std::function<bool(std::size_t, std::size_t)>& before) {
    const std::size_t start = *std::min_element(group.begin(), group.end(), before);
    std::vector<std::size_t> came_from(graph.size(), unseen);
    std::deque<std::size_t> open = {start};
    while (!open.empty()) {
        const std::size_t at = open.front();
        open.pop_front();
        std::vector<std::size_t> next = graph[at];
        std::sort(next.begin(), next.end(), before);
        for (const std::size_t to : next) {
            if (to == start) {
                std::vector<std::size_t> cycle;
                for (std::size_t back = at; back != start; back = came_from[back]) cycle.push_back(back);
                cycle.push_back(start);
                std::reverse(cycle.begin(), cycle.end());
                return cycle;
            }
            if (came_from[to] == unseen) {
                came_from[to] = at;
                open.push_back(to);
            }
        }
    }
    return {start};
}

}  // namespace envar::order
