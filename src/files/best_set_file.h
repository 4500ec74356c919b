#pragma once
/// \file
/// The best set of sites, written: as JSON for programs, as tables, in plain words.
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "service/more_sets.h"

namespace otoro::files {

/// `goal`, `value`, `bound`, `proven`, `gap_percent`, `sites` (`id`, `name`, `set`, `kept`), `unreachable` (places that
/// no site in question reaches), `bring_nothing` (how many more might be chosen, to no use), and what else is known.
/// Value and bound: weight within; weight times metres or minutes over places that can be reached; the largest metres
/// or minutes over those; the number of sites.
nlohmann::json best_set_json(const service::Ready& ready, const std::vector<service::SiteOutcome>& sites,
                             const service::BestSetAsked& asked, const service::BestSet& set);

/// One row a site that is open in the end: `site_id,name,set,state,kept,cost,lon,lat`.
std::string best_set_csv(const std::vector<service::SiteOutcome>& sites, const service::BestSet& set);

/// The price of every step, one row a number of sites: `choose,sites,value,bound,gap_percent,proven,chosen`.
std::string best_set_curve_csv(const std::vector<service::SiteOutcome>& sites, const service::StepPrices& steps);

/// What was asked, what is best and how sure that is, in plain words.
std::string best_set_summary(const service::Ready& ready, const std::vector<service::SiteOutcome>& sites,
                             const service::BestSetAsked& asked, const service::BestSet& set);
/// Sets that are nearly as good: `complete`, and of each of `sets` `sites` (ids chosen), `value`, `worse_percent`.
nlohmann::json near_sets_json(const std::vector<service::SiteOutcome>& sites, const service::BestSet& best,
                              const service::NearSets& near);
/// The sites that are chosen in any variant: `id`, `times`, and `of` how many; and which variants there are.
nlohmann::json how_sure_json(const std::vector<service::SiteOutcome>& sites, const service::HowSure& sure);
/// The same in plain words, a line each.
std::string near_sets_words(const std::vector<service::SiteOutcome>& sites, const service::BestSet& best,
                            const service::NearSets& near, const std::string& counted);
std::string how_sure_words(const std::vector<service::SiteOutcome>& sites, const service::HowSure& sure,
                           const std::string& counted);
/// "no other set is as good", "at least 20 others are as good".
std::string as_good_words(const service::HowSure& sure);
/// "1,040 residents at best, 1,000 residents with these (3.85 % worse)".
std::string loss_words(const service::Variant& variant, const std::string& counted);
/// "Birch, Cedar", in the order of the sites.
std::string chosen_names(const std::vector<service::SiteOutcome>& sites, const service::BestSet& set);

/// "4 are enough: 8 more bring nothing". \pre some bring nothing
std::string enough_words(const service::BestSet& set, const service::BestSetAsked& asked);

/// How sure it is: "proven: no set is better", "no set has more than 1,240 residents (0.3 % more)".
std::string bound_words(const service::BestSet& set, const std::string& counted);

}  // namespace otoro::files
