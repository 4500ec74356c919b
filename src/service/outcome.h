#pragma once
/// \file
/// The answer to a question under a plan, and what can be read from it.
///
/// An outcome is a value. The verdict, the curve, the loads and the totals are all worked out from its list of places,
/// so they cannot disagree. What hovering and drawing routes need besides, the search's own labels and the roads under
/// the plan, hangs on it as `Traces` and may be let go of: whatever reads tables, curves and sums does without.
#include <array>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "geo/huge_pages.h"
#include "places/attach.h"
#include "service/costed_network.h"
#include "service/plan.h"
#include "service/question.h"

namespace otoro::service {

/// What became of one demand place. Every place has exactly one.
enum class Status : std::uint8_t { served, beyond_limit, no_road_near, cut_off, site_full, bad_location };
inline constexpr std::size_t kStatuses = 6;
inline constexpr std::array<Status, kStatuses> kAllStatuses{Status::served,       Status::beyond_limit,
                                                            Status::no_road_near, Status::cut_off,
                                                            Status::site_full,    Status::bad_location};
/// The string in every file: `no_road_near`.
std::string_view name(Status s);

/// The answer for one demand place.
struct PlaceOutcome {
    Status status = Status::bad_location;
    /// The nearest site that can be reached, also where it lies beyond the limit.
    std::optional<SiteIndex> nearest;
    std::uint16_t rank = 0;  ///< of that site among those that could serve the place, from 1; 0 without one
    Millis time;             ///< along the route; meaningful with `nearest`
    Millimetres distance;    ///< along the route; meaningful with `nearest`

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
    Millis worst_time;
};

/// How many places, and how much weight.
struct Tally {
    std::uint32_t places = 0;
    Weight weight;
};

/// Weighted statistics over the served places, in one measure's own unit (ms or mm).
/// Percentiles are by nearest rank: the least value at which at least that share of the weight is reached.
struct Statistics {
    double mean = 0;
    std::int64_t median = 0;
    std::int64_t p90 = 0;
    std::int64_t worst = 0;
};

/// One step of the curve: this much weight is served at or below this value.
struct CurvePoint {
    std::int64_t value = 0;  ///< ms or mm
    Weight weight;           ///< sum up to and including
    std::uint32_t places = 0;
};

/// Ascending, one step a distinct value.
using Curve = std::vector<CurvePoint, HugePages<CurvePoint>>;

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

    [[nodiscard]] const Tally& tally(Status s) const { return by_status[static_cast<std::size_t>(s)]; }
    [[nodiscard]] const Curve& curve(routing::Measure m) const {
        return m == routing::Measure::time ? time_curve : distance_curve;
    }
};

/// The verdict on a standard.
struct Verdict {
    Standard standard;
    Tally inside;
    Share share;            ///< of weight, rounded down
    Share share_of_places;  ///< of rows, rounded down
    bool met = false;       ///< decided without rounding
};

/// Judges an outcome by a standard. O(log n): nothing is searched again.
Verdict judge(const Outcome& outcome, const Standard& standard);

/// The same from what is inside and what there is in all.
Verdict judge(const Tally& inside, const Tally& all, const Standard& standard);

/// Weight and places served within `limit`.
Tally within(const Outcome& outcome, const Amount& limit);

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

/// The journeys of a place that is served, by rank.
std::vector<Journey> journeys_of(const Outcome& outcome, DemandIndex place);

/// The straight line from a place to a site; 0 if either stands nowhere. Geodesic, a microsecond each: not kept with
/// the outcome.
Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position, SiteIndex site);
/// To its nearest site; 0 without one.
Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position,
                          const PlaceOutcome& place);

/// How a site is called on the screen and in reasons: its name, or its id.
const std::string& label(const places::Site& site);

}  // namespace otoro::service
