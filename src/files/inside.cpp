#include "files/inside.h"

#include <ogr_geometry.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <vector>

namespace otoro::files {
namespace {

using geo::LonLat;

/// Heights between those of the vertices, spread over the polygon.
std::vector<double> heights_of(const OGRPolygon& polygon) {
    std::vector<double> of_vertices;
    for (const auto* ring : polygon)
        for (const auto& p : *ring) of_vertices.push_back(p.getY());
    std::sort(of_vertices.begin(), of_vertices.end());
    of_vertices.erase(std::unique(of_vertices.begin(), of_vertices.end()), of_vertices.end());
    std::vector<double> between;
    for (std::size_t i = 0; i + 1 < of_vertices.size(); ++i) {
        const double middle = of_vertices[i] + (of_vertices[i + 1] - of_vertices[i]) / 2;
        if (middle > of_vertices[i] && middle < of_vertices[i + 1]) between.push_back(middle);
    }
    constexpr std::size_t kMost = 31;
    if (between.size() <= kMost) return between;
    // The widest gaps between vertices, where a line is farthest from any of them, and some spread evenly.
    std::vector<double> out;
    for (std::size_t i = 0; i < kMost; ++i) out.push_back(between[i * (between.size() - 1) / (kMost - 1)]);
    return out;
}

std::optional<LonLat> inside(const OGRPolygon& polygon) {
    std::optional<LonLat> best;
    double widest = 0;
    std::vector<double> crossings;
    for (const double y : heights_of(polygon)) {
        crossings.clear();
        for (const auto* ring : polygon) {
            for (int i = 0; i + 1 < ring->getNumPoints(); ++i) {
                const double y0 = ring->getY(i), y1 = ring->getY(i + 1);
                if ((y0 > y) == (y1 > y)) continue;
                crossings.push_back(ring->getX(i) + (ring->getX(i + 1) - ring->getX(i)) * ((y - y0) / (y1 - y0)));
            }
        }
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t k = 0; k + 1 < crossings.size(); k += 2) {
            const double width = crossings[k + 1] - crossings[k];
            if (width <= widest) continue;
            widest = width;
            best = LonLat{crossings[k] + width / 2, y};
        }
    }
    return best;
}

}  // namespace

std::optional<LonLat> point_for(const OGRGeometry& g) {
    const auto type = wkbFlatten(g.getGeometryType());
    if (type == wkbPoint) return LonLat{g.toPoint()->getX(), g.toPoint()->getY()};
    if (type == wkbMultiPoint) {
        const auto& points = *g.toMultiPoint();
        if (points.getNumGeometries() == 0) return std::nullopt;
        double x = 0, y = 0;
        for (const auto* p : points) {
            x += p->getX() / points.getNumGeometries();
            y += p->getY() / points.getNumGeometries();
        }
        const OGRPoint* best = points.getGeometryRef(0);
        const auto away = [&](const OGRPoint* p) { return std::hypot(p->getX() - x, p->getY() - y); };
        for (const auto* p : points)
            if (away(p) < away(best)) best = p;
        return LonLat{best->getX(), best->getY()};
    }
    const std::unique_ptr<OGRGeometry> straight(g.hasCurveGeometry() ? g.getLinearGeometry() : g.clone());
    const auto straight_type = wkbFlatten(straight->getGeometryType());
    if (straight_type == wkbPolygon) return inside(*straight->toPolygon());
    if (straight_type != wkbMultiPolygon) return std::nullopt;
    const OGRPolygon* largest = nullptr;
    double most = -1;
    for (const auto* part : *straight->toMultiPolygon()) {
        const double area = std::abs(part->get_Area());
        if (area <= most || !inside(*part)) continue;
        most = area;
        largest = part;
    }
    return largest == nullptr ? std::nullopt : inside(*largest);
}

}  // namespace otoro::files
