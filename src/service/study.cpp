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

/// Those of the sets that are named, in the order of the names.
template <class Set, class In>
std::vector<std::shared_ptr<const Set>> sets_named(const std::vector<In>& all, const std::vector<std::string>& names) {
    std::vector<std::shared_ptr<const Set>> out;
    for (const auto& name : names)
        if (const In* in = find_set(all, name)) out.push_back(in->set);
    return out;
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

const ZonesIn* Study::find_zones(const std::string& set) const { return find_set(zones, set); }

const Question* Study::find_question(const std::string& question) const {
    const auto at =
        std::find_if(questions.begin(), questions.end(), [&](const Question& q) { return q.name == question; });
    return at == questions.end() ? nullptr : &*at;
}

places::Demand Study::demand_of(const Question& question) const {
    return places::Demand(sets_named<places::DemandSet>(demand, question.demand));
}

places::Sites Study::sites_of(const Question& question) const {
    return places::Sites(sets_named<places::SiteSet>(sites, question.sites));
}

std::shared_ptr<const places::ZoneSet> Study::zones_of(const Question& question) const {
    if (const auto* named = find_zones(question.zones)) return named->set;
    return zones.empty() ? nullptr : zones.front().set;
}

const Plan* Study::find_plan(const std::string& plan) const {
    const auto at = std::find_if(plans.begin(), plans.end(), [&](const Plan& p) { return p.name == plan; });
    return at == plans.end() ? nullptr : &*at;
}

std::optional<Inputs> Study::inputs(const Question& question) const {
    auto asked = demand_of(question);
    auto serving = sites_of(question);
    if (!roads || asked.sets().empty() || serving.sets().empty() || asked.sets().size() != question.demand.size() ||
        serving.sets().size() != question.sites.size())
        return std::nullopt;
    return Inputs{roads->network, std::move(asked), std::move(serving), zones_of(question),
                  pairs ? pairs->values : nullptr};
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
    for (auto& q : study.questions)
        if (study.demand_of(q).sets().empty()) q.demand = {demand.set->name};
    put(study.demand, std::move(demand));
    return study;
}

Study with_sites(Study study, SitesIn sites) {
    for (auto& q : study.questions)
        if (study.sites_of(q).sets().empty()) q.sites = {sites.set->name};
    put(study.sites, std::move(sites));
    return study;
}

Study with_zones(Study study, ZonesIn zones) {
    put(study.zones, std::move(zones));
    return study;
}

namespace {

void leave_out(std::vector<std::string>& names, const std::string& set) {
    if (names.size() > 1) std::erase(names, set);
}

}  // namespace

Study without_demand(Study study, const std::string& set) {
    std::erase_if(study.demand, [&](const DemandIn& in) { return in.set->name == set; });
    for (auto& q : study.questions) leave_out(q.demand, set);
    return study;
}

Study without_sites(Study study, const std::string& set) {
    std::erase_if(study.sites, [&](const SitesIn& in) { return in.set->name == set; });
    for (auto& q : study.questions) leave_out(q.sites, set);
    return study;
}

Study with_question(Study study, Question question) {
    std::vector<std::string> taken;
    for (const auto& q : study.questions) taken.push_back(q.name);
    question.name = free_name(question.name, taken);
    study.questions.push_back(std::move(question));
    study.in_sight = study.questions.size() - 1;
    return study;
}

Study without_question(Study study, std::size_t number) {
    study.questions.erase(study.questions.begin() + static_cast<std::ptrdiff_t>(number));
    if (study.in_sight > number || study.in_sight == study.questions.size()) --study.in_sight;
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
ZonesIn renamed(ZonesIn in, const std::vector<std::string>& taken) { return under_free_name(std::move(in), taken); }

std::vector<std::string> set_names(const Study& study, SetKind kind) {
    std::vector<std::string> out;
    if (kind == SetKind::demand)
        for (const auto& d : study.demand) out.push_back(d.set->name);
    if (kind == SetKind::sites)
        for (const auto& s : study.sites) out.push_back(s.set->name);
    if (kind == SetKind::zones)
        for (const auto& z : study.zones) out.push_back(z.set->name);
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
    if (!set->group.empty()) set->group.push_back("");
    if (!set->recorded.empty()) set->recorded.push_back("");
    if (!set->priority.empty()) set->priority.push_back("");
    if (!set->attaching.road_names.empty()) set->attaching.road_names.emplace_back();
    Origin origin = known ? known->origin : Origin{"drawn by hand", "", "", {}, "", "", "", {}};
    return with_demand(std::move(study), {std::move(set), std::move(origin)});
}

}  // namespace otoro::service
