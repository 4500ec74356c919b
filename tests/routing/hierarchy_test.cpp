#include "routing/hierarchy.h"

#include <random>

#include "support/town.h"

using namespace otoro;
using routing::CustomisedHierarchy;
using routing::Graph;
using routing::Hierarchy;
using routing::kFar;
using routing::Measure;
using routing::Seed;
using routing::Sweep;

namespace {

/// Arcs drawn at random: few or many, one-way or not, with zero, equal and huge costs, loops, parallels and islands.
Graph random_graph(std::mt19937& dice) {
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(dice() % n); };
    const std::uint32_t nodes = 1 + below(40);
    const std::uint32_t arcs = below(4) == 0 ? below(5) : below(3 * nodes + 1);
    const std::uint32_t most = std::array{1U, 3U, 1000U, 4'000'000'000U}[below(4)];
    std::vector<std::pair<std::uint32_t, routing::Arc>> all;
    for (std::uint32_t i = 0; i < arcs; ++i) {
        const std::uint32_t a = below(nodes), b = below(nodes), cost = below(most), other = below(1 + most / 2);
        all.push_back({a, {b, cost, other, routing::LinkWay::along(LinkId(i))}});
        if (below(3) > 0) all.push_back({b, {a, below(2) == 0 ? cost : below(most), other, routing::LinkWay::against(LinkId(i))}});
    }
    return routing::make_graph_of_arcs(nodes, Measure::time, Sweep::outward, [&](auto&& use) {
        for (const auto& [tail, arc] : all) use(tail, arc);
    });
}

void check_nearest(const Graph& g, const CustomisedHierarchy& fast, const std::vector<Seed>& seeds) {
    const auto plain = nearest_of_many(g, seeds, kFar - 1, Task());
    const auto swept = fast.nearest(seeds);
    for (std::uint32_t v = 0; v < g.node_count(); ++v) {
        REQUIRE(swept[v].cost == plain[v].cost);
        REQUIRE(swept[v].source == plain[v].source);
        REQUIRE(swept[v].other == plain[v].other);
    }
}

}  // namespace

TEST_CASE("Nearest of many by sweeping is nearest of many by searching, to the unit, on thousands of odd graphs") {
    std::mt19937 dice(3);
    for (int i = 0; i < 3000; ++i) {
        INFO("case " << i);
        const Graph g = random_graph(dice);
        const CustomisedHierarchy fast(Hierarchy::of(g, Task()), g, Task());
        std::vector<Seed> seeds;
        for (std::uint32_t k = 0; k < 1 + dice() % 4; ++k)
            seeds.push_back({static_cast<std::uint32_t>(dice() % g.node_count()), static_cast<std::uint32_t>(dice() % 5), static_cast<std::uint32_t>(dice() % 3), static_cast<std::uint32_t>(dice() % 3), {}});
        check_nearest(g, fast, seeds);
    }
}

TEST_CASE("Trees, one by one and sixteen at a time, are what searching gives") {
    std::mt19937 dice(5);
    for (int i = 0; i < 300; ++i) {
        const Graph g = random_graph(dice);
        const CustomisedHierarchy fast(Hierarchy::of(g, Task()), g, Task());
        std::vector<std::uint32_t> sources;
        for (std::uint32_t k = 0; k < 1 + dice() % 40; ++k) sources.push_back(static_cast<std::uint32_t>(dice() % g.node_count()));
        std::size_t expected = 0;
        fast.trees(sources, [&](std::size_t row, std::span<const std::uint32_t> costs) {
            REQUIRE(row == expected++);
            const auto plain = nearest_of_many(g, std::array{Seed{sources[row], 0, 0, 0, {}}}, kFar - 1, Task());
            const auto alone = fast.tree(sources[row]);
            for (std::uint32_t v = 0; v < g.node_count(); ++v) {
                REQUIRE(alone[fast.hierarchy().rank_of(v)] == plain[v].cost);
                REQUIRE(costs[fast.hierarchy().rank_of(v)] == plain[v].cost);
            }
        });
        REQUIRE(expected == sources.size());
    }
}

TEST_CASE("One order serves other costs, the other direction and closures") {
    std::mt19937 dice(9);
    for (int i = 0; i < 60; ++i) {
        test::Town town;
        std::vector<test::At> corners;
        for (int k = 0; k < 25; ++k) corners.push_back({100.0 * (k % 5) + static_cast<double>(dice() % 40), 100.0 * (k / 5) + static_cast<double>(dice() % 40)});
        for (int k = 0; k < 45; ++k) {
            const auto a = corners[dice() % 25], b = corners[dice() % 25];
            if (a.x != b.x || a.y != b.y) town.draw({a, b}, dice() % 4 == 0 ? test::one_way() : test::road(dice() % 2 == 0 ? roads::RoadClass::primary : roads::RoadClass::service));
        }
        const auto net = town.network();
        auto crossings = travel::crossings(*net, {}, Task());
        const auto order = Hierarchy::of(make_graph(*net, crossings, Measure::time, Sweep::outward), Task());
        for (const auto& [measure, sweep] : {std::pair{Measure::time, Sweep::inward}, std::pair{Measure::distance, Sweep::outward}, std::pair{Measure::time, Sweep::outward}}) {
            if (measure == Measure::time && sweep == Sweep::outward) crossings[dice() % crossings.size()] = {};  // shut
            const Graph g = make_graph(*net, crossings, measure, sweep);
            check_nearest(g, CustomisedHierarchy(order, g, Task()), {{static_cast<std::uint32_t>(dice() % g.node_count()), 0, 0, 1, {}}, {static_cast<std::uint32_t>(dice() % g.node_count()), 7, 0, 0, {}}});
        }
    }
}

TEST_CASE("Arcs lead upwards, and higher neighbours of a node are joined to one another") {
    std::mt19937 dice(11);
    for (int i = 0; i < 200; ++i) {
        const auto h = Hierarchy::of(random_graph(dice), Task());
        for (std::uint32_t r = 0; r < h->node_count(); ++r) {
            CHECK(h->node_at(h->rank_of(r)) == r);
            for (std::uint32_t x = h->first()[r]; x < h->first()[r + 1]; ++x) {
                REQUIRE(h->heads()[x] > r);
                if (x == h->first()[r]) continue;
                const auto parent = h->parent(r);
                const auto begin = h->heads().begin() + h->first()[parent], end = h->heads().begin() + h->first()[parent + 1];
                REQUIRE(std::binary_search(begin, end, h->heads()[x]));
            }
        }
    }
}
