#pragma once
/// \file
/// Ground divided among roads: the strip of ground of each straight part of a road.
///
/// \par Problem
/// A place belongs to the nearest point of the nearest road it may be attached to, if that is within the attach limit.
/// Which ground is that of which road, and of which part of it?
///
/// \par Method
/// The Voronoi diagram of the roads' segments and their ends (Boost.Polygon: Fortune's sweep with exact predicates on
/// whole numbers), noded before, cut off at the attach limit and by the tile that it is for. Within the cell of a
/// segment the nearest point is the foot of the perpendicular, within that of an end or a corner it is that point.
/// Curves between a segment and a point are drawn as straight lines that are within 10 cm of them.
///
/// \par Exact
/// Corners stand on the grid of the plane (1 mm). Every spot of the tile whose nearest road is within the limit is in
/// the right cell but for what is within a few centimetres of an edge.
///
/// \par Cost
/// Some 30 microseconds a segment of road in the tile and a rim as wide as the limit; 200 bytes a segment are kept.
#include <array>
#include <cstdint>
#include <vector>

#include "reach/strip_cells.h"

namespace otoro::reach {

/// A straight line between two cells, or between a cell and ground that is none's.
struct Border {
    std::uint32_t a = 0, b = 0;  ///< vertices
    std::uint32_t left = kNoCell, right = kNoCell;
};

/// A part of one side of a tile.
struct SeamPart {
    std::int32_t from = 0, to = 0;  ///< along the side, ascending
    std::uint32_t cell = kNoCell;
};

enum class Side : std::uint8_t { west, south, east, north };
inline constexpr std::array kSides{Side::west, Side::south, Side::east, Side::north};

/// Whether a side runs from south to north.
inline bool is_upright(Side side) { return side == Side::west || side == Side::east; }
/// A point of a side, by its place along it.
Point on_side(const Rectangle& tile, Side side, std::int32_t at);

/// The strips in one tile.
struct Strips {
    Rectangle tile;
    std::vector<Cell> cells;
    std::vector<Point> vertices;  ///< each once
    std::vector<Border> borders;
    std::array<std::vector<SeamPart>, 4> seams;  ///< each side from end to end

    [[nodiscard]] std::size_t bytes() const;
};

/// \param use which links places may be attached to \param limit the attach limit \throws Stopped
Strips make_strips(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                   const Rectangle& tile, Millimetres limit, const Task& task);

}  // namespace otoro::reach
