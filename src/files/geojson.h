#pragma once
/// \file
/// Shapes as GeoJSON has them (RFC 7946).
#include <span>
#include <string>

#include "geo/position.h"

namespace otoro::files {

/// A point, or a line of two points and more; `null` for nothing. Longitudes are between -180 and 180, and a line
/// across the 180th meridian is cut there, as the standard asks. Seven decimals: a centimetre.
std::string geojson_shape(std::span<const geo::LonLat> points);

}  // namespace otoro::files
