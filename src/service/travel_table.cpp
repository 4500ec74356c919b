#include "service/travel_table.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "service/offers.h"

namespace otoro::service {

void each_site_to_all(const Ready& ready, const Plan& plan, const SiteRow& row, const Task& task) {
    Question unlimited = ready.question;
    unlimited.limit.reset();
    Ready asked = ready;
    asked.question = unlimited;
    Outcome today;  // sites attached, roads under the plan
    today.plan = plan;
    today.sites = attach_sites(asked, plan);
    today.ground = ground_under(asked, plan);
    const Searching searching(asked, today.ground);
    const auto& demand = *ready.inputs.demand;
    const bool outward = ready.question.towards == Towards::demand;
    std::vector<PlaceOutcome> places(demand.count());
    for (std::uint32_t i = 0; i < today.sites.size(); ++i) {
        if (!today.sites[i].planned.in_use) continue;
        task.at("from each site to each place", static_cast<double>(i) / static_cast<double>(today.sites.size()));
        std::vector<routing::Seed> seeds;
        SitesByLink on_link;
        if (const auto& a = today.sites[i].attachment) {
            add_seeds(asked, *today.ground, *a, i, seeds);
            on_link[a->link.value()].push_back(i);
        }
        const Labels labels = searching.labels(seeds, task).first;
        const Searched searched(asked, *today.ground, today.sites, on_link, [&](routing::LinkWay way) { return labels.at(*ready.inputs.network, way, outward); });
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, demand.count(), 1024), [&](const auto& range) {
            for (std::uint32_t k = range.begin(); k != range.end(); ++k) places[k] = searched.outcome_at(demand.places[k].position, (*ready.attached)[k]);
        });
        row(SiteIndex(i), places);
    }
}

}  // namespace otoro::service
