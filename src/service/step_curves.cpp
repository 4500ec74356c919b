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

std::optional<std::vector<std::uint32_t>> places_in(const Ready& ready, const Outcome& outcome,
                                                    const std::string& part) {
    for (const auto by : {SummedBy::zone, SummedBy::group}) {
        std::optional<std::vector<std::uint32_t>> in;
        for (const auto& row : sum_up(ready, outcome, by, std::nullopt)) {
            if (row.none || row.name != part) continue;
            const auto places = places_of(ready, by, row);
            if (!in) in.emplace();
            in->insert(in->end(), places.begin(), places.end());
        }
        if (!in) continue;
        std::sort(in->begin(), in->end());
        return in;
    }
    return std::nullopt;
}

std::vector<StepCurve> step_curves(const Ready& ready, const Outcome& outcome, const Task& task) {
    std::vector<StepCurve> out;
    const auto all = scopes(ready.question.standard);
    if (all.empty()) return out;
    const std::uint32_t most = std::max_element(all.begin(), all.end(), [](const auto& a, const auto& b) {
                                   return a.needed < b.needed;
                               })->needed;
    JourneyTable few;
    if (most > 1) few = FewNearest(ready, outcome.traces->costed, outcome.sites).of_all(most, task);
    const bool by_time = ready.question.measure() == routing::Measure::time;
    for (const StepScope& scope : all) {
        task.check();
        StepCurve curve;
        curve.scope = scope;
        std::vector<bool> counts(outcome.places.size(), scope.part.empty());
        if (!scope.part.empty()) {
            const auto places = places_in(ready, outcome, scope.part);
            curve.known = places.has_value();
            if (places)
                for (const std::uint32_t i : *places) counts[i] = true;
        }
        std::vector<ServedPart> times, distances;
        each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool first) {
            if (!counts[i]) return;
            curve.all.places += first ? 1 : 0;
            curve.all.weight += weight;
            if (!p.served()) return;
            std::int64_t time = p.time.count(), distance = p.distance.count();
            if (scope.needed > 1) {
                const auto sites = few.of(i);
                if (sites.size() < scope.needed) return;
                const ReachableSite& last = sites[scope.needed - 1];
                time = by_time ? last.cost : last.other;
                distance = by_time ? last.other : last.cost;
            }
            times.push_back({time, weight, first});
            distances.push_back({distance, weight, first});
        });
        curve.time = curve_of(times);
        curve.distance = curve_of(distances);
        out.push_back(std::move(curve));
    }
    return out;
}

}  // namespace otoro::service
