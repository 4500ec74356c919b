#include "service/tallies.h"

#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <boost/sort/spreadsort/integer_sort.hpp>

namespace otoro::service {
namespace {

using routing::Measure;

/// \param firsts the weight of each place's first part
Curve curve_of(const Outcome& o, const std::vector<Weight>& firsts, Measure measure) {
    // Value and place as one number: a value is below 2^31. Further parts of places are numbered after all places.
    std::vector<std::uint64_t, HugePages<std::uint64_t>> served;
    served.reserve(o.places.size());
    const auto add = [&](const PlaceOutcome& p, std::size_t number) {
        if (p.served())
            served.push_back(static_cast<std::uint64_t>(measure == Measure::time ? p.time.count() : p.distance.count())
                                 << 32U |
                             number);
    };
    const auto places = static_cast<std::uint32_t>(o.places.size());
    for (std::uint32_t i = 0; i < places; ++i) add(o.places[i], i);
    for (std::size_t f = 0; f < o.further.size(); ++f) add(o.further[f].outcome, places + f);
    boost::sort::spreadsort::integer_sort(served.begin(), served.end());
    Curve curve;
    curve.reserve(served.size());
    Tally so_far;
    constexpr std::size_t kAhead = 16;
    for (std::size_t k = 0; k < served.size(); ++k) {
        if (k + kAhead < served.size()) __builtin_prefetch(&firsts[static_cast<std::uint32_t>(served[k + kAhead])]);
        const auto number = static_cast<std::uint32_t>(served[k]);
        if (number < places) so_far.places += 1;
        so_far.weight += number < places ? firsts[number] : o.further[number - places].weight;
        if (k + 1 == served.size() || served[k + 1] >> 32U != served[k] >> 32U)
            curve.push_back({static_cast<std::int64_t>(served[k] >> 32U), so_far.weight, so_far.places});
    }
    return curve;
}

}  // namespace

void add_up(Outcome& o) {
    const auto load = [&](SiteIndex number, Weight weight, Millis time) {
        SiteOutcome& site = o.sites[number.value()];
        site.places += 1;
        site.load += weight;
        if (weight.count() > 0) site.worst_time = std::max(site.worst_time, time);
    };
    each_part(o, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool first) {
        for (Tally* t : {&o.all, &o.by_status[static_cast<std::size_t>(p.status)]}) {
            t->places += first ? 1 : 0;
            t->weight += weight;
        }
        if (!p.served()) return;
        if (!o.journeys) return load(*p.site, weight, p.time);
        each_journey(o, DemandIndex(i), [&](const Journey& j) { load(j.site, weight, j.time); });
    });
    std::vector<Weight> whole_or_first;
    if (!o.further.empty()) {
        whole_or_first = o.weights;
        for (const PlacePart& part : o.further)
            whole_or_first[part.place.value()] = whole_or_first[part.place.value()] - part.weight;
    }
    const std::vector<Weight>& firsts = o.further.empty() ? o.weights : whole_or_first;
    tbb::parallel_invoke(
        [&] {
            o.time_curve = curve_of(o, firsts, Measure::time);
            o.time_statistics = statistics(o.time_curve);
        },
        [&] {
            o.distance_curve = curve_of(o, firsts, Measure::distance);
            o.distance_statistics = statistics(o.distance_curve);
        });
}

}  // namespace otoro::service
