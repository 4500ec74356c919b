#pragma once
/// \file
/// The Voronoi diagram of the cells of a tile.
///
/// \par Method
/// Boost.Polygon: Fortune's sweep over segments and points of whole numbers. On roads that are a grid but for rounding
/// it now and then takes one event for another, and lines then run to the end of the plane, or around in a ring. So
/// every line is checked: its ends are to be as far from all the cells that meet there. The same roads seen from
/// another side are swept in another order: up to four sides are tried, and the diagram with the fewest lines that are
/// not sound is taken.
///
/// \par Cost
/// 20 microseconds a segment, and 0.2 for the check; four times that where no side is right.
#include <vector>

#include "geo/task.h"
#include "reach/strip_cells.h"

namespace otoro::reach {

/// Between two cells: straight, or part of a parabola where one is a segment and the other a point beside it.
struct DiagramLine {
    Spot p, q;                                ///< units of the plane
    std::uint32_t left = 0, right = 0;        ///< cells, seen from p to q
    bool p_within = false, q_within = false;  ///< whether that end is within the limit of its cells
    bool curved = false;
};

struct StripDiagram {
    std::vector<DiagramLine> lines;
    std::size_t unsound = 0;  ///< lines of which an end is within the limit, and not as far from all its cells
};

/// All lines that may be within the limit. \param limit units of the plane \throws Stopped
StripDiagram strip_diagram(const StripCells& cells, const Rectangle& tile, double limit, const Task& task);

}  // namespace otoro::reach
