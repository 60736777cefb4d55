// Directed graphs as lists of neighbours, and the two questions that load order asks of them.
#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace envar::order {

using Node = std::uint32_t;

/// Nodes and the nodes they need, all in one list.
class Graph {
  public:
    Graph() = default;
    /// From a list of neighbours a node.
    explicit Graph(const std::vector<std::vector<Node>>& neighbours);
    /// From edges in any order: `from` needs `to`. A node's neighbours keep the order of the edges.
    struct Edge {
        Node from;
        Node to;
    };
    Graph(std::size_t nodes, const std::vector<Edge>& edges);

    [[nodiscard]] std::size_t size() const { return first_.empty() ? 0 : first_.size() - 1; }
    [[nodiscard]] std::span<const Node> operator[](std::size_t node) const {
        return {to_.data() + first_[node], to_.data() + first_[node + 1]};
    }
    /// The same edges the other way round.
    [[nodiscard]] Graph reversed() const;

  private:
    std::vector<std::size_t> first_;
    std::vector<Node> to_;
};

/// Groups of nodes that reach each other, single nodes only with an edge to themselves; each sorted, in order
/// of their first node. Method: Tarjan, "Depth-First Search and Linear Graph Algorithms" (1972), with a stack
/// of its own, so that depth is bounded by memory alone.
[[nodiscard]] std::vector<std::vector<Node>> circular_groups(const Graph& graph);

/// A shortest circle inside the group, beginning with its smallest node by `before`; of several shortest ones the one
/// whose smallest node is the smallest. Breadth first from each node; in groups so large that this would take too
/// long, from as many of the smallest nodes as the bound of work allows.
class ShortestCycles {
  public:
    ShortestCycles(const Graph& graph, std::function<bool(Node, Node)> before);
    [[nodiscard]] std::vector<Node> in(const std::vector<Node>& group);

  private:
    [[nodiscard]] bool one_way_from(Node first, std::size_t nodes) const;
    [[nodiscard]] std::vector<Node> through(Node start, std::size_t shorter_than);

    const Graph& graph_;
    std::function<bool(Node, Node)> before_;
    std::vector<Node> came_from_;
    std::vector<std::uint32_t> group_of_;  // of the group at hand
    std::uint32_t group_ = 0;
    std::size_t work_ = 0;
};

}  // namespace envar::order
