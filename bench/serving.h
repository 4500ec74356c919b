#pragma once
/// \file
/// Rules of serving on the county.
#include <memory>
#include <string>

#include "places/demand.h"
#include "roads/network.h"

namespace otoro::bench {

void run_serving(const std::shared_ptr<const roads::Network>& network,
                 const std::shared_ptr<const places::DemandSet>& demand);

}  // namespace otoro::bench
