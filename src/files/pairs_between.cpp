#include "files/pairs_between.h"

#include "service/study.h"

namespace otoro::files {
namespace {

/// All of them count, whatever their state.
std::shared_ptr<const places::SiteSet> all_open(const places::SiteSet& points) {
    auto out = std::make_shared<places::SiteSet>(points);
    for (auto& s : out->sites) s.state = places::SiteState::open;
    return out;
}

}  // namespace

PairEnd end_of(const places::Site& s) { return {s.id, s.name == s.id ? std::string() : s.name}; }

PairsBetween pairs_between(const std::shared_ptr<const roads::Network>& network, service::Question question,
                           const std::shared_ptr<const places::SiteSet>& begins,
                           const std::shared_ptr<const places::SiteSet>& ends, bool for_nearest,
                           const service::Ready* earlier, const Task& task) {
    question.towards = for_nearest ? service::Towards::site : service::Towards::demand;
    const auto& sites = for_nearest ? ends : begins;
    const auto& places = for_nearest ? begins : ends;
    PairsBetween out{
        prepare({network, service::demand_from({places, {}}).set, all_open(*sites)}, question, earlier, task),
        {for_nearest ? "to" : "from", for_nearest ? "from" : "to", for_nearest, true, {}, {}, {}, {}}};
    for (const auto& s : sites->sites) {
        out.names.sites.push_back(end_of(s));
        out.names.site_at.push_back(s.position);
    }
    for (const auto& s : places->sites) {
        out.names.places.push_back(end_of(s));
        out.names.place_at.push_back(s.position);
    }
    return out;
}

}  // namespace otoro::files
