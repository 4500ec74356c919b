#include "geo/straight_line.h"

#include <cmath>
#include <numbers>

#include "geo/ellipsoid.h"

namespace otoro::geo {
namespace {
constexpr double kA = 6378137.0;
constexpr double kF = 1.0 / 298.257223563;
constexpr double kE2 = kF * (2.0 - kF);
}  // namespace

StraightEnd::StraightEnd(LonLat at) : at_(at) {
    constexpr double kRadians = std::numbers::pi / 180.0;
    const double lat = at.lat * kRadians, lon = at.lon * kRadians;
    up_x_ = std::cos(lat) * std::cos(lon);
    up_y_ = std::cos(lat) * std::sin(lon);
    up_z_ = std::sin(lat);
    const double n = kA / std::sqrt(1.0 - kE2 * up_z_ * up_z_);
    x_ = n * up_x_;
    y_ = n * up_y_;
    z_ = n * (1.0 - kE2) * up_z_;
}

double StraightEnd::metres_to(const StraightEnd& o) const {
    constexpr double kLongest = 100'000;
    const double dx = o.x_ - x_, dy = o.y_ - y_, dz = o.z_ - z_;
    const double squared = dx * dx + dy * dy + dz * dz;
    if (squared > kLongest * kLongest) return distance_metres(at_, o.at_);
    if (squared == 0) return 0;
    // Half way: what is up, and how much of the line runs north.
    double ux = up_x_ + o.up_x_, uy = up_y_ + o.up_y_, uz = up_z_ + o.up_z_;
    const double up = std::sqrt(ux * ux + uy * uy + uz * uz);
    ux /= up;
    uy /= up;
    uz /= up;
    const double w2 = 1.0 - kE2 * uz * uz;
    const double across = kA / std::sqrt(w2);        // radius of curvature from east to west
    const double along = across * (1.0 - kE2) / w2;  // from south to north
    const double level = ux * ux + uy * uy;          // cosine of the latitude, squared
    // North is `(-uz ux, -uz uy, level) / sqrt(level)`; at the pole itself all directions are alike.
    const double north = level > 1e-12 ? (dz * level - uz * (dx * ux + dy * uy)) / std::sqrt(level) : 0;
    const double share = north * north / squared;
    const double curvature = share / along + (1.0 - share) / across;
    const double turn = squared * curvature * curvature;
    return std::sqrt(squared) * (1.0 + turn / 24.0 + 3.0 * turn * turn / 640.0);
}

}  // namespace otoro::geo
