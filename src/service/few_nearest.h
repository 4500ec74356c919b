#pragma once
/// \file
/// The few nearest sites of every place.
///
/// \par Method
/// One search that keeps the few nearest sites of every junction; a place in the middle of a road then merges those of
/// the road's two ends, and the sites on the road itself. If a site is among the few nearest of a place, it is among
/// the few nearest of the end by which one comes.
///
/// \par Exact
/// Costs are those of asking from each site alone, to the unit; ties go to the site first in file order.
///
/// \par Cost
/// About k times a search for the nearest, and 16 k bytes a junction while it runs; or, where that is less, a search
/// for each eight sites (`site_blocks.h`).
#include <memory>
#include <span>
#include <vector>

#include "service/assign.h"
#include "service/journey_table.h"
#include "service/searching.h"

namespace otoro::service {

class FewNearest {
public:
    /// \param sites those under a plan, attached; must outlive this
    FewNearest(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed,
               const std::vector<SiteOutcome>& sites)
        : ready_(ready), costed_(costed), sites_(sites) {}

    /// Up to `k` sites of each of these places, nearest first, however far, but for sites' own limits where those
    /// count; a row a place, in that order; empty for those that are not attached. \param may which sites count, of
    /// those in use; empty: all \throws Stopped
    [[nodiscard]] JourneyTable of(std::span<const std::uint32_t> places, std::size_t k, const std::vector<bool>& may,
                                  const Task& task) const;
    /// The same of those alone that are within the question's limit.
    [[nodiscard]] JourneyTable within_limit(std::span<const std::uint32_t> places, std::size_t k,
                                            const std::vector<bool>& may, const Task& task) const;
    /// Of all places.
    [[nodiscard]] JourneyTable of_all(std::size_t k, const Task& task) const;

    /// By one search that keeps a few at every junction, whatever it costs; own limits are not heeded.
    [[nodiscard]] JourneyTable by_junctions(std::span<const std::uint32_t> places, std::size_t k,
                                            const std::vector<bool>& may, const Task& task) const;
    /// By going through all sites, eight at a time. \param only_within the limit
    [[nodiscard]] JourneyTable by_sites(std::span<const std::uint32_t> places, std::size_t k,
                                        const std::vector<bool>& may, bool only_within, const Task& task) const;

private:
    [[nodiscard]] bool within(const ReachableSite& r) const;
    [[nodiscard]] bool within_own(const ReachableSite& r) const;
    [[nodiscard]] bool counts(std::uint32_t site, const std::vector<bool>& may) const {
        return sites_[site].planned.in_use && sites_[site].attachment && (may.empty() || may[site]);
    }
    const Ready& ready_;
    std::shared_ptr<const CostedNetwork> costed_;
    const std::vector<SiteOutcome>& sites_;
};

}  // namespace otoro::service
