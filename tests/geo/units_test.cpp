#include "geo/units.h"

#include <catch2/catch.hpp>

using namespace otoro;

TEST_CASE("500 m at 40 km/h take three quarters of a minute") {
    CHECK(travel_time(Millimetres::metres(500), Speed::km_per_hour(40)) == Millis(45'000));
    CHECK(Millis(45'000).minutes() == 0.75);
}

TEST_CASE("Travel time is rounded to the nearest millisecond") {
    // 1 mm at 36 km/h (10 mm a millisecond) is a tenth of a millisecond.
    const auto speed = Speed::km_per_hour(36);
    CHECK(travel_time(Millimetres(4), speed) == Millis(0));
    CHECK(travel_time(Millimetres(5), speed) == Millis(1));
    CHECK(travel_time(Millimetres(14), speed) == Millis(1));
}

TEST_CASE("A thousand kilometres at a snail's pace do not overflow") {
    CHECK(travel_time(Millimetres::metres(1'000'000), Speed::km_per_hour(0.1)) == Millis::minutes(600'000));
}

TEST_CASE("Speeds in miles are exact") { CHECK(Speed::miles_per_hour(25).mm_per_hour() == 40'233'600); }

TEST_CASE("A share shown never overstates, but the verdict is decided exactly") {
    const Weight whole = Weight::of(3);
    CHECK(share_of(Weight::of(2), whole).ppm() == 666'666);
    // 89.99999 % is shown as 89.9..., and is not 90 %.
    CHECK_FALSE(reaches(Weight(8'999'999), Weight(10'000'000), Share::percent(90)));
    CHECK(reaches(Weight(9'000'000), Weight(10'000'000), Share::percent(90)));
}

TEST_CASE("Nobody at all never meets a standard") {
    CHECK(share_of(Weight(), Weight()).ppm() == 0);
    CHECK_FALSE(reaches(Weight(), Weight(), Share::percent(1)));
}

TEST_CASE("Weights of a tenth add up exactly") {
    Weight sum;
    for (int i = 0; i < 10; ++i) sum += Weight::of(0.1);
    CHECK(sum == Weight::of(1));
}
