/// How many sites reach a spot.
#include <algorithm>
#include <tuple>

#include "service/reach_parts.h"

namespace otoro::service {

std::vector<reach::Polygons> ground_counted(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                            const ReachRequest& one, std::span<const std::uint32_t> picks,
                                            const Task& task) {
    std::vector<reach::Polygons> at_least;  // entry k: what k + 1 sites reach, or more
    for (std::size_t i = 0; i < picks.size(); ++i) {
        task.at("counting sites", static_cast<double>(i) / static_cast<double>(picks.size()));
        ReachRequest alone = one;
        alone.overlap = Overlap::merged;
        alone.sites = {SiteIndex(picks[i])};
        alone.within = alone.off = nullptr;
        alone.least_square_metres = 0;
        Reach reach = reach_areas(ready, plan, alone, task);
        if (reach.areas.empty()) continue;
        // Where some reach already this one is a further one.
        reach::Polygons more = std::move(reach.areas.front().polygons);
        for (auto& ground : at_least) {
            if (more.empty()) break;
            reach::Polygons both = common(ground, more);
            ground = together(ground, more);
            more = std::move(both);
        }
        if (!more.empty()) at_least.push_back(std::move(more));
    }
    for (std::size_t k = 0; k + 1 < at_least.size(); ++k) at_least[k] = without(at_least[k], at_least[k + 1]);
    return at_least;
}

SitesCounted::SitesCounted(const ReachSearch& search, const Task& task)
    : network_(*search.ready().inputs.network),
      at_node_(network_.node_count(), 0),
      at_place_(search.ready().inputs.demand.count(), 0) {
    const auto bands = search.bands();
    std::vector<std::uint32_t> last_site(network_.node_count(), reach::kNobody);
    for (std::size_t k = 0; k < search.picks().size(); ++k) {
        task.at("counting sites", static_cast<double>(k) / static_cast<double>(search.picks().size()));
        const auto values = search.values(search.picks().subspan(k, 1), false, task);
        const Touched touched = search.touched(*values);
        each_part(*values, touched.links, bands, [&](const RoadPart& p) {
            changes_.push_back({p.link, p.from, 1});
            changes_.push_back({p.link, p.to, -1});
        });
        for (const LinkId link : touched.links) {
            const auto ends = network_.ends(link);
            for (const NodeId node : {ends.from, ends.to}) {
                if (last_site[node.value()] == k) continue;
                last_site[node.value()] = static_cast<std::uint32_t>(k);
                const auto value = values->at(link, node == ends.from ? Millimetres(0) : network_.length(link));
                if (value && bands.of(value->value) < bands.limits.size()) ++at_node_[node.value()];
            }
        }
        const auto places = values->at_places();
        for (std::uint32_t i = 0; i < places.size(); ++i) {
            if (!places[i].served()) continue;
            const auto& own = search.request().own_limits;
            const double shift = own.empty() ? 0 : count_of(*own[search.picks()[k]]);
            const double value = search.measure() == ValueOf::time ? static_cast<double>(places[i].time.count())
                                                                   : static_cast<double>(places[i].distance.count());
            if (bands.of(value - shift) < bands.limits.size()) ++at_place_[i];
        }
        touched_.links.insert(touched_.links.end(), touched.links.begin(), touched.links.end());
    }
    std::sort(touched_.links.begin(), touched_.links.end());
    touched_.links.erase(std::unique(touched_.links.begin(), touched_.links.end()), touched_.links.end());
    touched_.boxes = boxes_around(network_, touched_.links);
    std::sort(changes_.begin(), changes_.end(), [](const Change& a, const Change& b) {
        return std::tie(a.link, a.at, a.by) < std::tie(b.link, b.at, b.by);
    });
}

std::span<const SitesCounted::Change> SitesCounted::of(LinkId link) const {
    const auto less = [](const Change& c, LinkId l) { return c.link < l; };
    const auto first = std::lower_bound(changes_.begin(), changes_.end(), link, less);
    const auto end = std::find_if(first, changes_.end(), [&](const Change& c) { return c.link != link; });
    return {first, end};
}

void SitesCounted::stretches(LinkId link, std::vector<reach::Stretch>& out) const {
    out.clear();
    int sites = 0;
    double from = 0;
    for (const Change& c : of(link)) {
        if (sites > 0 && c.at > from) out.push_back({from, c.at, 0, 0, static_cast<std::uint32_t>(sites)});
        from = c.at;
        sites += c.by;
    }
}

std::optional<reach::PointValue> SitesCounted::at(LinkId link, Millimetres offset) const {
    const auto ends = network_.ends(link);
    std::uint32_t sites = 0;
    if (offset.count() == 0 || offset == network_.length(link)) {
        sites = at_node_[(offset.count() == 0 ? ends.from : ends.to).value()];
    } else {
        // Parts hold their ends.
        const auto x = static_cast<double>(offset.count());
        int begun = 0, ended = 0;
        for (const Change& c : of(link)) {
            begun += c.by > 0 && c.at <= x ? 1 : 0;
            ended += c.by < 0 && c.at < x ? 1 : 0;
        }
        sites = static_cast<std::uint32_t>(std::max(0, begun - ended));
    }
    if (sites == 0) return std::nullopt;
    return reach::PointValue{0, sites};
}

}  // namespace otoro::service
