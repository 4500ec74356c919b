#include <catch2/catch.hpp>
#include <random>

#include "routing/one_to_all.h"
#include "routing/order.h"
#include "routing/route.h"
#include "routing/turn_costs.h"
#include "support/odd_graphs.h"
#include "support/town.h"

using namespace otoro;
using namespace otoro::routing;
using test::Town;

namespace {

/// A town of crossings with streets missing, one-way streets, forbidden turns and a signal.
Town random_town(std::mt19937& dice) {
    Town town;
    constexpr int kSide = 7;
    for (int y = 0; y < kSide; ++y)
        for (int x = 0; x < kSide; ++x) {
            const test::At here{100.0 * x, 100.0 * y};
            if (x + 1 < kSide && dice() % 6 != 0)
                town.draw({here, {here.x + 100, here.y}}, dice() % 5 == 0 ? test::one_way() : test::road());
            if (y + 1 < kSide && dice() % 6 != 0)
                town.draw({here, {here.x, here.y + 100}},
                          dice() % 5 == 0 ? test::one_way() : test::road(roads::RoadClass::primary));
        }
    const auto links = static_cast<std::uint32_t>(town.lines().count());
    for (int i = 0; i < 12; ++i) {
        const auto a = static_cast<std::uint32_t>(dice() % links), b = static_cast<std::uint32_t>(dice() % links);
        town.lines().bans.push_back({dice() % 2 == 0 ? roads::LineWay::along(a) : roads::LineWay::against(a),
                                     dice() % 2 == 0 ? roads::LineWay::along(b) : roads::LineWay::against(b)});
    }
    std::sort(town.lines().bans.begin(), town.lines().bans.end());
    town.lines().traffic_signals = {test::place({300, 300})};
    return town;
}

}  // namespace

TEST_CASE("Moves from road to road, with their costs and bans, are swept as they are searched, in either direction") {
    std::mt19937 dice(51);
    for (int i = 0; i < 25; ++i) {
        INFO("town " << i);
        const auto net = random_town(dice).network();
        const auto crossings = travel::traversal_times(*net, {}, Task());
        const TurnCosts turns(*net, crossings,
                              {Millis(8000), Millis(500), Millis(3000), Millis(15'000), Millis(6000),
                               i % 2 == 0 ? travel::TurningBack::dead_ends : travel::TurningBack::never, true});
        const WaysByNode ways(*net);
        for (const SearchDirection sweep : {SearchDirection::outward, SearchDirection::inward}) {
            const Graph g = make_turn_graph(*net, crossings, turns, ways, MoveStates::plain(*net),
                                            i % 3 == 0 ? Measure::distance : Measure::time, sweep);
            const Customised fast(Hierarchy::of(g, Task()), g, Task());
            std::vector<Seed> seeds;
            for (std::uint32_t s = 0; s < 3; ++s)
                seeds.push_back({static_cast<std::uint32_t>(dice() % g.node_count()),
                                 static_cast<std::uint32_t>(dice() % 900),
                                 3,
                                 s,
                                 {}});
            const auto plain = nearest_of_many(g, seeds, kFar - 1, Task());
            const auto swept = nearest(fast, seeds, Run::with);
            for (std::uint32_t way = 0; way < g.node_count(); ++way) {
                const Label label = swept.at(fast.hierarchy().rank_of(way));
                REQUIRE(label.cost == plain[way].cost);
                REQUIRE(label.source == plain[way].source);
                REQUIRE(label.other == plain[way].other);
            }
        }
    }
}

TEST_CASE("A route over moves turns only where one may") {
    std::mt19937 dice(52);
    std::uint32_t turned = 0;
    for (int i = 0; i < 25; ++i) {
        const auto net = random_town(dice).network();
        const auto crossings = travel::traversal_times(*net, {}, Task());
        const TurnCosts turns(
            *net, crossings,
            {Millis(8000), Millis(500), Millis(3000), Millis(15'000), {}, travel::TurningBack::dead_ends, true});
        const Graph g = make_turn_graph(*net, crossings, turns, WaysByNode(*net), MoveStates::plain(*net),
                                        Measure::time, SearchDirection::outward);
        const Customised fast(Hierarchy::of(g, Task()), g, Task());
        const auto from = static_cast<std::uint32_t>(dice() % g.node_count()),
                   to = static_cast<std::uint32_t>(dice() % g.node_count());
        const auto r = route(fast, g, from, to);
        if (!r || r->ways.empty()) continue;
        std::uint64_t ms = 0;
        CHECK(r->ways.front().bits == from);
        for (std::size_t k = 0; k < r->ways.size(); ++k) {
            const LinkWay way = r->ways[k], next = k + 1 < r->ways.size() ? r->ways[k + 1] : LinkWay{to};
            REQUIRE(end_of(*net, way) == start_of(*net, next));
            const std::uint32_t turn = turns.cost(way, next);
            REQUIRE(turn != routing::kForbidden);
            ms +=
                turn + (way.is_against() ? crossings[way.link().value()].against : crossings[way.link().value()].along);
            turned += turn >= 3000;
        }
        CHECK(ms == r->weight.cost);
    }
    CHECK(turned > 10);
}

TEST_CASE("A good order is an order, puts subtrees together, and leaves a path few joints") {
    const auto path = make_graph_of_arcs(1000, Measure::time, SearchDirection::outward, [](auto&& use) {
        for (std::uint32_t i = 0; i + 1 < 1000; ++i) use(i, Arc{i + 1, 1, 1, LinkWay::none()});
    });
    const auto neighbours = neighbours_of(path);
    CHECK(neighbours.of(0).size() == 1);
    CHECK(neighbours.of(500).size() == 2);
    const auto turn = good_order(neighbours, Task());
    std::vector<bool> seen(1000, false);
    for (const auto t : turn) seen.at(t) = true;
    CHECK(std::find(seen.begin(), seen.end(), false) == seen.end());
    const auto chordal = take_out(neighbours, turn, Task());
    CHECK(chordal.heads.size() < 2000);
    // Too many joints for what is allowed: nothing.
    CHECK(take_out(neighbours, turn, Task(), 100).first.empty());
    // The middle of a star taken out first joins all its points to one another.
    const auto star = make_graph_of_arcs(30, Measure::time, SearchDirection::outward, [](auto&& use) {
        for (std::uint32_t i = 1; i < 30; ++i) use(0U, Arc{i, 1, 1, LinkWay::none()});
    });
    std::vector<std::uint32_t> middle_first(30);
    for (std::uint32_t i = 0; i < 30; ++i) middle_first[i] = i;
    CHECK(take_out(neighbours_of(star), middle_first, Task()).heads.size() == 30 * 29 / 2);
    CHECK(take_out(neighbours_of(star), good_order(neighbours_of(star), Task()), Task()).heads.size() == 29);
}
