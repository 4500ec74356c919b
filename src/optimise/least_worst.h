#pragma once
/// \file
/// So many columns chosen that the row which has it farthest has it as near as can be.
///
/// \par Problem
/// Every row goes to the cheapest column that is in; the largest of those costs is to be small: the p-centre problem
/// (Hakimi 1964), NP-hard. Rows that no column in reaches come first: their amounts are as little as can be. Rows that
/// no column reaches are no part of it. Of sets that are equal in this, one with little travel is taken.
///
/// \par Method
/// The cost is searched for by halving (Minieka 1970): whether so many columns cover all rows within it is asked of
/// `fewest.h`, or, where rows must be left out, of `most_cover.h`.
#include "optimise/least_total.h"

namespace otoro::optimise {

struct LeastWorst {
    Chosen chosen;               ///< its value and bound: the largest cost of a row that is reached
    Wide not_reached = 0;        ///< amounts that some column reaches, but none of those in
    Wide least_not_reached = 0;  ///< no set leaves less
};

/// \param asked rows of no amount are no part of it \throws Stopped
LeastWorst least_worst(const TotalAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits, const Task& task);

}  // namespace otoro::optimise
