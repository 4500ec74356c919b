#include "service/travel_table.h"

#include <numeric>
#include <utility>

#include "service/access_legs.h"
#include "service/searching.h"
#include "service/site_blocks.h"

namespace otoro::service {
namespace {

/// What every place is where there is no way to it.
PlaceOutcomes without_ways(const Ready& ready) {
    PlaceOutcomes out(ready.inputs.demand.count());
    for (std::uint32_t i = 0; i < out.size(); ++i)
        out[i].status = ready.access->of(i)[0].attached()    ? Status::cut_off
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

namespace {

/// Pairs joined one by one, from what climbs from either end: for few places on a large prepared network without turn
/// costs, where going through all of it for every eight sites takes longer.
class JoinedPairs {
public:
    JoinedPairs(const Ready& ready, const CostedNetwork& costed, const std::vector<SiteOutcome>& sites,
                const Prepared& prepared)
        : ready_(ready), costed_(costed), sites_(sites), prepared_(prepared) {}

    /// Whether that is quicker.
    static bool worth(const Ready& ready, const CostedNetwork& costed, const Prepared* prepared) {
        if (prepared == nullptr || !costed.turns.free()) return false;
        constexpr double kPair = 120, kNode = 3.5;  // nanoseconds: of a pair, and of a node for one site of a block
        return kPair * ready.inputs.demand.count() <
               kNode * static_cast<double>(prepared->costs->hierarchy().node_count());
    }

    void each(const PlaceOutcomes& nowhere, const SiteRow& row, const Task& task) {
        std::vector<std::vector<routing::Seed>> sources, targets;
        std::vector<std::uint32_t> numbers;
        for (std::uint32_t i = 0; i < sites_.size(); ++i) {
            if (!sites_[i].planned.in_use) continue;
            numbers.push_back(i);
            sources.emplace_back();
            if (sites_[i].attachment) add_seeds(ready_, costed_, *sites_[i].attachment, i, sources.back());
        }
        for (std::uint32_t i = 0; i < nowhere.size(); ++i) targets.push_back(seeds_of_place(i));
        PlaceOutcomes found = nowhere;
        table(
            *prepared_.costs, sources, targets, routing::Run::with,
            [&](std::size_t s, std::span<const std::uint32_t> costs, std::span<const std::uint32_t> others) {
                for (std::uint32_t i = 0; i < costs.size(); ++i)
                    found[i] = costs[i] < routing::kFar && others[i] < routing::kFar
                                   ? outcome_of(ready_.question, sites_, {costs[i], numbers[s], others[i]})
                                   : nowhere[i];
                along_own_road(numbers[s], found);
                row(SiteIndex(numbers[s]), found);
            },
            task);
    }

private:
    /// Where one comes onto its road (or leaves it, towards the site), and what is left from there.
    std::vector<routing::Seed> seeds_of_place(std::uint32_t place) const {
        std::vector<routing::Seed> out;
        const auto& at = (*ready_.attached)[place];
        if (!at || !ready_.access->of(place)[0].attached()) return out;
        const bool outward = ready_.question.towards == Towards::demand;
        const auto& network = *ready_.inputs.network;
        const SplitLink link = split_link(network, costed_, at->link);
        for (const routing::LinkWay way : {routing::LinkWay::along(at->link), routing::LinkWay::against(at->link)}) {
            const auto part =
                outward ? link.onto(way.is_against(), at->offset) : link.off(at->offset, way.is_against());
            if (!part) continue;
            const auto step = (*part + before_road(ready_.question, *at)).in(ready_.question.measure());
            if (step.cost >= routing::kFar || step.other >= routing::kFar) continue;
            out.push_back({node_of(network, costed_, ready_.question.towards, way), step.cost, step.other, 0, way});
        }
        return out;
    }
    /// Places on the site's own road may be come to along it.
    void along_own_road(std::uint32_t site, PlaceOutcomes& found) const {
        const auto& at = sites_[site].attachment;
        if (!at) return;
        const SplitLink link = split_link(*ready_.inputs.network, costed_, at->link);
        const bool outward = ready_.question.towards == Towards::demand;
        for (const std::uint32_t place : ready_.access->places_on(at->link)) {
            const auto& there = *(*ready_.attached)[place];
            const auto part = outward ? link.between(at->offset, there.offset) : link.between(there.offset, at->offset);
            if (!part) continue;
            const auto step = (*part + before_road(ready_.question, *at) + before_road(ready_.question, there))
                                  .in(ready_.question.measure());
            if (step.cost >= routing::kFar || step.other >= routing::kFar) continue;
            const PlaceOutcome along = outcome_of(ready_.question, sites_, {step.cost, site, step.other});
            const bool by_time = ready_.question.measure() == routing::Measure::time;
            const auto key = [&](const PlaceOutcome& p) {
                return by_time ? std::pair(p.time.count(), p.distance.count())
                               : std::pair(p.distance.count(), p.time.count());
            };
            if (!found[place].site || key(along) < key(found[place])) found[place] = along;
        }
    }

    const Ready& ready_;
    const CostedNetwork& costed_;
    const std::vector<SiteOutcome>& sites_;
    const Prepared& prepared_;
};

}  // namespace

void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task) {
    const auto sites = attach_sites(ready, plan);
    const auto costed = costed_under(ready, plan, task);
    const SiteBlocks blocks(ready, costed, sites, task);
    const PlaceOutcomes nowhere = without_ways(ready);
    if (const Prepared* const prepared = blocks.prepared(); JoinedPairs::worth(ready, *costed, prepared))
        return JoinedPairs(ready, *costed, sites, *prepared).each(nowhere, row, task);
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
