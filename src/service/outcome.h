#pragma once
/// \file
/// The answer to a question under a plan, and what can be read from it.
///
/// An outcome is a value. The verdict, the curve, the loads and the totals are all worked out from its list of places,
/// so they cannot disagree. What hovering and drawing routes need besides, the search's own labels and the roads under
/// the plan, hangs on it as `Traces` and may be let go of: whatever reads tables, curves and sums does without.
#include <algorithm>
#include <array>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "geo/huge_pages.h"
#include "places/attach.h"
#include "service/costed_network.h"
#include "service/journey_table.h"
#include "service/plan.h"
#include "service/question.h"

namespace otoro::service {

/// What became of one demand place. Every place has exactly one.
enum class Status : std::uint8_t { served, beyond_limit, no_road_near, cut_off, site_full, not_recorded, bad_location };
inline constexpr std::size_t kStatuses = 7;
inline constexpr std::array<Status, kStatuses> kAllStatuses{
    Status::served,    Status::beyond_limit, Status::no_road_near, Status::cut_off,
    Status::site_full, Status::not_recorded, Status::bad_location};
/// The string in every file: `no_road_near`.
std::string_view name(Status s);
/// Why a record is on no road: "no_road_near: no road that this traveller may use is near it", or `bad_location`.
std::string off_road_words(bool has_position);
/// The same without the status, for people: "no road that this traveller may use is near it".
std::string_view off_road_reason(bool has_position);

/// The answer for one demand place.
struct PlaceOutcome {
    Status status = Status::bad_location;
    /// The site that the rule of serving finds, also where it lies beyond the limit. By \ref SeveralNearest the last of
    /// those that are needed.
    std::optional<SiteIndex> site;
    /// Of that site among the place's journeys, from 1; without one, how many sites there are, if fewer than are
    /// needed.
    std::uint16_t rank = 0;
    Millis time;           ///< along the route; meaningful with `site`
    Millimetres distance;  ///< along the route; meaningful with `site`

    [[nodiscard]] bool served() const { return status == Status::served; }
    bool operator==(const PlaceOutcome&) const = default;
};

/// One way between a place and a site.
struct Journey {
    DemandIndex place;
    SiteIndex site;
    std::uint32_t rank = 1;  ///< among the place's journeys, from 1
    Millis time;
    Millimetres distance;
    bool operator==(const Journey&) const = default;
};

using PlaceOutcomes = std::vector<PlaceOutcome, HugePages<PlaceOutcome>>;

/// The answer for one site.
struct SiteOutcome {
    PlannedSite planned;
    std::optional<places::Attachment> attachment;
    std::uint32_t places = 0;  ///< demand places served
    Weight load;               ///< their weight
    Millis worst_time;         ///< the longest of any weight; nothing if there is none

    /// How much less it serves than it should, where its record says how much, as far as its capacity goes; 0 if it is
    /// not in use.
    [[nodiscard]] Weight short_of_least() const {
        const auto& site = planned.site;
        if (!planned.in_use || !site.least) return {};
        const Weight least = site.capacity ? std::min(*site.least, *site.capacity) : *site.least;
        return load < least ? least - load : Weight();
    }
};

/// How many places, and how much weight.
struct Tally {
    std::uint32_t places = 0;
    Weight weight;
};

/// A further part of a place that was split: another site, or none that has room.
struct PlacePart {
    DemandIndex place;
    PlaceOutcome outcome;
    Weight weight;
    bool operator==(const PlacePart&) const = default;
};

/// What the limits of capacity come to. Travel is weight times cost, in millionths times the measure's own unit (ms or
/// mm).
struct CapacityAnswer {
    Weight asked;                ///< of all places that a site is within reach of
    std::optional<Weight> room;  ///< of all sites in use together; nothing if one of them has no capacity stated
    Weight no_room;              ///< found none
    Weight least_no_room;        ///< no answer leaves less without room; of *nearest first* nothing is claimed: 0
    Weight least_short;          ///< none that leaves as little has sites less short of their least; likewise
    Wide travel = 0;             ///< of those that found room
    Wide bound = 0;              ///< no answer that is as good in these has less; 0 if nothing is claimed
    Wide nearest_travel = 0;     ///< the same weight at its nearest sites
    bool proven = false;         ///< nothing is better
    /// By site: how much less all would travel if it took one more, the measure's own unit; -1 where one more would
    /// find room at all; empty if nothing is claimed.
    std::vector<std::int64_t> worth;
};

/// Weighted statistics over the served places, in one measure's own unit (ms or mm).
/// Percentiles are by nearest rank: the least value at which at least that share of the weight is reached.
struct Statistics {
    double mean = 0;
    std::int64_t median = 0;
    std::int64_t p90 = 0;
    std::int64_t worst = 0;  ///< the farthest that any weight travels
};

/// One step of the curve: this much weight is served at or below this value.
struct CurvePoint {
    std::int64_t value = 0;  ///< ms or mm
    Weight weight;           ///< sum up to and including
    std::uint32_t places = 0;
};

/// Ascending, one step a distinct value.
using Curve = std::vector<CurvePoint, HugePages<CurvePoint>>;

/// What of the answer counts for a step of the standard that is not for all by one site.
struct StepCurve {
    StepScope scope;
    bool known = true;  ///< whether there is a zone or group of that name
    Tally all;
    Curve time, distance;
};

/// What a search leaves behind besides its answer: for reading spots and drawing routes.
struct Traces {
    std::shared_ptr<const CostedNetwork> costed;  ///< the roads under the plan
    Labels labels;
};

/// One of the demand sets that were asked about.
struct AskedSet {
    std::string name;
    std::uint32_t first = 0;  ///< number of its first place
    Millimetres attach_limit;
    bool any_road = true;  ///< whether it may be attached to every road that the traveller may use
};

struct Outcome {
    Question question;
    Plan plan;
    std::string digest;  ///< of roads, places, question and plan
    PlaceOutcomes places;
    std::vector<SiteOutcome> sites;
    std::vector<Weight> weights;  ///< how much each place counts under the question
    Tally all;
    std::array<Tally, kStatuses> by_status{};
    Curve time_curve;
    Curve distance_curve;
    std::optional<Statistics> time_statistics, distance_statistics;  ///< nothing if no weight is served
    std::string searched;                                            ///< how, and why so, in a sentence
    std::vector<AskedSet> demand;                                    ///< in the order of their places
    std::shared_ptr<const Traces> traces;                            ///< null once let go of
    /// What would become of every place if it went to its nearest site; null where that is the rule.
    std::shared_ptr<const PlaceOutcomes> by_nearest;
    std::shared_ptr<const JourneyTable> journeys;  ///< of \ref SeveralNearest: of each place, nearest first
    std::vector<PlacePart> further;                ///< of places that were split, by place; the largest is in `places`
    std::shared_ptr<const CapacityAnswer> capacity;  ///< of \ref AsCapacityAllows
    std::vector<StepCurve> step_curves = {};         ///< of the scopes of the question's standard

    [[nodiscard]] const Tally& tally(Status s) const { return by_status[static_cast<std::size_t>(s)]; }
    [[nodiscard]] const Curve& curve(routing::Measure m) const {
        return m == routing::Measure::time ? time_curve : distance_curve;
    }
};

/// How a step, or a whole standard, fares: where nobody is there is nothing to meet or to miss.
enum class Judged : std::uint8_t { missed, met, nobody };
/// "met", "not met", "nobody there".
std::string_view words(Judged judged);
/// "yes", "no", "nobody", as tables have it under `met`.
std::string_view cell(Judged judged);

/// How one step of a standard fares.
struct StepVerdict {
    Step step;
    bool known = true;  ///< whether the zone or group that it is for is there
    Tally all, inside;
    Share share;       ///< of weight, rounded down
    bool met = false;  ///< decided without rounding; where nobody is, nothing is missed
    Weight missed;     ///< how much more weight would have to be inside; nothing if it is met
    [[nodiscard]] Judged judged() const {
        return !met ? Judged::missed : all.weight.count() > 0 ? Judged::met : Judged::nobody;
    }
};

/// The verdict on a standard: its first step in numbers, and how each step fares.
struct Verdict {
    Standard standard;
    Tally inside;
    Share share;                     ///< of weight, rounded down
    Share share_of_places;           ///< of rows, rounded down
    bool met = false;                ///< each of its steps is; decided without rounding
    std::vector<StepVerdict> steps;  ///< the first one first

    /// The first step that is not met; null if all are.
    [[nodiscard]] const StepVerdict* first_missed() const;
    /// Of all steps: nobody is there only where nobody is in any of them.
    [[nodiscard]] Judged judged() const;
};
/// "all within 20 min: 99.2 %, 35 residents short", or "...: 100 %, met".
std::string words(const StepVerdict& step, const std::string& counted);
/// What the first missed step lacks: "all within 20 min: 99.2 %, 35 residents short"; empty if all are met.
std::string first_missed_words(const Verdict& verdict, const std::string& counted);

/// Judges an outcome by a standard. O(log n): nothing is searched again. \pre the answer's own standard had steps of
/// the same scopes; a scope that it did not have counts as one that is not there
Verdict judge(const Outcome& outcome, const Standard& standard);

/// One step, from what is inside and what there is in all.
StepVerdict judge_step(const Step& step, const Tally& inside, const Tally& all);
/// Each of its steps from what is known of it; the first step first.
Verdict judge_by(const Standard& standard, std::vector<StepVerdict> steps);

/// Whether a journey is farther than `limit`, if there is one.
inline bool is_beyond(Millis time, Millimetres distance, const std::optional<Amount>& limit) {
    if (!limit) return false;
    const auto* most = std::get_if<Millis>(&*limit);
    return most != nullptr ? time > *most : distance > std::get<Millimetres>(*limit);
}

/// Whether a journey is farther than its site's own limit, where those count. \pre it has a site
inline bool is_beyond_own_limit(const Question& q, const std::vector<SiteOutcome>& sites, const PlaceOutcome& p) {
    return q.own_limits && is_beyond(p.time, p.distance, sites[p.site->value()].planned.site.limit);
}

/// Weight and places served within `limit`.
Tally within(const Outcome& outcome, const Amount& limit);
/// What of a curve is at or below a value of its own unit. O(log n)
Tally within(const Curve& curve, std::int64_t limit);

/// Calls `use(place, outcome, weight, whether it is the first)` for every part of every place, by place; most have one.
template <class Use>
void each_part(const Outcome& o, Use&& use) {
    std::size_t next = 0;
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        Weight first = o.weights[i];
        std::size_t end = next;
        for (; end < o.further.size() && o.further[end].place.value() == i; ++end)
            first = first - o.further[end].weight;
        use(i, o.places[i], first, true);
        for (; next < end; ++next) use(i, o.further[next].outcome, o.further[next].weight, false);
    }
}

/// Whether this place counts as inside `limit`; the one test that map, table and verdict share.
bool is_within(const PlaceOutcome& place, const Amount& limit);

/// Those of a curve; nothing if no weight is served. O(steps)
std::optional<Statistics> statistics(const Curve& curve);
inline const std::optional<Statistics>& statistics(const Outcome& outcome, routing::Measure m) {
    return m == routing::Measure::time ? outcome.time_statistics : outcome.distance_statistics;
}

/// Why a place is not served, or how it is, in a sentence: "The nearest site, Quay, is 12.4 min away; the limit is 8
/// min."
std::string reason(const Outcome& outcome, DemandIndex place);
/// The same of a part of it that has this status.
std::string reason(const Outcome& outcome, DemandIndex place, Status status);

/// What becomes of a place, or of a part of it: with a journey, or without one.
struct PlaceRow {
    Status status = Status::bad_location;
    Weight weight;
    std::optional<Journey> journey;
};

/// Who is served elsewhere than at the nearest site, and how much farther they go in all: weight times cost, as in
/// `CapacityAnswer`. \pre it has `by_nearest`
struct Displaced {
    Tally tally;
    Wide extra = 0;
};
Displaced displaced(const Outcome& outcome);

/// Sites in use that serve less than they should, of those whose record says how much that is.
struct ShortOfLeast {
    std::uint32_t sites = 0, of = 0;
    Weight weight;  ///< that they lack together
};
ShortOfLeast short_of_least(const Outcome& outcome);
/// Whether no answer leaves less without room, or sites less short of their least: then the bound of the travel is one
/// for this answer too, and else for those that do. \pre it has `capacity`
bool leaves_least(const Outcome& outcome);

/// A row for each journey of a place, by rank; for each part of it, the largest first; one where it is not served.
std::vector<PlaceRow> rows_of(const Outcome& outcome, DemandIndex place);

/// Calls `use` with the journeys of a place that is served, as `journeys_of` lists them.
template <class Use>
void each_journey(const Outcome& o, DemandIndex place, Use&& use) {
    const PlaceOutcome& p = o.places[place.value()];
    if (!p.served()) return;
    if (!o.journeys) return use(Journey{place, *p.site, p.rank, p.time, p.distance});
    const bool by_time = o.question.measure() == routing::Measure::time;
    std::uint32_t rank = 0;
    for (const ReachableSite& r : o.journeys->of(place.value())) {
        const Millis time(by_time ? r.cost : r.other);
        const Millimetres distance(by_time ? r.other : r.cost);
        if (!is_beyond(time, distance, o.question.limit))
            use(Journey{place, SiteIndex(r.site), ++rank, time, distance});
    }
}

/// The journeys of a place that is served, by rank: one, or as many of its several nearest as are within the limit.
/// Where it was split, that of its largest part.
std::vector<Journey> journeys_of(const Outcome& outcome, DemandIndex place);
/// The further parts of a place.
std::span<const PlacePart> further_parts(const Outcome& outcome, DemandIndex place);

/// The straight line from a place to a site; 0 if either stands nowhere. Geodesic, a microsecond each: not kept with
/// the outcome.
Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position, SiteIndex site);
/// To its nearest site; 0 without one.
Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position,
                          const PlaceOutcome& place);

/// How many times as far as the straight line to its site the way of a place is; nothing without one, or where both
/// stand on one spot.
std::optional<double> detour(const Outcome& outcome, const std::optional<geo::LonLat>& position,
                             const PlaceOutcome& place);

/// How a site is called on the screen and in reasons: its name, or its id.
const std::string& label(const places::Site& site);

}  // namespace otoro::service
