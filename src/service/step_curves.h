#pragma once
/// \file
/// What the steps of a standard need to know that the curve of the whole answer does not tell.
#include "service/assign.h"

namespace otoro::service {

/// A curve for each scope of the question's standard. Linear in the places for each, and a sort; where a second site is
/// asked for, a search for the few nearest besides. \pre the answer is summed up and has its traces \throws Stopped
std::vector<StepCurve> step_curves(const Ready& ready, const Outcome& outcome, const Task& task);

/// The places of the zone of that name, or else of the group, ascending; nothing if there is neither. Zones of one name
/// count together. Linear.
std::optional<std::vector<std::uint32_t>> places_in(const Ready& ready, const Outcome& outcome,
                                                    const std::string& part);

}  // namespace otoro::service
