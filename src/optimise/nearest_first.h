#pragma once
/// \file
/// Capacities filled in an order: by rank of the row, then by cost.
///
/// \par Problem
/// Of all pairs that could still be made the first is made, and so on: the pair of the lowest rank, of those the
/// cheapest, then of the first column, then of the first row. A row whose column is full goes on to its next. This is
/// the one stable assignment where columns prefer low ranks and little cost, and rows little cost (Gale, Shapley 1962):
/// nobody is at a dearer column while somebody of a higher rank, or farther off, has room at a cheaper one.
///
/// \par Method
/// First turns are sorted at once, later ones wait in a queue: each row's next pair. Rows need not know all their
/// pairs: when the known ones are used up, and it is the row's turn, more are asked for, of columns that still have
/// room. Where rows stay whole, one that does not fit into the room that is left is passed over, and a smaller one may
/// still come in.
///
/// \par Cost
/// A step of the queue for each pair that is looked at.
#include <functional>

#include "geo/task.h"
#include "optimise/allocation.h"
#include "optimise/least_travel.h"

namespace otoro::optimise {

/// The cheapest pairs of some rows, one row of the table each: cheapest first, ties by column, up to `each` of them. A
/// row that gets fewer has no others. \param has_room by column: others need not be named
using AskForPairs =
    std::function<Pairs(std::span<const std::uint32_t> rows, const std::vector<bool>& has_room, std::uint32_t each)>;

/// \param ranks one a row, the lowest first; empty: all the same \param each how many pairs are asked for at first
/// \throws Stopped
Allocation nearest_first(const Demand& demand, std::span<const std::uint32_t> ranks, Splitting splitting,
                         const AskForPairs& ask, std::uint32_t each, const Task& task);

}  // namespace otoro::optimise
