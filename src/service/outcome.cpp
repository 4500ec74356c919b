#include "service/outcome.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "geo/wording.h"

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, kStatuses> kNames{"served",  "beyond_limit", "no_road_near",
                                                         "cut_off", "site_full",    "bad_location"};

std::int64_t limit_count(const Amount& limit) {
    return std::visit([](auto a) { return a.count(); }, limit);
}

routing::Measure measure_of(const Amount& limit) {
    return std::holds_alternative<Millis>(limit) ? routing::Measure::time : routing::Measure::distance;
}

std::int64_t at_share(const Curve& curve, int percent) {
    const Weight total = curve.back().weight;
    const auto found = std::partition_point(curve.begin(), curve.end(), [&](const CurvePoint& p) {
        return !reaches(p.weight, total, Share(percent * 10'000));
    });
    return found->value;
}

const AskedSet& set_of(const Outcome& outcome, DemandIndex place) {
    const auto after = std::upper_bound(outcome.demand.begin(), outcome.demand.end(), place.value(),
                                        [](std::uint32_t p, const AskedSet& set) { return p < set.first; });
    return *std::prev(after);
}

}  // namespace

std::string_view name(Status s) { return kNames[static_cast<std::size_t>(s)]; }

const std::string& label(const places::Site& site) { return site.name.empty() ? site.id : site.name; }

bool is_within(const PlaceOutcome& place, const Amount& limit) {
    if (!place.served()) return false;
    return std::holds_alternative<Millis>(limit) ? place.time <= std::get<Millis>(limit)
                                                 : place.distance <= std::get<Millimetres>(limit);
}

Tally within(const Outcome& outcome, const Amount& limit) {
    const auto& curve = outcome.curve(measure_of(limit));
    const auto after = std::upper_bound(curve.begin(), curve.end(), limit_count(limit),
                                        [](std::int64_t v, const CurvePoint& p) { return v < p.value; });
    if (after == curve.begin()) return {};
    return {std::prev(after)->places, std::prev(after)->weight};
}

Verdict judge(const Outcome& outcome, const Standard& standard) {
    return judge(within(outcome, standard.limit), outcome.all, standard);
}

Verdict judge(const Tally& inside, const Tally& all, const Standard& standard) {
    Verdict v;
    v.standard = standard;
    v.inside = inside;
    v.share = share_of(inside.weight, all.weight);
    v.share_of_places = share_of(Weight(inside.places), Weight(all.places));
    v.met = reaches(inside.weight, all.weight, standard.share);
    return v;
}

std::optional<Statistics> statistics(const Curve& curve) {
    if (curve.empty() || curve.back().weight.count() == 0) return std::nullopt;
    Statistics s;
    Wide sum = 0;
    Weight before;
    for (const auto& p : curve) {
        sum += static_cast<Wide>(p.value) * (p.weight - before).count();
        before = p.weight;
    }
    s.mean = static_cast<double>(sum) / static_cast<double>(curve.back().weight.count());
    s.median = at_share(curve, 50);
    s.p90 = at_share(curve, 90);
    s.worst = curve.back().value;
    return s;
}

std::vector<Journey> journeys_of(const Outcome& outcome, DemandIndex place) {
    const PlaceOutcome& p = outcome.places[place.value()];
    if (!p.served()) return {};
    return {{place, *p.nearest, p.rank, p.time, p.distance}};
}

std::string reason(const Outcome& outcome, DemandIndex place) {
    const PlaceOutcome& p = outcome.places[place.value()];
    const auto nearest = [&] { return label(outcome.sites[p.nearest->value()].planned.site); };
    switch (p.status) {
        case Status::served:
            return fmt::format("Served by {}, {} min and {} away.", nearest(), said(p.time.minutes(), 2),
                               said_long(p.distance, 2));
        case Status::beyond_limit:
            return fmt::format("The nearest site, {}, is {} min and {} away; the limit is {}.", nearest(),
                               said(p.time.minutes(), 2), said_long(p.distance, 2), describe(*outcome.question.limit));
        case Status::no_road_near: {
            const AskedSet& set = set_of(outcome, place);
            return fmt::format("No road that this traveller may use{} is within {}.",
                               set.any_road ? "" : " and that it may be attached to", describe(set.attach_limit));
        }
        case Status::cut_off:
            return "It stands by a road, but no site in use can be reached from there or reach it.";
        case Status::site_full:
            return "Every site within the limit is full.";
        case Status::bad_location:
            return "Its record gives no place on the globe.";
    }
    return {};
}

}  // namespace otoro::service
