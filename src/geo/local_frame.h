#pragma once
/// \file
/// A flat frame about one point, good for a few kilometres.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

#include "geo/position.h"

namespace otoro::geo {

/// How many metres one degree is, east and north, at a latitude (from the WGS84 radii of curvature).
struct MetresPerDegree {
    double east = 0;
    double north = 0;

    static MetresPerDegree at_latitude(double lat) {
        constexpr double kA = 6378137.0;
        constexpr double kF = 1.0 / 298.257223563;
        constexpr double kE2 = kF * (2.0 - kF);
        constexpr double kRadians = std::numbers::pi / 180.0;
        const double s = std::sin(lat * kRadians);
        const double w2 = 1.0 - kE2 * s * s;
        const double n = kA / std::sqrt(w2);
        return {n * std::sqrt(std::max(0.0, 1.0 - s * s)) * kRadians, n * (1.0 - kE2) / w2 * kRadians};
    }
};

/// Metres east and north of an origin.
struct Flat {
    double x = 0;
    double y = 0;
};

/// East-north metres about `origin`. Distances from the origin are right to 1 cm within 250 m and to 1 m within
/// 3 km at mid-latitudes; use `distance_metres` for what is reported.
class LocalFrame {
public:
    explicit LocalFrame(LonLat origin) : origin_(origin), scale_(MetresPerDegree::at_latitude(origin.lat)) {}

    [[nodiscard]] Flat flat(LonLat p) const {
        const LonLat q = near_to(p, origin_);
        return {(q.lon - origin_.lon) * scale_.east, (q.lat - origin_.lat) * scale_.north};
    }
    /// The box of everything within `metres` of the origin, a little generous.
    [[nodiscard]] Box box_around(double metres) const {
        const double dx = scale_.east > 1.0 ? metres / scale_.east * 1.001 : 360.0;
        const double dy = metres / scale_.north * 1.001;
        return {origin_.lon - dx, origin_.lat - dy, origin_.lon + dx, origin_.lat + dy};
    }

private:
    LonLat origin_;
    MetresPerDegree scale_;
};

/// How far along `a` to `b` (0 to 1) the foot of the perpendicular from the frame's origin falls.
inline double foot_of_origin(Flat a, Flat b) {
    const double dx = b.x - a.x;
    const double dy = b.y - a.y;
    const double squared = dx * dx + dy * dy;
    if (squared <= 0) return 0;
    return std::clamp(-(a.x * dx + a.y * dy) / squared, 0.0, 1.0);
}

/// The point of a line nearest to a frame's origin, and where on the line it is.
struct LineFoot {
    std::size_t segment = 0;  ///< the vertex it comes after
    double along = 0;         ///< 0 at that vertex, 1 at the next
    double squared = 1e300;   ///< flat distance from the origin in square metres
};
/// Linear in vertices; the first of equals. \pre at least one vertex
inline LineFoot foot_on_line(std::span<const LonLat> line, const LocalFrame& frame) {
    LineFoot best;
    Flat a = frame.flat(line[0]);
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const Flat b = frame.flat(line[i + 1]);
        const double t = foot_of_origin(a, b);
        const double x = a.x + t * (b.x - a.x), y = a.y + t * (b.y - a.y);
        if (const double squared = x * x + y * y; squared < best.squared) best = {i, t, squared};
        a = b;
    }
    return best;
}

inline LonLat between(LonLat a, LonLat b, double t) {
    if (t >= 1) return b;
    b = near_to(b, a);
    return {a.lon + (b.lon - a.lon) * t, a.lat + (b.lat - a.lat) * t};
}

}  // namespace otoro::geo
