#pragma once
/// \file
/// Heights for roads from an elevation model.
#include <memory>
#include <string>

#include "geo/task.h"
#include "roads/lines.h"

namespace otoro::files {

/// The same lines with a height at every vertex, read from a GeoTIFF between its four nearest cells (bilinear). Where
/// the model has no value a vertex keeps none. A long segment is only as hilly as its ends: slopes between vertices are
/// not seen. \throws InputError if it is no GeoTIFF, has no coordinate system, is over 400 million cells, or covers
/// none of the roads; Stopped
std::shared_ptr<const roads::Lines> with_heights(const roads::Lines& lines, const std::string& path, const Task& task);

}  // namespace otoro::files
