#include "service/site_costs.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>

#include "service/travel_table.h"

namespace otoro::service {

using routing::kFar;

/// Rows gone through together, block after block of sites: what is known of them stays in the cache meanwhile.
constexpr std::size_t kTogetherInCache = 512;

SiteCosts::SiteCosts(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed,
                     const std::vector<SiteOutcome>& sites, std::vector<std::uint32_t> places, std::size_t most_held,
                     const Task& task)
    : places_(std::move(places)),
      blocks_(ready, costed, sites, task),
      few_(ready, costed, sites),
      ready_(ready),
      sites_(sites) {
    std::vector<std::uint32_t> column(sites.size(), 0);
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) {
            column[i] = static_cast<std::uint32_t>(numbers_.size());
            numbers_.push_back(i);
        }
    held_ = places_.size() * numbers_.size() <= most_held;
    if (!held_) return;
    const auto together = blocks_.put_together(places_);
    std::vector<std::uint32_t> row_of(ready.inputs.demand.count());
    for (std::uint32_t at = 0; at < together.size(); ++at) row_of[together[at]] = at;
    for (const std::uint32_t place : places_) stands_at_.push_back(row_of[place]);
    held_rows_ = places_.size();
    costs_.resize(blocks() * held_rows_ * kTogether);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, costs_.size(), 1U << 20U), [&](const auto& range) {
        std::fill(costs_.data() + range.begin(), costs_.data() + range.end(), kFar);
    });
    const bool limited = ready.question.limit || ready.question.own_limits;
    blocks_.each(
        together, {},
        [&](std::size_t at, std::span<const ReachableSite> found) {
            for (const ReachableSite& r : found)
                if (!limited || outcome_of(ready.question, sites, r).served())
                    costs_[(column[r.site] / kTogether * held_rows_ + at) * kTogether + column[r.site] % kTogether] =
                        r.cost;
        },
        [](std::span<const std::uint32_t>) {}, task);
}

std::vector<std::uint32_t> SiteCosts::as_held(std::span<const std::uint32_t> rows) const {
    std::vector<std::uint32_t> out;
    out.reserve(rows.size());
    constexpr std::size_t kFew = 64;
    if (rows.size() < held_rows_ / kFew) {
        for (std::uint32_t i = 0; i < rows.size(); ++i) out.push_back(i);
        return out;
    }
    constexpr std::uint32_t kNobody = 0xFFFF'FFFFU;
    std::vector<std::uint32_t> at(held_rows_, kNobody);
    for (std::uint32_t i = 0; i < rows.size(); ++i) at[stands_at_[rows[i]]] = i;
    for (const std::uint32_t i : at)
        if (i != kNobody) out.push_back(i);
    return out;
}

optimise::Pairs SiteCosts::nearest(std::span<const std::uint32_t> rows, std::size_t k, const std::vector<bool>& may,
                                   const Task& task) const {
    optimise::Pairs out;
    std::vector<optimise::Pair> row_pairs;
    if (!held_) {
        std::vector<std::uint32_t> places;
        for (const std::uint32_t row : rows) places.push_back(places_[row]);
        const JourneyTable found = few_.within_limit(places, k, may, task);
        out.reserve(found.rows(), found.count());
        for (std::size_t i = 0; i < found.rows(); ++i) {
            row_pairs.clear();
            for (const ReachableSite& r : found.of(i)) row_pairs.push_back({r.site, r.cost});
            out.add_row(row_pairs);
        }
        return out;
    }
    std::vector<std::uint8_t> counts(numbers_.size(), 1);
    for (std::size_t c = 0; c < counts.size(); ++c) counts[c] = may.empty() || may[numbers_[c]] ? 1 : 0;
    k = std::min(k, numbers_.size());
    std::vector<optimise::Pair> found(rows.size() * k);
    std::vector<std::uint32_t> found_of(rows.size(), 0), bounds(rows.size(), k == 0 ? 0 : kFar);
    const std::vector<std::uint32_t> order = as_held(rows);
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, rows.size(), kTogetherInCache),
        [&](const auto& range) {
            task.check();
            for (std::size_t block = 0; block < blocks(); ++block) {
                const std::size_t first = block * kTogether, lanes = std::min(kTogether, numbers_.size() - first);
                for (std::size_t at = range.begin(); at != range.end(); ++at) {
                    const std::size_t i = order[at];
                    const std::uint32_t* const costs = costs_of(block, rows[i]);
                    optimise::Pair* const mine = found.data() + i * k;
                    std::uint32_t& count = found_of[i];
                    for (std::size_t lane = 0; lane < lanes; ++lane) {
                        const std::uint32_t cost = costs[lane];
                        if (cost >= bounds[i] || counts[first + lane] == 0) continue;
                        std::size_t hole = count < k ? count++ : k - 1;
                        for (; hole > 0 && cost < mine[hole - 1].cost; --hole) mine[hole] = mine[hole - 1];
                        mine[hole] = {numbers_[first + lane], cost};
                        if (count == k) bounds[i] = mine[k - 1].cost;
                    }
                }
            }
        },
        tbb::simple_partitioner());
    std::size_t all = 0;
    for (const std::uint32_t n : found_of) all += n;
    out.reserve(rows.size(), all);
    for (std::size_t i = 0; i < rows.size(); ++i) out.add_row({found.data() + i * k, found_of[i]});
    return out;
}

void SiteCosts::each(const EachRow& use, const Task& task) const {
    if (!held_) {
        const bool limited = ready_.question.limit || ready_.question.own_limits;
        blocks_.each(
            places_, {},
            [&](std::size_t row, std::span<const ReachableSite> found) {
                std::vector<optimise::Pair> pairs;
                for (const ReachableSite& r : found)
                    if (!limited || outcome_of(ready_.question, sites_, r).served()) pairs.push_back({r.site, r.cost});
                use(row, pairs);
            },
            [](std::span<const std::uint32_t>) {}, task);
        return;
    }
    std::vector<std::uint32_t> rows(places_.size());
    std::iota(rows.begin(), rows.end(), 0U);
    const std::vector<std::uint32_t> order = as_held(rows);
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, order.size(), kTogetherInCache),
        [&](const auto& range) {
            task.check();
            std::vector<optimise::Pair> pairs;
            for (std::size_t block = 0; block < blocks(); ++block) {
                const std::size_t first = block * kTogether, lanes = std::min(kTogether, numbers_.size() - first);
                for (std::size_t at = range.begin(); at != range.end(); ++at) {
                    const std::size_t row = order[at];
                    pairs.clear();
                    const std::uint32_t* const costs = costs_of(block, row);
                    for (std::size_t lane = 0; lane < lanes; ++lane)
                        if (costs[lane] < kFar) pairs.push_back({numbers_[first + lane], costs[lane]});
                    if (!pairs.empty()) use(row, pairs);
                }
            }
        },
        tbb::simple_partitioner());
}

void SiteCosts::keep(std::span<const std::uint32_t> rows) {
    std::vector<std::uint32_t> places, stand;
    for (const std::uint32_t row : rows) {
        places.push_back(places_[row]);
        if (held_) stand.push_back(stands_at_[row]);
    }
    places_ = std::move(places);
    stands_at_ = std::move(stand);
}

}  // namespace otoro::service
