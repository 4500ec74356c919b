#pragma once
/// \file
/// From many sites to all places, a few sites at a time.
///
/// \par Method
/// Eight sites share a search (`routing::FewToAll`); a place in the middle of a road then looks at two lines of memory,
/// in which all eight stand. While places are looked at, the next eight are searched from. Large networks that are not
/// prepared yet are, where there are so many sites that it pays.
///
/// \par Exact
/// Costs are those of asking from each site alone, to the unit, on any number of threads.
///
/// \par Cost
/// On a county of a million links about 20 ms for eight sites, and as much again for half a million places.
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "routing/one_to_all.h"
#include "service/assign.h"
#include "service/journey_table.h"
#include "service/searching.h"

namespace otoro::service {

class SiteBlocks {
public:
    /// \param sites those under a plan, attached; must outlive this
    /// \param searched how many sites will be asked from: whether preparing pays \throws Stopped
    SiteBlocks(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed,
               const std::vector<SiteOutcome>& sites, const Task& task);

    /// Called for each row of `places` and each block with those of the block's sites that there is a way to, in file
    /// order, from several threads at once, but never twice at once for one row; must not keep what it is given.
    using EachRow = std::function<void(std::size_t row, std::span<const ReachableSite> found)>;
    /// One a row: only sites that cost less are told of. A row may lower its own while it is told.
    using Bounds = std::vector<std::uint32_t>;
    /// Called after all rows of a block, with its sites.
    using EachBlock = std::function<void(std::span<const std::uint32_t> sites)>;

    /// The same places as they lie together in memory: gone through so, they take half the time.
    [[nodiscard]] std::vector<std::uint32_t> put_together(std::span<const std::uint32_t> places) const;

    /// Goes through the sites in use that a road is near, in file order. \param may which sites count, of those in use;
    /// empty: all \throws Stopped
    void each(std::span<const std::uint32_t> places, const std::vector<bool>& may, const EachRow& row,
              const EachBlock& block, const Task& task) const;
    void each(std::span<const std::uint32_t> places, const std::vector<bool>& may, const Bounds& bounds,
              const EachRow& row, const EachBlock& block, const Task& task) const;

    /// What searches are prepared with, under the plan's closures; null where they are not.
    [[nodiscard]] const Prepared* prepared() const { return searching_.prepared(); }

private:
    /// What a search from some sites leaves.
    struct Block {
        std::vector<std::uint32_t> sites;
        routing::FewToAll labels;
    };
    /// How each place is come to from the ends of its road, its leg off the road included; from nowhere if it is not
    /// attached.
    [[nodiscard]] std::vector<routing::TwoWaysOn> ways_to(std::span<const std::uint32_t> places) const;
    void search(Block& block, const Task& task) const;
    void look(const Block& block, std::span<const std::uint32_t> places, std::span<const routing::TwoWaysOn> ways,
              const Bounds& bounds, const EachRow& row, const Task& task) const;

    Ready ready_;
    std::shared_ptr<const CostedNetwork> costed_;
    const std::vector<SiteOutcome>& sites_;
    Searching searching_;
    std::vector<bool> special_;  ///< places that more than the labels at their road's ends decide about
};

/// Places on roads with closures or forbidden paths, and those on junctions where turning is not free.
std::vector<bool> special_places(const Ready& ready, const CostedNetwork& costed);

}  // namespace otoro::service
