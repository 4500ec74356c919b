#pragma once
/// \file
/// Where along a link its vertices are, and what it looks like between two points of it.
#include <vector>

#include "roads/network.h"

namespace otoro::roads {

/// Distance along a link's shape from its start to each vertex, scaled so that the last equals the link's length.
std::vector<Millimetres> vertex_offsets(const Network& network, LinkId link);

/// The part of a link's shape between two offsets, in the order travelled: from `from` to `to`, which may run
/// backwards.
std::vector<geo::LonLat> shape_between(const Network& network, LinkId link, Millimetres from, Millimetres to);

}  // namespace otoro::roads
