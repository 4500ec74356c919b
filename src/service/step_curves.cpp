#include "service/step_curves.h"

#include <algorithm>

#include "service/breakdown.h"
#include "service/few_nearest.h"

namespace otoro::service {
namespace {

/// Something served: what it takes, how much it weighs, and whether it is the first part of its place.
struct ServedPart {
    std::int64_t cost;
    Weight weight;
    bool first;
};

Curve curve_of(std::vector<ServedPart>& parts) {
    std::sort(parts.begin(), parts.end(), [](const ServedPart& a, const ServedPart& b) { return a.cost < b.cost; });
    Curve curve;
    Tally so_far;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        so_far.places += parts[k].first ? 1 : 0;
        so_far.weight += parts[k].weight;
        if (k + 1 == parts.size() || parts[k + 1].cost != parts[k].cost)
            curve.push_back({parts[k].cost, so_far.weight, so_far.places});
    }
    return curve;
}

}  // namespace

std::optional<std::vector<bool>> in_part(const Ready& ready, const std::string& part) {
    for (const auto by : {SummedBy::zone, SummedBy::group}) {
        const BreakdownRows rows = breakdown_rows(ready, by);
        if (part.empty() || std::find(rows.names.begin(), rows.names.end(), part) == rows.names.end()) continue;
        std::vector<bool> in;
        in.reserve(rows.of_place.size());
        for (const std::uint32_t number : rows.of_place) in.push_back(rows.names[number] == part);
        return in;
    }
    return std::nullopt;
}

StepCurve curve_among(const Outcome& outcome, std::uint32_t needed, const std::vector<bool>& counts,
                      const JourneyTable& few) {
    StepCurve curve;
    const bool by_time = outcome.question.measure() == routing::Measure::time;
    std::vector<ServedPart> times, distances;
    each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool first) {
        if (!counts[i]) return;
        curve.all.places += first ? 1 : 0;
        curve.all.weight += weight;
        if (!p.served()) return;
        std::int64_t time = p.time.count(), distance = p.distance.count();
        if (needed > 1) {
            const auto sites = few.of(i);
            if (sites.size() < needed) return;
            const ReachableSite& last = sites[needed - 1];
            time = by_time ? last.cost : last.other;
            distance = by_time ? last.other : last.cost;
        }
        times.push_back({time, weight, first});
        distances.push_back({distance, weight, first});
    });
    curve.time = curve_of(times);
    curve.distance = curve_of(distances);
    return curve;
}

std::vector<StepCurve> step_curves(const Ready& ready, const Outcome& outcome, const Task& task) {
    std::vector<StepCurve> out;
    std::uint32_t most = 1;
    const auto all = scopes(ready.question.standard);
    for (const StepScope& scope : all) most = std::max(most, scope.needed);
    JourneyTable few;
    if (most > 1) few = FewNearest(ready, outcome.traces->costed, outcome.sites).of_all(most, task);
    for (const StepScope& scope : all) {
        task.check();
        const auto in = scope.part.empty() ? std::optional(std::vector<bool>(outcome.places.size(), true))
                                           : in_part(ready, scope.part);
        StepCurve curve;
        if (in) curve = curve_among(outcome, scope.needed, *in, few);
        curve.scope = scope;
        curve.known = in.has_value();
        out.push_back(std::move(curve));
    }
    return out;
}

}  // namespace otoro::service
