#pragma once
/// \file
/// What is summed up from the places of an answer.
#include "service/outcome.h"

namespace otoro::service {

/// Fills in totals, loads, curves and statistics. \pre places, sites and weights are there. Linear, and a sort.
void add_up(Outcome& outcome);

}  // namespace otoro::service
