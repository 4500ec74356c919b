#pragma once
/// \file
/// Rows put together again that a cheapest flow has split.
#include <vector>

#include "geo/task.h"
#include "optimise/allocation.h"

namespace otoro::optimise {

/// What the flow says of each column.
struct SplitAnswer {
    std::vector<std::int64_t> prices, loads;
};

/// Rows at one column each: `at[row]` is a slot of its pairs, or the number of them where it has no room.
///
/// \par Method
/// Rows that stood whole stay; the others go, largest first, to that of their columns which lacks most of the load it
/// had, else to the cheapest that has room, or to one where another can make room by moving on. Columns that are short
/// of their least get rows that others can spare. Then, as long as it saves, who was moved, or has no room, is taken
/// in, moves to a cheaper column with room, or changes places with another. Not proven to be the best.
///
/// \param at -1 where a row was split \throws Stopped
void make_whole(const Pairs& pairs, const Demand& demand, const SplitAnswer& split, std::vector<std::int64_t>& at,
                const Task& task);

}  // namespace otoro::optimise
