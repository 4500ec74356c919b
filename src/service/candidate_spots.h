#pragma once
/// \file
/// Candidates where nobody has named any: on a grid, at every junction, at every demand place.
#include <string>

#include "geo/task.h"
#include "places/joined.h"
#include "roads/network.h"

namespace otoro::service {

/// More are refused: nobody could choose among them.
inline constexpr std::size_t kMostSpots = 200'000;

/// Every `spacing` in both directions over the ground that the demand takes up, row by row from the south-west; spots
/// that no road is near serve nobody. Their ids are `grid-1`, `grid-2`, ... \throws InputError if there are too many or
/// the demand stands nowhere
places::SiteSet grid_candidates(const places::Demand& demand, Millimetres spacing);

/// Where three road ends or more meet, in the order of the network's nodes: `junction-1`, ... \throws InputError if
/// there are too many or none
places::SiteSet junction_candidates(const roads::Network& network);

/// Where demand stands, each spot once, in file order: `at-` and the id of the first place there. \throws InputError if
/// there are too many or the demand stands nowhere
places::SiteSet demand_candidates(const places::Demand& demand);

}  // namespace otoro::service
