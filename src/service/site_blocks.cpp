#include "service/site_blocks.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/parallel_sort.h>

#include <algorithm>
#include <array>
#include <bit>

#include "service/access_legs.h"

namespace otoro::service {
namespace {

using routing::FewToAll;
using routing::kFar;
using routing::LinkWay;

/// Prepared, if so many searches make up for it.
Ready prepared_if_worth(const Ready& ready, std::size_t searches, const Task& task) {
    Ready out = ready;
    if (!ready.prepared && routing::worth_ordering(*ready.graph, searches, task))
        out.prepared = prepare_searches(ready, nullptr, nullptr, task);
    return out;
}

std::size_t in_use(const std::vector<SiteOutcome>& sites) {
    return static_cast<std::size_t>(
        std::count_if(sites.begin(), sites.end(), [](const SiteOutcome& s) { return s.planned.in_use; }));
}

}  // namespace

std::vector<bool> special_places(const Ready& ready, const CostedNetwork& costed) {
    std::vector<bool> out(ready.inputs.demand.count(), false);
    const auto mark = [&](LinkId link) {
        for (const std::uint32_t i : ready.access->places_on(link)) out[i] = true;
    };
    for (const auto& h : costed.restrictions) mark(h.link);
    for (const LinkId link : costed.states->links()) mark(link);
    for (const std::uint32_t i : ready.access->on_junctions()) out[i] = true;
    return out;
}

SiteBlocks::SiteBlocks(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed,
                       const std::vector<SiteOutcome>& sites, const Task& task)
    : ready_(prepared_if_worth(ready, in_use(sites), task)),
      costed_(costed),
      sites_(sites),
      searching_(ready_, costed),
      special_(special_places(ready_, *costed)) {}

void SiteBlocks::each(std::span<const std::uint32_t> places, const std::vector<bool>& may, const EachRow& row,
                      const EachBlock& block, const Task& task) const {
    each(places, may, Bounds(places.size(), kFar), row, block, task);
}

void SiteBlocks::each(std::span<const std::uint32_t> places, const std::vector<bool>& may, const Bounds& bounds,
                      const EachRow& row, const EachBlock& block, const Task& task) const {
    std::vector<std::vector<std::uint32_t>> blocks;
    for (std::uint32_t i = 0; i < sites_.size(); ++i) {
        if (!sites_[i].planned.in_use || !sites_[i].attachment || !(may.empty() || may[i])) continue;
        if (blocks.empty() || blocks.back().size() == FewToAll::kMost) blocks.emplace_back();
        blocks.back().push_back(i);
    }
    const auto ways = ways_to(places);
    std::array<Block, 2> two;  // one is looked at while the other is searched
    for (std::size_t b = 0; b <= blocks.size(); ++b) {
        task.at("from each site to each place", static_cast<double>(b) / static_cast<double>(blocks.size() + 1));
        Block& now = two[b % 2];
        const Block& before = two[1 - b % 2];
        if (b < blocks.size()) now.sites = std::move(blocks[b]);
        tbb::parallel_invoke(
            [&] {
                if (b < blocks.size()) search(now, task);
            },
            [&] {
                if (b > 0) look(before, places, ways, bounds, row, task);
            });
        if (b > 0) block(before.sites);
    }
}

void SiteBlocks::search(Block& block, const Task& task) const {
    std::vector<std::vector<routing::Seed>> seeds(block.sites.size());
    for (std::size_t lane = 0; lane < seeds.size(); ++lane)
        add_seeds(ready_, *costed_, *sites_[block.sites[lane]].attachment, block.sites[lane], seeds[lane]);
    searching_.run(block.labels, seeds, task);
}

std::vector<std::uint32_t> SiteBlocks::put_together(std::span<const std::uint32_t> places) const {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> by_line;
    by_line.reserve(places.size());
    for (const std::uint32_t place : places) {
        const auto& end = ready_.access->of(place)[0];
        by_line.emplace_back(end.attached() ? searching_.label_of(end.node) : 0, place);
    }
    tbb::parallel_sort(by_line.begin(), by_line.end());
    std::vector<std::uint32_t> out;
    out.reserve(by_line.size());
    for (const auto& [line, place] : by_line) out.push_back(place);
    return out;
}

std::vector<routing::TwoWaysOn> SiteBlocks::ways_to(std::span<const std::uint32_t> places) const {
    std::vector<routing::TwoWaysOn> out(places.size());
    const routing::Measure measure = ready_.question.measure();
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, places.size(), 2048), [&](const auto& range) {
        for (std::size_t row = range.begin(); row != range.end(); ++row) {
            out[row].step[0] = out[row].step[1] = routing::kNoWay;
            const auto& ends = ready_.access->of(places[row]);
            if (!ends[0].attached()) continue;
            const auto off_road = before_road(ready_.question, *(*ready_.attached)[places[row]]).in(measure);
            for (std::size_t e = 0; e < 2; ++e) {
                out[row].line[e] = searching_.label_of(ends[e].node);
                // A stretch that cannot be gone costs `kFar`.
                const std::uint32_t cost = sum(ends[e].cost, off_road.cost);
                if (cost < kFar) out[row].step[e] = (std::uint64_t{cost} << 32U) | sum(ends[e].other, off_road.other);
            }
        }
    });
    return out;
}

void SiteBlocks::look(const Block& block, std::span<const std::uint32_t> places,
                      std::span<const routing::TwoWaysOn> ways, const Bounds& bounds, const EachRow& row,
                      const Task& task) const {
    const auto& network = *ready_.inputs.network;
    const bool outward = ready_.question.towards == Towards::demand;
    const routing::Measure measure = ready_.question.measure();
    const std::size_t lanes = block.sites.size();

    // Of one site each, for the few places that are gone into.
    std::vector<SitesByLink> on_link(lanes);
    for (std::size_t lane = 0; lane < lanes; ++lane)
        on_link[lane][sites_[block.sites[lane]].attachment->link.value()].push_back(block.sites[lane]);
    const auto best_leg = [&](const places::Attachment& at, std::size_t lane) {
        const auto label = [&](std::uint32_t node) {
            const std::uint64_t both = block.labels.line(searching_.label_of(node))[lane];
            return both >> 32U >= kFar ? routing::Label{}
                                       : routing::Label{static_cast<std::uint32_t>(both >> 32U), block.sites[lane],
                                                        static_cast<std::uint32_t>(both), LinkWay::none()};
        };
        const Searched searched(ready_, *costed_, sites_, on_link[lane], [&](LinkWay way, auto&& use) {
            if (costed_->turns.free())
                return use(label((outward ? start_of(network, way) : end_of(network, way)).value()));
            use(label(way.bits));
            if (outward)
                for (const std::uint32_t s : costed_->states->further(way)) use(label(s));
        });
        return searched.best_leg(at);
    };

    // Whether a place has to be gone into: what is special of itself, or shares its road with a site.
    std::vector<bool> special = special_;
    for (const std::uint32_t site : block.sites)
        for (const std::uint32_t place : ready_.access->places_on(sites_[site].attachment->link)) special[place] = true;
    const auto gone_into = [&](std::uint32_t place, std::size_t lane) {
        const auto& at = (*ready_.attached)[place];
        if (!at) return routing::kNoWay;
        const AccessLeg leg = best_leg(*at, lane);
        if (leg.cost == kFar) return routing::kNoWay;
        const auto off_road = before_road(ready_.question, *at).in(measure);
        const std::uint64_t sum =
            ((std::uint64_t{leg.cost} + off_road.cost) << 32U) | (std::uint64_t{leg.other} + off_road.other);
        return static_cast<std::uint32_t>(sum) >= kFar ? routing::kNoWay : std::min(sum, routing::kNoWay);
    };

    constexpr std::size_t kPiece = 1024;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, (places.size() + kPiece - 1) / kPiece, 1),
                      [&](const auto& pieces) {
                          task.check();
                          std::array<ReachableSite, FewToAll::kMost> found;
                          std::vector<FewToAll::Line> lines(kPiece);
                          std::vector<std::uint64_t> least(kPiece);
                          std::vector<std::uint8_t> wanted(kPiece);
                          for (std::size_t piece = pieces.begin(); piece != pieces.end(); ++piece) {
                              const std::size_t begin = piece * kPiece, count = std::min(kPiece, places.size() - begin);
                              for (std::size_t i = 0; i < count; ++i)
                                  least[i] = std::uint64_t{bounds[begin + i]} << 32U;
                              block.labels.join(ways.subspan(begin, count), least.data(), lines.data(), wanted.data());
                              for (std::size_t i = 0; i < count; ++i) {
                                  const std::uint32_t place = places[begin + i];
                                  auto& line = lines[i].lanes;
                                  std::uint32_t lanes_wanted = wanted[i] & ((1U << lanes) - 1);
                                  if (special[place]) {
                                      lanes_wanted = 0;
                                      for (std::size_t lane = 0; lane < lanes; ++lane) {
                                          line[lane] = gone_into(place, lane);
                                          if (line[lane] < least[i]) lanes_wanted |= 1U << lane;
                                      }
                                  }
                                  if (lanes_wanted == 0) continue;
                                  std::size_t n = 0;
                                  for (; lanes_wanted != 0; lanes_wanted &= lanes_wanted - 1) {
                                      const auto lane = static_cast<std::size_t>(std::countr_zero(lanes_wanted));
                                      found[n++] = {static_cast<std::uint32_t>(line[lane] >> 32U), block.sites[lane],
                                                    static_cast<std::uint32_t>(line[lane])};
                                  }
                                  row(begin + i, {found.data(), n});
                              }
                          }
                      });
}

}  // namespace otoro::service
