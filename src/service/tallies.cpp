#include "service/tallies.h"

#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <boost/sort/spreadsort/integer_sort.hpp>

namespace otoro::service {
namespace {

using routing::Measure;

Curve curve_of(const Outcome& o, Measure measure) {
    // Value and place as one number: a value is below 2^31.
    std::vector<std::uint64_t, HugePages<std::uint64_t>> served;
    served.reserve(o.places.size());
    for (std::uint32_t i = 0; i < o.places.size(); ++i)
        if (o.places[i].served())
            served.push_back(static_cast<std::uint64_t>(measure == Measure::time ? o.places[i].time.count()
                                                                                 : o.places[i].distance.count())
                                 << 32U |
                             i);
    boost::sort::spreadsort::integer_sort(served.begin(), served.end());
    Curve curve;
    curve.reserve(served.size());
    Tally so_far;
    constexpr std::size_t kAhead = 16;
    for (std::size_t k = 0; k < served.size(); ++k) {
        if (k + kAhead < served.size()) __builtin_prefetch(&o.weights[static_cast<std::uint32_t>(served[k + kAhead])]);
        so_far.places += 1;
        so_far.weight += o.weights[static_cast<std::uint32_t>(served[k])];
        if (k + 1 == served.size() || served[k + 1] >> 32U != served[k] >> 32U)
            curve.push_back({static_cast<std::int64_t>(served[k] >> 32U), so_far.weight, so_far.places});
    }
    return curve;
}

}  // namespace

void add_up(Outcome& o) {
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        const PlaceOutcome& p = o.places[i];
        for (Tally* t : {&o.all, &o.by_status[static_cast<std::size_t>(p.status)]}) {
            t->places += 1;
            t->weight += o.weights[i];
        }
        if (!p.served()) continue;
        SiteOutcome& site = o.sites[p.nearest->value()];
        site.places += 1;
        site.load += o.weights[i];
        site.worst_time = std::max(site.worst_time, p.time);
    }
    tbb::parallel_invoke(
        [&] {
            o.time_curve = curve_of(o, Measure::time);
            o.time_statistics = statistics(o.time_curve);
        },
        [&] {
            o.distance_curve = curve_of(o, Measure::distance);
            o.distance_statistics = statistics(o.distance_curve);
        });
}

}  // namespace otoro::service
