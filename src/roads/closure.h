#pragma once
/// \file
/// Roads shut or slowed for a while, as a planner draws them on the map, and what that means link by link.
///
/// A point works on the road nearest to it (within 50 m), at the foot of the perpendicular; within 2 m of where roads
/// meet or end, it is that crossing or end that is meant, and all roads that meet there. A line works on every road it
/// crosses, where it crosses it, and on the parts of roads, of any shortness, that run along it within 8 m. An area
/// works on the parts of roads inside its rings, by the even-odd rule: holes are outside. Where it is the road around a
/// point that is slowed, it is so for 8 m either way. Somebody who lives on a shut road can still be reached up to
/// where it is shut.
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "roads/network.h"

namespace otoro::roads {

enum class ClosureShape : std::uint8_t { point, line, area };
enum class ClosureEffect : std::uint8_t {
    closed,  ///< nobody passes
    slowed,  ///< times as long, `factor_per_mille / 1000`
    delay,   ///< so much longer, once a road and passage, however often the closure touches it
};
std::string_view name(ClosureShape s);
std::string_view name(ClosureEffect e);

/// One closure.
struct Closure {
    std::string name;
    ClosureShape shape = ClosureShape::point;
    std::vector<geo::LonLat>
        vertices;  ///< one for a point; at least two for a line; at least three, not closed, for an area
    ClosureEffect effect = ClosureEffect::closed;
    std::uint32_t factor_per_mille = 2000;  ///< at least 1000
    Millis delay;
    std::vector<std::vector<geo::LonLat>> more_rings =
        {};  ///< of an area: its holes and further parts, each at least three and not closed
    bool operator==(const Closure&) const = default;
};

/// What a closure does to a stretch of one link.
struct LinkRestriction {
    LinkId link;
    Millimetres begin, end;  ///< offsets along the link; equal for a point
    ClosureEffect effect = ClosureEffect::closed;
    std::uint32_t factor_per_mille = 1000;
    Millis delay;
    std::uint32_t closure = 0;  ///< which closure of those it is of
    bool of_crossing = false;   ///< it is the crossing at this end that is meant: a delay there is paid on coming onto
                                ///< the road, and not on leaving it too
};

/// What closures do, in order of link and offset. Costs a search of the roads' R-tree a closure and the links found.
/// \throws Stopped
std::vector<LinkRestriction> restrictions(const Network& network, std::span<const Closure> closures,
                                          const Task& task = Task());

/// How a closure at a point was taken, where it could have been meant otherwise.
struct PointTaken {
    std::vector<LinkId> links;   ///< those it works on
    std::optional<NodeId> node;  ///< where roads meet or end, if it is that which is meant
    std::vector<LinkId> others;  ///< roads that are hardly farther away and are not meant
};
/// No links if no road is near. \pre a closure with the shape of a point
PointTaken point_taken(const Network& network, const Closure& closure);

/// Whether a closure does anything at all. Ends at the first road that it touches.
bool touches_a_road(const Network& network, const Closure& closure);

/// Those of one link.
std::span<const LinkRestriction> restrictions_of(std::span<const LinkRestriction> all, LinkId link);

}  // namespace otoro::roads
