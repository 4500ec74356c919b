#pragma once
/// \file
/// From every site to every place: the table behind comparisons, one site's row at a time.
///
/// \par Cost
/// A search a site, plain or by a sweep where searches are prepared, and a look at every place. Rows come as they are
/// found, so that a table larger than memory can be written out.
#include <functional>
#include <span>

#include "service/assign.h"

namespace otoro::service {

/// Called with each site in use and what would become of every place if it alone served; must not keep what it is
/// given. A place is `served` if there is a route within the question's limit.
using SiteRow = std::function<void(SiteIndex site, std::span<const PlaceOutcome> places)>;

/// Rows in the sites' order; those of sites that no road is near have no route to anywhere. \throws Stopped
void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task);

}  // namespace otoro::service
