#pragma once
/// \file
/// Candidates ranked alone, as a table.
#include <string>

#include "service/ranking.h"

namespace otoro::files {

/// A row a candidate, best first: `rank, site_id, name, score, places_newly_within, weight_newly_within,
/// mean, worst, unit, load, cost, share_within_percent, met, lon, lat`.
std::string ranking_csv(const service::Outcome& base, const std::vector<service::RankedCandidate>& ranked);

}  // namespace otoro::files
