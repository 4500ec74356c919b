#pragma once
/// \file
/// What the steps of a standard need to know that the curve of the whole answer does not tell.
#include "service/assign.h"

namespace otoro::service {

/// A curve for each scope of the question's standard. Linear in the places for each, and a sort; where a second site is
/// asked for, a search for the few nearest besides. \pre the answer is summed up and has its traces \throws Stopped
std::vector<StepCurve> step_curves(const Ready& ready, const Outcome& outcome, const Task& task);

/// One a place: whether it is in the zone of that name, or else of the group; nothing if there is neither. Zones of one
/// name count together. Linear.
std::optional<std::vector<bool>> in_part(const Ready& ready, const std::string& part);

/// Of the places that count, what takes how long, or how far, until so many sites are there. \param few as many nearest
/// sites of each place; not looked at where one is enough
StepCurve curve_among(const Outcome& outcome, std::uint32_t needed, const std::vector<bool>& counts,
                      const JourneyTable& few);

}  // namespace otoro::service
