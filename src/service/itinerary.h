#pragma once
/// \file
/// A way over several stops: its time and distance, its line, and a list of turns to drive by.
#include <string>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

enum class Turn : std::uint8_t { start, straight, left, right, back, stop };
/// Up to the road's name: `turn left into`, `go on along`, ...
std::string_view describe(Turn t);

/// One line of the list: a turn, and the road followed from there.
struct ItineraryStep {
    Turn turn = Turn::start;
    std::string road;      ///< its name; empty if it has none
    Millimetres distance;  ///< along it, until the next step
    geo::LonLat at;        ///< where the turn is
};

struct Itinerary {
    Millis time;
    Millimetres distance;            ///< by road; off-road legs are not in it
    std::vector<std::size_t> order;  ///< stops as visited, by their numbers as given
    std::vector<geo::LonLat> line;   ///< as travelled, from stop to stop, off-road legs included
    std::vector<ItineraryStep> steps;
};

/// The best way over `stops` in the order given, or in the best order of those between the first and the last (up to twelve, exactly), by the question's measure and traveller.
/// \param prepared searches prepared for `ready` \throws InputError naming a stop that no road is near, that cannot be reached, or one too many; Stopped
Itinerary itinerary(const Ready& ready, const Prepared& prepared, const std::vector<geo::LonLat>& stops, bool best_order, const Task& task);

}  // namespace otoro::service
