/// Each place to its nearest site: one search from all sites in use, then a constant amount a place.
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <tuple>

#include "service/access_legs.h"
#include "service/few_nearest.h"
#include "service/searching.h"
#include "service/serve.h"
#include "service/travel_table.h"

namespace otoro::service {

using routing::LinkWay;

PlaceOutcomes places_of(const Ready& ready, const CostedNetwork& costed, const std::vector<SiteOutcome>& sites,
                        const SitesByLink& on_link, const Labels& labels) {
    const auto& demand = ready.inputs.demand;
    const auto& attached = *ready.attached;
    constexpr std::uint32_t kAhead = 16;
    PlaceOutcomes out;
    out.resize(demand.count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, demand.count(), 4096), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) {
            const auto& ways = ready.access->of(i);
            if (!ways[0].attached()) {
                out[i].status = demand.at(i).position ? Status::no_road_near : Status::bad_location;
                continue;
            }
            if (i + kAhead < range.end())
                for (const auto& end : ready.access->of(i + kAhead))
                    if (end.attached()) labels.soon(end.node);
            const AccessLeg along = leg_over(labels.at(ways[0].node), {ways[0].cost, ways[0].other}),
                            against = leg_over(labels.at(ways[1].node), {ways[1].cost, ways[1].other});
            ::new (&out[i]) PlaceOutcome(outcome_of(
                ready.question, attached[i],
                std::min(along, against)));  // in place: put together elsewhere and copied, it takes twice as long
        }
    });
    const bool outward = ready.question.towards == Towards::demand;
    const Searched searched(ready, costed, sites, on_link,
                            one_label([&](LinkWay way) { return labels.at(*ready.inputs.network, way, outward); }));
    const auto look_closer = [&](LinkId link) {
        for (const std::uint32_t i : ready.access->places_on(link))
            out[i] = searched.outcome_at(demand.at(i).position, attached[i]);
    };
    for (const auto& [link, here] : on_link) look_closer(LinkId(link));
    for (const auto& h : costed.restrictions) look_closer(h.link);
    for (const LinkId link : costed.states->links()) look_closer(link);
    for (const std::uint32_t i : ready.access->on_junctions())
        out[i] = searched.outcome_at(demand.at(i).position, attached[i]);
    return out;
}

namespace {

/// Places beyond their nearest site's own limit go to the nearest of those whose limit they are within; where there is
/// none they stay beyond it.
void heed_own_limits(const Ready& ready, Outcome& o, const Task& task) {
    std::vector<std::uint32_t> rows;
    for (std::uint32_t i = 0; i < o.places.size(); ++i)
        if (o.places[i].site && is_beyond_own_limit(ready.question, o.sites, o.places[i])) rows.push_back(i);
    if (rows.empty()) return;
    const JourneyTable nearest = FewNearest(ready, o.traces->costed, o.sites).of(rows, 1, {}, task);
    for (std::size_t row = 0; row < rows.size(); ++row) {
        PlaceOutcome& p = o.places[rows[row]];
        if (nearest.of(row).empty())
            p.status = Status::beyond_limit;
        else
            p = outcome_of(ready.question, o.sites, nearest.of(row).front());
    }
}

}  // namespace

void serve(const Nearest&, const Ready& ready, Outcome& o, const Task& task) {
    auto traces = std::make_shared<Traces>();
    traces->costed = costed_under(ready, o.plan, task);
    std::tie(traces->labels, o.searched) =
        Searching(ready, traces->costed).labels(seeds_of(ready, *traces->costed, o.sites), task);
    task.check();
    o.places = places_of(ready, *traces->costed, o.sites, by_link(o.sites), traces->labels);
    o.traces = std::move(traces);
    if (ready.question.own_limits) heed_own_limits(ready, o, task);
}

void serve_nearest_first_of_all(const Ready& ready, Outcome& o, const Task& task) {
    serve(Nearest{ready.question.measure()}, ready, o, task);
    o.by_nearest = std::make_shared<const PlaceOutcomes>(o.places);
}

}  // namespace otoro::service
