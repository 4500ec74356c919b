#pragma once
/// \file
/// Lines of equal value over ground.
#include <vector>

#include "reach/boundaries.h"
#include "reach/plane.h"

namespace otoro::reach {

struct LevelLine {
    std::uint32_t level = 0;  ///< which limit
    std::vector<geo::LonLat> vertices;
};

/// Where ground within a limit meets ground beyond it. Where the value jumps, between roads that are near one another
/// and far apart along the roads, the lines of all limits between lie on one another. Ground that is nobody's has no
/// line. By level; lines as long as they go on without a fork. \param boundaries of `Everywhere`, of one owner
std::vector<LevelLine> level_lines(const Plane& plane, const std::vector<Boundary>& boundaries, const Classes& classes);

}  // namespace otoro::reach
