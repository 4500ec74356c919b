#include "service/travel_table.h"

#include "service/access_legs.h"
#include "service/searching.h"

namespace otoro::service {

void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task) {
    const auto sites = attach_sites(ready, plan);
    const auto costed = costed_under(ready, plan, task);
    const Searching searching(ready, costed);
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        if (!sites[i].planned.in_use) continue;
        task.at("from each site to each place", static_cast<double>(i) / static_cast<double>(sites.size()));
        std::vector<routing::Seed> seeds;
        SitesByLink on_link;
        if (const auto& a = sites[i].attachment) {
            add_seeds(ready, *costed, *a, i, seeds);
            on_link[a->link.value()].push_back(i);
        }
        const Labels labels = searching.labels(seeds, task).first;
        const auto places = places_of(ready, *costed, sites, on_link, labels);
        task.check();
        row(SiteIndex(i), places);
    }
}

}  // namespace otoro::service
