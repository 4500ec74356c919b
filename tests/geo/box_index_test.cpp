#include "geo/box_index.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <random>

using namespace otoro::geo;

TEST_CASE("The index finds every box that a slow look through all would find") {
    std::mt19937_64 dice(3);
    std::uniform_real_distribution<double> at(-10, 10), size(0, 0.5);
    std::vector<Box> boxes;
    for (int i = 0; i < 3000; ++i) {
        const LonLat p{at(dice), at(dice)};
        boxes.push_back({p.lon, p.lat, p.lon + size(dice), p.lat + size(dice)});
    }
    const BoxIndex index(static_cast<std::uint32_t>(boxes.size()), [&](std::uint32_t i) { return boxes[i]; });
    std::vector<std::uint32_t> found;
    for (int q = 0; q < 200; ++q) {
        const LonLat p{at(dice), at(dice)};
        const Box area{p.lon, p.lat, p.lon + 1, p.lat + 0.3};
        index.touching(area, found);
        std::sort(found.begin(), found.end());
        for (std::uint32_t i = 0; i < boxes.size(); ++i) {
            const bool touches = boxes[i].west <= area.east && boxes[i].east >= area.west &&
                                 boxes[i].south <= area.north && boxes[i].north >= area.south;
            if (touches) REQUIRE(std::binary_search(found.begin(), found.end(), i));
        }
    }
}

TEST_CASE("An empty box is never found") {
    const BoxIndex index(2, [](std::uint32_t i) { return i == 0 ? Box{} : Box{0, 0, 1, 1}; });
    std::vector<std::uint32_t> found;
    index.touching({-100, -80, 100, 80}, found);
    CHECK(found == std::vector<std::uint32_t>{1});
}
