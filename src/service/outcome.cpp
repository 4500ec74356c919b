#include "service/outcome.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "geo/wording.h"

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, kStatuses> kStatusNames{"served",    "beyond_limit", "no_road_near", "cut_off",
                                                               "site_full", "not_recorded", "bad_location"};

std::int64_t limit_count(const Amount& limit) {
    return std::visit([](auto a) { return a.count(); }, limit);
}

using routing::Measure;

Measure measure_of(const Amount& limit) {
    return std::holds_alternative<Millis>(limit) ? Measure::time : Measure::distance;
}

std::int64_t at_share(const Curve& curve, int percent) {
    const Weight total = curve.back().weight;
    const auto found = std::partition_point(curve.begin(), curve.end(), [&](const CurvePoint& p) {
        return !reaches(p.weight, total, Share(percent * 10'000));
    });
    return found->value;
}

/// What is said of the site that a place's answer goes by.
std::string which_site(const Outcome& outcome, const PlaceOutcome& p) {
    if (std::holds_alternative<AsRecorded>(outcome.question.serving)) return "The site on record";
    if (std::holds_alternative<WholeZones>(outcome.question.serving)) return "The site of its zone";
    return p.rank > 1 ? fmt::format("Site number {} by nearness", p.rank) : "The nearest site";
}

std::string count_of_sites(std::uint16_t n) {
    return n == 0 ? "is no site" : n == 1 ? "is 1 site" : fmt::format("are {} sites", n);
}

const AskedSet& set_of(const Outcome& outcome, DemandIndex place) {
    const auto after = std::upper_bound(outcome.demand.begin(), outcome.demand.end(), place.value(),
                                        [](std::uint32_t p, const AskedSet& set) { return p < set.first; });
    return *std::prev(after);
}

}  // namespace

std::string_view name(Status s) { return kStatusNames[static_cast<std::size_t>(s)]; }
std::string off_road_words(bool has_position) {
    return fmt::format("{}: {}", name(has_position ? Status::no_road_near : Status::bad_location),
                       off_road_reason(has_position));
}
std::string_view off_road_reason(bool has_position) {
    return has_position ? "no road that this traveller may use is near it" : "its record gives no place on the globe";
}

const std::string& label(const places::Site& site) { return site.name.empty() ? site.id : site.name; }

bool is_within(const PlaceOutcome& place, const Amount& limit) {
    if (!place.served()) return false;
    return std::holds_alternative<Millis>(limit) ? place.time <= std::get<Millis>(limit)
                                                 : place.distance <= std::get<Millimetres>(limit);
}

namespace {

StepVerdict judged(const Outcome& o, const Step& step) {
    const std::int64_t limit = limit_count(step.limit);
    const bool timed = measure_of(step.limit) == Measure::time;
    if (step.scope.of_all()) return judge_step(step, within(timed ? o.time_curve : o.distance_curve, limit), o.all);
    const auto curve = std::find_if(o.step_curves.begin(), o.step_curves.end(),
                                    [&](const StepCurve& c) { return c.scope == step.scope; });
    if (curve != o.step_curves.end() && curve->known)
        return judge_step(step, within(timed ? curve->time : curve->distance, limit), curve->all);
    StepVerdict v;
    v.step = step;
    v.known = false;
    return v;
}

}  // namespace

Tally within(const Curve& curve, std::int64_t limit) {
    const auto after = std::upper_bound(curve.begin(), curve.end(), limit,
                                        [](std::int64_t v, const CurvePoint& p) { return v < p.value; });
    if (after == curve.begin()) return {};
    return {std::prev(after)->places, std::prev(after)->weight};
}

Tally within(const Outcome& outcome, const Amount& limit) {
    return within(outcome.curve(measure_of(limit)), limit_count(limit));
}

StepVerdict judge_step(const Step& step, const Tally& inside, const Tally& all) {
    StepVerdict v;
    v.step = step;
    v.all = all;
    v.inside = inside;
    v.share = share_of(inside.weight, all.weight);
    v.met = all.weight.count() == 0 || reaches(inside.weight, all.weight, step.share);
    if (!v.met) v.missed = wanted_of(all.weight, step.share) - inside.weight;
    return v;
}

Verdict judge(const Outcome& outcome, const Standard& standard) {
    std::vector<StepVerdict> steps{judged(outcome, standard.first())};
    for (const Step& step : standard.further) steps.push_back(judged(outcome, step));
    return judge_by(standard, std::move(steps));
}

Verdict judge_by(const Standard& standard, std::vector<StepVerdict> steps) {
    Verdict v;
    v.standard = standard;
    v.inside = steps.front().inside;
    v.share = steps.front().share;
    v.share_of_places = share_of(Weight(v.inside.places), Weight(steps.front().all.places));
    v.met = std::all_of(steps.begin(), steps.end(), [](const StepVerdict& s) { return s.met; });
    v.steps = std::move(steps);
    return v;
}

const StepVerdict* Verdict::first_missed() const {
    const auto at = std::find_if(steps.begin(), steps.end(), [](const StepVerdict& s) { return !s.met; });
    return at == steps.end() ? nullptr : &*at;
}

std::string_view words(Judged judged) {
    return judged == Judged::met ? "met" : judged == Judged::missed ? "not met" : "nobody there";
}
std::string_view cell(Judged judged) {
    return judged == Judged::met ? "yes" : judged == Judged::missed ? "no" : "nobody";
}

Judged Verdict::judged() const {
    if (!met) return Judged::missed;
    const bool any = std::any_of(steps.begin(), steps.end(), [](const auto& s) { return s.judged() == Judged::met; });
    return any ? Judged::met : Judged::nobody;
}

std::string words(const StepVerdict& step, const std::string& counted) {
    if (!step.known) return fmt::format("{}: there is no zone or group of that name", describe(step.step));
    if (step.judged() == Judged::nobody) return fmt::format("{}: nobody there", describe(step.step));
    if (step.met) return fmt::format("{}: {}, met", describe(step.step), describe(step.share));
    return fmt::format("{}: {}, {} {} short", describe(step.step), describe(step.share), describe_lack(step.missed),
                       counted);
}

std::string first_missed_words(const Verdict& verdict, const std::string& counted) {
    const StepVerdict* missed = verdict.first_missed();
    return missed == nullptr ? std::string() : words(*missed, counted);
}

std::optional<Statistics> statistics(const Curve& curve) {
    if (curve.empty() || curve.back().weight.count() == 0) return std::nullopt;
    Statistics s;
    Wide sum = 0;
    Weight before;
    for (const auto& p : curve) {
        sum += static_cast<Wide>(p.value) * (p.weight - before).count();
        if (p.weight > before) s.worst = p.value;  // nobody travels from a place of weight 0
        before = p.weight;
    }
    s.mean = static_cast<double>(sum) / static_cast<double>(curve.back().weight.count());
    s.median = at_share(curve, 50);
    s.p90 = at_share(curve, 90);
    return s;
}

std::vector<Journey> journeys_of(const Outcome& outcome, DemandIndex place) {
    std::vector<Journey> out;
    each_journey(outcome, place, [&](const Journey& journey) { out.push_back(journey); });
    return out;
}

ShortOfLeast short_of_least(const Outcome& outcome) {
    ShortOfLeast out;
    for (const SiteOutcome& s : outcome.sites) {
        const Weight lacks = s.short_of_least();
        out.of += s.planned.in_use && s.planned.site.least ? 1 : 0;
        out.sites += lacks.count() > 0 ? 1 : 0;
        out.weight += lacks;
    }
    return out;
}

bool leaves_least(const Outcome& outcome) {
    const auto& c = *outcome.capacity;
    return c.no_room == c.least_no_room && short_of_least(outcome).weight == c.least_short;
}

Displaced displaced(const Outcome& outcome) {
    Displaced out;
    const bool by_time = outcome.question.measure() == Measure::time;
    std::optional<std::uint32_t> counted;
    each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool) {
        const PlaceOutcome& nearest = (*outcome.by_nearest)[i];
        if (!p.served() || !nearest.site || p.site == nearest.site) return;
        out.tally.weight += weight;
        if (counted != i) ++out.tally.places;
        counted = i;
        const std::int64_t more = by_time ? (p.time - nearest.time).count() : (p.distance - nearest.distance).count();
        out.extra += Wide{more} * weight.count();
    });
    return out;
}

std::vector<PlaceRow> rows_of(const Outcome& outcome, DemandIndex place) {
    const PlaceOutcome& first = outcome.places[place.value()];
    const auto further = further_parts(outcome, place);
    Weight weight = outcome.weights[place.value()];
    for (const PlacePart& part : further) weight = weight - part.weight;
    std::vector<PlaceRow> out;
    for (const Journey& j : journeys_of(outcome, place)) out.push_back({first.status, weight, j});
    if (out.empty()) out.push_back({first.status, weight, std::nullopt});
    for (const PlacePart& part : further) {
        const PlaceOutcome& p = part.outcome;
        out.push_back({p.status, part.weight,
                       p.served() ? std::optional(Journey{place, *p.site, p.rank, p.time, p.distance}) : std::nullopt});
    }
    return out;
}

std::span<const PlacePart> further_parts(const Outcome& outcome, DemandIndex place) {
    const auto found = std::equal_range(outcome.further.begin(), outcome.further.end(), PlacePart{place, {}, {}},
                                        [](const PlacePart& a, const PlacePart& b) { return a.place < b.place; });
    return {found.first, found.second};
}

namespace {

/// Which of the limits a place is beyond.
std::string limit_passed(const Outcome& o, const PlaceOutcome& p) {
    const auto& own = o.sites[p.site->value()].planned.site.limit;
    if (is_beyond_own_limit(o.question, o.sites, p)) return "the limit of that site is " + describe(*own);
    return o.question.limit ? "the limit is " + describe(*o.question.limit) : "that is beyond the limit";
}

}  // namespace

std::string reason(const Outcome& outcome, DemandIndex place) {
    return reason(outcome, place, outcome.places[place.value()].status);
}

std::string reason(const Outcome& outcome, DemandIndex place, Status status) {
    const bool by_pairs = std::holds_alternative<ByPairs>(outcome.question.serving);
    const PlaceOutcome& p = outcome.places[place.value()];
    const auto site = [&] { return label(outcome.sites[p.site->value()].planned.site); };
    switch (status) {
        case Status::served:
            return fmt::format("Served by {}, {} min and {} away.", site(), said(p.time.minutes(), 2),
                               said_long(p.distance, 2));
        case Status::beyond_limit:
            if (!p.site)
                return fmt::format("Within {} there {}, fewer than are needed.",
                                   outcome.question.own_limits ? "the sites' limits"
                                                               : "the limit of " + describe(*outcome.question.limit),
                                   count_of_sites(p.rank));
            return fmt::format("{}, {}, is {} min and {} away; {}.", which_site(outcome, p), site(),
                               said(p.time.minutes(), 2), said_long(p.distance, 2), limit_passed(outcome, p));
        case Status::no_road_near: {
            const AskedSet& set = set_of(outcome, place);
            return fmt::format("No road that this traveller may use{} is within {}.",
                               set.any_road ? "" : " and that it may be attached to", describe(set.attach_limit));
        }
        case Status::cut_off:
            if (by_pairs) return "None of the sites that it has a value with can be reached from there or reach it.";
            return p.rank > 0 ? fmt::format("In reach there {}, fewer than are needed.", count_of_sites(p.rank))
                              : "It stands by a road, but no site in use can be reached from there or reach it.";
        case Status::site_full:
            return outcome.question.limit ? "Every site within the limit is full." : "Every site is full.";
        case Status::not_recorded:
            return by_pairs ? "The table of pairs has no value for it with any site in use."
                            : "Its record names no site in use.";
        case Status::bad_location:
            return "Its record gives no place on the globe.";
    }
    return {};
}

}  // namespace otoro::service
