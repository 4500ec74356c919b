#pragma once
/// \file
/// Boundaries on the grid of polygons, with what rounding made wrong put right.
///
/// \par Method
/// The grid is of a thousand-millionth of a degree (0.1 mm). Lines that cross or touch on it do so by rounding: a
/// vertex is a hair beyond a line that it should be beside, or on. It is moved onto that line, or onto the vertex next
/// to it; noding them instead would make bow-ties, in which the classes on both sides cannot be told.
///
/// \par Cost
/// `n log n` in boundaries.
#include <cstdint>
#include <unordered_map>
#include <utility>
#include <vector>

#include "geo/position.h"
#include "geo/task.h"
#include "reach/boundaries.h"
#include "reach/meetings.h"
#include "reach/plane.h"

namespace otoro::reach {

/// A vertex of the grid as a place.
geo::LonLat place(GridPoint p);

/// Metres east and north of `origin`, near enough for distances of some kilometres.
Spot metres_from(GridPoint origin, GridPoint p);

/// The lines and their vertices, no two of which are at one place.
class Drawing {
public:
    /// A boundary between two vertices.
    struct Line {
        std::uint32_t a = 0, b = 0;
        std::uint32_t left = kNobody, right = kNobody;
    };
    std::vector<GridPoint> vertices;
    std::vector<Line> lines;

    Drawing(const Plane& plane, const std::vector<Boundary>& boundaries);

    /// One line between two vertices at most: of several that lie on one another, what is on both sides of all.
    void settle();
    /// Pairs of lines that cross or touch other than at their common ends.
    [[nodiscard]] std::vector<std::pair<std::uint32_t, std::uint32_t>> conflicts() const;
    /// Moves vertices until no lines conflict. \returns whether it came to an end \throws Stopped
    bool mend(const Task& task);

private:
    /// A vertex that is to be on a line, at this part of it.
    struct Onto {
        std::uint32_t line, vertex;
        double along, metres;
    };
    [[nodiscard]] Onto nearest_on(std::uint32_t line, std::uint32_t vertex) const;
    /// Of two lines that meet wrongly, the vertex that is nearest to the other line.
    [[nodiscard]] Onto nearest_vertex(std::uint32_t p, std::uint32_t q) const;
    /// One step for every pair of lines. \returns whether all are as near as rounding explains
    bool snap(const std::vector<std::pair<std::uint32_t, std::uint32_t>>& wrong);
    /// Lines are parted at the vertices that are put onto them.
    void part(std::vector<Onto> cuts);
    void merge(const std::unordered_map<std::uint32_t, std::uint32_t>& merged);
};

}  // namespace otoro::reach
