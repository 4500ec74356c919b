#include "geo/ellipsoid.h"

#include <GeographicLib/Geodesic.hpp>
#include <array>
#include <catch2/catch.hpp>
#include <random>

#include "geo/local_frame.h"

using namespace otoro;
using geo::LonLat;

namespace {
double karney(LonLat a, LonLat b) {
    double metres = 0;
    GeographicLib::Geodesic::WGS84().Inverse(a.lat, a.lon, b.lat, b.lon, metres);
    return metres;
}
}  // namespace

TEST_CASE("Short distances agree with Karney's geodesic to a tenth of a millimetre") {
    std::mt19937_64 dice(1);
    std::uniform_real_distribution<double> lat(-79, 79), lon(-180, 179), step(-0.02, 0.02);
    double worst = 0;
    for (int i = 0; i < 20'000; ++i) {
        const LonLat a{lon(dice), lat(dice)};
        const LonLat b{a.lon + step(dice), a.lat + step(dice)};
        worst = std::max(worst, std::abs(geo::distance_metres(a, b) - karney(a, b)));
    }
    INFO("worst error in metres: " << worst);
    CHECK(worst < 1e-4);
}

TEST_CASE("Segments of a street agree to a micrometre") {
    std::mt19937_64 dice(2);
    std::uniform_real_distribution<double> lat(-70, 70), step(-0.0007, 0.0007);
    for (int i = 0; i < 5'000; ++i) {
        const LonLat a{10, lat(dice)};
        const LonLat b{10 + step(dice), a.lat + step(dice)};
        REQUIRE(std::abs(geo::distance_metres(a, b) - karney(a, b)) < 1e-6);
    }
}

TEST_CASE("Long distances are Karney's") {
    CHECK(geo::distance_metres({-9.5, 46.2}, {10, 50}) == karney({-9.5, 46.2}, {10, 50}));
    CHECK(geo::distance_metres({0, 89.99}, {10, 89.99}) == karney({0, 89.99}, {10, 89.99}));
}

TEST_CASE("A line is measured through its vertices and rounded once") {
    const std::array<LonLat, 3> line{LonLat{-9.5, 46.2}, LonLat{-9.499, 46.2}, LonLat{-9.499, 46.201}};
    CHECK(geo::line_length(line) == Millimetres::from_metres(karney(line[0], line[1]) + karney(line[1], line[2])));
    CHECK(geo::line_length(std::span(line).first(1)) == Millimetres(0));
}
