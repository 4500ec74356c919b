#pragma once
/// \file
/// Rows that stay whole, where a cheapest flow would split them.
///
/// \par Problem
/// The generalised assignment problem, with leasts: as little as can be left over; then columns as little short of
/// their least as can be; then the least travel. NP-hard already in the first.
///
/// \par Method
/// Two beginnings: the flow's, where rows that it split go, largest first, to that of their columns that lacks most of
/// the load it had there; and, where that leaves more over or columns shorter than the flow, largest rows first to
/// the column that lacks most of its least. From there chains of one or two moves (a row to another column; into the
/// place of a second one, which changes places with it, moves on, or is left over), as long as they make the answer
/// better. Of small tables every division is looked at, bounded by the flow of what is not yet fixed (Land, Doig 1960;
/// Ross, Soland 1975): what comes out is the best there is.
///
/// \par Cost
/// Of large tables only rows that the flow split or left over, or that had to move for them, begin chains. A chain is
/// looked at only while it may be cheaper than what is known; where somebody is left over, or a column short, dearer
/// ones are too. So many are looked at in all: work is counted, not timed, so that the answer is the same everywhere.
#include <tuple>
#include <vector>

#include "geo/task.h"
#include "optimise/allocation.h"

namespace otoro::optimise {

/// What the flow says of each column.
struct SplitAnswer {
    std::vector<std::int64_t> prices, loads;
};

/// In the order in which answers are compared.
struct Goals {
    std::int64_t left_over = 0, short_of_least = 0;
    Wide total = 0;
    bool operator==(const Goals&) const = default;
    bool operator<(const Goals& o) const {
        return std::tie(left_over, short_of_least, total) < std::tie(o.left_over, o.short_of_least, o.total);
    }
};

/// Rows at one column each: `at[row]` is a slot of its pairs, or the number of them where it is left over.
/// \pre each row's cheapest pairs come first \param at -1 where a row was split \param bound what the flow comes to
/// \throws Stopped
void make_whole(const Pairs& pairs, const Demand& demand, const SplitAnswer& split, const Goals& bound,
                std::vector<std::int64_t>& at, const Task& task);

/// Looks for a better one until none is left, or so much work is done. \param at an answer; it becomes the best
/// \returns whether it is proven to be the best \throws Stopped
bool search_best_whole(const Pairs& pairs, const Demand& demand, std::vector<std::int64_t>& at, const Task& task,
                       std::int64_t most_work = 1'000'000);

/// What an answer comes to.
Goals goals_of(const Pairs& pairs, const Demand& demand, const std::vector<std::int64_t>& at);

}  // namespace otoro::optimise
