#pragma once
/// \file
/// Plans made of plans.
#include "service/plan.h"

namespace otoro::service {

/// A later change of the same kind to the same site takes the place of the one before.
void put_change(Plan& plan, const SiteChange& change);

/// A plan with all that another one changes besides; where both change one site the other's word counts. Sites that
/// both add under one id at different places stay two: the other's gets an id that is free. Closures that both have
/// count once; notes follow one another.
Plan merged(Plan into, const Plan& other);

}  // namespace otoro::service
