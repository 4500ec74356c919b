#pragma once
/// \file
/// As few columns as can be where that is no set covering alone: groups that want several.
#include "optimise/fewest.h"

namespace otoro::optimise {

/// The fewest that cover all, where groups want several. Without those groups it is a lower bound, and often the
/// answer; else a set with what the groups miss is an upper bound, and what lies between is searched with
/// `most_cover.h`. \pre no costs, and some group wants several \throws Stopped
Fewest fewest_with_several(const Covers& covers, const ChoiceRules& rules, const FewestLimits& limits,
                           const Task& task);

/// Whether a group wants more than one.
bool wants_several(const ChoiceRules& rules);

}  // namespace otoro::optimise
