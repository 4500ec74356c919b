#include "service/offers.h"

namespace otoro::service {

using places::Attachment;
using routing::LinkWay;

SplitLink split_link(const roads::Network& network, const Ground& ground, LinkId link) {
    return {network, ground.crossings[link.value()], link, roads::hindrances_of(ground.hindrances, link)};
}

Part leg_of(const Question& q, const Attachment& a) {
    if (!q.off_road_speed) return {};
    return {static_cast<std::uint32_t>(std::min<std::int64_t>(travel_time(a.off_road, *q.off_road_speed).count(), routing::kFar - 1)), static_cast<std::uint32_t>(a.off_road.count())};
}

void add_seeds(const Ready& ready, const Ground& ground, const Attachment& a, std::uint32_t site, std::vector<routing::Seed>& seeds) {
    const auto& network = *ready.inputs.network;
    const bool outward = ready.question.towards == Towards::demand;
    each_way_of_site(ready, ground, a, [&](LinkWay way, const Part& part) {
        const NodeId node = outward ? routing::end_of(network, way) : routing::start_of(network, way);
        if (ground.turns.free()) {
            const auto step = part.in(ready.question.measure);
            seeds.push_back({node.value(), step.cost, step.other, site, way});
            return;
        }
        // Onto every way that leaves the junction outward, from every way that comes to it inward.
        for (const LinkWay leaving : ground.ways.from(node)) {
            const LinkWay next = outward ? leaving : routing::reversed(leaving);
            const std::uint32_t turn = outward ? ground.turns.cost(way, next) : ground.turns.cost(next, way);
            if (turn == travel::kShut) continue;
            const auto step = (part + Part{turn, 0}).in(ready.question.measure);
            seeds.push_back({next.bits, step.cost, step.other, site, way});
        }
    });
}

std::vector<routing::Seed> seeds_of(const Ready& ready, const Ground& ground, const std::vector<SiteOutcome>& sites) {
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) add_seeds(ready, ground, *sites[i].attachment, i, seeds);
    return seeds;
}

SitesByLink by_link(const std::vector<SiteOutcome>& sites) {
    SitesByLink out;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) out[sites[i].attachment->link.value()].push_back(i);
    return out;
}

}  // namespace otoro::service
