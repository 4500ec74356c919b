#include "files/epsg.h"

#include <fmt/format.h>
#include <ogr_spatialref.h>

#include <algorithm>
#include <cctype>

#include "files/complaints.h"
#include "geo/error.h"
#include "geo/text.h"

namespace otoro::files {

int parse_epsg(const std::string& text) {
    const auto digits = lower(text).starts_with("epsg:") ? text.substr(5) : text;
    const bool number = !digits.empty() && digits.size() <= 6 &&
                        std::all_of(digits.begin(), digits.end(), [](unsigned char c) { return std::isdigit(c); });
    const Complaints quiet;
    OGRSpatialReference known;
    if (!number || known.importFromEPSG(std::stoi(digits)) != OGRERR_NONE)
        refuse("", fmt::format("'{}' is not a known coordinate system", text), "Give its EPSG code, such as EPSG:4326");
    return std::stoi(digits);
}

}  // namespace otoro::files
