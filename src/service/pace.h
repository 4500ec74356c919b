#pragma once
/// \file
/// The same question when everybody is slower or faster on every road.
#include "service/assign.h"

namespace otoro::service {

/// All speeds at this share of what they are: 90 % is slower, 110 % faster. Times on roads and ferries and of legs off
/// the road change; what turning costs does not. Whole milliseconds a road, like all times. \pre the share is above 0
std::shared_ptr<const Ready> at_pace(const Ready& ready, Share speed, const Task& task);

}  // namespace otoro::service
