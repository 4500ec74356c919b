#pragma once
/// \file
/// Straight lines between many points: geodesic lengths from what each point has by itself.
///
/// \par Method
/// A point is kept where it stands in space. The straight way through the earth between two of them is exact and costs
/// a square root; the way over the ground is longer by `c^3 / 24 R^2 + 3 c^5 / 640 R^4`, with R the radius of curvature
/// half way, in that direction (Euler). Beyond 100 km it is left to GeographicLib.
///
/// \par Error
/// Against Karney's, under 0.02 mm; `tests/geo/straight_line_test.cpp` holds it to that.
///
/// \par Cost
/// About 15 ns a pair, against a microsecond.
#include "geo/position.h"
#include "geo/units.h"

namespace otoro::geo {

/// One end of straight lines.
class StraightEnd {
public:
    StraightEnd() = default;
    /// \pre it is `on_the_globe`
    explicit StraightEnd(LonLat at);
    /// Over the ground, in metres.
    [[nodiscard]] double metres_to(const StraightEnd& o) const;

private:
    LonLat at_;
    double x_ = 0, y_ = 0, z_ = 0;           // in space, metres
    double up_x_ = 0, up_y_ = 0, up_z_ = 1;  // straight up from the ground
};

/// The straight line between two points, to the nearest millimetre.
inline Millimetres straight_line(LonLat a, LonLat b) {
    return Millimetres::from_metres(StraightEnd(a).metres_to(StraightEnd(b)));
}

}  // namespace otoro::geo
