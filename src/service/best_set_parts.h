#pragma once
/// \file
/// What choosing sets of sites holds, for the files that it is made of.
#include <memory>
#include <optional>
#include <utility>
#include <vector>

#include "optimise/allocation.h"
#include "optimise/covers.h"
#include "service/best_set.h"
#include "service/best_set_rules.h"
#include "service/searching.h"
#include "service/site_blocks.h"
#include "service/travel_table.h"

namespace otoro::service {

/// Columns are the sites in question that a road is near, in file order.
struct SetChooser::State {
    std::shared_ptr<const Ready> ready;
    Plan plan;
    std::vector<SiteOutcome> sites;
    std::vector<bool> open;  ///< by site
    std::shared_ptr<const CostedNetwork> costed;
    std::optional<SiteBlocks> blocks;
    std::vector<std::uint32_t> column_of;  ///< by site
    std::vector<SiteIndex> site_of;        ///< by column
    std::vector<std::int64_t> amounts;     ///< by place
    std::vector<std::uint32_t> places;     ///< all, as they lie together in memory
    std::vector<bool> reached;             ///< by place: by some site in question
    // The last table of who is within a limit, and that of costs.
    std::optional<Amount> limit_of_covers;
    optimise::Covers covers;
    std::optional<optimise::Pairs> pairs;

    [[nodiscard]] std::uint32_t columns() const { return static_cast<std::uint32_t>(site_of.size()); }
    [[nodiscard]] bool counts(const ReachableSite& r) const {
        const Question& q = ready->question;
        return !(q.limit || q.own_limits) || outcome_of(q, sites, r).served();
    }
    [[nodiscard]] bool within(const ReachableSite& r, const Amount& limit) const {
        const bool by_time = ready->question.measure() == routing::Measure::time;
        return !is_beyond(Millis(by_time ? r.cost : r.other), Millimetres(by_time ? r.other : r.cost), limit);
    }
    void find_covers(const Amount& limit, const Task& task);
    void find_pairs(const Task& task);
    /// By column, whether it is kept or chosen.
    [[nodiscard]] std::vector<std::uint8_t> columns_in(const BestSet& set) const;
    /// Whom a set loses, of goals without a limit, and what it is worth, the less the better. \param in by column, as
    /// `columns_in` has them
    [[nodiscard]] std::pair<Wide, Wide> worth(const BestSetAsked& asked, const std::vector<std::uint8_t>& in) const;
};

}  // namespace otoro::service
