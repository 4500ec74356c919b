#pragma once
/// \file
/// Is this point inside? For areas of very many vertices.
///
/// \par Method
/// Edges stand in a packed R-tree. Inside is by the even-odd rule: the edges to the east of a point are counted, as
/// `Area::contains` does and with the same arithmetic, so that both say the same of every point.
///
/// \par Cost
/// `n log n` for n edges; then about the edges that a ray to the east meets.
#include <span>
#include <vector>

#include "geo/area.h"
#include "geo/box_index.h"

namespace otoro::geo {

/// Many areas at once.
class AreaIndex {
public:
    explicit AreaIndex(std::span<const Area> areas);
    /// Whether any of them contains the point.
    [[nodiscard]] bool any_contains(LonLat p) const;

private:
    struct Edge {
        LonLat a, b;
        std::uint32_t area;
    };
    std::vector<Edge> edges_;
    std::span<const Area> areas_;
    double east_ = -1e9;
    BoxIndex index_;
};

}  // namespace otoro::geo
