#include "geo/edge_index.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

using namespace otoro::geo;

TEST_CASE("A point is in one of many areas exactly when going through them one by one says so") {
    std::mt19937 random(7);
    const auto at = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
    std::vector<Area> areas;
    for (int n = 0; n < 60; ++n) {
        Area a;
        const double x = at(-9, -8), y = at(46, 47), r = at(0.01, 0.2);
        std::vector<LonLat> ring, hole;
        const int corners = 3 + n % 40;
        for (int i = 0; i < corners; ++i) {
            const double angle = 2 * M_PI * i / corners, wide = r * at(0.4, 1);
            ring.push_back({x + wide * std::cos(angle), y + wide * std::sin(angle)});
            hole.push_back({x + wide / 3 * std::cos(angle), y + wide / 3 * std::sin(angle)});
        }
        if (n % 3 == 0) ring.push_back(ring.front());
        a.add(ring);
        if (n % 2 == 0) a.add(hole);
        areas.push_back(std::move(a));
    }
    // Corners that share a latitude with points asked about are where rays go wrong.
    areas.emplace_back().add({{-8.5, 46.5}, {-8.4, 46.5}, {-8.4, 46.6}, {-8.5, 46.6}});
    const AreaIndex index(areas);
    int inside = 0;
    for (int i = 0; i < 20'000; ++i) {
        const LonLat p = i % 10 == 0   ? LonLat{at(-8.6, -8.3), i % 20 == 0 ? 46.5 : 46.6}
                         : i % 10 == 1 ? areas[static_cast<std::size_t>(i) % areas.size()].rings[0][0]
                                       : LonLat{at(-9.3, -7.7), at(45.8, 47.2)};
        const bool slowly = std::any_of(areas.begin(), areas.end(), [&](const Area& a) { return a.contains(p); });
        REQUIRE(index.any_contains(p) == slowly);
        inside += slowly ? 1 : 0;
    }
    CHECK(inside > 2000);
}
