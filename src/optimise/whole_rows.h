#pragma once
/// \file
/// Rows put together again that a cheapest flow has split.
#include <vector>

#include "geo/task.h"
#include "optimise/allocation.h"

namespace otoro::optimise {

/// Rows at one column each: `at[row]` is a slot of its pairs, or the number of them where it has no room.
///
/// \par Method
/// Rows that stood whole stay; the others go, largest first, to the cheapest column that has room, or to one where
/// another can make room by moving on. Then, as long as it saves, who was moved, or has no room, is taken in, moves to
/// a cheaper column with room, or changes places with another. Not proven to be the best.
///
/// \param at -1 where a row was split \throws Stopped
void make_whole(const Pairs& pairs, const Demand& demand, std::vector<std::int64_t>& at, const Task& task);

}  // namespace otoro::optimise
