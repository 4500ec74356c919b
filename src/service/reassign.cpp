#include "service/reassign.h"

#include <map>
#include <utility>

namespace otoro::service {
namespace {

/// What a place saves by going to its nearest site instead, by this measure.
std::int64_t saving(const PlaceOutcome& recorded, const PlaceOutcome& nearest, bool by_time) {
    return by_time ? (recorded.time - nearest.time).count() : (recorded.distance - nearest.distance).count();
}

bool moves(const std::optional<SiteIndex>& recorded, const PlaceOutcome& now, const PlaceOutcome& nearest,
           const std::optional<Amount>& more_than, bool by_time) {
    if (!nearest.site || nearest.site == recorded) return false;
    if (!recorded) return !more_than;
    if (!now.site) return true;  // it cannot be reached
    if (!more_than) return saving(now, nearest, by_time) > 0;
    const auto* const time = std::get_if<Millis>(&*more_than);
    const std::int64_t least = time != nullptr ? time->count() : std::get<Millimetres>(*more_than).count();
    return saving(now, nearest, time != nullptr) > least;
}

}  // namespace

Reassignment reassign(const Ready& ready, const Outcome& o, const WhoMoves& who) {
    Reassignment out;
    out.sites = recorded_sites(ready, o.sites);
    std::vector<bool> may(o.places.size(), !who.places);
    if (who.places)
        for (const DemandIndex place : *who.places) may[place.value()] = true;
    const bool by_time = ready.question.measure() == routing::Measure::time;
    constexpr std::size_t kNone = ~std::size_t{0};
    std::map<std::pair<std::size_t, std::size_t>, Flow> flows;
    for (std::size_t i = 0; i < o.places.size(); ++i) {
        const PlaceOutcome& now = o.places[i];
        const PlaceOutcome& nearest = (*o.by_nearest)[i];
        if (!may[i] || !moves(out.sites[i], now, nearest, who.saving_more_than, by_time)) continue;
        const auto from = out.sites[i];
        const Wide saved = from && now.site ? Wide{saving(now, nearest, by_time)} * o.weights[i].count() : Wide{0};
        Flow& flow = flows
                         .try_emplace({from ? std::size_t{from->value()} : kNone, nearest.site->value()},
                                      Flow{from, *nearest.site, {}, 0})
                         .first->second;
        for (Tally* tally : {&flow.tally, &out.moved}) {
            ++tally->places;
            tally->weight += o.weights[i];
        }
        flow.saved += saved;
        out.saved += saved;
        out.sites[i] = nearest.site;
    }
    for (auto& [between, flow] : flows) out.flows.push_back(flow);
    return out;
}

namespace {

template <class Wanted>
std::vector<std::uint32_t> places_that(const Ready& ready, const Outcome& o, const Reassignment& moved,
                                       Wanted&& wanted) {
    const auto recorded = recorded_sites(ready, o.sites);
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < recorded.size(); ++i)
        if (recorded[i] != moved.sites[i] && wanted(recorded[i], moved.sites[i])) out.push_back(i);
    return out;
}

}  // namespace

std::vector<std::uint32_t> places_of(const Ready& ready, const Outcome& o, const Reassignment& moved,
                                     const Flow& flow) {
    return places_that(ready, o, moved,
                       [&](const auto& from, const auto& to) { return from == flow.from && to == flow.to; });
}

std::vector<std::uint32_t> who_moves(const Ready& ready, const Outcome& o, const Reassignment& moved) {
    return places_that(ready, o, moved, [](const auto&, const auto&) { return true; });
}

Study with_reassigned(Study study, const Ready& ready, const Outcome& o, const Reassignment& moved) {
    const auto recorded = recorded_sites(ready, o.sites);
    Question question = ready.question;
    question.name += ", reassigned";
    question.demand.clear();
    std::uint32_t number = 0;
    for (const auto& set : ready.inputs.demand.sets()) {
        auto copy = std::make_shared<places::DemandSet>(*set);
        copy->name += ", reassigned";
        copy->recorded = places::TextColumn(set->recorded.empty() ? "reassigned site" : set->recorded.name());
        for (std::uint32_t i = 0; i < set->count(); ++i, ++number) {
            const bool moves = recorded[number] != moved.sites[number];
            copy->recorded.push_back(moves                   ? o.sites[moved.sites[number]->value()].planned.site.id
                                     : set->recorded.empty() ? std::string()
                                                             : set->recorded.at(i));
        }
        DemandIn in{std::move(copy), {}};
        if (const auto* known = study.find_demand(set->name)) in.origin = known->origin;
        in.origin.path.clear();  // read again it would not be this
        in.origin.description += "; recorded sites after reassigning";
        in = renamed(std::move(in), set_names(study, SetKind::demand));
        question.demand.push_back(in.set->name);
        study = with_demand(std::move(study), std::move(in));
    }
    return with_question(std::move(study), std::move(question));
}

}  // namespace otoro::service
