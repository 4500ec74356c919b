#pragma once
/// \file
/// Whether some fare worse than others: the worst-served tenth, and how unevenly travel is shared.
///
/// \par Meaning
/// Everything is of the weight that is served, by its travel to its site. *The worst-served tenth* is the tenth of that
/// weight that travels farthest; where a value is shared by more than fits, a part of it counts. *Lorenz curve*: the
/// least-travelled part of the weight has this part of all travel. *Gini*: twice the area between that curve and the
/// straight line of all alike; 0 is all alike, and near 1 a few travel for all (Gini 1912).
///
/// \par Cost
/// Linear in the steps of the curve.
#include <vector>

#include "service/breakdown.h"

namespace otoro::service {

/// So much of the weight, those who travel least first, has so much of all travel; both from 0 to 1.
struct LorenzPoint {
    double weight = 0, travel = 0;
    bool operator==(const LorenzPoint&) const = default;
};

struct Fairness {
    Weight counted;                   ///< that is served
    double mean = 0;                  ///< in the measure's own unit, ms or mm
    double best_tenth = 0;            ///< mean of the tenth that travels least
    double worst_tenth = 0;           ///< mean of the tenth that travels farthest
    std::int64_t worst_from = 0;      ///< the least that anybody of the worst-served tenth travels
    double gini = 0;                  ///< 0 where nobody travels at all
    std::vector<LorenzPoint> lorenz;  ///< from (0, 0) to (1, 1), a point a step of the curve, at most a thousand
    bool operator==(const Fairness&) const = default;
};
/// Of a curve; nothing if no weight is served.
std::optional<Fairness> fairness(const Curve& curve);

/// How one zone or group fares beside the others.
struct FairnessRow {
    BreakdownRow row;   ///< its sums; *inside* is by the standard
    Weight not_inside;  ///< of all its weight: beyond the standard, or not served
    Weight in_worst;    ///< of its weight, in the worst-served tenth of all
    std::optional<Fairness> own;
};
struct FairnessAnswer {
    routing::Measure measure = routing::Measure::time;
    std::optional<Fairness> all;
    std::vector<std::uint32_t> worst_places;  ///< those that any part of the worst-served tenth is of, ascending
    std::vector<FairnessRow> zones,
        groups;  ///< those with most weight not inside first; of equals as the table has them
};
/// Of an answer. The worst-served tenth by zone and group counts every part of a place that travels at least
/// `worst_from`: it is a little more than a tenth where many travel just that. Linear, and a sort for each zone and
/// group. \throws Stopped
FairnessAnswer how_fair(const Ready& ready, const Outcome& outcome, const std::optional<Standard>& standard,
                        const Task& task);

}  // namespace otoro::service
