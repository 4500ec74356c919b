#pragma once
/// \file
/// Shapes as GeoJSON has them (RFC 7946).
#include <span>
#include <string>
#include <vector>

#include "geo/position.h"
#include "reach/rings.h"

namespace otoro::files {

/// A point, or a line of two points and more; `null` for nothing. Longitudes are between -180 and 180, and a line
/// across the 180th meridian is cut there, as the standard asks. Seven decimals: a centimetre.
std::string geojson_shape(std::span<const geo::LonLat> points);

/// Several lines together, nine decimals.
std::string geojson_lines(const std::vector<std::vector<geo::LonLat>>& lines);
/// Polygons together, nine decimals, and valid as that. Cut along the 180th meridian.
std::string geojson_areas(const std::vector<reach::Polygon>& polygons);

/// Lines cut at the 180th meridian, with longitudes between -180 and 180.
std::vector<std::vector<geo::LonLat>> parts_by_meridian(const std::vector<std::vector<geo::LonLat>>& lines);

}  // namespace otoro::files
