#pragma once
/// \file
/// A way over several stops: its time and distance, its line, and a list of turns to drive by.
#include <vector>

#include "service/assign.h"

namespace otoro::service {

struct Itinerary {
    Millis time;
    Millimetres distance;            ///< by road; off-road legs are not in it
    std::vector<std::size_t> order;  ///< stops as visited, by their numbers as given; of a round the first again
    struct Leg {
        Millis time;
        Millimetres distance;
        std::size_t first_step = 0;    ///< in `steps`
        std::size_t first_vertex = 0;  ///< in `line`
    };
    std::vector<Leg> legs;          ///< from each stop to the next
    std::vector<geo::LonLat> line;  ///< as travelled, from stop to stop, off-road legs included
    std::vector<WayStep> steps;
    /// One past the last step of a leg.
    [[nodiscard]] std::size_t end_of_steps(std::size_t leg) const {
        return leg + 1 < legs.size() ? legs[leg + 1].first_step : steps.size();
    }
};

/// How stops are visited.
struct StopOrder {
    bool best = false;   ///< those between the first and the last in the best order: up to twelve, exactly
    bool round = false;  ///< back to the first at the end; with `best` all others may change places
};

/// The question on the roads under a plan's closures. \throws Stopped
std::shared_ptr<const Ready> under_closures(const Ready& ready, const Plan& plan, const Task& task);

/// The best way over `stops`, by the question's measure and traveller. \param prepared searches prepared for `ready`;
/// null: searched plainly, which is quicker for a few stops \pre the question is asked towards the demand \throws
/// InputError naming a stop that no road is near, that cannot be reached, or one too many; Stopped
Itinerary itinerary(const Ready& ready, const Prepared* prepared, const std::vector<geo::LonLat>& stops, StopOrder how,
                    const Task& task);

}  // namespace otoro::service
