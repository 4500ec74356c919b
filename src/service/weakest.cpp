#include "service/weakest.h"

#include <algorithm>
#include <numeric>

#include "geo/local_frame.h"
#include "service/people_over.h"
#include "service/searching.h"

namespace otoro::service {
namespace {

Loss loss_between(const Outcome& before, const Outcome& after, const Standard& standard) {
    Loss out;
    const Verdict was = judge(before, standard);
    out.verdict = judge(after, standard);
    out.lost.weight = was.inside.weight - out.verdict.inside.weight;
    out.lost.places = was.inside.places > out.verdict.inside.places ? was.inside.places - out.verdict.inside.places : 0;
    if (const auto& s = statistics(after, after.question.measure())) out.mean = s->mean;
    return out;
}

/// The roads as they are under the outcome's plan, one more closed at its middle.
std::shared_ptr<const Ready> with_closed(const Ready& ready, const CostedNetwork& costed, LinkId link) {
    auto out = std::make_shared<Ready>(ready);
    auto closed = std::make_shared<CostedNetwork>(costed);
    const Millimetres middle(ready.inputs.network->length(link).count() / 2);
    roads::LinkRestriction here{};
    here.link = link;
    here.begin = here.end = middle;
    const auto after = std::find_if(closed->restrictions.begin(), closed->restrictions.end(), [&](const auto& r) {
        return r.link > link || (r.link == link && r.begin > middle);
    });
    closed->restrictions.insert(after, here);
    out->costed = closed;
    out->graph = graph_of(*out, *closed);
    out->prepared = nullptr;
    return out;
}

/// Of each road those whose journeys go over its middle.
std::vector<Tally> over_roads(const Ready& ready, const Outcome& o, const Journeyers& whose, const Task& task) {
    std::vector<std::uint32_t> each(ready.inputs.network->link_count());
    std::iota(each.begin(), each.end(), 0U);
    return people_over(ready, o, whose, {each, static_cast<std::uint32_t>(each.size())}, task).of_group;
}

geo::LonLat middle_of(const roads::Network& network, LinkId link) {
    const auto shape = network.shape(link);
    const double half = network.length(link).metres() / 2;
    for (std::size_t v = 1; v < shape.size(); ++v) {
        const double from = network.metres_to(link, v - 1), to = network.metres_to(link, v);
        if (to < half && v + 1 < shape.size()) continue;
        return geo::between(shape[v - 1], shape[v], to > from ? std::clamp((half - from) / (to - from), 0.0, 1.0) : 0);
    }
    return shape.front();
}

}  // namespace

std::vector<SiteLoss> weakest_sites(const Ready& ready, const Outcome& outcome, const Standard& standard,
                                    const Task& task) {
    std::vector<SiteLoss> out;
    for (std::uint32_t i = 0; i < outcome.sites.size(); ++i) {
        if (!outcome.sites[i].planned.in_use) continue;
        task.at("closing each site", static_cast<double>(i) / static_cast<double>(outcome.sites.size()));
        Plan plan = outcome.plan;
        plan.changes.push_back(change_of(outcome.sites[i].planned, Change::close));
        SiteLoss loss{loss_between(outcome, answer(ready, plan, task.quietly()), standard), SiteIndex(i)};
        out.push_back(loss);
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const SiteLoss& a, const SiteLoss& b) { return a.lost.weight > b.lost.weight; });
    return out;
}

std::vector<RoadLoss> weakest_roads(const Ready& ready, const Outcome& outcome, const Standard& standard,
                                    std::size_t most, const Task& task) {
    const auto over = over_roads(ready, outcome, {standard.limit, std::nullopt}, task);
    std::vector<std::uint32_t> order;
    for (std::uint32_t l = 0; l < over.size(); ++l)
        if (over[l].weight > Weight()) order.push_back(l);
    std::stable_sort(order.begin(), order.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return over[a].weight > over[b].weight; });
    std::vector<RoadLoss> out;
    const auto worse = [](const RoadLoss& a, const RoadLoss& b) {
        return a.lost.weight != b.lost.weight ? a.lost.weight > b.lost.weight : a.link < b.link;
    };
    Plan without_closures = outcome.plan;  // they are among the restrictions
    without_closures.closures.clear();
    for (std::size_t k = 0; k < order.size(); ++k) {
        const LinkId link(order[k]);
        // An equal loss of an earlier road would come before.
        if (out.size() == most && over[order[k]].weight < out.back().lost.weight) break;
        task.at("closing each road", static_cast<double>(k) / static_cast<double>(order.size()));
        const auto closed = with_closed(ready, *outcome.traces->costed, link);
        RoadLoss loss{loss_between(outcome, answer(*closed, without_closures, task.quietly()), standard), link,
                      middle_of(*ready.inputs.network, link), over[order[k]]};
        if (loss.lost.weight <= Weight()) continue;
        out.insert(std::upper_bound(out.begin(), out.end(), loss, worse), loss);
        if (out.size() > most) out.pop_back();
    }
    return out;
}

std::vector<BusiestRoad> busiest_roads(const Ready& ready, const Outcome& outcome, const std::vector<SiteIndex>& sites,
                                       const std::optional<Amount>& limit, const Task& task) {
    std::vector<BusiestRoad> out;
    for (const SiteIndex site : sites) {
        const auto over = over_roads(ready, outcome, {limit, site}, task.quietly());
        const auto most = std::max_element(over.begin(), over.end(),
                                           [](const Tally& a, const Tally& b) { return a.weight < b.weight; });
        if (most == over.end() || most->weight <= Weight()) continue;
        const LinkId link(static_cast<std::uint32_t>(most - over.begin()));
        out.push_back({site, link, middle_of(*ready.inputs.network, link), *most});
    }
    return out;
}

}  // namespace otoro::service
