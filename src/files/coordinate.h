#pragma once
/// \file
/// Coordinates as people write them.
///
/// A letter or word of direction is a sign: `0.014 W` lies west. Degrees may stand with minutes and seconds. The only
/// unit of a coordinate is the degree sign; whatever else stands beside the number makes it none, and is said, since
/// a place that is mirrored or a thousand times too far off is worse than one that is missing. What could mean two
/// things is asked about: `O` is east to some and west to others.
#include <optional>
#include <string>
#include <string_view>

#include "files/column.h"

namespace otoro::files {

enum class Axis : std::uint8_t { east, north };

struct Coordinate {
    std::optional<double> value;  ///< degrees, or what the coordinate system counts in; east and north are above 0
    std::string wrong;            ///< where there is none, why: "'0.014 O' ...", a clause
};

/// Reads `0.014 W`, `W 0.014`, `51.5° N`, `51 30 15.5 N`, `51°30'15"N`, `-0.5`, `0,014 west`. \param degrees whether
/// the coordinate system counts in degrees; else a number and a letter of direction are all there can be
Coordinate coordinate_in(std::string_view text, Decimals decimals, Axis axis, bool degrees);

}  // namespace otoro::files
