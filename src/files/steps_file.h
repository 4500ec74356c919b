#pragma once
/// \file
/// A standard of several steps, judged, written out.
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "service/steps.h"

namespace otoro::files {

/// The same standard when all speeds are another share of what they are.
struct PacedSteps {
    Share speed;
    service::StepsResult result;
};

/// One row for each step of all places, of each zone and of each group, those with most people missed first:
/// `by, name, step, share_wanted_percent, limit, sites_needed, places, weight, places_within, weight_within,
/// share_percent, met, weight_missed, met_at, expected_weight`. `limit` and `met_at` are minutes or metres.
std::string steps_csv(const service::StepsResult& result);
nlohmann::json steps_json(const service::Ready& ready, const service::StepsAsked& asked,
                          const service::StepsResult& result, const std::vector<PacedSteps>& paced);
std::string steps_summary(const service::Ready& ready, const service::StepsAsked& asked,
                          const service::StepsResult& result, const std::vector<PacedSteps>& paced);

}  // namespace otoro::files
