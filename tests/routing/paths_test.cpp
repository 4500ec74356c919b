#include <catch2/catch.hpp>
#include <numeric>
#include <random>

#include "routing/route.h"
#include "support/odd_graphs.h"

using namespace otoro;
using namespace otoro::routing;

namespace {

/// Follows ways through a graph whose ways are all different; what they cost together, or nothing if they do not lead
/// from one node to the other.
std::optional<ArcWeight> follow(const Graph& g, std::uint32_t from, std::uint32_t to,
                                const std::vector<LinkWay>& ways) {
    ArcWeight t{0, 0};
    for (const LinkWay way : ways) {
        const auto arcs = g.arcs_of(from);
        const auto arc = std::find_if(arcs.begin(), arcs.end(), [&](const Arc& a) { return a.way == way; });
        if (arc == arcs.end()) return std::nullopt;
        t = {sum(t.cost, arc->cost), sum(t.other, arc->other)};
        from = arc->head;
    }
    return from == to ? std::optional(t) : std::nullopt;
}

}  // namespace

TEST_CASE("A route's roads lead from one end to the other and add up to what the search says") {
    std::mt19937 dice(21);
    std::uint32_t found = 0;
    for (int i = 0; i < 1000; ++i) {
        INFO("case " << i);
        const Graph g = test::random_graph(dice);
        const Customised fast(Hierarchy::of(g, Task()), g, Task());
        const auto from = static_cast<std::uint32_t>(dice() % g.node_count()),
                   to = static_cast<std::uint32_t>(dice() % g.node_count());
        const auto plain = nearest_of_many(g, std::array{Seed{from, 0, 0, 0, {}}}, kFar - 1, Task())[to];
        const auto r = route(fast, g, from, to);
        REQUIRE(r.has_value() == plain.reached());
        if (!r) continue;
        ++found;
        REQUIRE(r->weight == ArcWeight{plain.cost, plain.other});
        const auto followed = follow(g, from, to, r->ways);
        REQUIRE(followed.has_value());
        CHECK(*followed == r->weight);
    }
    CHECK(found > 300);
}

TEST_CASE(
    "A route across a town of ten thousand crossings is the shortest, from the better of two starts to the "
    "better of two ends") {
    std::mt19937 dice(22);
    const Graph g = test::grid(110, 100, dice);
    const Customised fast(Hierarchy::of(g, Task()), g, Task());
    for (int i = 0; i < 20; ++i) {
        const auto node = [&] { return static_cast<std::uint32_t>(dice() % g.node_count()); };
        const std::array<Seed, 2> starts{Seed{node(), 500, 7, 0, {}}, Seed{node(), 0, 0, 0, {}}},
            ends{Seed{node(), 30, 1, 0, {}}, Seed{node(), 0, 2, 0, {}}};
        const auto plain = nearest_of_many(g, starts, kFar - 1, Task());
        ArcWeight least;
        for (const Seed& e : ends)
            if (plain[e.node].reached() && plain[e.node].cost + e.cost < least.cost)
                least = {plain[e.node].cost + e.cost, plain[e.node].other + e.other};
        const auto r = route(fast, g, starts, ends);
        REQUIRE(r.has_value());
        CHECK(r->route.weight == least);
        const auto followed = follow(g, starts[r->start].node, ends[r->end].node, r->route.ways);
        REQUIRE(followed.has_value());
        CHECK(followed->cost + starts[r->start].cost + ends[r->end].cost == least.cost);
    }
}

TEST_CASE("The best order of stops is the best of all orders") {
    std::mt19937 dice(23);
    for (int i = 0; i < 200; ++i) {
        INFO("case " << i);
        const std::size_t stops = 2 + dice() % 6;
        Legs legs(stops);
        for (std::size_t a = 0; a < stops; ++a)
            for (std::size_t b = 0; b < stops; ++b)
                if (dice() % 7 != 0) legs.set(a, b, static_cast<std::uint32_t>(dice() % 50));
        std::vector<std::size_t> order(stops);
        std::iota(order.begin(), order.end(), 0U);
        const auto length = [&](const std::vector<std::size_t>& o) {
            std::uint64_t total = 0;
            for (std::size_t k = 0; k + 1 < o.size(); ++k)
                total += legs.at(o[k], o[k + 1]) >= kFar ? 1'000'000U : legs.at(o[k], o[k + 1]);
            return total;
        };
        std::uint64_t best = 1'000'000;
        do best = std::min(best, length(order));
        while (std::next_permutation(order.begin() + 1, order.end() - 1));
        const auto found = best_order(legs, Task());
        REQUIRE(found.has_value() == (best < 1'000'000));
        if (!found) continue;
        CHECK(length(*found) == best);
        CHECK(found->front() == 0);
        CHECK(found->back() == stops - 1);
    }
}

TEST_CASE("Twelve stops are put in the best order, thirteen are refused") {
    const auto on_a_line =
        [](std::size_t between) {  // visited in the order of their numbers they zigzag; along the line is best
            std::vector<int> at{0};
            for (std::size_t i = 0; i < between; ++i) at.push_back(1 + static_cast<int>(i * 5 % 13));
            at.push_back(20);
            Legs legs(at.size());
            for (std::size_t a = 0; a < at.size(); ++a)
                for (std::size_t b = 0; b < at.size(); ++b)
                    legs.set(a, b, static_cast<std::uint32_t>(std::abs(at[a] - at[b])));
            return std::pair(legs, at);
        };
    const auto [legs, at] = on_a_line(12);
    const auto order = best_order(legs, Task());
    REQUIRE(order.has_value());
    for (std::size_t k = 0; k + 1 < order->size(); ++k) CHECK(at[(*order)[k]] < at[(*order)[k + 1]]);
    CHECK_THROWS_AS(best_order(on_a_line(13).first, Task()), std::length_error);
}
