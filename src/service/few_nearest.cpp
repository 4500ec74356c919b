#include "service/few_nearest.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>

#include "service/access_legs.h"
#include "service/searching.h"
#include "service/site_blocks.h"
#include "service/travel_table.h"

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
    /// Whether nothing that costs this, or more, is wanted any more.
    [[nodiscard]] bool full_below(std::uint32_t cost) const {
        return count_ == room_.size() && room_[count_ - 1].cost < cost;
    }

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

}  // namespace

JourneyTable FewNearest::of_all(std::size_t k, const Task& task) const {
    std::vector<std::uint32_t> all(ready_.inputs.demand.count());
    std::iota(all.begin(), all.end(), 0U);
    return of(all, k, {}, task);
}

JourneyTable FewNearest::of(std::span<const std::uint32_t> places, std::size_t k, const std::vector<bool>& may,
                            const Task& task) const {
    std::size_t sites = 0;
    for (std::uint32_t i = 0; i < sites_.size(); ++i) sites += counts(i, may) ? 1 : 0;
    k = std::min(k, sites);
    if (ready_.question.own_limits) return by_sites(places, k, may, false, task);
    // A block of sites takes about as long as three more sites kept at every junction.
    constexpr std::size_t kOfABlock = 3, kMostKept = 24;
    const std::size_t blocks = (sites + routing::FewToAll::kMost - 1) / routing::FewToAll::kMost;
    return k > kMostKept || blocks < k * kOfABlock ? by_sites(places, k, may, false, task)
                                                   : by_junctions(places, k, may, task);
}

JourneyTable FewNearest::by_junctions(std::span<const std::uint32_t> places, std::size_t k,
                                      const std::vector<bool>& may, const Task& task) const {
    SitesByLink on_link;
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < sites_.size(); ++i) {
        if (!counts(i, may)) continue;
        add_seeds(ready_, *costed_, *sites_[i].attachment, i, seeds);
        on_link[sites_[i].attachment->link.value()].push_back(i);
    }
    const Searching searching(ready_, costed_);
    const FewLabels labels = searching.few_labels(seeds, k, task);
    const auto& network = *ready_.inputs.network;
    const bool outward = ready_.question.towards == Towards::demand;
    const Searched searched(ready_, *costed_, sites_, on_link,
                            [&](LinkWay way, auto&& use) { labels.each(network, way, outward, use); });
    std::vector<bool> special = special_places(ready_, *costed_);
    for (const auto& [link, here] : on_link)
        for (const std::uint32_t i : ready_.access->places_on(LinkId(link))) special[i] = true;
    const routing::Measure measure = ready_.question.measure();

    constexpr std::size_t kAhead = 8;
    std::vector<ReachableSite, HugePages<ReachableSite>> found;
    found.resize(places.size() * k);
    std::vector<std::uint32_t> found_of(places.size(), 0);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, places.size(), 1024), [&](const auto& range) {
        task.check();
        for (std::size_t row = range.begin(); row != range.end(); ++row) {
            const std::uint32_t i = places[row];
            if (row + kAhead < range.end())
                for (const auto& end : ready_.access->of(places[row + kAhead]))
                    if (end.attached())
                        for (const routing::Label& label : labels.at(end.node)) __builtin_prefetch(&label);
            if (!ready_.access->of(i)[0].attached()) continue;
            const auto& attached = (*ready_.attached)[i];
            Least least({found.data() + row * k, k});
            const auto off_road = before_road(ready_.question, *attached).in(measure);
            const auto offer = [&](const AccessLeg& leg) {
                if (leg.cost < routing::kFar)
                    least.offer({sum(leg.cost, off_road.cost), leg.source, sum(leg.other, off_road.other)});
            };
            if (special[i]) {
                searched.each_leg(*attached, offer);
            } else {
                for (const auto& end : ready_.access->of(i))
                    for (const routing::Label& label : labels.at(end.node)) {
                        if (!label.reached() || least.full_below(sum(label.cost, end.cost))) break;
                        offer(leg_over(label, {end.cost, end.other}));
                    }
            }
            found_of[row] = static_cast<std::uint32_t>(least.count());
        }
    });
    return table_of(found, found_of, k);
}

bool FewNearest::within(const ReachableSite& r) const { return outcome_of(ready_.question, sites_, r).served(); }
bool FewNearest::within_own(const ReachableSite& r) const {
    return !is_beyond_own_limit(ready_.question, sites_, outcome_of(ready_.question, sites_, r));
}

JourneyTable FewNearest::within_limit(std::span<const std::uint32_t> places, std::size_t k,
                                      const std::vector<bool>& may, const Task& task) const {
    const auto& limit = ready_.question.limit;
    if (!limit) return of(places, k, may, task);
    const bool by_time = ready_.question.measure() == routing::Measure::time;
    // With a limit in the other measure a site that is not among the nearest may be within it.
    if (std::holds_alternative<Millis>(*limit) != by_time) {
        std::size_t sites = 0;
        for (std::uint32_t i = 0; i < sites_.size(); ++i) sites += counts(i, may) ? 1 : 0;
        return by_sites(places, std::min(k, sites), may, true, task);
    }
    const JourneyTable all = of(places, k, may, task);
    JourneyTable out;
    out.reserve(all.rows(), all.count());
    for (std::size_t row = 0; row < all.rows(); ++row) {
        auto sites = all.of(row);
        while (!sites.empty() && !within(sites.back())) sites = sites.first(sites.size() - 1);
        out.add_row(sites);
    }
    return out;
}

JourneyTable FewNearest::by_sites(std::span<const std::uint32_t> places, std::size_t k, const std::vector<bool>& may,
                                  bool only_within, const Task& task) const {
    std::vector<ReachableSite, HugePages<ReachableSite>> found;
    found.resize(places.size() * k);
    std::vector<std::uint32_t> found_of(places.size(), 0);
    const SiteBlocks blocks(ready_, costed_, sites_, task);
    const auto together = blocks.put_together(places);
    SiteBlocks::Bounds bounds(places.size(), routing::kFar);
    blocks.each(
        together, may, bounds,
        [&](std::size_t row, std::span<const ReachableSite> of_block) {
            // Sites come in file order, each once: of equal costs the earlier stays before.
            ReachableSite* const mine = found.data() + row * k;
            std::uint32_t& count = found_of[row];
            for (const ReachableSite& r : of_block) {
                if (r.cost >= bounds[row] || !(only_within ? within(r) : within_own(r))) continue;
                std::size_t hole = count < k ? count++ : k - 1;
                for (; hole > 0 && r.cost < mine[hole - 1].cost; --hole) mine[hole] = mine[hole - 1];
                mine[hole] = r;
                if (count == k) bounds[row] = mine[k - 1].cost;
            }
        },
        [](std::span<const std::uint32_t>) {}, task);
    // Back into the order asked for.
    std::vector<std::uint32_t> row_of(ready_.inputs.demand.count());
    for (std::uint32_t row = 0; row < together.size(); ++row) row_of[together[row]] = row;
    JourneyTable out;
    out.reserve(places.size(), std::accumulate(found_of.begin(), found_of.end(), std::size_t{0}));
    for (const std::uint32_t place : places)
        out.add_row(std::span(found).subspan(row_of[place] * k, found_of[row_of[place]]));
    return out;
}

}  // namespace otoro::service
