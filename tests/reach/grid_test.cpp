/// Ground as a grid: quick ways of finding the nearest road against asking for every spot by itself.
#include <hwy/highway.h>

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "places/attach.h"
#include "reach/ground_grid.h"
#include "support/asking.h"
#include "support/town.h"

using namespace otoro;

namespace {

constexpr double kExtent = 1500;

/// Short crooked streets, some upon one another, and a few long ones over all.
test::Town crooked_town(std::mt19937& rng, int streets) {
    std::uniform_real_distribution<double> xy(0, kExtent), step(-60, 60);
    test::Town town;
    for (int i = 0; i < streets; ++i) {
        const test::At a{xy(rng), xy(rng)}, b{a.x + step(rng), a.y + step(rng)}, c{b.x + step(rng), b.y + step(rng)},
            d{c.x + step(rng), c.y + step(rng)};
        town.draw({a, b, c, d});
        if (i % 20 == 0) town.draw({a, b, c, d});
    }
    town.draw({{-300, xy(rng)}, {kExtent + 300, xy(rng)}});
    town.draw({{xy(rng), -2500}, {xy(rng), kExtent + 2500}});
    return town;
}

reach::GroundGrid grid_over(const service::Ready& ready, double pitch, std::uint32_t side) {
    const auto& g = *ready.ground;
    const double low = (kExtent - pitch * side) / 2;
    return ground_grid(
        g.network(), g.use(), g.plane(), g.limit(), side, side,
        [&](double c, double r) {
            return test::place({low + (c + 0.5) * pitch, low + (r + 0.5) * pitch});
        },
        Task());
}

bool same(const reach::GroundGrid& a, const reach::GroundGrid& b) {
    return std::equal(a.spots.begin(), a.spots.end(), b.spots.begin(), b.spots.end(), [](const auto& p, const auto& q) {
        return p.link == q.link && p.offset_mm == q.offset_mm && p.off_metres == q.off_metres;
    });
}

}  // namespace

TEST_CASE("A grid has the nearest road of every spot, in fine and in coarse cells, on every kind of processor") {
    for (const unsigned seed : {1U, 2U, 3U}) {
        std::mt19937 rng(seed);
        const auto town = crooked_town(rng, seed == 1 ? 30 : 300);
        const auto asked = test::ask(town, test::households({{{100, 100}, 1}}),
                                     test::posts({{kExtent / 2, kExtent / 2}}), test::question_at_36());
        const auto& g = *asked.ready->ground;
        for (const auto& [pitch, side] : {std::pair{4.0, 130U}, std::pair{45.0, 50U}}) {
            INFO("seed " << seed << ", cells of " << pitch << " m");
            const auto grid = grid_over(*asked.ready, pitch, side);
            const double low = (kExtent - pitch * side) / 2;
            int wrong = 0, attached = 0;
            for (std::uint32_t y = 0; y < side; ++y)
                for (std::uint32_t x = 0; x < side; ++x) {
                    const auto p = test::place({low + (x + 0.5) * pitch, low + (y + 0.5) * pitch});
                    const auto by_itself = places::attach(g.network(), g.use(), p, g.limit() + Millimetres(20));
                    const auto& spot = grid.at(x, y);
                    attached += spot.attached() ? 1 : 0;
                    const bool at_limit =
                        by_itself && std::abs(by_itself->off_road.metres() - g.limit().metres()) < 0.05;
                    if (at_limit) continue;
                    const bool as_near =
                        by_itself.has_value() == spot.attached() &&
                        (!by_itself || std::abs(by_itself->off_road.metres() - static_cast<double>(spot.off_metres)) <
                                           0.03);  // straight in degrees
                    wrong += as_near ? 0 : 1;
                    if (!as_near)
                        UNSCOPED_INFO("at " << x << ", " << y << ": " << (by_itself ? by_itself->off_road.metres() : -1)
                                            << " m by itself, " << (spot.attached() ? spot.off_metres : -1.0F)
                                            << " m in the grid");
                }
            CHECK(wrong == 0);
            CHECK(attached > 300);
            // Whatever processor: the same, to the last digit.
            const std::int64_t all = hwy::SupportedTargets();
            for (std::int64_t rest = all; rest != 0; rest &= rest - 1) {
                hwy::SetSupportedTargetsForTest(rest & -rest);
                hwy::GetChosenTarget().Update(hwy::SupportedTargets());
                INFO(hwy::TargetName(rest & -rest));
                CHECK(same(grid_over(*asked.ready, pitch, side), grid));
            }
            hwy::SetSupportedTargetsForTest(0);
            hwy::GetChosenTarget().Update(hwy::SupportedTargets());
        }
    }
}

TEST_CASE("A patch of the plane is the plane within a hundredth of a millimetre, and the plane itself outside of it") {
    std::mt19937 rng(7);
    for (const double lat : {-62.0, -5.0, 0.0, 46.2, 71.0}) {
        const geo::Box box{12.0, lat - 0.12, 12.2, lat + 0.12};
        const reach::Plane plane({11.0, lat - 0.6, 13.0, lat + 0.6});
        const reach::PlanePatch patch(plane, box);
        std::uniform_real_distribution<double> lon(11.9, 12.3), up(lat - 0.2, lat + 0.2);
        double most = 0;
        for (int i = 0; i < 4000; ++i) {
            const geo::LonLat p{lon(rng), up(rng)};
            const auto exact = plane.spot(p), quick = patch.spot(p);
            most = std::max({most, std::abs(exact.x - quick.x), std::abs(exact.y - quick.y)});
        }
        INFO("latitude " << lat);
        CHECK(most < 0.01);
    }
}
