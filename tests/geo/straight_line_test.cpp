#include "geo/straight_line.h"

#include <GeographicLib/Geodesic.hpp>
#include <catch2/catch.hpp>
#include <random>

namespace otoro {

TEST_CASE("Straight lines are geodesics, to a fiftieth of a millimetre, at any latitude and in any direction") {
    std::mt19937 dice(1);
    std::uniform_real_distribution<double> lat(-90, 90), lon(-180, 180), turn(0, 360), exponent(-3, 5.3);
    const auto& wgs84 = GeographicLib::Geodesic::WGS84();
    double worst = 0;
    for (int i = 0; i < 20'000; ++i) {
        const geo::LonLat a{lon(dice), lat(dice)};
        const double length = std::pow(10, exponent(dice));
        geo::LonLat b;
        wgs84.Direct(a.lat, a.lon, turn(dice), length, b.lat, b.lon);
        const double got = geo::StraightEnd(a).metres_to(geo::StraightEnd(b));
        worst = std::max(worst, std::abs(got - length));
        REQUIRE(got == geo::StraightEnd(b).metres_to(geo::StraightEnd(a)));
    }
    CHECK(worst < 0.02e-3);
    CHECK(geo::straight_line({3, 50}, {3, 50}) == Millimetres(0));
    CHECK(geo::straight_line({179.9, 10}, {-179.9, 10}) == geo::straight_line({-0.1, 10}, {0.1, 10}));
}

}  // namespace otoro
