#pragma once
/// \file
/// Roads as straight lines in the plane, each with where on its link it is.
#include <vector>

#include "geo/ids.h"
#include "geo/task.h"
#include "reach/plane.h"
#include "roads/network.h"

namespace otoro::reach {

/// A straight part of a link.
struct GroundLine {
    Point a, b;
    LinkId link;
    Millimetres from, to;  ///< offsets along the link at `a` and `b`; `from <= to`
};

/// A rectangle of the plane: `low` belongs to it, `high` does not.
struct Rectangle {
    Point low, high;
    [[nodiscard]] bool contains(Point p) const { return p.x >= low.x && p.x < high.x && p.y >= low.y && p.y < high.y; }
    [[nodiscard]] Rectangle widened(std::int32_t by) const {
        return {{low.x - by, low.y - by}, {high.x + by, high.y + by}};
    }
    auto operator<=>(const Rectangle&) const = default;
};

/// The degrees that a rectangle covers, a little generous.
geo::Box box_of(const Plane& plane, const Rectangle& rectangle);

/// Parts of the links for which `use`, no longer than 1 km, that have something in `where`, by link and offset. A link
/// without length comes as one line without length. Costs a search of the roads' tree and the vertices of the runs
/// found. \throws Stopped
std::vector<GroundLine> ground_lines(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                                     const Rectangle& where, const Task& task);
/// The same by a patch of the plane: quicker, and within a hundredth of a unit before it is rounded.
std::vector<GroundLine> ground_lines(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                                     const PlanePatch& patch, const Rectangle& where, const Task& task);

}  // namespace otoro::reach
