#include "roads/closure.h"

#include <catch2/catch.hpp>

#include "support/town.h"

using namespace otoro;
using roads::Closure;
using roads::ClosureEffect;
using roads::ClosureShape;
using test::At;
using test::place;
using test::Town;

namespace {
Closure drawn(ClosureShape shape, std::initializer_list<At> at) {
    Closure c{"c", shape, {}, ClosureEffect::closed, 2000, {}};
    for (const At p : at) c.vertices.push_back(place(p));
    return c;
}
}  // namespace

TEST_CASE("A point works on the nearest road, at the foot of the perpendicular") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{0, 30}, {100, 30}}).network();
    const auto h = restrictions(*net, std::array{drawn(ClosureShape::point, {{40, 4}})});
    REQUIRE(h.size() == 1);
    CHECK(h[0].link == LinkId(0u));
    CHECK(h[0].begin == h[0].end);
    CHECK(h[0].begin.metres() == Approx(40).margin(0.01));
    CHECK(restrictions(*net, std::array{drawn(ClosureShape::point, {{40, 400}})}).empty());
}

TEST_CASE("A line works on the roads it crosses, and on what runs alongside") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{0, 50}, {200, 50}}).network();
    const auto across = restrictions(*net, std::array{drawn(ClosureShape::line, {{30, -20}, {30, 20}})});
    REQUIRE(across.size() == 1);
    CHECK(across[0].begin.metres() == Approx(30).margin(0.05));
    const auto alongside = restrictions(*net, std::array{drawn(ClosureShape::line, {{20, 52}, {120, 52}})});
    REQUIRE(alongside.size() == 1);
    CHECK(alongside[0].link == LinkId(1u));
    CHECK(alongside[0].begin.metres() == Approx(13).margin(3));
    CHECK(alongside[0].end.metres() == Approx(127).margin(3));
}

TEST_CASE("An area works on the parts of roads inside it") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).network();
    const auto h =
        restrictions(*net, std::array{drawn(ClosureShape::area, {{20, -10}, {60, -10}, {60, 10}, {20, 10}})});
    REQUIRE(h.size() == 1);
    CHECK(h[0].begin.metres() == Approx(20).margin(0.01));
    CHECK(h[0].end.metres() == Approx(60).margin(0.01));
    // A bay in the area leaves the road free in between.
    const auto two = restrictions(
        *net, std::array{drawn(ClosureShape::area,
                               {{10, -10}, {90, -10}, {90, 10}, {60, 10}, {60, -5}, {40, -5}, {40, 10}, {10, 10}})});
    REQUIRE(two.size() == 2);
    CHECK(two[0].end.metres() == Approx(40).margin(0.01));
    CHECK(two[1].begin.metres() == Approx(60).margin(0.01));
}

TEST_CASE("Whether a closure touches a road is told without finding all it does") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).network();
    CHECK(touches_a_road(*net, drawn(ClosureShape::point, {{40, 4}})));
    CHECK_FALSE(touches_a_road(*net, drawn(ClosureShape::point, {{40, 400}})));
    CHECK(touches_a_road(*net, drawn(ClosureShape::line, {{30, -20}, {30, 20}})));
    CHECK_FALSE(touches_a_road(*net, drawn(ClosureShape::area, {{20, 10}, {60, 10}, {60, 30}})));
}

TEST_CASE("Hindrances are found by link") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}}).draw({{200, 0}, {300, 0}}).network();
    const auto all =
        restrictions(*net, std::array{drawn(ClosureShape::point, {{250, 0}}), drawn(ClosureShape::point, {{50, 0}}),
                                      drawn(ClosureShape::point, {{220, 0}})});
    CHECK(restrictions_of(all, LinkId(0u)).size() == 1);
    CHECK(restrictions_of(all, LinkId(1u)).empty());
    CHECK(restrictions_of(all, LinkId(2u)).size() == 2);
}
