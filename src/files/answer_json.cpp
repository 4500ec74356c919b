#include "files/answer_json.h"

#include <nlohmann/json.hpp>

#include "geo/wording.h"
#include "service/detours.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

using nlohmann::json;
using routing::Measure;

json tally_json(const service::Tally& t) { return {{"places", t.places}, {"weight", t.weight.value()}}; }

/// In minutes or kilometres.
double in_units(Measure measure, double v) { return measure == Measure::time ? v / 60'000 : v / 1'000'000; }

json statistics_json(const service::Outcome& o, Measure measure) {
    const auto& s = statistics(o, measure);
    if (!s) return nullptr;
    return {{"mean", in_units(measure, s->mean)},
            {"median", in_units(measure, static_cast<double>(s->median))},
            {"percentile_90", in_units(measure, static_cast<double>(s->p90))},
            {"worst", in_units(measure, static_cast<double>(s->worst))}};
}

json verdict_json(const service::Outcome& o) {
    const auto v = judge(o, *o.question.standard);
    json out{{"limit", describe(v.standard.limit)},
             {"wanted_percent", v.standard.share.percent()},
             {"share_percent", v.share.percent()},
             {"share_of_places_percent", v.share_of_places.percent()},
             {"inside", tally_json(v.inside)},
             {"met", v.met},
             {"nobody", v.judged() == service::Judged::nobody}};
    if (v.standard.further.empty()) return out;
    for (const auto& step : v.steps)
        out["steps"].push_back({{"step", describe(step.step)},
                                {"all", tally_json(step.all)},
                                {"inside", tally_json(step.inside)},
                                {"share_percent", step.share.percent()},
                                {"met", step.met},
                                {"nobody", step.judged() == service::Judged::nobody},
                                {"weight_missed", step.missed.value()}});
    return out;
}

json loads_json(const service::Outcome& o) {
    json out = json::array();
    for (std::size_t i = 0; i < o.sites.size(); ++i) {
        const auto& s = o.sites[i];
        if (!s.planned.in_use) continue;
        json row{{"site_id", s.planned.site.id},
                 {"name", service::label(s.planned.site)},
                 {"places", s.places},
                 {"load", s.load.value()}};
        if (s.load > Weight()) row["worst_minutes"] = s.worst_time.minutes();
        if (const auto& capacity = s.planned.site.capacity) row["capacity"] = capacity->value();
        if (const auto& least = s.planned.site.least) {
            row["least"] = least->value();
            row["short_of_least"] = s.short_of_least().value();
        }
        if (o.capacity && !o.capacity->worth.empty()) {
            const std::int64_t worth = o.capacity->worth[i];
            if (worth < 0)
                row["one_more_finds_room"] = true;
            else
                row["one_more_saves"] = in_units(o.question.measure(), static_cast<double>(worth));
        }
        out.push_back(std::move(row));
    }
    return out;
}

double travel(const service::Outcome& o, Wide v) {
    return in_units(o.question.measure(), static_cast<double>(v) / 1e6);
}

json capacity_json(const service::Outcome& o) {
    const auto& c = *o.capacity;
    json out{{"asked", c.asked.value()},
             {"no_room", c.no_room.value()},
             {"travel", travel(o, c.travel)},
             {"travel_at_nearest", travel(o, c.nearest_travel)},
             {"extra_travel", travel(o, c.travel - c.nearest_travel)},
             {"proven", c.proven}};
    if (c.room) out["room"] = c.room->value();
    if (const auto lacking = service::short_of_least(o); lacking.of > 0) out["short_of_least"] = lacking.weight.value();
    if (c.bound > 0 || c.proven) {
        out["bound"] = travel(o, c.bound);
        out["least_no_room"] = c.least_no_room.value();
        out["least_short"] = c.least_short.value();
    }
    return out;
}

}  // namespace

json reassigned_json(const service::Outcome& o, const service::Reassignment& moved) {
    json out = tally_json(moved.moved);
    out["saved_travel"] = travel(o, moved.saved);
    out["flows"] = json::array();
    for (const auto& flow : moved.flows) {
        json row = tally_json(flow.tally);
        row["from"] = flow.from ? json(o.sites[flow.from->value()].planned.site.id) : json();
        row["to"] = o.sites[flow.to.value()].planned.site.id;
        row["saved_travel"] = travel(o, flow.saved);
        out["flows"].push_back(std::move(row));
    }
    return out;
}

json detours_json(const service::Ready& ready, const service::Outcome& o, std::size_t most) {
    const auto d = service::detours_of(ready, o, most);
    json out{{"times", d.times()}, {"steps", json::array()}, {"worst", json::array()}};
    for (std::size_t i = 0; i < d.steps.size(); ++i) {
        json row = tally_json(d.steps[i]);
        row["from_times"] = i == 0 ? 1.0 : service::kDetourSteps[i - 1];
        out["steps"].push_back(std::move(row));
    }
    for (const auto& w : d.worst)
        out["worst"].push_back({{"demand_id", ready.inputs.demand.at(w.place).id},
                                {"site_id", o.sites[w.site.value()].planned.site.id},
                                {"metres", w.road.metres()},
                                {"straight_m", w.straight.metres()},
                                {"times", w.times()}});
    return out;
}

json more_room_json(const service::Outcome& o, const std::vector<service::MoreRoom>& all) {
    json out = json::array();
    for (const auto& m : all)
        out.push_back({{"site_id", o.sites[m.site.value()].planned.site.id},
                       {"more", m.more.value()},
                       {"saves", travel(o, m.saved)},
                       {"find_room", m.find_room.value()}});
    return out;
}

json answer_json(const service::Ready& ready, const service::Outcome& o) {
    json out{{"sentence", sentence(o.question, ready.inputs.demand)},
             {"plan", o.plan.name},
             {"digest", o.digest},
             {"measure", o.question.measure() == Measure::time ? "minutes" : "kilometres"},
             {"all", tally_json(o.all)},
             {"minutes", statistics_json(o, Measure::time)},
             {"kilometres", statistics_json(o, Measure::distance)},
             {"loads", loads_json(o)}};
    for (const auto status : service::kAllStatuses)
        out["statuses"][std::string(name(status))] = tally_json(o.tally(status));
    if (o.question.standard) out["verdict"] = verdict_json(o);
    if (o.capacity) out["capacity"] = capacity_json(o);
    if (o.by_nearest && !o.journeys) {
        const auto moved = displaced(o);
        out["not_at_nearest"] = tally_json(moved.tally);
        out["not_at_nearest"]["extra_travel"] = travel(o, moved.extra);
    }
    return out;
}

}  // namespace otoro::files
