#pragma once
/// \file
/// Lines cut into parts.
#include <memory>
#include <vector>

#include "roads/lines.h"

namespace otoro::roads {

/// A point of a line: on the segment that starts at vertex `segment`, or on that vertex itself.
struct Cut {
    std::uint32_t line = 0;
    std::uint32_t segment = 0;
    double along = 0;  ///< 0 at the vertex, towards 1 at the next; orders the cuts of one segment
    geo::LonLat at;    ///< where both parts end
};

/// Lines in the same order, each replaced by its parts. A cut at a line's own end, or where it is cut already, does
/// nothing.
///
/// A stated time is shared by length, to the millisecond; heights are taken from between; a forbidden move stays with
/// the part that touches its junction. Ends that the source names keep their numbers, and every cut gets a new one (the
/// same for cuts at one point). \param cuts in any order; sorted here. With none, `lines` itself comes back.
std::shared_ptr<const Lines> cut(std::shared_ptr<const Lines> lines, std::vector<Cut> cuts);

}  // namespace otoro::roads
