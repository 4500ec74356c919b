#include "service/fairness.h"

#include <algorithm>
#include <cmath>

namespace otoro::service {
namespace {

std::int64_t cost_in(const PlaceOutcome& p, routing::Measure measure) {
    return measure == routing::Measure::time ? p.time.count() : p.distance.count();
}

/// Mean over a part of the weight, from one end of the curve. \param parts so many millionths of it
double mean_of_end(const Curve& curve, double part, bool worst) {
    const double whole = static_cast<double>(curve.back().weight.count()) * part;
    double left = whole, sum = 0;
    const auto take = [&](std::size_t i) {
        const auto before = i == 0 ? std::int64_t{0} : curve[i - 1].weight.count();
        const double weight = std::min(left, static_cast<double>(curve[i].weight.count() - before));
        sum += weight * static_cast<double>(curve[i].value);
        left -= weight;
        return left > 0;
    };
    if (worst) {
        for (std::size_t i = curve.size(); i-- > 0 && take(i);) {
        }
    } else {
        for (std::size_t i = 0; i < curve.size() && take(i); ++i) {
        }
    }
    return sum / whole;
}

std::vector<FairnessRow> rows_by(const Ready& ready, const Outcome& outcome, SummedBy by,
                                 const std::optional<Standard>& standard, const FairnessAnswer& all, const Task& task) {
    std::vector<FairnessRow> out;
    const BreakdownRows rows = breakdown_rows(ready, by);
    std::vector<std::uint32_t> at(rows.names.size(), 0);  // by number of the row
    for (auto& row : sum_up(ready, outcome, by, standard ? std::optional(standard->limit) : std::nullopt)) {
        FairnessRow r;
        at[row.number] = static_cast<std::uint32_t>(out.size());
        r.not_inside = row.all.weight - row.inside.weight;
        r.row = std::move(row);
        out.push_back(std::move(r));
    }
    if (out.empty()) return out;
    std::vector<std::vector<std::pair<std::int64_t, Weight>>> costs(out.size());
    each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool) {
        if (!p.served()) return;
        const std::int64_t cost = cost_in(p, all.measure);
        const std::uint32_t k = at[rows.of_place[i]];
        costs[k].emplace_back(cost, weight);
        if (all.all && cost >= all.all->worst_from) out[k].in_worst += weight;
    });
    for (std::size_t k = 0; k < out.size(); ++k) {
        task.check();
        std::sort(costs[k].begin(), costs[k].end());
        Curve curve;
        Weight so_far;
        for (const auto& [cost, weight] : costs[k]) {
            so_far += weight;
            if (!curve.empty() && curve.back().value == cost)
                curve.back().weight = so_far;
            else
                curve.push_back({cost, so_far, 0});
        }
        out[k].own = fairness(curve);
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const FairnessRow& a, const FairnessRow& b) { return a.not_inside > b.not_inside; });
    return out;
}

}  // namespace

std::optional<Fairness> fairness(const Curve& curve) {
    if (curve.empty() || curve.back().weight.count() == 0) return std::nullopt;
    constexpr double kTenth = 0.1;
    Fairness f;
    f.counted = curve.back().weight;
    const auto all = static_cast<double>(f.counted.count());
    Wide travel = 0;
    Weight before;
    for (const CurvePoint& p : curve) {
        travel += static_cast<Wide>(p.value) * (p.weight - before).count();
        before = p.weight;
    }
    f.mean = static_cast<double>(travel) / all;
    f.best_tenth = mean_of_end(curve, kTenth, false);
    f.worst_tenth = mean_of_end(curve, kTenth, true);
    // The least value of the tenth: beyond it, and with it, there is a tenth or more.
    f.worst_from = std::partition_point(curve.begin(), curve.end(), [&](const CurvePoint& p) {
                       return static_cast<Wide>(p.weight.count()) * 10 <= static_cast<Wide>(f.counted.count()) * 9;
                   })->value;
    // Twice the area under the Lorenz curve, a trapezium a step.
    constexpr std::size_t kMostPoints = 1'000;
    const std::size_t each = curve.size() / kMostPoints + 1;
    f.lorenz.push_back({0, 0});
    double twice_under = 0, travel_before = 0;
    Wide so_far = 0;
    before = Weight();
    for (std::size_t i = 0; i < curve.size(); ++i) {
        const auto weight = (curve[i].weight - before).count();
        so_far += static_cast<Wide>(curve[i].value) * weight;
        before = curve[i].weight;
        const double part = travel > 0 ? static_cast<double>(so_far) / static_cast<double>(travel) : 0;
        twice_under += static_cast<double>(weight) / all * (travel_before + part);
        travel_before = part;
        if ((i + 1) % each == 0 || i + 1 == curve.size())
            f.lorenz.push_back({static_cast<double>(curve[i].weight.count()) / all, travel > 0 ? part : 1});
    }
    if (travel == 0)
        f.lorenz = {{0, 0}, {1, 1}};
    else
        f.gini = std::max(0.0, 1 - twice_under);
    return f;
}

FairnessAnswer how_fair(const Ready& ready, const Outcome& outcome, const std::optional<Standard>& standard,
                        const Task& task) {
    FairnessAnswer out;
    out.measure = outcome.question.measure();
    task.at("summing up", 0);
    out.all = fairness(outcome.curve(out.measure));
    if (out.all)
        each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight, bool) {
            if (!p.served() || cost_in(p, out.measure) < out.all->worst_from) return;
            if (out.worst_places.empty() || out.worst_places.back() != i) out.worst_places.push_back(i);
        });
    out.zones = rows_by(ready, outcome, SummedBy::zone, standard, out, task);
    out.groups = rows_by(ready, outcome, SummedBy::group, standard, out, task);
    return out;
}

}  // namespace otoro::service
