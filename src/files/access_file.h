#pragma once
/// \file
/// Access by floating catchments, as tables.
#include <string>

#include "service/floating_catchment.h"

namespace otoro::files {

/// A row a demand place, in file order: `demand_id, weight, access`; places of a site a unit of weight.
std::string access_csv(const service::Ready& ready, const service::Outcome& outcome,
                       const service::FloatingCatchment& access);
/// A row a site in use: `site_id, name, supply, demand, a_head`.
std::string supply_csv(const service::Outcome& outcome, const service::FloatingCatchment& access);

}  // namespace otoro::files
