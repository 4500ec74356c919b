#pragma once
/// \file
/// How each rule of serving is answered: one function a rule, each in a file of its own.
#include "service/assign.h"

namespace otoro::service {

/// Fills in the places of an outcome, and what it leaves for hovering. \pre its question, plan, sites and weights are
/// there. \throws Stopped
void serve(const Nearest& rule, const Ready& ready, Outcome& outcome, const Task& task);
void serve(const SeveralNearest& rule, const Ready& ready, Outcome& outcome, const Task& task);
void serve(const AsCapacityAllows& rule, const Ready& ready, Outcome& outcome, const Task& task);
void serve(const AsRecorded& rule, const Ready& ready, Outcome& outcome, const Task& task);
void serve(const WholeZones& rule, const Ready& ready, Outcome& outcome, const Task& task);
void serve(const ByPairs& rule, const Ready& ready, Outcome& outcome, const Task& task);

/// Capacities with other bounds on how many pairs are given to the optimiser at once, how many sites a place knows at
/// first where they are more, and how many costs are held.
void serve_as_capacity_allows(const AsCapacityAllows& rule, const Ready& ready, Outcome& outcome,
                              std::size_t most_pairs, std::size_t few_at_first, std::size_t most_held,
                              const Task& task);

/// What every rule but `Nearest` begins with: the answer by nearness, kept in `by_nearest`, and its traces.
void serve_nearest_first_of_all(const Ready& ready, Outcome& outcome, const Task& task);

}  // namespace otoro::service
