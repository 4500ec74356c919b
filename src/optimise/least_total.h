#pragma once
/// \file
/// So many columns chosen that all rows together have as little travel as can be.
///
/// \par Problem
/// Every row goes to the cheapest column that is in, and costs its amount times that: the p-median problem (Hakimi
/// 1964), NP-hard. Rows that no column in reaches come first: their amounts are as little as can be, and of the sets
/// that leave no more the one with the least travel is wanted. Rows that no column reaches are no part of it.
///
/// \par Method
/// `choice_search.h` over `travel_rows.h`. Where rows may be left out, it is proven first how little that can be
/// (`most_cover.h`); a row that is left out then costs so much that no more are.
///
/// \par Example
/// \code
///   // Three rows in a line at 0, 1 and 5; columns at 0 and 5.
///   Pairs pairs;  pairs.add_row({{{0, 0}, {1, 5}}});  pairs.add_row({{{0, 1}, {1, 4}}});  pairs.add_row({{{0, 5}, {1,
///   0}}}); least_total({std::array{1L, 1L, 1L}, pairs}, {.columns = 2, .choose = 1}, {}, task).chosen.value == 6;  //
///   at 0
/// \endcode
#include "geo/task.h"
#include "optimise/allocation.h"
#include "optimise/choice.h"

namespace otoro::optimise {

struct TotalAsked {
    std::span<const std::int64_t> amounts;  ///< one a row, none negative; their sum must be held
    const Pairs& pairs;
    Columns start = {};
};

struct LeastTotal {
    Chosen chosen;               ///< its value and bound: amounts times costs, of rows that are reached
    Wide not_reached = 0;        ///< amounts that some column reaches, but none of those in
    Wide least_not_reached = 0;  ///< no set leaves less
};

/// \throws Stopped
LeastTotal least_total(const TotalAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits, const Task& task);

/// The least that a set must leave without any column, and such a set.
struct LeastLeft {
    Wide amount = 0;
    Wide least = 0;  ///< proven; the same unless it was left off
    Columns columns;
    bool any = true;
    bool left_off = false;
};
LeastLeft least_left(std::span<const std::int64_t> amounts, const Pairs& pairs, const ChoiceRules& rules,
                     const ChoiceLimits& limits, const Task& task);

}  // namespace otoro::optimise
