#pragma once
/// \file
/// Which boxes touch this box? A packed R-tree (Leutenegger, Lopez, Edgington 1997) over boxes known once and for all.
#include <cstdint>
#include <functional>
#include <memory>
#include <vector>

#include "geo/position.h"

namespace otoro::geo {

/// About 30 bytes a box; `n log n` to build; a search costs the boxes found and a few nodes more.
class BoxIndex {
public:
    /// `box_of(i)` for i in [0, count). Empty boxes are left out.
    BoxIndex(std::uint32_t count, const std::function<Box(std::uint32_t)>& box_of);
    BoxIndex(BoxIndex&&) noexcept;
    BoxIndex& operator=(BoxIndex&&) noexcept;
    ~BoxIndex();

    /// Clears `found` and fills it with the numbers of all boxes that touch `area` (perhaps a hair outside it: boxes
    /// are kept in single precision, never smaller than they are), in no particular order. Safe from many threads.
    void touching(const Box& area, std::vector<std::uint32_t>& found) const;

    /// Calls `look(number, degrees)` for boxes in the order of how far they are from a point, in degrees (a degree east
    /// counting as one north), never farther than they are, until it returns false. Safe from many threads. Costs the
    /// boxes looked at, times a logarithm.
    void nearest_first(LonLat from, const std::function<bool(std::uint32_t number, double degrees)>& look) const;

private:
    struct Tree;
    std::unique_ptr<Tree> tree_;
};

}  // namespace otoro::geo
