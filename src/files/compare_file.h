#pragma once
/// \file
/// Plans side by side, written as tables.
#include <string>
#include <vector>

#include "service/compare.h"

namespace otoro::files {

/// One row a question and plan: `question, plan, share_percent, share_wanted_percent, limit, met,
/// change_percent_points, mean, median, p90, worst, unit, sites_open, cost, served_weight, whole_weight`. The change is
/// against the first plan of the question; `limit` is in minutes or metres, the statistics in `unit` (min or km).
std::string figures_csv(const std::vector<service::PlanFigures>& all);

/// One row a place that differs: `demand_id, weight, change, changes_site, site_before, site_after, before, after,
/// farther_by, unit, zone, group`.
std::string differences_csv(const service::Ready& ready, const service::Outcome& before, const service::Outcome& after,
                            const std::vector<service::PlaceDifference>& all);

/// One row for all, for each zone and for each group: how many are nearer, farther, newly within, newly beyond, change
/// their site, and what travel is saved and added.
std::string difference_sums_csv(const service::Ready& ready, const service::Outcome& outcome,
                                const std::vector<service::PlaceDifference>& all);

/// "Quay against Today: 410 residents newly within, 0 newly beyond; 1,204 nearer, 0 farther; 380 change their site."
std::string differences_words(const service::Outcome& before, const service::Outcome& after,
                              const service::DifferenceSums& sums, const std::string& counted);

}  // namespace otoro::files
