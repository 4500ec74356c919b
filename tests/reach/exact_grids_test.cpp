/// Areas over grids of round metres, where edges of ground, ends of values and sides of tiles fall on one another.
#include <array>
#include <catch2/catch.hpp>
#include <random>

#include "support/cases.h"
#include "support/reaching.h"

using namespace otoro;

namespace {

/// Streets on a grid of whole metres, some of them missing, and one or two far off, which put the middle of the plane,
/// and with it the sides of its tiles, anywhere.
test::Town exact_town(std::mt19937& rng) {
    const auto below = [&](std::uint32_t n) { return static_cast<int>(rng() % n); };
    const double step = std::array{50.0, 100.0, 200.0, 250.0}[static_cast<std::size_t>(below(4))];
    const int side = 3 + below(6);
    test::Town town;
    for (int x = 0; x <= side; ++x)
        for (int y = 0; y <= side; ++y) {
            const test::At here{step * x, step * y};
            if (x < side && below(5) != 0) town.draw({here, {here.x + step, here.y}});
            if (y < side && below(5) != 0) town.draw({here, {here.x, here.y + step}});
        }
    for (int far = below(3); far >= 0; --far) {
        const test::At at{step * (below(400) - 200), step * (below(400) - 200)};
        town.draw({at, {at.x + step, at.y}});
    }
    return town;
}

}  // namespace

TEST_CASE("Areas over exact grids with pieces far off are found, valid, and agree with what every spot is told") {
    int areas = 0, looked = 0, wrong = 0;
    std::mt19937 rng;
    // Among these are towns on which boundaries end, cross, or lie the wrong way around, before they are drawn anew.
    for (int n = 0; n < otoro::test::cases(900); ++n) {
        constexpr std::array kSeeds{2U, 4U, 7U, 12U, 13U, 66U};
        if (n % 150 == 0) rng.seed(kSeeds[static_cast<std::size_t>(n / 150)]);
        const auto town = exact_town(rng);
        auto question = test::question_at_36();  // 10 m a second
        if (n % 3 == 1) question.attach_limit = Millimetres::metres(50 * (1 + n % 5));
        if (n % 4 == 3) question.off_road_speed = parse_speed("5km/h");
        const auto asked = test::ask(town, test::households({{{0, 0}, 1}}),
                                     test::posts({{100, 100}, {double(rng() % 500), double(rng() % 500)}}), question);
        for (const double second : {5.0, 10.0, 20.0, 25.0, 30.0, 60.0}) {
            INFO("town " << n << ", " << second << " s");
            test::Reached reached;
            REQUIRE_NOTHROW(reached = test::reach_of(asked, {second * 1000, second * 2000}));
            for (const auto& r : reached.regions) {
                CHECK(test::flaw_of(r.polygons) == "");
                areas += r.polygons.empty() ? 0 : 1;
            }
            const reach::Bands bands{{second * 1000, second * 2000}, 0};
            const reach::Classes classes{2};
            for (int k = 0; k < 60; ++k) {
                const geo::LonLat p = test::place({double(rng() % 2000) - 300 + 0.3, double(rng() % 2000) - 300 + 0.4});
                const auto spot = service::read_spot(*asked.ready, asked.outcome, p).outcome;
                // Not at an edge.
                const double off = std::fmod(static_cast<double>(spot.time.count()), 1000);
                if (spot.site && (off < 60 || off > 940)) continue;
                const auto expected =
                    spot.site ? classes.of(spot.site->value(), bands.of(double(spot.time.count()))) : reach::kNobody;
                const auto found = reached.ground(p);
                ++looked;
                const bool within = found != reach::kNobody;
                if (within != (expected != reach::kNobody)) ++wrong;
            }
        }
    }
    CHECK(areas > 500);
    CHECK(looked > 5000);
    CHECK(wrong <= looked / 500);
}
