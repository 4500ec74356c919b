#pragma once
/// \file
/// The set of columns that is worth most to a goal's rows, and its proof.
///
/// \par Method
/// A set is found greedily and improved by exchanging one column for another as long as that gains (Teitz, Bart 1968;
/// all exchanges are weighed in one pass over the rows, Resende, Werneck 2007). The bound is a Lagrangian one: rows
/// take shares of columns at prices; it is brought down in the few columns instead of the many rows, by planes that
/// touch the goal from above and by their means (`planes.h`), all of them whole numbers, so that the bound is exact.
/// Columns whose choice, or whose absence, would bring the bound below the best set are settled for good. What is left
/// is searched by branch and bound, the likelier branch first; nodes share the planes. Columns that exclude each other,
/// and groups of which some are wanted, are followed up at every node; of the group of which most are wanted the bound
/// knows too.
///
/// \par Exact
/// `Chosen::proven` says that nothing is better. Equal gains are settled by the number of the column. The same on any
/// number of threads, unless it is stopped before it is done.
///
/// \par Cost
/// A step is a pass over the beginnings of the rows (`travel_rows.h`) or over the merged rows (`cover_rows.h`), and
/// some hundred passes over the planes. 100,000 rows by 500 columns: 80 steps to a ten-thousandth, 5 s.
#include "geo/task.h"
#include "optimise/goal_rows.h"

namespace otoro::optimise {

/// \param start a set to begin with, besides what is found greedily; may be empty
/// \returns a `Chosen` with `any` false if no set keeps to the rules \throws Stopped
Chosen best_choice(const GoalRows& rows, const ChoiceRules& rules, const Columns& start, const ChoiceLimits& limits,
                   const Task& task);

/// Whether a set keeps to the rules.
bool keeps_to(const ChoiceRules& rules, const Columns& set);

}  // namespace otoro::optimise
