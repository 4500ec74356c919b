#include "roads/closure.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "geo/area.h"
#include "geo/ellipsoid.h"
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
geo::LonLat point_of(const roads::Network& net, LinkId link, double metres) {
    const auto shape = net.shape(link);
    std::size_t i = 0;
    while (i + 2 < shape.size() && net.metres_to(link, i + 1) < metres) ++i;
    const double t = (metres - net.metres_to(link, i)) / geo::distance_metres(shape[i], shape[i + 1]);
    return {shape[i].lon + t * (shape[i + 1].lon - shape[i].lon), shape[i].lat + t * (shape[i + 1].lat - shape[i].lat)};
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

TEST_CASE("An area works on just what is inside it, whatever it is drawn like") {
    std::mt19937 random(4001);
    const auto town = [&] {
        Town t;
        for (int k = 0; k < 12; ++k)
            t.draw({{double(random() % 20) * 10, double(random() % 20) * 10},
                    {double(random() % 20) * 10, double(random() % 20) * 10},
                    {double(random() % 200), double(random() % 200)}});
        return t.network();
    };
    int looked = 0, inside = 0;
    for (int round = 0; round < 60; ++round) {
        const auto net = town();
        Closure c = drawn(ClosureShape::area, {});
        const int corners = 3 + static_cast<int>(random() % 60);
        for (int k = 0; k < corners; ++k) {
            // A star that crosses itself, corners on the roads' own grid, or anything.
            const double angle = 2 * M_PI * k * (corners / 2) / corners;
            c.vertices.push_back(place(round % 3 == 0   ? At{100 + 90 * std::cos(angle), 100 + 90 * std::sin(angle)}
                                       : round % 3 == 1 ? At{double(random() % 20) * 10, double(random() % 20) * 10}
                                                        : At{double(random() % 200), double(random() % 200)}));
        }
        geo::Area area;
        area.add(c.vertices);
        const auto all = restrictions(*net, std::array{c});
        for (std::uint32_t l = 0; l < net->link_count(); ++l) {
            const auto length = net->length(LinkId(l)).metres();
            const auto of = restrictions_of(all, LinkId(l));
            for (int k = 0; k < 100; ++k) {
                const double at = length * double(random() % 10'000) / 10'000;
                // What lies at an edge may be either.
                const auto here = [&](double x) { return area.contains(point_of(*net, LinkId(l), x)); };
                if (here(at - 0.05) != here(at) || here(at + 0.05) != here(at)) continue;
                const bool told = std::any_of(of.begin(), of.end(), [&](const auto& r) {
                    return r.begin.metres() <= at && at <= r.end.metres();
                });
                ++looked;
                inside += told;
                if (told != here(at)) FAIL_CHECK("round " << round << ", road " << l << " at " << at);
            }
        }
    }
    CHECK(looked > 10'000);
    CHECK(inside > looked / 5);
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
