#include <doctest/doctest.h>

#include <algorithm>
#include <random>
#include <set>

#include "core/order/graph.hpp"
#include "tests/support/share.hpp"

using namespace envar::order;

namespace {

/// The obvious way: reach everything from everywhere.
std::vector<std::vector<bool>> reachable(const std::vector<std::vector<Node>>& graph) {
    std::vector<std::vector<bool>> reach(graph.size(), std::vector<bool>(graph.size(), false));
    for (std::size_t i = 0; i < graph.size(); ++i)
        for (const std::size_t j : graph[i]) reach[i][j] = true;
    for (std::size_t k = 0; k < graph.size(); ++k)
        for (std::size_t i = 0; i < graph.size(); ++i)
            for (std::size_t j = 0; j < graph.size(); ++j)
                if (reach[i][k] && reach[k][j]) reach[i][j] = true;
    return reach;
}

/// The length of the shortest circle in the group, from all distances.
std::size_t girth(const std::vector<std::vector<Node>>& graph, const std::vector<Node>& group) {
    constexpr std::size_t far = 1000;
    std::vector<std::vector<std::size_t>> away(graph.size(), std::vector<std::size_t>(graph.size(), far));
    for (std::size_t i = 0; i < graph.size(); ++i)
        for (const Node j : graph[i]) away[i][j] = 1;
    for (std::size_t k = 0; k < graph.size(); ++k)
        for (std::size_t i = 0; i < graph.size(); ++i)
            for (std::size_t j = 0; j < graph.size(); ++j) away[i][j] = std::min(away[i][j], away[i][k] + away[k][j]);
    std::size_t shortest = far;
    for (const Node node : group) shortest = std::min(shortest, away[node][node]);
    return shortest;
}

}  // namespace

TEST_CASE("circular groups agree with plain reachability") {
    std::mt19937 random(5);
    for (int round = 0; round < 400; ++round) {
        std::vector<std::vector<Node>> graph(1 + random() % 9);
        for (auto& edges : graph)
            for (auto i = random() % 3; i > 0; --i) edges.push_back(static_cast<Node>(random() % graph.size()));
        const auto reach = reachable(graph);
        std::set<std::set<std::size_t>> expected;
        for (std::size_t i = 0; i < graph.size(); ++i) {
            std::set<std::size_t> group;
            for (std::size_t j = 0; j < graph.size(); ++j)
                if (reach[i][j] && reach[j][i]) group.insert(j);
            if (!group.empty()) expected.insert(group);
        }
        std::set<std::set<std::size_t>> found;
        const Graph made(graph);
        ShortestCycles shortest(made, std::less<>());
        for (const auto& group : circular_groups(made)) {
            found.insert({group.begin(), group.end()});
            const auto cycle = shortest.in(group);
            REQUIRE_FALSE(cycle.empty());
            CHECK(cycle.front() == *std::min_element(cycle.begin(), cycle.end()));
            CHECK(cycle.size() == girth(graph, group));
            for (std::size_t i = 0; i < cycle.size(); ++i) {
                const auto& edges = graph[cycle[i]];
                CHECK(std::find(edges.begin(), edges.end(), cycle[(i + 1) % cycle.size()]) != edges.end());
            }
        }
        CHECK(found == expected);
    }
}

TEST_CASE("a chain of a million does not exhaust the stack") {
    std::vector<Graph::Edge> edges;
    constexpr Node count = 1000000 / envar::testing::share;
    for (Node i = 0; i + 1 < count; ++i) edges.push_back({i, i + 1});
    CHECK(circular_groups(Graph(count, edges)).empty());
    edges.push_back({count - 1, 0});
    const Graph closed(count, edges);
    const auto groups = circular_groups(closed);
    REQUIRE(groups.size() == 1);
    CHECK(groups.front().size() == count);
    CHECK(ShortestCycles(closed, std::less<>()).in(groups.front()).size() == count);
}
