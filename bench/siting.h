#pragma once
/// \file
/// Choosing sites, closing them and laying plans side by side, on the county.
#include <memory>

#include "places/demand.h"
#include "roads/network.h"

namespace otoro::bench {

void run_siting(const std::shared_ptr<const roads::Network>& network,
                const std::shared_ptr<const places::DemandSet>& demand);

}  // namespace otoro::bench
