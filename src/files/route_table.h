#pragma once
/// \file
/// A route over stops, as a list of turns and as a line.
#include <string>
#include <vector>

#include "files/shape_table.h"
#include "service/itinerary.h"
#include "service/study.h"

namespace otoro::files {

/// A length as it is driven by: metres, then kilometres.
std::string driven_length(Millimetres length);

/// To travel by: what it takes in all, then each leg with its turns. \param stops as they were given, names may be
/// empty
std::string route_text(const service::Itinerary& way, const std::vector<service::Stop>& stops);

/// One line with `minutes`, `metres` and the numbers of its `stops` as visited. \param way must outlive the table
ShapeTable route_table(const service::Itinerary& way);

}  // namespace otoro::files
