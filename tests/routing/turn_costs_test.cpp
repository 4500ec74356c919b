#include "routing/turn_costs.h"

#include <catch2/catch.hpp>

#include "support/town.h"

using namespace otoro;
using routing::LinkWay;
using routing::TurnCosts;
using test::Town;

namespace {

travel::Turning turning() {
    return {Millis(5000), Millis(1000), Millis(3000), Millis(20'000), {}, travel::TurningBack::anywhere, true};
}

/// A crossroads at the origin: links 0 west, 1 north, 2 east, 3 south, each drawn towards it.
const Town kCross =
    Town().draw({{-100, 0}, {0, 0}}).draw({{0, 100}, {0, 0}}).draw({{100, 0}, {0, 0}}).draw({{0, -100}, {0, 0}});

std::uint32_t cost(const Town& town, const travel::Turning& t, std::uint32_t from, std::uint32_t to) {
    const auto net = town.network();
    const auto crossings = travel::traversal_times(*net, {}, Task());
    return TurnCosts(*net, crossings, t).cost(LinkWay::along(LinkId(from)), LinkWay::against(LinkId(to)));
}

}  // namespace

TEST_CASE("At a crossroads left, straight on and right cost what they cost") {
    // Coming from the west, heading east: north is left, east is straight on, south is right.
    CHECK(cost(kCross, turning(), 0, 1) == 5000);
    CHECK(cost(kCross, turning(), 0, 2) == 1000);
    CHECK(cost(kCross, turning(), 0, 3) == 3000);
    CHECK(cost(kCross, turning(), 0, 0) == 20'000);
}

TEST_CASE("A bend where only two roads meet is no turn") {
    const Town bend = Town().draw({{-100, 0}, {0, 0}}).draw({{0, 100}, {0, 0}});
    CHECK(cost(bend, turning(), 0, 1) == 1000);
}

TEST_CASE("Turning back may be allowed at dead ends only, or never") {
    auto t = turning();
    t.where_back = travel::TurningBack::dead_ends;
    CHECK(cost(kCross, t, 0, 0) == routing::kForbidden);
    const Town close = Town().draw({{-100, 0}, {0, 0}});
    CHECK(cost(close, t, 0, 0) == 20'000);
    t.where_back = travel::TurningBack::never;
    CHECK(cost(close, t, 0, 0) == routing::kForbidden);
}

TEST_CASE("Signals cost everybody who passes them, and forbidden turns are not to be had") {
    Town town = kCross;
    town.lines().traffic_signals = {test::place({0, 0})};
    town.lines().bans = {{roads::LineWay::along(0), roads::LineWay::against(1)}};
    auto t = turning();
    t.signal = Millis(7000);
    CHECK(cost(town, t, 0, 2) == 8000);
    CHECK(cost(town, t, 0, 1) == routing::kForbidden);
    CHECK(cost(town, t, 1, 0) == 10'000);  // the other way is a right turn and allowed
    t.obeys_bans = false;
    CHECK(cost(town, t, 0, 1) == 12'000);
}

TEST_CASE("Turning that costs nothing is free, whatever the roads") {
    const auto net = kCross.network();
    const auto crossings = travel::traversal_times(*net, {}, Task());
    CHECK(TurnCosts(*net, crossings, {}).free());
    CHECK(TurnCosts(*net, crossings, travel::turning_of({})).free());  // nothing is forbidden here
    CHECK_FALSE(TurnCosts(*net, crossings, turning()).free());
}
