#include "core/order/graph.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

namespace envar::order {
namespace {

constexpr Node unseen = std::numeric_limits<Node>::max();
constexpr std::size_t most_work = 20'000'000;  // edges gone along for the circle of one group

class Tarjan {
  public:
    explicit Tarjan(const Graph& graph)
        : graph_(graph), index_(graph.size(), unseen), low_(graph.size(), 0), on_stack_(graph.size(), false) {}

    std::vector<std::vector<Node>> run() {
        for (Node start = 0; start < graph_.size(); ++start)
            if (index_[start] == unseen) visit(start);
        std::sort(groups_.begin(), groups_.end());
        return std::move(groups_);
    }

  private:
    struct Frame {
        Node node;
        std::uint32_t next = 0;  // edge to look at next
    };

    void visit(Node start) {
        std::vector<Frame> frames = {{start}};
        open(start);
        while (!frames.empty()) {
            Frame& frame = frames.back();
            const Node node = frame.node;
            if (frame.next < graph_[node].size()) {
                const Node to = graph_[node][frame.next++];
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

    void open(Node node) {
        index_[node] = low_[node] = counter_++;
        stack_.push_back(node);
        on_stack_[node] = true;
    }

    void close(Node root) {
        std::vector<Node> group;
        Node node = unseen;
        do {
            node = stack_.back();
            stack_.pop_back();
            on_stack_[node] = false;
            group.push_back(node);
        } while (node != root);
        const auto own = graph_[root];
        if (group.size() == 1 && std::find(own.begin(), own.end(), root) == own.end()) return;
        std::sort(group.begin(), group.end());
        groups_.push_back(std::move(group));
    }

    const Graph& graph_;
    std::vector<Node> index_;
    std::vector<Node> low_;
    std::vector<bool> on_stack_;
    std::vector<Node> stack_;
    std::vector<std::vector<Node>> groups_;
    Node counter_ = 0;
};

}  // namespace

std::vector<std::vector<Node>> circular_groups(const Graph& graph) { return Tarjan(graph).run(); }

ShortestCycles::ShortestCycles(const Graph& graph, std::function<bool(Node, Node)> before)
    : graph_(graph), before_(std::move(before)), came_from_(graph.size(), unseen), group_of_(graph.size(), 0) {}

std::vector<Node> ShortestCycles::in(const std::vector<Node>& group) {
    ++group_;
    for (const Node node : group) group_of_[node] = group_;
    std::vector<Node> starts = group;
    std::sort(starts.begin(), starts.end(), before_);
    std::vector<Node> best;
    work_ = 0;
    for (const Node node : starts)
        if (const auto own = graph_[node]; std::find(own.begin(), own.end(), node) != own.end()) return {node};
    if (const Node first = starts.front(); one_way_from(first, group.size())) return through(first, group.size() + 1);
    for (const Node start : starts) {
        if (!best.empty() && (best.size() <= 2 || work_ > most_work)) break;
        auto cycle = through(start, best.empty() ? group.size() + 1 : best.size());
        if (!cycle.empty()) best = std::move(cycle);
    }
    if (!best.empty()) std::rotate(best.begin(), std::min_element(best.begin(), best.end(), before_), best.end());
    return best;
}

/// Whether there is no choice on the way around the group: it is one circle, and no other node finds a shorter one.
bool ShortestCycles::one_way_from(Node first, std::size_t nodes) const {
    Node at = first;
    for (std::size_t i = 0; i < nodes; ++i) {
        const auto ways = graph_[at];
        const auto is_inside = [&](Node to) { return group_of_[to] == group_; };
        const auto way = std::find_if(ways.begin(), ways.end(), is_inside);
        if (way == ways.end() || std::any_of(way + 1, ways.end(), is_inside)) return false;
        at = *way;
    }
    return at == first;
}

/// A shortest circle through the node, when it is shorter than that; else nothing.
std::vector<Node> ShortestCycles::through(Node start, std::size_t shorter_than) {
    std::vector<Node> open = {start};
    std::vector<Node> cycle, next;
    std::size_t length = 1, end_of_level = 1;
    for (std::size_t at = 0; at < open.size() && cycle.empty(); ++at) {
        if (at == end_of_level) {
            ++length;
            end_of_level = open.size();
        }
        if (length >= shorter_than) break;
        const auto neighbours = graph_[open[at]];
        next.assign(neighbours.begin(), neighbours.end());
        std::erase_if(next, [&](Node to) { return group_of_[to] != group_; });
        if (next.size() > 1) std::sort(next.begin(), next.end(), before_);
        work_ += neighbours.size();
        for (const Node to : next) {
            if (to == start) {
                for (Node back = open[at]; back != start; back = came_from_[back]) cycle.push_back(back);
                cycle.push_back(start);
                std::reverse(cycle.begin(), cycle.end());
                break;
            }
            if (came_from_[to] != unseen) continue;
            came_from_[to] = open[at];
            open.push_back(to);
        }
    }
    for (const Node node : open) came_from_[node] = unseen;
    return cycle;
}

Graph::Graph(const std::vector<std::vector<Node>>& neighbours) : first_(1, 0) {
    for (const auto& list : neighbours) {
        to_.insert(to_.end(), list.begin(), list.end());
        first_.push_back(to_.size());
    }
}

Graph::Graph(std::size_t nodes, const std::vector<Edge>& edges) : first_(nodes + 1, 0), to_(edges.size()) {
    for (const Edge& edge : edges) ++first_[edge.from + 1];
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
    for (const Edge& edge : edges) to_[next[edge.from]++] = edge.to;
}

Graph Graph::reversed() const {
    std::vector<Edge> edges;
    edges.reserve(to_.size());
    for (Node node = 0; node < size(); ++node)
        for (const Node to : (*this)[node]) edges.push_back({to, node});
    return {size(), edges};
}

}  // namespace envar::order
