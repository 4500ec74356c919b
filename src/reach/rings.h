#pragma once
/// \file
/// Boundaries joined into polygons.
///
/// \par Method
/// Boundaries are put on a grid, and what rounding made wrong there right (drawing.h); simplified if that is asked for
/// (simplify.h). Then the rings of every class are followed with its ground on the left, taking the sharpest turn
/// towards it where several meet, and split where they come to a vertex again, so that each ring is simple and every
/// polygon's ground is connected.
///
/// \par Exact
/// Polygons are valid by the rules of OGC's Simple Features; two that touch have the same vertices along their common
/// edge.
///
/// \par Cost
/// `n log n` in boundaries.
#include <stdexcept>
#include <vector>

#include "geo/position.h"
#include "geo/task.h"
#include "reach/boundaries.h"
#include "reach/plane.h"

namespace otoro::reach {

/// Rings are closed (the first vertex comes again); outer rings run counter-clockwise, holes clockwise.
struct Polygon {
    std::vector<geo::LonLat> outer;
    std::vector<std::vector<geo::LonLat>> holes;
};

/// All ground of one class.
struct Region {
    std::uint32_t ground = kNobody;
    std::vector<Polygon> polygons;  ///< the largest first
    double square_metres = 0;       ///< on the ellipsoid
};

/// Boundaries that contradict each other, which those drawn anew do not (faces.h).
class UnsoundBoundaries : public std::logic_error {
public:
    using std::logic_error::logic_error;
};

/// \param simplify_metres boundaries may be that far from where they were found; 0: not at all. Where a simpler line
/// would cross another one it is left as it is.
/// \returns by class, ascending. \throws UnsoundBoundaries; Stopped
std::vector<Region> regions(const Plane& plane, const std::vector<Boundary>& boundaries, double simplify_metres,
                            const Task& task);

/// Square metres on the ellipsoid within a closed ring whose edges are straight in degrees; positive if it runs
/// counter-clockwise.
double ring_area(const std::vector<geo::LonLat>& ring);

}  // namespace otoro::reach
