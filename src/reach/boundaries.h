#pragma once
/// \file
/// Where ground of one class ends and that of another begins.
///
/// \par Method
/// The lines between strips are walked once: where the strips on both sides are of one class each, a line is a boundary
/// or not. A strip in which the class changes is cut across, perpendicular to its road, where the value along the road
/// passes a limit or another owner begins; where legs off the road count, along the line on which value and leg come to
/// the limit together.
///
/// \par Cost
/// Linear in the lines of a tile.
#include <array>
#include <vector>

#include "reach/along_roads.h"
#include "reach/strips.h"

namespace otoro::reach {

/// A straight line with the classes of the ground on its left and right.
struct Boundary {
    Point a, b;
    std::uint32_t left = kNobody, right = kNobody;
};

/// Classes along a side of a tile, inside of it.
struct SeamClass {
    std::int32_t from = 0, to = 0;
    std::uint32_t ground = kNobody;
};

struct TileBoundaries {
    std::vector<Boundary> lines;
    std::array<std::vector<SeamClass>, 4> seams;
};

/// \param units_per_metre of the plane
TileBoundaries boundaries(const Strips& strips, const AlongRoads& along, const Bands& bands, double units_per_metre);

}  // namespace otoro::reach
