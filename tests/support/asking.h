#pragma once
/// \file
/// Asking a question of a small town.
#include "service/study.h"
#include "support/town.h"

namespace otoro::test {

/// Everything at 36 km/h: 10 m a second, so 100 m take 10,000 ms.
inline service::Question question_at_36() {
    service::Question q;
    q.demand = {"households"};
    q.sites = {"posts"};
    q.profile = {travel::Mode::drive, Speed::km_per_hour(36)};
    q.standard.reset();
    return q;
}

/// A town's roads as a part of a study.
inline service::RoadsIn roads_of(const Town& town, roads::Preparation preparation = {}) {
    return service::roads_in(std::make_shared<const roads::Lines>(town.lines()), std::move(preparation), {}, Task());
}

/// A study of a town, its households and posts, asked at 36 km/h.
inline service::Study study_of(const Town& town, std::shared_ptr<const places::DemandSet> demand,
                               std::shared_ptr<const places::SiteSet> sites) {
    service::Study s;
    s = with_roads(std::move(s), roads_of(town));
    s = with_demand(std::move(s), {std::move(demand), {}});
    s = with_sites(std::move(s), {std::move(sites), {}});
    s.question() = question_at_36();
    return s;
}

struct Answered {
    std::shared_ptr<const service::Ready> ready;
    service::Outcome outcome;
    [[nodiscard]] const service::PlaceOutcome& place(std::size_t i) const { return outcome.places[i]; }
    [[nodiscard]] const std::string& site_of(std::size_t i) const {
        return outcome.sites[outcome.places[i].site->value()].planned.site.id;
    }
};

inline Answered ask(const Town& town, std::shared_ptr<const places::DemandSet> demand,
                    std::shared_ptr<const places::SiteSet> sites, const service::Question& q,
                    const service::Plan& plan = {}) {
    const auto ready = prepare({town.network(), std::move(demand), std::move(sites)}, q, nullptr, Task());
    return {ready, answer(*ready, plan, Task())};
}

}  // namespace otoro::test
