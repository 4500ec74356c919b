/// Each place to the site that its record names.
#include <numeric>
#include <unordered_map>

#include "service/serve.h"
#include "service/site_blocks.h"
#include "service/travel_table.h"

namespace otoro::service {

std::vector<std::optional<SiteIndex>> recorded_sites(const Ready& ready, const std::vector<SiteOutcome>& sites) {
    std::unordered_map<std::string, SiteIndex> by_id;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use) by_id.try_emplace(sites[i].planned.site.id, i);
    std::vector<std::optional<SiteIndex>> out;
    out.reserve(ready.inputs.demand.count());
    for (const auto& set : ready.inputs.demand.sets()) {
        std::vector<std::optional<SiteIndex>> of_value;
        for (const std::string& value : set->recorded.values()) {
            const auto known = value.empty() ? by_id.end() : by_id.find(value);
            of_value.push_back(known == by_id.end() ? std::nullopt : std::optional(known->second));
        }
        for (std::uint32_t i = 0; i < set->count(); ++i)
            out.push_back(set->recorded.empty() ? std::nullopt : of_value[set->recorded.value_of(i)]);
    }
    return out;
}

void serve(const AsRecorded&, const Ready& ready, Outcome& o, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    const auto recorded = recorded_sites(ready, o.sites);
    for (std::size_t i = 0; i < o.places.size(); ++i) {
        const Status by_nearest = o.places[i].status;
        if (by_nearest == Status::bad_location || by_nearest == Status::no_road_near) continue;
        o.places[i] = {};
        o.places[i].status = recorded[i] ? Status::cut_off : Status::not_recorded;
    }
    std::vector<std::uint32_t> all(o.places.size());
    std::iota(all.begin(), all.end(), 0U);
    SiteBlocks(ready, o.traces->costed, o.sites, task)
        .each(
            all, {},
            [&](std::size_t i, std::span<const ReachableSite> found) {
                for (const ReachableSite& r : found)
                    if (recorded[i] == SiteIndex(r.site)) o.places[i] = outcome_of(ready.question, o.sites, r);
            },
            [](std::span<const std::uint32_t>) {}, task);
}

}  // namespace otoro::service
