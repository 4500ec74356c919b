#include "roads/road_class.h"

#include <catch2/catch.hpp>

using namespace otoro::roads;

TEST_CASE("Classes are known whatever their case, blanks and hyphens") {
    CHECK(parse_class("Living street")->road_class == RoadClass::living_street);
    CHECK(parse_class(" PRIMARY ")->road_class == RoadClass::primary);
    CHECK(parse_class("motorway_link")->road_class == RoadClass::motorway);
    CHECK(parse_class("motorway_link")->ramp);
    CHECK_FALSE(parse_class("footway_link"));
    CHECK_FALSE(parse_class("goat trail"));
    CHECK_FALSE(parse_class(""));
}

TEST_CASE("One-way words") {
    for (const char* w : {"yes", "TRUE", "1", "T", "FT"}) CHECK(parse_one_way(w) == OneWay::along);
    for (const char* w : {"-1", "reverse", "TF"}) CHECK(parse_one_way(w) == OneWay::against);
    for (const char* w : {"", "no", "0", "False", "both"}) CHECK(parse_one_way(w) == OneWay::both);
    CHECK_FALSE(parse_one_way("sometimes"));
}
