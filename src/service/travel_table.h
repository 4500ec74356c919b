#pragma once
/// \file
/// From every site to every place: the table behind comparisons, one site's row at a time.
///
/// \par Cost
/// Eight sites share a search (`site_blocks.h`), then a look at every place for each. Rows come as they are found, so
/// that a table larger than memory can be written out.
#include <functional>
#include <span>

#include "service/assign.h"

namespace otoro::service {

/// Called with each site in use and what would become of every place if it alone served; must not keep what it is
/// given. A place is `served` if there is a route within the question's limit.
using SiteRow = std::function<void(SiteIndex site, std::span<const PlaceOutcome> places)>;

/// What a place becomes that goes to this site: within the limits, or beyond one.
PlaceOutcome outcome_of(const Question& q, const std::vector<SiteOutcome>& sites, const ReachableSite& r);

/// Rows in the sites' order; those of sites that no road is near have no route to anywhere. \throws Stopped
void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task);

}  // namespace otoro::service
