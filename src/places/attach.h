#pragma once
/// \file
/// Joining places to the road.
///
/// \par Problem
/// A household stands beside a road, not on it. It is joined to the nearest point of the nearest road that the
/// traveller may use, by true distance, if that is within the attach limit; the road is split there. The straight line
/// between is the off-road leg.
///
/// \par What is exact
/// Every road within the limit is looked at. Distances are compared to the millimetre; among equals the road first in
/// the file is taken. A drawn segment is taken as straight in longitude and latitude, which for one of 1 km is within 2
/// cm of the geodesic.
///
/// \par Cost
/// A search of the roads' R-tree a place, widening from 40 m. Runs on all threads.
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "roads/network.h"

namespace otoro::places {

/// Where a place meets the network.
struct Attachment {
    LinkId link;
    Millimetres offset;    ///< along the link from its start, 0 to its length
    Millimetres off_road;  ///< length of the off-road leg
    geo::LonLat at;        ///< the point on the road
    Millis turnout = {};   ///< of a site: before anybody from there is on the road
};

/// Which roads the places of one layer may be attached to.
struct AttachRule {
    std::optional<Millimetres> limit;  ///< instead of the question's
    std::uint32_t classes =
        kEveryClass;  ///< bits by `RoadClass`: these may be attached to (a motorway is often left out)
    std::uint32_t ramps = kEveryClass;  ///< slip roads of these, where their class may be attached to
    Millimetres least_piece;  ///< only roads of pieces that are at least this long, so that a stray driveway strands
                              ///< nobody; zero: any

    static constexpr std::uint32_t kEveryClass = (1U << roads::kRoadClasses) - 1;
    [[nodiscard]] bool allows(roads::RoadClass c, bool ramp = false) const {
        return (ramp ? classes & ramps : classes) >> static_cast<unsigned>(c) & 1U;
    }
    bool operator==(const AttachRule&) const = default;
};

/// Of the usable links, those that the rule lets places be attached to. Finds pieces only if the rule asks for them.
std::vector<bool> attachable(const roads::Network& network, const std::vector<bool>& usable, const AttachRule& rule);

inline constexpr Millimetres kDefaultAttachLimit = Millimetres::metres(250);

/// \param usable one a link
/// \returns nothing if no usable road is within `limit`. \pre `place` is on the globe
std::optional<Attachment> attach(const roads::Network& network, const std::vector<bool>& usable, geo::LonLat place,
                                 Millimetres limit);

/// Looked for first: the nearest link of this name within the limit. Nothing if there is none.
std::optional<Attachment> attach_to_named(const roads::Network& network, const std::vector<bool>& usable,
                                          geo::LonLat place, const std::string& road, Millimetres limit);

}  // namespace otoro::places
