#pragma once
/// \file
/// Where roads end at the rim of what was read, so that what lies beyond is not known.
#include <vector>

#include "geo/ids.h"
#include "roads/network.h"

namespace otoro::reach {

/// An end of a road with no other road there.
struct OpenEnd {
    LinkId link;
    Millimetres offset;  ///< 0 or the link's length
    geo::LonLat at;
};

/// Dead ends within 1/200 of the network's width (50 to 500 m) of the hull of all roads, which is taken by its extreme
/// points in 64 directions. By link. Linear; 0.1 s for a million nodes.
std::vector<OpenEnd> open_ends(const roads::Network& network, const std::vector<bool>& use);

}  // namespace otoro::reach
