#include "service/study.h"

#include <algorithm>
#include <type_traits>

namespace otoro::service {
namespace {

template <class In>
const In* find_set(const std::vector<In>& all, const std::string& name) {
    const auto at = std::find_if(all.begin(), all.end(), [&](const In& in) { return in.set->name == name; });
    return at == all.end() ? nullptr : &*at;
}

template <class In>
void put(std::vector<In>& all, In in) {
    const auto at = std::find_if(all.begin(), all.end(), [&](const In& o) { return o.set->name == in.set->name; });
    if (at == all.end())
        all.push_back(std::move(in));
    else
        *at = std::move(in);
}

}  // namespace

const DemandIn* Study::find_demand(const std::string& set) const { return find_set(demand, set); }
const SitesIn* Study::find_sites(const std::string& set) const { return find_set(sites, set); }

const Plan* Study::find_plan(const std::string& plan) const {
    const auto at = std::find_if(plans.begin(), plans.end(), [&](const Plan& p) { return p.name == plan; });
    return at == plans.end() ? nullptr : &*at;
}

std::optional<Inputs> Study::inputs() const {
    const auto* d = find_demand(question.demand);
    const auto* s = find_sites(question.sites);
    if (!roads || !d || !s) return std::nullopt;
    return Inputs{roads->network, d->set, s->set};
}

std::string free_name(const std::string& wanted, const std::vector<std::string>& taken) {
    std::string name = wanted;
    for (int i = 2; std::find(taken.begin(), taken.end(), name) != taken.end(); ++i)
        name = wanted + " " + std::to_string(i);
    return name;
}

RoadsIn roads_in(std::shared_ptr<const roads::Lines> lines, roads::Preparation preparation, Origin origin,
                 const Task& task) {
    auto network = std::make_shared<const roads::Network>(roads::prepare(lines, preparation, task));
    return {std::move(lines), std::move(preparation), std::move(network), std::move(origin)};
}

Study with_roads(Study study, RoadsIn roads) {
    study.roads = std::move(roads);
    return study;
}

Study with_demand(Study study, DemandIn demand) {
    places::check_weights(*demand.set);
    if (!study.find_demand(study.question.demand)) study.question.demand = demand.set->name;
    put(study.demand, std::move(demand));
    return study;
}

Study with_sites(Study study, SitesIn sites) {
    if (!study.find_sites(study.question.sites)) study.question.sites = sites.set->name;
    put(study.sites, std::move(sites));
    return study;
}

namespace {

template <class In>
In under_free_name(In in, const std::vector<std::string>& taken) {
    const std::string name = free_name(in.set->name, taken);
    if (name == in.set->name) return in;
    auto set = std::make_shared<std::remove_const_t<typename decltype(in.set)::element_type>>(*in.set);
    set->name = name;
    in.set = std::move(set);
    return in;
}

}  // namespace

DemandIn renamed(DemandIn in, const std::vector<std::string>& taken) { return under_free_name(std::move(in), taken); }
SitesIn renamed(SitesIn in, const std::vector<std::string>& taken) { return under_free_name(std::move(in), taken); }

std::vector<std::string> set_names(const Study& study, SetKind kind) {
    std::vector<std::string> out;
    if (kind == SetKind::demand)
        for (const auto& d : study.demand) out.push_back(d.set->name);
    if (kind == SetKind::sites)
        for (const auto& s : study.sites) out.push_back(s.set->name);
    return out;
}

SitesIn sites_from(const DemandIn& demand) {
    auto set = std::make_shared<places::SiteSet>();
    set->name = demand.set->name;
    set->attaching = demand.set->attaching;
    for (const auto& p : demand.set->places)
        set->sites.push_back({p.id, p.id, p.position, places::SiteState::open, std::nullopt});
    return {std::move(set), demand.origin};
}

DemandIn demand_from(const SitesIn& sites) {
    auto set = std::make_shared<places::DemandSet>();
    set->name = sites.set->name;
    set->attaching = sites.set->attaching;
    for (const auto& x : sites.set->sites) set->places.push_back({x.id, x.position, Weight::one()});
    return {std::move(set), sites.origin};
}

Study with_place(Study study, const std::string& demand_set, geo::LonLat at, Weight weight) {
    const auto* known = study.find_demand(demand_set);
    auto set = known ? std::make_shared<places::DemandSet>(*known->set) : std::make_shared<places::DemandSet>();
    set->name = demand_set;
    std::vector<std::string> taken;
    for (const auto& p : set->places) taken.push_back(p.id);
    std::sort(taken.begin(), taken.end());
    std::string id;
    for (std::size_t n = set->places.size() + 1;; ++n) {
        id = "drawn " + std::to_string(n);
        if (!std::binary_search(taken.begin(), taken.end(), id)) break;
    }
    set->places.push_back({id, at, weight});
    if (!set->attaching.road_names.empty()) set->attaching.road_names.emplace_back();
    Origin origin = known ? known->origin : Origin{"drawn by hand", "", "", {}, "", "", "", {}};
    return with_demand(std::move(study), {std::move(set), std::move(origin)});
}

}  // namespace otoro::service
