#pragma once
/// \file
/// Which segments meet other than at their ends?
///
/// \par Method
/// Squares of twice the mean length of the segments; every two in a square are looked at, exactly, in whole
/// numbers.
///
/// \par Cost
/// `n log n`, and the pairs that share a square.
#include <cstdint>
#include <functional>
#include <span>
#include <utility>
#include <vector>

#include "geo/units.h"

namespace otoro::reach {

struct GridPoint {
    std::int64_t x = 0, y = 0;
    auto operator<=>(const GridPoint&) const = default;
};

struct GridSegment {
    GridPoint a, b;
};

/// Twice the area of a triangle, positive if it turns to the left.
inline Wide cross(GridPoint o, GridPoint a, GridPoint b) {
    return static_cast<Wide>(a.x - o.x) * (b.y - o.y) - static_cast<Wide>(a.y - o.y) * (b.x - o.x);
}
inline int sign(Wide v) { return v > 0 ? 1 : v < 0 ? -1 : 0; }

/// Whether they cross, or touch other than with an end of both, or lie on one another in part. Two between the same
/// points do not.
bool meet_within(const GridSegment& p, const GridSegment& q);

/// Calls `use(p, q)`, p < q, for all pairs whose boxes, widened by `rim`, touch, and some more; for some more than
/// once.
void each_near_pair(std::span<const GridSegment> segments, std::int64_t rim,
                    const std::function<void(std::uint32_t, std::uint32_t)>& use);

/// Pairs that do, ascending. \pre none is without length
std::vector<std::pair<std::uint32_t, std::uint32_t>> meetings(std::span<const GridSegment> segments);

}  // namespace otoro::reach
