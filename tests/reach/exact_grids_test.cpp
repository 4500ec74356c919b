/// Areas over grids of round metres, where edges of ground, ends of values and sides of tiles fall on one another.
#include "support/exact_grids.h"

#include <array>
#include <catch2/catch.hpp>
#include <random>

#include "support/cases.h"
#include "support/reaching.h"

using namespace otoro;

namespace {

/// How much was looked at, and how much of it was wrong.
struct Seen {
    int areas = 0, looked = 0, wrong = 0;
};

/// The areas of a town at several limits, held against what spots are told.
void look_at(const test::ExactGrid& town, int n, std::mt19937& rng, Seen& seen) {
    auto question = test::question_at_36();  // 10 m a second
    if (n % 3 == 1) question.attach_limit = Millimetres::metres(50 * (1 + n % 5));
    if (n % 4 == 3) question.off_road_speed = parse_speed("5km/h");
    const auto asked = test::ask(town.roads, test::households({{{0, 0}, 1}}), test::posts(town.posts), question);
    for (const double second : {5.0, 10.0, 20.0, 25.0, 30.0, 60.0}) {
        INFO("town " << n << ", " << second << " s");
        test::Reached reached;
        REQUIRE_NOTHROW(reached = test::reach_of(asked, {second * 1000, second * 2000}));
        for (const auto& r : reached.regions) {
            CHECK(test::flaw_of(r.polygons) == "");
            seen.areas += r.polygons.empty() ? 0 : 1;
        }
        const reach::Bands bands{{second * 1000, second * 2000}, 0};
        const reach::Classes classes{2};
        for (unsigned k = 0; k < test::kSpots; ++k) {
            const double east = rng() % 2000, north = rng() % 2000;
            const geo::LonLat p = test::place({east - 300 + 0.3, north - 300 + 0.4});
            const auto spot = service::read_spot(*asked.ready, asked.outcome, p).outcome;
            // Not at an edge.
            const double off = std::fmod(static_cast<double>(spot.time.count()), 1000);
            if (spot.site && (off < 60 || off > 940)) continue;
            const auto expected =
                spot.site ? classes.of(spot.site->value(), bands.of(double(spot.time.count()))) : reach::kNobody;
            ++seen.looked;
            const bool within = reached.ground(p) != reach::kNobody;
            if (within != (expected != reach::kNobody)) ++seen.wrong;
        }
    }
}

}  // namespace

TEST_CASE("Areas over exact grids with pieces far off are found, valid, and agree with what every spot is told") {
    Seen seen;
    std::mt19937 rng;
    // Among these are towns on which boundaries end, cross, or lie the wrong way around, before they are drawn anew.
    for (int n = 0; n < otoro::test::cases(900); ++n) {
        constexpr std::array kSeeds{2U, 4U, 7U, 12U, 13U, 66U};
        if (n % 150 == 0) rng.seed(kSeeds[static_cast<std::size_t>(n / 150)]);
        look_at(test::next_grid(rng), n, rng, seen);
    }
    CHECK(seen.areas > otoro::test::cases(500));
    CHECK(seen.looked > otoro::test::cases(5000));
    CHECK(seen.wrong <= seen.looked / 500);
}

TEST_CASE("Areas over exact grids that are unsound without a turn, or have a hole on the parallel of a vertex") {
    Seen seen;
    for (const test::Kept kept : test::kKept) {
        std::mt19937 rng;
        look_at(test::kept_grid(kept, rng), kept.town, rng, seen);
    }
    CHECK(seen.areas > 50);
    CHECK(seen.wrong <= seen.looked / 500);
}
