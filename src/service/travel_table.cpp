#include "service/travel_table.h"

#include "service/offers.h"

namespace otoro::service {

void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task) {
    Outcome today;  // sites attached, roads under the plan
    today.plan = plan;
    today.sites = attach_sites(ready, plan);
    today.ground = ground_under(ready, plan, task);
    const Searching searching(ready, today.ground);
    for (std::uint32_t i = 0; i < today.sites.size(); ++i) {
        if (!today.sites[i].planned.in_use) continue;
        task.at("from each site to each place", static_cast<double>(i) / static_cast<double>(today.sites.size()));
        std::vector<routing::Seed> seeds;
        SitesByLink on_link;
        if (const auto& a = today.sites[i].attachment) {
            add_seeds(ready, *today.ground, *a, i, seeds);
            on_link[a->link.value()].push_back(i);
        }
        const Labels labels = searching.labels(seeds, task).first;
        const auto places = places_of(ready, *today.ground, today.sites, on_link, labels);
        task.check();
        row(SiteIndex(i), places);
    }
}

}  // namespace otoro::service
