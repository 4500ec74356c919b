#pragma once
/// \file
/// How far the sites of a question reach: ground, roads and who is on them.
///
/// \par Problem
/// *How far do we get in eight minutes?* A spot is inside exactly when a demand place standing there would be counted
/// inside: attached to the nearest road by the rule of the question's first demand set, and its journey within the
/// limit. Places that are attached by hand or by the name of their road stand outside of that: they are where they are
/// attached, whatever ground they stand on.
///
/// \par Method
/// The searches of an answer, carried along the roads (`RoadValues`) and from there over ground (`reach::Ground`).
///
/// \par Exact
/// Places and weights are those of the table. Edges of ground are within 0.2 m of where the table changes its mind, and
/// within what was asked for where they are simplified.
///
/// \par Cost
/// A search, then the strips of the reached ground, then the boundaries among them: once the strips are known, some
/// milliseconds for what is reached in minutes.
///
/// \par Example
/// \code
///   ReachRequest request;
///   request.limits = {Millis::minutes(4), Millis::minutes(8)};
///   for (const ReachArea& area : reach_areas(ready, plan, request, task).areas) area.square_metres;
/// \endcode
#include <memory>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "reach/overlay.h"
#include "service/assign.h"
#include "service/reach_view.h"
#include "service/road_values.h"

namespace otoro::service {

struct ReachRequest {
    /// Ascending, all times or all lengths; with `own_limits` none.
    std::vector<Amount> limits;
    Overlap overlap = Overlap::nearest;
    bool full = false;  ///< every area from the site to its limit, not from limit to limit
    double simplify_metres = 0;
    double least_square_metres = 0;  ///< smaller islands and holes are left out
    std::vector<SiteIndex> sites;    ///< of those in use; empty: all
    /// Only ground, roads, lines, circles and places in these; null: all.
    std::shared_ptr<const reach::Polygons> within;
    /// No ground, lines and circles in these, such as water; roads (bridges) and places count on.
    std::shared_ptr<const reach::Polygons> off;
    /// Every site to a limit of its own, by its number; nothing: the site is left out. Empty: `limits` hold for all.
    std::vector<std::optional<Amount>> own_limits;
};

/// Ground within a limit, or between two.
struct ReachArea {
    std::optional<SiteIndex> site;     ///< whose; nothing where sites are merged or counted
    std::uint32_t sites_reaching = 0;  ///< where they are counted
    Amount from, to;
    std::vector<reach::Polygon> polygons;  ///< the largest first
    double square_metres = 0;
    Millimetres road;  ///< of the roads reached; where roads are in two areas, in both
    Tally inside;
    std::vector<DemandIndex> places;  ///< those inside, ascending
};

/// A part of a road that is reached.
struct ReachedRoad {
    LinkId link;
    Millimetres from, to;  ///< along the link, ascending
    Amount at_from, at_to;
    std::optional<SiteIndex> site;  ///< the nearest; nothing where sites are merged
    std::size_t band = 0;           ///< which limit it is within
};

/// Where roads end before the limit does, at the rim of what was read.
struct RimEnd {
    geo::LonLat at;
    Amount left;  ///< of the limit
    std::string road;
};

struct Reach {
    Question question;
    Plan plan;
    ReachRequest request;
    std::vector<SiteOutcome> sites;
    std::vector<ReachArea> areas;  ///< by site, then from limit to limit; empty areas are left out
    std::vector<RimEnd> rim;       ///< the most left first
};

/// \throws InputError if limits are none, too many, mixed or not ascending; Stopped
Reach reach_areas(const std::shared_ptr<const Ready>& ready, const Plan& plan, const ReachRequest& request,
                  const Task& task);

/// Roads reached, cut exactly where a limit falls, by site (`each`) and link. \throws as above
std::vector<ReachedRoad> reached_roads(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                       const ReachRequest& request, const Task& task);

/// A line on which it takes the same.
struct EqualLine {
    Amount at;
    std::vector<geo::LonLat> vertices;
};
/// Lines of equal time or distance to the nearest of all sites asked about, one set a limit of the request, over ground
/// that is within the attach limit of a road. \throws as above
std::vector<EqualLine> equal_lines(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                   const ReachRequest& request, const Task& task);

/// A straight-line circle beside what is reached.
struct ReachCircle {
    SiteIndex site;
    geo::LonLat centre;
    Millimetres radius;
    reach::Polygons polygons;  ///< one, but for what is left out
    double square_metres = 0;
    Tally inside;                         ///< places within the circle
    double promised_square_metres = 0;    ///< in the circle and not reached
    double unpromised_square_metres = 0;  ///< reached and not in the circle
    Tally promised, unpromised;           ///< the same of places
};
/// Circles around the sites of the areas of `each`, against the farthest limit. \param radius what a circle has;
/// nothing: as far as `speed` comes in the limit, or the limit itself where it is a length \throws InputError if
/// neither radius nor speed is given for a limit in time; Stopped
std::vector<ReachCircle> reach_circles(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                       const ReachRequest& request, const std::optional<Millimetres>& radius,
                                       const std::optional<Speed>& speed, const Task& task);

/// The same question about these spots instead of its sites, called after their coordinates. What was ready stays so.
/// \throws Stopped
std::shared_ptr<const Ready> ready_from(const std::shared_ptr<const Ready>& ready,
                                        const std::vector<geo::LonLat>& spots, const Task& task);

/// What is reached by the nearest site in use, as values along the roads. \param of these sites alone; empty: all
std::shared_ptr<const SiteValues> nearest_values(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                                 ValueOf value, std::span<const SiteIndex> of, const Task& task);

/// Areas of a study as ground: brought to where the roads are, also across the 180th meridian, and laid together.
reach::Polygons ground_in(std::vector<geo::Area> areas, const roads::Network& network);

/// Milliseconds or millimetres.
inline double count_of(const Amount& a) {
    return std::visit([](auto v) { return static_cast<double>(v.count()); }, a);
}
inline ValueOf measure_of(const Amount& a) {
    return std::holds_alternative<Millis>(a) ? ValueOf::time : ValueOf::distance;
}
Amount amount_of(double count, ValueOf measure);

}  // namespace otoro::service
