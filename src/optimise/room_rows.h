#pragma once
/// \file
/// Rows that columns cover, where a column takes only so much.
///
/// \par Problem
/// Of a set of columns as much of the rows' amounts is taken as can be, each by columns that cover it, none more than
/// it has room for: a largest flow. An amount may be parted among columns. The capacitated maximal covering location
/// problem (Current, Storbeck 1988) chooses the set.
///
/// \par Method
/// Largest flows by shortest ways (Dinic 1970). What is proven where columns are chosen in part comes from the smallest
/// cut of that flow: whatever is chosen, no more is taken than the amounts on one side of it, and of each column the
/// less of its room and the amounts on the other side that it covers.
///
/// \par Cost
/// Rows of one list are merged. An exchange is weighed by a flow that goes on from another: as many as columns times
/// members. For tens of columns over thousands of lists; of more it takes its time, and can be stopped.
#include "geo/task.h"
#include "optimise/covers.h"
#include "optimise/goal_rows.h"

namespace otoro::optimise {

class RoomRows : public GoalRows {
public:
    /// \param room one a column; none below nothing \param task by which flows are stopped; must outlive this
    RoomRows(std::span<const std::int64_t> amounts, const Covers& covers, std::span<const std::int64_t> room,
             const ChoiceRules& rules, const Task& task);

    [[nodiscard]] Wide value_of(const std::vector<std::uint8_t>& in) const override;
    void exchanges(std::span<const std::uint32_t> set, Exchanges& out) const override;
    void slope(const std::vector<double>& shares, double width, Slope& out) const override;
    [[nodiscard]] double scale() const override { return static_cast<double>(all_); }
    [[nodiscard]] Wide grain() const override { return grain_; }

private:
    friend class RoomFlow;
    const Task& task_;
    std::uint32_t n_;
    std::vector<std::int64_t> amounts_, room_;
    std::vector<std::size_t> first_{0};
    std::vector<std::uint32_t> columns_;         ///< entry by entry, row after row
    std::vector<std::size_t> column_first_;      ///< entries of a column
    std::vector<std::uint32_t> column_entries_;  ///< numbers of entries
    std::vector<std::uint32_t> row_of_entry_;
    std::vector<std::uint8_t> kept_;
    Wide all_ = 0;
    Wide grain_ = 1;
};

/// \param room how much each column takes, none below nothing \param start a set to begin with \throws Stopped
Chosen most_cover_with_room(std::span<const std::int64_t> amounts, const Covers& covers,
                            std::span<const std::int64_t> room, const ChoiceRules& rules, const Columns& start,
                            const ChoiceLimits& limits, const Task& task);

}  // namespace otoro::optimise
