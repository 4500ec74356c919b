#include "service/few_nearest.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>

#include "service/access_legs.h"

namespace otoro::service {
namespace {

using routing::LinkWay;

/// A list of the least, one a site, kept in order.
class Least {
public:
    explicit Least(std::span<ReachableSite> room, std::size_t count = 0) : room_(room), count_(count) {}

    void offer(const ReachableSite& r) {
        if (r.cost >= routing::kFar || r.other >= routing::kFar) return;
        if (count_ == room_.size() && !(r < room_[count_ - 1])) return;
        std::size_t hole = count_;
        for (std::size_t i = 0; i < count_; ++i)
            if (room_[i].site == r.site) {
                if (!(r < room_[i])) return;
                hole = i;
                break;
            }
        if (hole == room_.size()) --hole;
        if (hole == count_) ++count_;
        for (; hole > 0 && r < room_[hole - 1]; --hole) room_[hole] = room_[hole - 1];
        room_[hole] = r;
    }
    [[nodiscard]] std::size_t count() const { return count_; }

private:
    std::span<ReachableSite> room_;
    std::size_t count_;
};

/// \param found `k` a row, of which as many count as `found_of` says
JourneyTable table_of(std::span<const ReachableSite> found, std::span<const std::uint32_t> found_of, std::size_t k) {
    JourneyTable out;
    out.reserve(found_of.size(), std::accumulate(found_of.begin(), found_of.end(), std::size_t{0}));
    for (std::size_t row = 0; row < found_of.size(); ++row) out.add_row(found.subspan(row * k, found_of[row]));
    return out;
}

/// Places that more than the labels at their road's ends decide about.
std::vector<bool> special_places(const Ready& ready, const CostedNetwork& costed, const SitesByLink& on_link) {
    std::vector<bool> out(ready.inputs.demand.count(), false);
    const auto mark = [&](LinkId link) {
        for (const std::uint32_t i : ready.access->places_on(link)) out[i] = true;
    };
    for (const auto& [link, here] : on_link) mark(LinkId(link));
    for (const auto& h : costed.restrictions) mark(h.link);
    for (const LinkId link : costed.states->links()) mark(link);
    for (const std::uint32_t i : ready.access->on_junctions()) out[i] = true;
    return out;
}

}  // namespace

JourneyTable FewNearest::of_all(std::size_t k, const Task& task) const {
    std::vector<std::uint32_t> all(ready_.inputs.demand.count());
    std::iota(all.begin(), all.end(), 0U);
    return of(all, k, {}, task);
}

JourneyTable FewNearest::of(std::span<const std::uint32_t> places, std::size_t k, const std::vector<bool>& may,
                            const Task& task) const {
    SitesByLink on_link;
    std::vector<routing::Seed> seeds;
    std::size_t sites = 0;
    for (std::uint32_t i = 0; i < sites_.size(); ++i) sites += counts(i, may) ? 1 : 0;
    k = std::min(k, sites);
    if (k > kFew) return by_rows(places, k, may, task);
    for (std::uint32_t i = 0; i < sites_.size(); ++i) {
        if (!counts(i, may)) continue;
        add_seeds(ready_, *costed_, *sites_[i].attachment, i, seeds);
        on_link[sites_[i].attachment->link.value()].push_back(i);
    }
    const FewLabels labels = searching_.few_labels(seeds, k, task);
    const auto& network = *ready_.inputs.network;
    const bool outward = ready_.question.towards == Towards::demand;
    const Searched searched(ready_, *costed_, sites_, on_link,
                            [&](LinkWay way, auto&& use) { labels.each(network, way, outward, use); });
    const std::vector<bool> special = special_places(ready_, *costed_, on_link);
    const routing::Measure measure = ready_.question.measure();

    std::vector<ReachableSite> found(places.size() * k);
    std::vector<std::uint32_t> found_of(places.size(), 0);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, places.size(), 1024), [&](const auto& range) {
        task.check();
        for (std::size_t row = range.begin(); row != range.end(); ++row) {
            const std::uint32_t i = places[row];
            const auto& attached = (*ready_.attached)[i];
            if (!attached || !ready_.inputs.demand.at(i).position) continue;
            Least least({found.data() + row * k, k});
            const auto off_road = off_road_leg(ready_.question, *attached).in(measure);
            const auto offer = [&](const AccessLeg& leg) {
                if (leg.cost < routing::kFar)
                    least.offer({sum(leg.cost, off_road.cost), leg.source, sum(leg.other, off_road.other)});
            };
            if (special[i]) {
                searched.each_leg(*attached, offer);
            } else {
                for (const auto& end : ready_.access->of(i))
                    for (const routing::Label& label : labels.at(end.node)) {
                        if (!label.reached()) break;
                        offer(leg_over(label, {end.cost, end.other}));
                    }
            }
            found_of[row] = static_cast<std::uint32_t>(least.count());
        }
    });
    return table_of(found, found_of, k);
}

JourneyTable FewNearest::by_rows(std::span<const std::uint32_t> places, std::size_t k, const std::vector<bool>& may,
                                 const Task& task) const {
    std::vector<ReachableSite> found(places.size() * k);
    std::vector<std::uint32_t> found_of(places.size(), 0);
    const auto& network = *ready_.inputs.network;
    const bool outward = ready_.question.towards == Towards::demand;
    const routing::Measure measure = ready_.question.measure();
    const std::vector<bool> special = special_places(ready_, *costed_, {});
    for (std::uint32_t site = 0; site < sites_.size(); ++site) {
        if (!counts(site, may)) continue;
        task.at("from each site to each place", static_cast<double>(site) / static_cast<double>(sites_.size()));
        std::vector<routing::Seed> seeds;
        add_seeds(ready_, *costed_, *sites_[site].attachment, site, seeds);
        const SitesByLink on_link{{sites_[site].attachment->link.value(), {site}}};
        const Labels labels = searching_.labels(seeds, task).first;
        const Searched searched(ready_, *costed_, sites_, on_link,
                                one_label([&](LinkWay way) { return labels.at(network, way, outward); }));
        tbb::parallel_for(tbb::blocked_range<std::size_t>(0, places.size(), 1024), [&](const auto& range) {
            for (std::size_t row = range.begin(); row != range.end(); ++row) {
                const std::uint32_t i = places[row];
                const auto& attached = (*ready_.attached)[i];
                if (!attached || !ready_.inputs.demand.at(i).position) continue;
                AccessLeg best;
                if (special[i] || attached->link == sites_[site].attachment->link)
                    best = searched.best_leg(*attached);
                else
                    for (const auto& end : ready_.access->of(i))
                        best = std::min(best, leg_over(labels.at(end.node), {end.cost, end.other}));
                if (best.cost == routing::kFar) continue;
                const auto off_road = off_road_leg(ready_.question, *attached).in(measure);
                Least least({found.data() + row * k, k}, found_of[row]);
                least.offer({sum(best.cost, off_road.cost), site, sum(best.other, off_road.other)});
                found_of[row] = static_cast<std::uint32_t>(least.count());
            }
        });
    }
    return table_of(found, found_of, k);
}

}  // namespace otoro::service
