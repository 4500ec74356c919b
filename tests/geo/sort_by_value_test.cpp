#include "geo/sort_by_value.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <random>

using namespace otoro;

TEST_CASE("Numbers are sorted by their upper half, equals in the order they came in", "[geo]") {
    Valued all{valued(7, 0), valued(3, 1), valued(7, 2), valued(0, 3), valued(0x7fffffff, 4), valued(3, 5)};
    sort_by_value(all);
    CHECK(all == Valued{valued(0, 3), valued(3, 1), valued(3, 5), valued(7, 0), valued(7, 2), valued(0x7fffffff, 4)});
    Valued none;
    sort_by_value(none);
    CHECK(none.empty());
}

TEST_CASE("Sorting by value is a stable sort, whatever the values", "[geo]") {
    std::mt19937 dice(5);
    for (const std::uint32_t most : {1U, 10U, 3'000U, 5'000'000U, 0xffffffffU}) {
        Valued all;
        for (std::uint32_t i = 0; i < 3'000; ++i) all.push_back(valued(static_cast<std::uint32_t>(dice() % (std::uint64_t{most} + 1)), i));
        Valued slowly = all;
        std::stable_sort(slowly.begin(), slowly.end(), [](std::uint64_t a, std::uint64_t b) { return a >> 32U < b >> 32U; });
        sort_by_value(all);
        CHECK(all == slowly);
    }
}
