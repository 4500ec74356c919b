#pragma once
/// \file
/// A way over several stops: its time and distance, its line, and a list of turns to drive by.
#include <vector>

#include "service/assign.h"

namespace otoro::service {

struct Itinerary {
    Millis time;
    Millimetres distance;            ///< by road; off-road legs are not in it
    std::vector<std::size_t> order;  ///< stops as visited, by their numbers as given
    std::vector<geo::LonLat> line;   ///< as travelled, from stop to stop, off-road legs included
    std::vector<WayStep> steps;
};

/// The best way over `stops` in the order given, or in the best order of those between the first and the last (up to
/// twelve, exactly), by the question's measure and traveller. \param prepared searches prepared for `ready`; null:
/// searched plainly, which is quicker for a few stops \pre the question is asked towards the demand \throws InputError
/// naming a stop that no road is near, that cannot be reached, or one too many; Stopped
Itinerary itinerary(const Ready& ready, const Prepared* prepared, const std::vector<geo::LonLat>& stops,
                    bool best_order, const Task& task);

}  // namespace otoro::service
