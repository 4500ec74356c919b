#pragma once
/// \file
/// Coordinate systems by their EPSG code.
#include <string>

namespace otoro::files {

/// "27700" or "EPSG:27700" as 27700. \throws InputError if there is no such coordinate system
int parse_epsg(const std::string& text);

}  // namespace otoro::files
