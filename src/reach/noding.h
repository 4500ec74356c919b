#pragma once
/// \file
/// Segments cut where they cross, on the grid of the plane.
///
/// \par Method
/// Snap rounding (Hobby 1999; Guibas, Marimont 1998), by GEOS: every crossing becomes a point of the grid, and segments
/// that pass within half a unit of such a point, or of another's end, go through it. No two of the pieces meet but at
/// their ends; no point moves by more than half a unit.
///
/// \par Cost
/// `n log n`: a fraction of a microsecond a segment, some microseconds one that meets others within.
#include <cstdint>
#include <span>
#include <vector>

#include "geo/task.h"
#include "reach/plane.h"

namespace otoro::reach {

struct Segment {
    Point a, b;
};

/// A part of a segment, drawn the way the segment is.
struct NodedPiece {
    Point a, b;
    std::uint32_t segment = 0;  ///< which one it is a part of
};

/// In the order of the segments, and along each of them. Pieces of no length are left out; of two segments that lie on
/// one another there are pieces of both. \throws Stopped
std::vector<NodedPiece> noded(std::span<const Segment> segments, const Task& task);

}  // namespace otoro::reach
