#pragma once
/// \file
/// Which site's next places are worth most, where capacities are what keeps people from their nearest.
///
/// \par Method
/// Each site that is full is given so many places more, and the question is answered again; a site with room for any
/// one place is not full, and is not tried.
///
/// \par Cost
/// As many answers as there are full sites.
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// What more places at one site would bring.
struct MoreRoom {
    SiteIndex site;
    Weight more;       ///< how many places
    Weight find_room;  ///< so much more weight finds room anywhere
    Wide saved = 0;    ///< travel less in all, weight times cost as in `CapacityAnswer`; below 0 where more are served
};

/// One for each full site in use, those for whom most find room first, then those that save most, then in file order.
/// \pre the outcome is an answer of `ready` as capacity allows \throws Stopped
std::vector<MoreRoom> worth_of_more_room(const Ready& ready, const Outcome& outcome, Weight more, const Task& task);

}  // namespace otoro::service
