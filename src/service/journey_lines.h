#pragma once
/// \file
/// Many journeys at once, as the lines they are travelled along.
///
/// \par Method
/// Site by site: one plain search as far as the farthest of its journeys, which are then followed back from label to
/// label. Sites, and the journeys of one, are gone through in parallel.
///
/// \par Cost
/// For each site a search of the roads within its farthest journey; then as much as the lines have links and vertices.
#include <span>
#include <vector>

#include "geo/position.h"
#include "service/assign.h"

namespace otoro::service {

/// One line a journey, as it is travelled, both off-road legs included; the same as `read_journey` draws. \pre
/// `outcome` is an answer of `ready`, has its traces, and these are journeys of it \throws Stopped
std::vector<std::vector<geo::LonLat>> journey_lines(const Ready& ready, const Outcome& outcome,
                                                    std::span<const Journey> journeys, const Task& task);

}  // namespace otoro::service
