#include <doctest/doctest.h>

#include <algorithm>
#include <random>
#include <set>

#include "core/order/graph.hpp"

using namespace envar::order;

namespace {

/// The obvious way: reach everything from everywhere.
std::vector<std::vector<bool>> reachable(const Graph& graph) {
    std::vector<std::vector<bool>> reach(graph.size(), std::vector<bool>(graph.size(), false));
    for (std::size_t i = 0; i < graph.size(); ++i)
        for (const std::size_t j : graph[i]) reach[i][j] = true;
    for (std::size_t k = 0; k < graph.size(); ++k)
        for (std::size_t i = 0; i < graph.size(); ++i)
            for (std::size_t j = 0; j < graph.size(); ++j)
                if (reach[i][k] && reach[k][j]) reach[i][j] = true;
    return reach;
}

}  // namespace

TEST_CASE("circular groups agree with plain reachability") {
    std::mt19937 random(5);
    for (int round = 0; round < 400; ++round) {
        Graph graph(1 + random() % 9);
        for (auto& edges : graph)
            for (auto i = random() % 3; i > 0; --i) edges.push_back(random() % graph.size());
        const auto reach = reachable(graph);
        std::set<std::set<std::size_t>> expected;
        for (std::size_t i = 0; i < graph.size(); ++i) {
            std::set<std::size_t> group;
            for (std::size_t j = 0; j < graph.size(); ++j)
                if (reach[i][j] && reach[j][i]) group.insert(j);
            if (!group.empty()) expected.insert(group);
        }
        std::set<std::set<std::size_t>> found;
        for (const auto& group : circular_groups(graph)) {
            found.insert({group.begin(), group.end()});
            const auto cycle = shortest_cycle(graph, group, std::less<>());
            CHECK(cycle.front() == group.front());
            for (std::size_t i = 0; i < cycle.size(); ++i) {
                const auto& edges = graph[cycle[i]];
                CHECK(std::find(edges.begin(), edges.end(), cycle[(i + 1) % cycle.size()]) != edges.end());
            }
        }
        CHECK(found == expected);
    }
}

TEST_CASE("a chain of a million does not exhaust the stack") {
    Graph graph(1000000);
    for (std::size_t i = 0; i + 1 < graph.size(); ++i) graph[i].push_back(i + 1);
    CHECK(circular_groups(graph).empty());
    graph.back().push_back(0);
    CHECK(circular_groups(graph).front().size() == graph.size());
}
