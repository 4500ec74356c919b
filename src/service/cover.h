#pragma once
/// \file
/// What is covered and what is not: ground by zone, and the patches that no site reaches.
///
/// \par Meaning
/// Ground is covered when a demand place standing there would be counted inside the limit (reach.h). Ground with no
/// road near, where no place can be attached, is neither: it is counted apart.
///
/// \par Cost
/// The strips of all ground that is looked at, once; then some milliseconds a zone.
#include "places/zones.h"
#include "service/reach.h"

namespace otoro::service {

/// Whether one zone is covered.
struct ZoneCover {
    std::uint32_t zone = 0;
    std::vector<SiteIndex> own;  ///< the sites that answer for it; empty: all do
    double square_metres = 0;    ///< near roads
    double square_metres_within = 0;
    double square_metres_no_road = 0;  ///< with no road near
    Millimetres road, road_within;
    Tally places, places_within;  ///< those in the zone, by the first zone that holds them
    std::vector<DemandIndex> failing_places;
    reach::Polygons failing;  ///< ground near roads that is not within the limit
    bool covered = false;     ///< all ground but a square metre, all road but a metre, all places
    /// Where there is neither a road nor a place nobody is there, covered or not.
    [[nodiscard]] Judged judged() const {
        if (road.count() == 0 && places.places == 0) return Judged::nobody;
        return covered ? Judged::met : Judged::missed;
    }
};
/// How many are covered, and in how many nobody is: "3 of 5 zones are covered within 8 min; in 1 there is neither road
/// nor place".
std::string covered_words(const std::vector<ZoneCover>& zones, const Amount& limit);

/// Who answers for a zone.
enum class AnswersFor : std::uint8_t {
    any,  ///< whichever site is nearest
    own,  ///< the sites that name it as theirs, by id or name
};

/// One a zone, in file order. \throws InputError if with `own` no site names any zone; Stopped
std::vector<ZoneCover> zones_covered(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                     const places::ZoneSet& zones, const Amount& limit, AnswersFor who,
                                     const Task& task);

/// Connected ground that no site reaches within the limit.
struct UncoveredPatch {
    /// Where it lies, by a road in it and the nearest site in use, by the straight line: "by Southcote, 2.1 km
    /// south-west of Quay". No two are alike.
    std::string name;
    std::string zone;  ///< that most of its people are in; empty: none
    reach::Polygon polygon;
    double square_metres = 0;
    Tally inside;
    std::vector<DemandIndex> places;
    std::optional<SiteIndex> nearest;  ///< of the place inside that it takes longest to, or of its ground
    std::optional<Amount> too_far;     ///< how much more than the limit that is; nothing where no site can reach it
    geo::LonLat at;                    ///< a spot inside, on a road
};

/// Heaviest first, then largest. Places that are attached by hand, by the name of their road or by another set's rule
/// may be uncovered wherever they stand: those that stand on no uncovered ground are `elsewhere`. \param
/// least_square_metres smaller patches without places are left out, and counted in `left_out`
struct Uncovered {
    std::vector<UncoveredPatch> patches;
    double square_metres = 0;
    std::uint32_t left_out = 0;
    Tally elsewhere;
    std::vector<DemandIndex> elsewhere_places;
};
Uncovered uncovered(const std::shared_ptr<const Ready>& ready, const Plan& plan, const Amount& limit,
                    double least_square_metres, const Task& task);

/// Two reaches laid over one another.
struct ReachChange {
    reach::Polygons gained, lost, kept;
    double gained_square_metres = 0, lost_square_metres = 0, kept_square_metres = 0;
    Tally gained_places, lost_places, kept_places;
    std::vector<DemandIndex> gained_list, lost_list, kept_list;  ///< the places themselves, ascending
};
/// What the second question under its plan reaches within its limit and the first does not, and the other way round.
/// \pre both are about the same demand places. \throws Stopped
ReachChange reach_change(const std::shared_ptr<const Ready>& first, const Plan& first_plan, const Amount& first_limit,
                         const std::shared_ptr<const Ready>& second, const Plan& second_plan,
                         const Amount& second_limit, const Task& task);

}  // namespace otoro::service
