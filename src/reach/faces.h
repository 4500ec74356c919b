#pragma once
/// \file
/// The boundaries of a tile drawn anew, where those that were walked do not close.
///
/// \par Problem
/// Lines between strips, lines across them and the sides of tiles are each rounded to the grid of the plane. Where
/// three of them meet in one point but for rounding, as on roads drawn on whole metres, one may end beside the others;
/// then the classes around that point contradict each other.
///
/// \par Method
/// All lines of the tile are noded, and the faces that they make are gone around. What is on the left of a face's rim
/// is asked for beside its longest edges; so every rim is of one class from end to end, whatever lines are missing or
/// too many. What hangs together within a face is of that face.
///
/// \par Error
/// A face that two faces have become since the line between them was missing is of one class: at most one strip.
///
/// \par Cost
/// Seven places a face, each held against all cells of the tile, on all processors: about a second for a full tile.
#include <span>
#include <vector>

#include "geo/task.h"
#include "reach/boundaries.h"

namespace otoro::reach {

/// Points at which more lines of some class come in than go on, or fewer, ascending. Regions can be followed where
/// there is none. `n log n`
std::vector<Point> open_ends(std::span<const Boundary> boundaries);

/// \param walked what was found of the tile before \param units_per_metre of the plane \throws Stopped
TileBoundaries boundaries_anew(const Strips& strips, const TileBoundaries& walked, const AlongRoads& along,
                               const Bands& bands, double units_per_metre, Millimetres limit, const Task& task);

}  // namespace otoro::reach
