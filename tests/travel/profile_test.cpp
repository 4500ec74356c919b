#include "travel/profile.h"

#include <catch2/catch.hpp>

#include "support/town.h"

using namespace otoro;
using roads::RoadClass;
using travel::kNotAllowed;
using travel::Mode;

namespace {
const Millimetres kKilometre = Millimetres::metres(1000);
double kmh(RoadClass c, Mode m) { return travel::speed_on(test::road(c), {m, {}}).km_per_hour(); }
bool usable(const roads::Attributes& a, Mode m) { return travel::crossing(a, kKilometre, {m, {}}).usable(); }
}  // namespace

TEST_CASE("Default speeds by class") {
    CHECK(kmh(RoadClass::motorway, Mode::drive) == 105);
    CHECK(kmh(RoadClass::trunk, Mode::drive) == 85);
    CHECK(kmh(RoadClass::primary, Mode::drive) == 65);
    CHECK(kmh(RoadClass::secondary, Mode::drive) == 55);
    CHECK(kmh(RoadClass::tertiary, Mode::drive) == 48);
    CHECK(kmh(RoadClass::unclassified, Mode::drive) == 40);
    CHECK(kmh(RoadClass::residential, Mode::drive) == 30);
    CHECK(kmh(RoadClass::road, Mode::drive) == 30);
    CHECK(kmh(RoadClass::other, Mode::drive) == 30);
    CHECK(kmh(RoadClass::service, Mode::drive) == 15);
    CHECK(kmh(RoadClass::living_street, Mode::drive) == 10);
    CHECK(kmh(RoadClass::primary, Mode::respond) == Approx(65 * 1.15));
    CHECK(kmh(RoadClass::primary, Mode::walk) == Approx(4.8));
    CHECK(kmh(RoadClass::steps, Mode::walk) == Approx(2.5));
    CHECK(kmh(RoadClass::primary, Mode::cycle) == 16);
    CHECK(kmh(RoadClass::track, Mode::cycle) == 12);
    CHECK(kmh(RoadClass::path, Mode::cycle) == 12);
}

TEST_CASE("A slip road has 0.7 of the speed of its kind") {
    auto a = test::road(RoadClass::motorway);
    a.flags = roads::kRamp;
    CHECK(travel::speed_on(a, {Mode::drive, {}}).km_per_hour() == Approx(73.5));
}

TEST_CASE("A stated speed is used as it is by drivers, and not at all by walkers") {
    auto a = test::road();
    a.drive_speed = Speed::km_per_hour(20);
    CHECK(travel::crossing(a, kKilometre, {Mode::drive, {}}).along == 180'000);
    CHECK(travel::crossing(a, kKilometre, {Mode::respond, {}}).along == 156'522);  // 23 km/h
    CHECK(travel::crossing(a, kKilometre, {Mode::walk, {}}).along == 750'000);
}

TEST_CASE("One speed for all roads") {
    auto a = test::road(RoadClass::motorway);
    a.drive_speed = Speed::km_per_hour(90);
    CHECK(travel::crossing(a, kKilometre, {Mode::drive, Speed::km_per_hour(36)}).along == 100'000);
}

TEST_CASE("Who may use what") {
    CHECK(usable(test::road(RoadClass::motorway), Mode::drive));
    CHECK_FALSE(usable(test::road(RoadClass::motorway), Mode::walk));
    CHECK_FALSE(usable(test::road(RoadClass::trunk), Mode::cycle));
    CHECK_FALSE(usable(test::road(RoadClass::footway), Mode::drive));
    CHECK(usable(test::road(RoadClass::footway), Mode::walk));
    CHECK_FALSE(usable(test::road(RoadClass::footway), Mode::cycle));
    auto shared = test::road(RoadClass::footway);
    shared.flags = roads::kCycleAllowed;
    CHECK(usable(shared, Mode::cycle));
    CHECK(usable(test::road(RoadClass::other), Mode::drive));
    auto closed = test::road();
    closed.barred = roads::kBarredDrive | roads::kBarredCycle;
    CHECK_FALSE(usable(closed, Mode::respond));
    CHECK_FALSE(usable(closed, Mode::cycle));
    CHECK(usable(closed, Mode::walk));
}

TEST_CASE("One-way streets bind vehicles and bicycles, never walkers") {
    const auto along = test::one_way();
    CHECK(travel::crossing(along, kKilometre, {Mode::drive, {}}).against == kNotAllowed);
    CHECK(travel::crossing(along, kKilometre, {Mode::cycle, {}}).against == kNotAllowed);
    CHECK(travel::crossing(along, kKilometre, {Mode::walk, {}}).against != kNotAllowed);
    const auto against = test::road(RoadClass::residential, roads::OneWay::against);
    CHECK(travel::crossing(against, kKilometre, {Mode::drive, {}}).along == kNotAllowed);
    roads::Attributes contraflow = test::road();
    contraflow.set_one_way(roads::OneWay::along, roads::OneWay::both);
    CHECK(travel::crossing(contraflow, kKilometre, {Mode::cycle, {}}).against != kNotAllowed);
    CHECK(travel::crossing(contraflow, kKilometre, {Mode::drive, {}}).against == kNotAllowed);
}

TEST_CASE("A ferry takes its stated time for everybody") {
    auto ferry = test::road(RoadClass::ferry);
    ferry.fixed_ms = 240'000;
    for (const Mode m : {Mode::drive, Mode::respond, Mode::walk, Mode::cycle})
        CHECK(travel::crossing(ferry, kKilometre, {m, Speed::km_per_hour(100)}).along == 240'000);
    CHECK(travel::crossing(test::road(RoadClass::ferry), kKilometre, {Mode::drive, {}}).along == 360'000);  // 10 km/h
}
