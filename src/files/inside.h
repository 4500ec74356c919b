#pragma once
/// \file
/// The point that stands for a shape.
#include <optional>

#include "geo/position.h"

class OGRGeometry;

namespace otoro::files {

/// A point for a shape, in the shape's own coordinates: itself; of several points the one nearest to their middle; of a
/// polygon one that is truly inside it (by the even-odd rule, holes are outside), of several polygons one inside the
/// largest. Nothing for another shape, and for a polygon without area.
///
/// A line is laid across the polygon at up to 31 heights, none of them a vertex's, and the middle of the widest stretch
/// inside is taken. Linear in vertices.
std::optional<geo::LonLat> point_for(const OGRGeometry& shape);

}  // namespace otoro::files
