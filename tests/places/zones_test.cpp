#include "places/zones.h"

#include <catch2/catch.hpp>
#include <random>

#include "support/town.h"

using namespace otoro;
using places::kNoZone;
using test::At;

namespace {

places::Zone square(const std::string& id, At low, At high) {
    places::Zone z{id, "", {}};
    z.area.add({test::place(low), test::place({high.x, low.y}), test::place(high), test::place({low.x, high.y})});
    return z;
}

std::vector<std::uint32_t> zones_at(const places::ZoneSet& set, const std::vector<At>& spots) {
    std::vector<std::optional<geo::LonLat>> at;
    for (const At p : spots) at.push_back(test::place(p));
    return places::zones_of(set, at, Task());
}

}  // namespace

TEST_CASE("A place is in the first zone that contains it") {
    const places::ZoneSet set{"wards", {square("west", {0, 0}, {100, 100}), square("all", {0, 0}, {200, 100})}};
    CHECK(zones_at(set, {{50, 50}, {150, 50}, {250, 50}}) == std::vector<std::uint32_t>{0, 1, kNoZone});
}

TEST_CASE("On an edge that two zones share a place is in the first of them") {
    const places::ZoneSet set{"wards", {square("east", {100, 0}, {200, 100}), square("west", {0, 0}, {100, 100})}};
    CHECK(zones_at(set, {{100, 50}, {0, 50}, {100, 0}}) == std::vector<std::uint32_t>{0, 1, 0});
}

TEST_CASE("A hole is no part of a zone, its edge is") {
    places::ZoneSet set{"wards", {square("ring", {0, 0}, {300, 300})}};
    set.zones[0].area.add(
        {test::place({100, 100}), test::place({200, 100}), test::place({200, 200}), test::place({100, 200})});
    CHECK(zones_at(set, {{50, 50}, {150, 150}, {100, 150}}) == std::vector<std::uint32_t>{0, kNoZone, 0});
}

TEST_CASE("A place without a position is in no zone, and there may be no zones") {
    const places::ZoneSet set{"wards", {square("one", {0, 0}, {100, 100})}};
    CHECK(places::zones_of(set, {std::nullopt}, Task()) == std::vector<std::uint32_t>{kNoZone});
    CHECK(zones_at({"none", {}}, {{1, 1}}) == std::vector<std::uint32_t>{kNoZone});
}

TEST_CASE("Random zones against a plain look at each") {
    std::mt19937 dice(8);
    std::uniform_real_distribution<double> anywhere(0, 1000), size(20, 300);
    for (int round = 0; round < 10; ++round) {
        places::ZoneSet set{"random", {}};
        std::vector<std::pair<At, At>> boxes;
        for (int i = 0; i < 40; ++i) {
            const At low{anywhere(dice), anywhere(dice)};
            boxes.push_back({low, {low.x + size(dice), low.y + size(dice)}});
            set.zones.push_back(square(std::to_string(i), boxes.back().first, boxes.back().second));
        }
        std::vector<At> spots;
        std::vector<std::uint32_t> plain;
        for (int i = 0; i < 500; ++i) {
            spots.push_back({anywhere(dice), anywhere(dice)});
            const At p = spots.back();
            const auto at = std::find_if(boxes.begin(), boxes.end(), [&](const auto& b) {
                return p.x >= b.first.x && p.x <= b.second.x && p.y >= b.first.y && p.y <= b.second.y;
            });
            plain.push_back(at == boxes.end() ? kNoZone : static_cast<std::uint32_t>(at - boxes.begin()));
        }
        CHECK(zones_at(set, spots) == plain);
    }
}
