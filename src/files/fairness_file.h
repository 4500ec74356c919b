#pragma once
/// \file
/// Whether some fare worse than others, as tables.
#include <string>

#include "service/fairness.h"

namespace otoro::files {

/// All first, then zones and groups with those who miss most first: `by, name, places, weight, weight_within,
/// share_within_percent, weight_missed, mean, best_tenth, worst_tenth, gini, weight_in_worst_tenth, unit`.
std::string fairness_csv(const service::Outcome& outcome, const std::optional<service::Standard>& standard,
                         const service::FairnessAnswer& fair);
/// The Lorenz curve: `weight_percent, travel_percent`.
std::string lorenz_csv(const service::Fairness& fair);
/// "Mean 4.1 min; the worst-served tenth 11.8 min on average, the best 0.4; Gini 0.39." and who misses most.
std::string fairness_words(const service::Outcome& outcome, const service::FairnessAnswer& fair,
                           const std::string& counted);

}  // namespace otoro::files
