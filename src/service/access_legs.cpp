#include "service/access_legs.h"

namespace otoro::service {

using places::Attachment;
using routing::LinkWay;

SplitLink split_link(const roads::Network& network, const CostedNetwork& costed, LinkId link) {
    return {network, costed.traversal_times[link.value()], link, roads::restrictions_of(costed.restrictions, link)};
}

Part before_road(const Question& q, const Attachment& a) {
    const auto held = [](std::int64_t ms) {
        return static_cast<std::uint32_t>(std::min<std::int64_t>(ms, routing::kFar));
    };
    if (!q.off_road_speed) return {held(a.turnout.count()), 0};
    return {held(travel_time(a.off_road, *q.off_road_speed).count() + a.turnout.count()),
            static_cast<std::uint32_t>(a.off_road.count())};
}

void add_seeds(const Ready& ready, const CostedNetwork& costed, const Attachment& a, std::uint32_t site,
               std::vector<routing::Seed>& seeds) {
    const auto& network = *ready.inputs.network;
    const bool outward = ready.question.towards == Towards::demand;
    each_way_of_site(ready, costed, a, [&](LinkWay way, const Part& part) {
        const NodeId node = outward ? routing::end_of(network, way) : routing::start_of(network, way);
        const auto add = [&](std::uint32_t at, const Part& cost) {
            const auto step = cost.in(ready.question.measure());
            if (step.cost < routing::kFar && step.other < routing::kFar)
                seeds.push_back({at, step.cost, step.other, site, way});
        };
        if (costed.turns.free()) return add(node.value(), part);
        // Onto every way that leaves the junction outward, from every way that comes to it inward. Who stands on the
        // junction has travelled no road before, and turns onto none after.
        const bool on_junction = stands_at_end(network, a, way, outward);
        for (const LinkWay leaving : costed.ways.from(node)) {
            const LinkWay next = outward ? leaving : routing::reversed(leaving);
            const std::uint32_t turn = on_junction ? 0
                                       : outward   ? costed.turns.cost(way, next)
                                                   : costed.turns.cost(next, way);
            if (turn == routing::kForbidden) continue;
            const Part cost = part + Part{turn, 0};
            if (outward) {
                const std::uint32_t state = on_junction ? next.bits : costed.states->after(way.bits, next);
                if (state != routing::MoveStates::kNowhere) add(state, cost);
                continue;
            }
            costed.states->each_of(next, [&](std::uint32_t state) {
                if (on_junction || costed.states->after(state, way) != routing::MoveStates::kNowhere) add(state, cost);
            });
        }
    });
}

std::vector<routing::Seed> seeds_of(const Ready& ready, const CostedNetwork& costed,
                                    const std::vector<SiteOutcome>& sites) {
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) add_seeds(ready, costed, *sites[i].attachment, i, seeds);
    return seeds;
}

SitesByLink by_link(const std::vector<SiteOutcome>& sites) {
    SitesByLink out;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) out[sites[i].attachment->link.value()].push_back(i);
    return out;
}

}  // namespace otoro::service
