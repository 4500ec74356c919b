#pragma once
/// \file
/// What is reached, as tables of shapes: the columns say their units, and every row says what was asked.
#include <optional>
#include <vector>

#include "files/shape_table.h"
#include "service/cover.h"

namespace otoro::files {

/// One row an area: `site_id, site_name, sites_reaching, from_minutes, to_minutes` (or `_metres`), `measure, travel,
/// towards, plan, square_km, road_km, places, weight, question`. \pre `reach` outlives the table
ShapeTable reach_table(const service::Ready& ready, const service::Reach& reach);

/// One row a stretch of road: `site_id, site_name, road, minutes_start, minutes_end` (or `metres_`), `length_m,
/// within`.
ShapeTable roads_table(const service::Ready& ready, const service::Reach& reach,
                       const std::vector<service::ReachedRoad>& roads);

/// One row a line: `minutes` (or `metres`).
ShapeTable lines_table(const service::Ready& ready, const std::vector<service::EqualLine>& lines);

/// One row a circle: what it promises and the road denies, and the other way round.
ShapeTable circles_table(const service::Ready& ready, const service::Reach& reach,
                         const std::vector<service::ReachCircle>& circles);

/// One row a patch, heaviest first: `name, square_km, places, weight, nearest_site_id, nearest_site_name,
/// too_far_minutes` (or `_metres`; empty where no site can reach it), `at_longitude, at_latitude` of a spot on a road
/// in it.
ShapeTable uncovered_table(const service::Ready& ready, const std::vector<service::SiteOutcome>& sites,
                           const Amount& limit, const service::Uncovered& uncovered);

/// One row a zone that is not covered: `zone_id, zone_name, square_km, places, weight` of what fails.
ShapeTable failing_table(const places::ZoneSet& zones, const Amount& limit,
                         const std::vector<service::ZoneCover>& found);

/// Every zone as CSV: `zone_id, zone_name, sites, covered, ...` with ground, road, places and weight, those within the
/// limit, and percents. \param sites as they are asked about, for the ids of a zone's own
std::string zones_csv(const places::ZoneSet& zones, const std::vector<service::PlannedSite>& sites,
                      const std::vector<service::ZoneCover>& found);

/// Three rows at most, `change` being `gained`, `lost` or `kept`: `square_km, places, weight`, and what was compared.
ShapeTable change_table(const std::string& first, const std::string& second, const service::ReachChange& change);

/// The sentence with what reach was asked: "... ; reached within 4 min and 8 min."
std::string reach_sentence(const service::Ready& ready, const service::ReachRequest& request);

}  // namespace otoro::files
