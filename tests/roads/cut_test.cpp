#include "roads/cut.h"

#include <catch2/catch.hpp>

#include "support/town.h"

using namespace otoro;
using roads::Cut;
using roads::Lines;
using roads::LineWay;
using test::At;
using test::place;
using test::Town;

namespace {

std::shared_ptr<const Lines> cut(const Lines& lines, std::vector<Cut> cuts) {
    return roads::cut(std::make_shared<const Lines>(lines), std::move(cuts));
}

/// A cut of a straight line along the x axis.
Cut at(std::uint32_t line, double x, double whole) { return {line, 0, x / whole, place({x, 0})}; }

}  // namespace

TEST_CASE("Without cuts the same lines come back, not a copy") {
    const auto lines = std::make_shared<const Lines>(Town().draw({{0, 0}, {100, 0}}).lines());
    CHECK(roads::cut(lines, {}) == lines);
}

TEST_CASE("A line is replaced by its parts in place, in any order of cuts") {
    const auto parts =
        cut(Town().draw({{0, 0}, {100, 0}}).draw({{0, 50}, {100, 50}}).lines(), {at(0, 70, 100), at(0, 20, 100)});
    REQUIRE(parts->count() == 4);
    CHECK(parts->cut_from == std::vector<std::uint32_t>{0, 0, 0, 1});
    CHECK(parts->shape(0).back() == place({20, 0}));
    CHECK(parts->shape(1).front() == place({20, 0}));
    CHECK(parts->shape(1).back() == place({70, 0}));
    CHECK(parts->shape(3).size() == 2);
}

TEST_CASE("A cut at a line's own end, or twice at one point, does nothing more") {
    const Lines lines = Town().draw({{0, 0}, {100, 0}}).lines();
    CHECK(cut(lines, {{0, 0, 0, place({0, 0})}})->count() == 1);
    CHECK(cut(lines, {{0, 0, 1, place({100, 0})}})->count() == 1);
    CHECK(cut(lines, {at(0, 40, 100), at(0, 40, 100)})->count() == 2);
}

TEST_CASE("A cut at an inner vertex keeps every vertex once") {
    const auto parts = cut(Town().draw({{0, 0}, {50, 10}, {100, 0}}).lines(), {{0, 1, 0, place({50, 10})}});
    REQUIRE(parts->count() == 2);
    CHECK(parts->shape(0).size() == 2);
    CHECK(parts->shape(1).size() == 2);
}

TEST_CASE("Times are shared by length, both ways") {
    Town town = Town().draw({{0, 0}, {100, 0}});
    town.lines().attributes[0].fixed_ms = 1000;
    town.lines().against_ms = {4001};
    const auto parts = cut(town.lines(), {at(0, 25, 100)});
    CHECK(parts->attributes[0].fixed_ms == 250);
    CHECK(parts->attributes[1].fixed_ms == 750);
    CHECK(parts->against_ms[0] + parts->against_ms[1] == 4001);
    CHECK(parts->against_ms[0] == Approx(1000).margin(1));
}

TEST_CASE("Heights are taken from between") {
    Town town = Town().draw({{0, 0}, {100, 0}});
    town.lines().heights = {10, 30};
    const auto parts = cut(town.lines(), {at(0, 25, 100)});
    REQUIRE(parts->heights.size() == 4);
    CHECK(parts->heights_of(0)[1] == Approx(15));
    CHECK(parts->heights_of(1)[0] == Approx(15));
}

TEST_CASE("A forbidden move stays with the parts that touch its junction") {
    // From the west road onto the north road, where they meet at (100, 0); both are cut farther off.
    Town town = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {100, 80}});
    town.lines().bans = {{LineWay::along(0), LineWay::along(1)}, {LineWay::against(1), LineWay::against(0)}};
    const auto parts = cut(town.lines(), {at(0, 30, 100), {1, 0, 0.5, place({100, 40})}});
    REQUIRE(parts->count() == 4);  // west far, west near, north near, north far
    CHECK(parts->bans == std::vector<roads::TurnBan>{{LineWay::along(1), LineWay::along(2)},
                                                     {LineWay::against(2), LineWay::against(1)}});
}

TEST_CASE("Ends that the source names keep their numbers, cuts at one point share a new one") {
    Town town = Town().draw({{0, 0}, {100, 0}}).draw({{40, 0}, {40, 90}}).draw({{40, 0}, {140, 0}});
    town.lines().named_ends = {{5, 6}, {7, 8}, {9, 10}};
    const auto parts = cut(town.lines(), {at(0, 40, 100), {2, 0, 0.6, place({100, 0})}});
    REQUIRE(parts->count() == 5);
    CHECK(parts->named_ends[0].from == 5);
    CHECK(parts->named_ends[1].to == 6);
    CHECK(parts->named_ends[0].to == parts->named_ends[1].from);
    CHECK(parts->named_ends[0].to > 10);
    CHECK(parts->named_ends[3].to != parts->named_ends[0].to);
    CHECK(parts->named_ends[2].from == 7);
}
