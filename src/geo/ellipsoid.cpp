#include "geo/ellipsoid.h"

#include <GeographicLib/Geodesic.hpp>
#include <cmath>
#include <numbers>

#include "geo/local_frame.h"

namespace otoro::geo {

double distance_metres(LonLat a, LonLat b) {
    constexpr double kShort = 0.02;
    constexpr double kPolar = 80.0;
    const double dlon = b.lon - a.lon;
    const double dlat = b.lat - a.lat;
    const double mid = 0.5 * (a.lat + b.lat);
    if (std::abs(dlon) <= kShort && std::abs(dlat) <= kShort && std::abs(mid) < kPolar) {
        const auto scale = MetresPerDegree::at_latitude(mid);
        const double x = dlon * scale.east;
        const double y = dlat * scale.north;
        return std::sqrt(x * x + y * y);
    }
    double metres = 0;
    GeographicLib::Geodesic::WGS84().Inverse(a.lat, a.lon, b.lat, b.lon, metres);
    return metres;
}

Millimetres line_length(std::span<const LonLat> vertices) {
    double metres = 0;
    for (std::size_t i = 1; i < vertices.size(); ++i) metres += distance_metres(vertices[i - 1], vertices[i]);
    return Millimetres::from_metres(metres);
}

}  // namespace otoro::geo
