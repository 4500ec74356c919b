#pragma once
/// \file
/// One road read out: what it is, what it costs this traveller, what joins it, and what nearly does.
#include <optional>
#include <string>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

struct RoadReading {
    LinkId link;
    std::string name;  ///< empty if it has none
    roads::RoadClass road_class = roads::RoadClass::other;
    Millimetres length;                    ///< true, along the drawn line
    std::optional<Speed> stated;           ///< as the file says
    Speed used;                            ///< on level ground
    std::optional<Millis> along, against;  ///< nothing where this traveller may not go; closures counted
    int level = 0;
    std::uint32_t pieces = 0;            ///< of the network for this traveller
    std::optional<std::uint32_t> piece;  ///< 0 is the largest; nothing if the road is not for this traveller
    std::vector<LinkId> joined_at_start, joined_at_end;
    std::vector<std::pair<LinkId, Millimetres>> nearly;  ///< roads within 20 m that do not join it, the nearest first
    bool added = false;                                  ///< it is a connector that closes a gap
};

/// The nearest road to a spot, within `reach`; any class. Nothing if there is none.
std::optional<LinkId> road_at(const roads::Network& network, geo::LonLat spot, Millimetres reach);

/// \param ground the roads under the plan shown. Costs a search of the R-tree and one pass over the pieces.
RoadReading read_road(const roads::Network& network, const CostedNetwork& costed, LinkId link);

/// In plain lines, one fact a line.
std::string describe(const RoadReading& reading, const roads::Network& network);

/// Which roads a closure at a point works on, where it could have been meant otherwise: "The crossing of Mill Row and
/// Quay Road.", "Mill Row; Quay Road is hardly farther away."; empty where there is nothing to wonder about.
std::string describe_point(const roads::Network& network, const roads::Closure& closure);

}  // namespace otoro::service
