// Directed graphs as lists of neighbours, and the two questions that load order asks of them.
#pragma once

#include <cstddef>
#include <functional>
#include <vector>

namespace envar::order {

using Graph = std::vector<std::vector<std::size_t>>;  // node → nodes it needs

/// Groups of nodes that reach each other, single nodes only with an edge to themselves; each sorted, in order
/// of their first node. Method: Tarjan, "Depth-First Search and Linear Graph Algorithms" (1972), with a stack
/// of its own, so that depth is bounded by memory alone.
[[nodiscard]] std::vector<std::vector<std::size_t>> circular_groups(const Graph& graph);

/// A shortest circle through the group's smallest node by `before`, beginning with that node; breadth first,
/// neighbours by `before`.
[[nodiscard]] std::vector<std::size_t> shortest_cycle(const Graph& graph, const std::vector<std::size_t>& group,
                                                      const std::function<bool(std::size_t, std::size_t)>& before);

}  // namespace envar::order
