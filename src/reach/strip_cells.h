#pragma once
/// \file
/// What ground is divided among: the straight parts of roads near a tile, and their ends.
#include <cstdint>
#include <vector>

#include "reach/flat.h"
#include "reach/ground_lines.h"

namespace otoro::reach {

/// No cell: ground that is farther from every road than the limit.
inline constexpr std::uint32_t kNoCell = 0xffffffff;

/// Ground whose nearest point of a road is on one segment, or one point. 28 bytes.
struct Cell {
    Point a, b;  ///< equal for a point
    LinkId link;
    std::uint32_t from_mm = 0, to_mm = 0;  ///< offsets along the link at `a` and `b`; no link is longer than 1,000 km
    [[nodiscard]] bool is_point() const { return a == b; }
    [[nodiscard]] Millimetres from() const { return Millimetres(from_mm); }
    [[nodiscard]] Millimetres to() const { return Millimetres(to_mm); }
};

/// A segment with an origin and a direction.
struct Axis {
    explicit Axis(const Cell& cell) : origin(spot(cell.a)) {
        const Spot d = spot(cell.b) - origin;
        reach = length(d);
        along = reach > 0 ? (1 / reach) * d : Spot{1, 0};
    }
    [[nodiscard]] double x(Spot p) const { return dot(p - origin, along); }
    [[nodiscard]] double y(Spot p) const { return cross(along, p - origin); }
    [[nodiscard]] Spot at(double x, double y) const { return origin + x * along + y * Spot{-along.y, along.x}; }
    Spot origin, along;
    double reach = 0;
};

/// To a segment or a point.
inline double distance_to(const Cell& cell, Spot p) {
    const Axis axis(cell);
    const double x = std::clamp(axis.x(p), 0.0, axis.reach);
    return length(p - axis.at(x, 0));
}

/// Segments first, then their ends, corners and crossings: each of these belongs to the first link that is there.
struct StripCells {
    std::vector<Cell> cells;
    std::uint32_t segments = 0;  ///< how many of the cells are
    std::vector<Point> lone;     ///< points that stand on no segment: links without length
    [[nodiscard]] bool is_segment(std::uint32_t cell) const { return cell < segments; }
    /// The number of the point that stands there. \pre there is one
    [[nodiscard]] std::uint32_t point(Point p) const;
};

/// Roads are noded; of those drawn upon one another the first in file order has the ground. \throws Stopped
StripCells strip_cells(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                       const Rectangle& where, const Task& task);

}  // namespace otoro::reach
