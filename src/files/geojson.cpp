#include "files/geojson.h"

#include <fmt/format.h>

#include <cmath>
#include <iterator>
#include <vector>

#include "reach/overlay.h"

namespace otoro::files {
namespace {

std::string point(geo::LonLat p) { return fmt::format("[{:.7f},{:.7f}]", p.lon, p.lat); }

/// The parts of a line on either side of the meridian, each with longitudes between -180 and 180.
std::vector<std::vector<geo::LonLat>> parts_of(std::span<const geo::LonLat> line) {
    std::vector<std::vector<geo::LonLat>> parts(1);
    for (const geo::LonLat given : line) {
        const geo::LonLat p = geo::normalised(given);
        if (!parts.back().empty()) {
            const geo::LonLat before = parts.back().back();
            if (std::abs(p.lon - before.lon) > 180) {
                const double meridian = before.lon > 0 ? 180 : -180;
                const geo::LonLat beyond = geo::near_to(p, before);
                const double lat =
                    before.lat + (p.lat - before.lat) * (meridian - before.lon) / (beyond.lon - before.lon);
                if (before.lon != meridian) parts.back().push_back({meridian, lat});
                parts.push_back({{-meridian, lat}});
                if (p.lon == -meridian) continue;
            }
        }
        parts.back().push_back(p);
    }
    std::erase_if(parts, [](const auto& part) { return part.size() < 2; });
    return parts;
}

std::string positions(const std::vector<geo::LonLat>& line) {
    std::string out;
    for (const auto& p : line) out += (out.empty() ? "" : ",") + point(p);
    return "[" + out + "]";
}

std::string exactly(const std::vector<geo::LonLat>& line) {
    std::string out = "[";
    for (const auto& p : line)
        fmt::format_to(std::back_inserter(out), "{}[{:.9f},{:.9f}]", out.size() > 1 ? "," : "", p.lon, p.lat);
    return out + "]";
}

}  // namespace

std::vector<std::vector<geo::LonLat>> parts_by_meridian(const std::vector<std::vector<geo::LonLat>>& lines) {
    std::vector<std::vector<geo::LonLat>> out;
    for (const auto& line : lines)
        for (auto& part : parts_of(line)) out.push_back(std::move(part));
    return out;
}

std::string geojson_lines(const std::vector<std::vector<geo::LonLat>>& lines) {
    std::string all;
    for (const auto& part : parts_by_meridian(lines)) all += (all.empty() ? "" : ",") + exactly(part);
    return fmt::format(R"({{"type":"MultiLineString","coordinates":[{}]}})", all);
}

std::string geojson_areas(const std::vector<reach::Polygon>& polygons) {
    std::string all;
    for (const auto& p : reach::on_grid(reach::normalised(polygons), 1e9)) {
        std::string rings = exactly(p.outer);
        for (const auto& hole : p.holes) rings += "," + exactly(hole);
        all += (all.empty() ? "[" : ",[") + rings + "]";
    }
    return fmt::format(R"({{"type":"MultiPolygon","coordinates":[{}]}})", all);
}

std::string geojson_shape(std::span<const geo::LonLat> points) {
    if (points.empty()) return "null";
    if (points.size() == 1)
        return fmt::format(R"({{"type":"Point","coordinates":{}}})", point(geo::normalised(points[0])));
    const auto parts = parts_of(points);
    if (parts.size() == 1) return fmt::format(R"({{"type":"LineString","coordinates":{}}})", positions(parts[0]));
    std::string all;
    for (const auto& part : parts) all += (all.empty() ? "" : ",") + positions(part);
    return fmt::format(R"({{"type":"MultiLineString","coordinates":[{}]}})", all);
}

}  // namespace otoro::files
