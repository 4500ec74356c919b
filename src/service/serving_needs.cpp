#include "service/serving_needs.h"

#include <algorithm>

namespace otoro::service {
namespace {

/// Who asks, of what.
struct Asked {
    const places::Demand& demand;
    const places::Sites& sites;
    const places::ZoneSet* zones;
    const places::PairValues* pairs;
};

using Found = std::optional<Missing>;

Found missing_for(const Nearest&, const Asked&) { return std::nullopt; }
Found missing_for(const SeveralNearest&, const Asked&) { return std::nullopt; }

Found missing_for(const AsCapacityAllows& rule, const Asked& asked) {
    const auto& sites = asked.sites.sets();
    const bool any = std::any_of(sites.begin(), sites.end(), [](const auto& set) {
        return std::any_of(set->sites.begin(), set->sites.end(),
                           [](const places::Site& s) { return s.capacity || s.least; });
    });
    if (!any)
        return Missing{"no site has a capacity", "Add the sites again and name the field that has their capacity"};
    const auto& sets = asked.demand.sets();
    if (rule.by_priority &&
        std::all_of(sets.begin(), sets.end(), [](const auto& set) { return set->priority.empty(); }))
        return Missing{"no place has a priority", "Add the demand again and name the field that has its priority"};
    return std::nullopt;
}

Found missing_for(const AsRecorded&, const Asked& asked) {
    const auto& sets = asked.demand.sets();
    if (std::any_of(sets.begin(), sets.end(), [](const auto& set) { return !set->recorded.empty(); }))
        return std::nullopt;
    return Missing{"no place has a recorded site",
                   "Add the demand again and name the field that has the id of each place's site"};
}

Found missing_for(const WholeZones&, const Asked& asked) {
    if (asked.zones != nullptr) return std::nullopt;
    return Missing{"there are no zones", "Add the areas that are to go as one"};
}

Found missing_for(const ByPairs&, const Asked& asked) {
    if (asked.pairs != nullptr) return std::nullopt;
    return Missing{"there is no table of pairs",
                   "Add a table with the ids of places and sites and a value of each pair"};
}

}  // namespace

std::optional<Missing> what_is_missing(const Serving& serving, const places::Demand& demand, const places::Sites& sites,
                                       const places::ZoneSet* zones, const places::PairValues* pairs) {
    if (demand.count() == 0 || sites.count() == 0) return std::nullopt;
    const Asked asked{demand, sites, zones, pairs};
    return std::visit([&](const auto& rule) { return missing_for(rule, asked); }, serving);
}

std::optional<Missing> what_is_missing(const Study& study, const Question& question) {
    return what_is_missing(question.serving, study.demand_of(question), study.sites_of(question),
                           study.zones_of(question).get(), study.pairs ? study.pairs->values.get() : nullptr);
}

}  // namespace otoro::service
