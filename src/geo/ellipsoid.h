#pragma once
/// \file
/// Lengths on the WGS84 ellipsoid.
///
/// \par Problem
/// The length of the shortest line over the ellipsoid between two points, and of a road drawn through many.
/// A network of a million links has several million such segments, nearly all of them shorter than 100 m.
///
/// \par Method
/// Where both differences are at most 0.02 degrees (about 2 km) and the latitude is below 80 degrees, the segment is
/// measured with the two radii of curvature at its middle latitude, `d^2 = (M dphi)^2 + (N cos(phi) dlambda)^2`
/// (Gauss's mid-latitude formula, first term). Longer ones go to GeographicLib (Karney 2013, "Algorithms for
/// geodesics", J. Geodesy 87, 43-55), good to 15 nm.
///
/// \par Error
/// Of the short form, against Karney's: under 0.1 mm for a segment of 2 km, falling with the cube of the
/// length; under a nanometre at 50 m. The test `tests/geo/ellipsoid_test.cpp` holds it to that.
#include <span>

#include "geo/position.h"
#include "geo/units.h"

namespace otoro::geo {

/// Geodesic distance in metres. \pre both are `on_the_globe`. About 20 ns when short, 1 microsecond when long.
double distance_metres(LonLat a, LonLat b);

/// The same, to the nearest millimetre.
inline Millimetres distance(LonLat a, LonLat b) { return Millimetres::from_metres(distance_metres(a, b)); }

/// Length along a line through all its vertices, summed in metres and rounded once. Fewer than two vertices: zero.
Millimetres line_length(std::span<const LonLat> vertices);

}  // namespace otoro::geo
