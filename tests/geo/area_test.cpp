#include "geo/area.h"

#include <catch2/catch.hpp>
#include <vector>

#include "geo/huge_pages.h"

using namespace otoro;
using geo::Area;
using geo::LonLat;

TEST_CASE("Inside and outside an area, its hole and its bay") {
    Area a;
    a.add({{0, 0}, {10, 0}, {10, 10}, {6, 10}, {6, 6}, {4, 6}, {4, 10}, {0, 10}});  // a bay from the north
    a.add({{1, 1}, {3, 1}, {3, 3}, {1, 3}});                                        // a hole
    CHECK(a.contains({5, 3}));
    CHECK_FALSE(a.contains({5, 8}));
    CHECK_FALSE(a.contains({2, 2}));
    CHECK_FALSE(a.contains({11, 5}));
    CHECK(a.contains({0.5, 9.5}));
}

TEST_CASE("A ring may be closed or not") {
    Area open, closed;
    open.add({{0, 0}, {1, 0}, {1, 1}});
    closed.add({{0, 0}, {1, 0}, {1, 1}, {0, 0}});
    for (const LonLat p : {LonLat{0.6, 0.3}, LonLat{0.3, 0.6}, LonLat{2, 2}})
        CHECK(open.contains(p) == closed.contains(p));
}

TEST_CASE("Arrays in huge pages are arrays") {
    std::vector<int, HugePages<int>> small(10, 3), large(3'000'000, 4);
    CHECK(small[9] == 3);
    CHECK(large.back() == 4);
    large.push_back(5);
    auto copy = large;
    CHECK(copy == large);
    CHECK(reinterpret_cast<std::uintptr_t>(copy.data()) % (2U << 20U) == 0);
}
