#include "service/travel_table.h"

#include <numeric>

#include "service/access_legs.h"
#include "service/searching.h"
#include "service/site_blocks.h"

namespace otoro::service {
namespace {

/// What every place is where there is no way to it.
PlaceOutcomes without_ways(const Ready& ready) {
    PlaceOutcomes out(ready.inputs.demand.count());
    for (std::uint32_t i = 0; i < out.size(); ++i)
        out[i].status = ready.access->of(i)[0].attached()     ? Status::cut_off
                        : ready.inputs.demand.at(i).position ? Status::no_road_near
                                                             : Status::bad_location;
    return out;
}

}  // namespace

PlaceOutcome outcome_of(const Question& q, const std::vector<SiteOutcome>& sites, const ReachableSite& r) {
    const bool by_time = q.measure() == routing::Measure::time;
    PlaceOutcome p;
    p.site = SiteIndex(r.site);
    p.rank = 1;
    p.time = Millis(by_time ? r.cost : r.other);
    p.distance = Millimetres(by_time ? r.other : r.cost);
    const bool beyond = is_beyond(p.time, p.distance, q.limit) || is_beyond_own_limit(q, sites, p);
    p.status = beyond ? Status::beyond_limit : Status::served;
    return p;
}

void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task) {
    const auto sites = attach_sites(ready, plan);
    const SiteBlocks blocks(ready, costed_under(ready, plan, task), sites, task);
    const PlaceOutcomes nowhere = without_ways(ready);
    std::vector<std::uint32_t> all(nowhere.size());
    std::iota(all.begin(), all.end(), 0U);
    std::vector<PlaceOutcomes> rows(routing::FewToAll::kMost, nowhere);
    std::uint32_t next = 0;
    const auto up_to = [&](std::uint32_t end) {  // sites that no road is near
        for (; next < end; ++next)
            if (sites[next].planned.in_use) row(SiteIndex(next), nowhere);
    };
    // Sites of a block in file order: which of the rows is whose.
    std::vector<std::uint32_t> lane_of(sites.size());
    std::uint32_t lane = 0;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) lane_of[i] = lane++ % routing::FewToAll::kMost;
    blocks.each(
        all, {},
        [&](std::size_t i, std::span<const ReachableSite> found) {
            for (const ReachableSite& r : found) rows[lane_of[r.site]][i] = outcome_of(ready.question, sites, r);
        },
        [&](std::span<const std::uint32_t> of_block) {
            for (const std::uint32_t site : of_block) {
                up_to(site);
                row(SiteIndex(site), rows[lane_of[site]]);
                rows[lane_of[site]] = nowhere;
                next = site + 1;
                task.check();
            }
        },
        task);
    up_to(static_cast<std::uint32_t>(sites.size()));
}

}  // namespace otoro::service
