#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "geo/ellipsoid.h"
#include "roads/closure.h"
#include "roads/gaps.h"
#include "support/town.h"

using namespace otoro;

namespace {

/// Short streets, a road of thousands of vertices, straight ones of kilometres.
test::Town mixed_town(unsigned seed) {
    std::mt19937 random(seed);
    const auto at = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
    test::Town town;
    for (int i = 0; i < 60; ++i) {
        const test::At a{at(0, 4000), at(0, 4000)};
        town.draw({a, {a.x + at(-80, 80), a.y + at(-80, 80)}});
    }
    std::vector<geo::LonLat> winding;
    for (int i = 0; i < 3000; ++i)
        winding.push_back(
            test::place({2000 + 1500 * std::cos(i / 40.0) * i / 3000, 2000 + 1500 * std::sin(i / 40.0) * i / 3000}));
    town.lines().add(winding, test::road());
    for (int i = 0; i < 6; ++i) town.draw({{at(-500, 500), at(0, 4000)}, {at(4000, 9000), at(0, 4000)}});
    return town;
}

}  // namespace

TEST_CASE("The runs of a link are all of it, once, in order") {
    const auto network = mixed_town(1).network();
    std::size_t long_ones = 0;
    for (std::uint32_t l = 0; l < network->link_count(); ++l) {
        const auto runs = network->runs_of(LinkId(l));
        REQUIRE(runs.front().first == 0);
        REQUIRE(runs.back().last == network->shape(LinkId(l)).size() - 1);
        for (std::size_t i = 1; i < runs.size(); ++i) REQUIRE(runs[i].first == runs[i - 1].last);
        long_ones += runs.size() > 10 ? 1 : 0;
        double metres = 0;
        const auto shape = network->shape(LinkId(l));
        for (std::size_t v = 0; v < shape.size(); ++v) {
            REQUIRE(network->metres_to(LinkId(l), v) == metres);  // to the last digit
            if (v + 1 < shape.size()) metres += geo::distance_metres(shape[v], shape[v + 1]);
        }
    }
    CHECK(long_ones > 0);
}

TEST_CASE("Links that touch a box are found, whichever of their runs does") {
    const auto network = mixed_town(2).network();
    std::mt19937 random(3);
    for (int i = 0; i < 500; ++i) {
        const auto centre = test::place({std::uniform_real_distribution<double>(0, 5000)(random),
                                         std::uniform_real_distribution<double>(0, 4000)(random)});
        const geo::Box box = geo::LocalFrame(centre).box_around(60);
        std::vector<std::uint32_t> found;
        network->links_touching(box, found);
        CHECK(std::is_sorted(found.begin(), found.end()) ==
              (std::adjacent_find(found.begin(), found.end(), std::greater_equal<>()) == found.end()));
        for (std::uint32_t l = 0; l < network->link_count(); ++l) {
            const auto shape = network->shape(LinkId(l));
            const bool near = std::sqrt(geo::foot_on_line(shape, geo::LocalFrame(centre)).squared) < 60;
            if (near) REQUIRE(std::find(found.begin(), found.end(), l) != found.end());
        }
    }
}

TEST_CASE("Roads that cross are joined where they do, as comparing each with each says") {
    for (unsigned seed = 1; seed <= 6; ++seed) {
        const auto town = mixed_town(seed);
        const auto network = town.prepared({roads::JoinRule::crossings, {}, {}});
        // Where a link meets another in the middle of both nothing is left to be cut.
        const auto lines = network->lines();
        const auto inside = [](geo::LonLat p, geo::LonLat a, geo::LonLat b) {
            return geo::distance_metres(p, a) > 0.01 && geo::distance_metres(p, b) > 0.01;
        };
        std::size_t left = 0;
        for (std::uint32_t i = 0; i < lines.count(); ++i)
            for (std::uint32_t j = i + 1; j < lines.count(); ++j) {
                const auto s = lines.shape(i), u = lines.shape(j);
                if (s.size() > 200 || u.size() > 200) continue;
                for (std::size_t k = 0; k + 1 < s.size(); ++k)
                    for (std::size_t m = 0; m + 1 < u.size(); ++m) {
                        const double rx = s[k + 1].lon - s[k].lon, ry = s[k + 1].lat - s[k].lat,
                                     qx = u[m + 1].lon - u[m].lon, qy = u[m + 1].lat - u[m].lat;
                        const double cross = rx * qy - ry * qx;
                        if (cross == 0) continue;
                        const double wx = u[m].lon - s[k].lon, wy = u[m].lat - s[k].lat;
                        const double t = (wx * qy - wy * qx) / cross, v = (wx * ry - wy * rx) / cross;
                        if (t < 0 || t > 1 || v < 0 || v > 1) continue;
                        const geo::LonLat at{s[k].lon + t * rx, s[k].lat + t * ry};
                        left += inside(at, s.front(), s.back()) && inside(at, u.front(), u.back()) ? 1 : 0;
                    }
            }
        INFO("seed " << seed);
        CHECK(left == 0);
        CHECK(network->link_count() > town.lines().count());
    }
}

TEST_CASE("Many copies of one road are cut alike, and one road alone is not cut at its own vertices") {
    test::Town alone, copies;
    for (int i = 0; i < 30; ++i) copies.draw({{0, 0}, {100, 10}, {200, 0}, {300, 10}});
    copies.draw({{150, -50}, {150, 50}});
    alone.draw({{0, 0}, {100, 10}, {200, 0}, {300, 10}});
    CHECK(alone.prepared({roads::JoinRule::crossings, {}, {}})->link_count() == 1);
    // Each copy falls into four: at its two inner vertices, which it shares, and at the crossing.
    CHECK(copies.prepared({roads::JoinRule::crossings, {}, {}})->link_count() == 30 * 4 + 2);
}

TEST_CASE("A large junction of short roads has no gaps, and a road that nearly meets it has one") {
    test::Town town;
    for (int i = 0; i < 400; ++i) {
        const double angle = 2 * M_PI * i / 400, r = 5 + i % 7;
        town.draw({{0, 0}, {r * std::cos(angle), r * std::sin(angle)}});
    }
    town.draw({{0, 0}, {0, 300}})
        .draw({{0, 300}, {400, 300}})
        .draw({{400, 300}, {400, 0}})
        .draw({{400, 0}, {14, 0.3}});  // comes back to within 3 m
    const auto network = town.network();
    const std::vector<bool> usable(network->link_count(), true);
    const auto gaps = find_gaps(*network, find_pieces(*network, usable), Millimetres::metres(4), Task());
    REQUIRE(gaps.size() >= 1);
    CHECK(gaps.size() <= 6);
    for (const auto& g : gaps) CHECK((g.from.lon > test::place({9, 0}).lon || g.to.lon > test::place({9, 0}).lon));
}

TEST_CASE("A closed area of thousands of corners closes the same stretches as its corners say one by one") {
    const auto network = mixed_town(5).network();
    roads::Closure fine, coarse;
    fine.shape = coarse.shape = roads::ClosureShape::area;
    // The same square, once with its four corners and once with a corner every metre or so.
    const std::array<test::At, 4> corners{{{500, 500}, {3000, 500}, {3000, 3000}, {500, 3000}}};
    for (std::size_t c = 0; c < 4; ++c) {
        const test::At a = corners[c], b = corners[(c + 1) % 4];
        coarse.vertices.push_back(test::place(a));
        for (int i = 0; i < 2048; ++i)
            fine.vertices.push_back(test::place({a.x + (b.x - a.x) * i / 2048, a.y + (b.y - a.y) * i / 2048}));
    }
    const auto x = restrictions(*network, std::span(&fine, 1)), y = restrictions(*network, std::span(&coarse, 1));
    REQUIRE(x.size() == y.size());
    CHECK(x.size() > 20);
    for (std::size_t i = 0; i < x.size(); ++i) {
        CHECK(x[i].link == y[i].link);
        CHECK(std::abs((x[i].begin - y[i].begin).count()) <= 2);
        CHECK(std::abs((x[i].end - y[i].end).count()) <= 2);
    }
}
