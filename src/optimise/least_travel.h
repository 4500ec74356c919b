#pragma once
/// \file
/// Capacities with the least travel in all.
///
/// \par Problem
/// Rows are given to columns that have only so much room, so that as much as possible finds room; of all ways to do
/// that, columns are as little short of their least as can be; and of those, the sum of amounts times costs is the
/// least: the transportation problem, a minimum-cost flow.
///
/// \par Method
/// Successive shortest paths (Jewell 1958; Edmonds, Karp 1972), on a graph of the columns alone. Every row starts at
/// its cheapest column, whatever its room. From one column to another leads an arc that costs what the row would cost
/// more that is cheapest to move; a heap for each two columns knows it. What is too much somewhere goes along the
/// cheapest path to where there is room, each row on it one step on. Prices of columns keep arcs from being negative,
/// and prove at the end that nothing is cheaper. Having no room is a column too, dearer than any path. Then columns
/// that are short of their least draw, along the cheapest path, what others can spare.
///
/// \par Exact
/// Where rows may be split, or all have one size, the total is the least there is (`LeastTravel::proven`). Where rows
/// differ and must stay whole (a generalised assignment problem, NP-hard), the bound is that of splitting them; rows
/// that were split are put together and exchanged, and of small tables the best is found and proven (`whole_rows.h`).
/// Equal costs are settled by column and row, so that the same table gives the same answer; where rows differ and stay
/// whole, they are settled by what rows are, so that their order decides nothing but which of two alike goes where.
///
/// \par Cost
/// A path for every row that is moved, each a Dijkstra over the columns that have rows in common; a heap entry for each
/// pair of the table.
///
/// \par Example
/// \code
///   // Two rows of 1 that both cost least at column 0, which has room for one: the one that loses less gives way.
///   Pairs pairs;
///   pairs.add_row(std::array{Pair{0, 5}, Pair{1, 9}});
///   pairs.add_row(std::array{Pair{0, 6}, Pair{1, 7}});
///   least_travel(pairs, {std::array{1L, 1L}, std::array{1L, 1L}}, Splitting::allowed, task).allocation.total == 12;
/// \endcode
#include <vector>

#include "geo/task.h"
#include "optimise/allocation.h"

namespace otoro::optimise {

enum class Splitting : std::uint8_t { allowed, whole_rows };

/// What the answer says about pairs that were not in the table: `cost + price` of a column less than a row's own
/// `cost + price` would make the total less.
struct LeastTravel {
    Allocation allocation;
    std::int64_t least_left_over = 0;  ///< no allocation leaves less over
    std::int64_t least_short = 0;      ///< none that leaves as little over is less short of what columns are to have
    Wide bound = 0;                    ///< none that leaves as little, and is as little short, costs less
    /// What a unit of room at each column is worth, in units of cost; 0 where there is room left, and less than that
    /// where a unit less of its least would save something.
    std::vector<std::int64_t> prices;
    /// What a unit costs that finds no room, and the smaller one that a column is short of, when prices are compared;
    /// more than any path.
    std::int64_t no_room = 0, short_of_least = 0;
    /// Whatever the pairs: rows at their least priced column come to no more than `objective + worth_of_room`. The
    /// bound with what is left over and short at its cost; what all room is worth, less what the leasts cost.
    Wide objective = 0, worth_of_room = 0;

    bool best = false;  ///< of the pairs in the table no answer is better, whatever the bounds say
    /// Whether nothing is better, by the bounds.
    [[nodiscard]] bool proven() const {
        return allocation.left_over == least_left_over && allocation.short_of_least == least_short &&
               allocation.total == bound;
    }
};

/// \pre the table's columns are among those with room \throws Stopped
LeastTravel least_travel(const Pairs& pairs, const Demand& demand, Splitting splitting, const Task& task);

}  // namespace otoro::optimise
