#pragma once
/// \file
/// Towns whose streets are a grid of whole metres.
#include <array>
#include <random>
#include <vector>

#include "support/asking.h"

namespace otoro::test {

/// Streets on a grid of whole metres, some of them missing, and one or two far off, which put the middle of the plane,
/// and with it the sides of its tiles, anywhere.
inline Town exact_town(std::mt19937& rng) {
    const auto below = [&](std::uint32_t n) { return static_cast<int>(rng() % n); };
    const double step = std::array{50.0, 100.0, 200.0, 250.0}[static_cast<std::size_t>(below(4))];
    const int side = 3 + below(6);
    Town town;
    for (int x = 0; x <= side; ++x)
        for (int y = 0; y <= side; ++y) {
            const At here{step * x, step * y};
            if (x < side && below(5) != 0) town.draw({here, {here.x + step, here.y}});
            if (y < side && below(5) != 0) town.draw({here, {here.x, here.y + step}});
        }
    for (int far = below(3); far >= 0; --far) {
        const At at{step * (below(400) - 200), step * (below(400) - 200)};
        town.draw({at, {at.x + step, at.y}});
    }
    return town;
}

struct ExactGrid {
    Town roads;
    std::vector<At> posts;
};
inline ExactGrid next_grid(std::mt19937& rng) {
    ExactGrid out{exact_town(rng), {}};
    const double x = rng() % 500, y = rng() % 500;
    out.posts = {{100, 100}, {x, y}};
    return out;
}

/// How many spots of a town are looked at, at how many limits.
constexpr unsigned kSpots = 60, kSeconds = 6;

/// One of a sequence of towns, each looked at.
struct Kept {
    unsigned seed;
    int town;
};
/// Of a hundred thousand those whose ground once had no areas, or took for ever. In the first four corners of the
/// diagram are not equally far from their cells until it is turned, in the fourth lines even go around in a ring; in
/// the others two edges leave one vertex on the parallel of a hole's western end.
constexpr std::array kKept{Kept{18, 896}, Kept{44, 209}, Kept{90, 877}, Kept{67005, 789},
                           Kept{41, 731}, Kept{49, 51},  Kept{60, 883}, Kept{114, 763}};
inline ExactGrid kept_grid(Kept kept, std::mt19937& rng) {
    rng.seed(kept.seed);
    for (int n = kept.town % 150; n > 0; --n) {
        next_grid(rng);
        rng.discard(kSeconds * kSpots * 2);  // east and north
    }
    return next_grid(rng);
}

}  // namespace otoro::test
