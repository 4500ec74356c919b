#pragma once
/// Reached ground on the county.
#include <memory>

#include "roads/network.h"

namespace otoro::bench {

/// \param building seconds for reading and building the network
void run_reach(const std::shared_ptr<const roads::Network>& network, double building);

}  // namespace otoro::bench
