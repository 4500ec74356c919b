#pragma once
/// \file
/// What it costs to serve each of many places from each of many sites, within the question's limits.
///
/// \par Method
/// Up to `most_held` costs are held, 4 bytes each, and found once (`site_blocks.h`). Of larger questions they are
/// searched for whenever they are asked for.
///
/// \par Cost
/// On a county about 0.6 s for half a million places and 200 sites, and 430 MB.
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "geo/huge_pages.h"
#include "optimise/allocation.h"
#include "service/few_nearest.h"
#include "service/site_blocks.h"

namespace otoro::service {

class SiteCosts {
public:
    /// Some 1.6 GB.
    static constexpr std::size_t kMostHeld = 400'000'000;

    /// \param places the rows \param sites those under a plan, attached; must outlive this \throws Stopped
    SiteCosts(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed,
              const std::vector<SiteOutcome>& sites, std::vector<std::uint32_t> places, std::size_t most_held,
              const Task& task);

    [[nodiscard]] const std::vector<std::uint32_t>& places() const { return places_; }
    /// Up to `k` sites of some rows, nearest first, ties to the first in file order; one row of the table each.
    /// \param may by site: others are not wanted; empty: all \throws Stopped
    [[nodiscard]] optimise::Pairs nearest(std::span<const std::uint32_t> rows, std::size_t k,
                                          const std::vector<bool>& may, const Task& task) const;
    /// Calls `use` with pairs of every row, in file order of the sites; several times for one row, but never twice at
    /// once. \throws Stopped
    using EachRow = std::function<void(std::size_t row, std::span<const optimise::Pair> pairs)>;
    void each(const EachRow& use, const Task& task) const;

    /// Keeps these rows alone, which are ascending.
    void keep(std::span<const std::uint32_t> rows);

private:
    /// Costs of a row from the sites of one block.
    [[nodiscard]] const std::uint32_t* costs_of(std::size_t block, std::size_t row) const {
        return costs_.data() + (block * held_rows_ + stands_at_[row]) * kTogether;
    }
    /// Numbers of these rows, which are each another, in the order in which their costs stand in memory: gone through
    /// in file order every cost would be a wait for memory.
    [[nodiscard]] std::vector<std::uint32_t> as_held(std::span<const std::uint32_t> rows) const;
    [[nodiscard]] std::size_t blocks() const { return (numbers_.size() + kTogether - 1) / kTogether; }
    static constexpr std::size_t kTogether = routing::FewToAll::kMost;

    std::vector<std::uint32_t> places_;
    SiteBlocks blocks_;
    FewNearest few_;
    const Ready& ready_;
    const std::vector<SiteOutcome>& sites_;
    bool held_;
    std::vector<std::uint32_t> numbers_;    ///< of the sites in use that a road is near, in file order
    std::vector<std::uint32_t> stands_at_;  ///< by row: places that lie together stand together
    std::size_t held_rows_ = 0;
    std::vector<std::uint32_t, HugePages<std::uint32_t>> costs_;  ///< block by block, and in one row by row
};

}  // namespace otoro::service
