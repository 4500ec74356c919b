#include "reach/overlay.h"

#include <geos/geom/CoordinateArraySequence.h>
#include <geos/geom/GeometryFactory.h>
#include <geos/geom/LineString.h>
#include <geos/geom/LinearRing.h>
#include <geos/geom/MultiPolygon.h>
#include <geos/geom/Polygon.h>
#include <geos/geom/prep/PreparedGeometry.h>
#include <geos/geom/prep/PreparedGeometryFactory.h>
#include <geos/geom/util/GeometryFixer.h>
#include <geos/operation/overlayng/OverlayNG.h>
#include <geos/operation/overlayng/OverlayNGRobust.h>

#include <GeographicLib/Geodesic.hpp>
#include <algorithm>
#include <cmath>
#include <memory>
#include <numbers>

#include "geo/ellipsoid.h"

namespace otoro::reach {
namespace {

using geos::geom::Geometry;
using geos::operation::overlayng::OverlayNG;
using geos::operation::overlayng::OverlayNGRobust;

const geos::geom::GeometryFactory& factory() { return *geos::geom::GeometryFactory::getDefaultInstance(); }

std::unique_ptr<geos::geom::LinearRing> ring_of(const std::vector<geo::LonLat>& vertices) {
    std::vector<geos::geom::Coordinate> line;
    line.reserve(vertices.size() + 1);
    for (const auto p : vertices) line.emplace_back(p.lon, p.lat);
    if (!line.empty() && !line.front().equals2D(line.back())) line.push_back(line.front());
    return factory().createLinearRing(std::make_unique<geos::geom::CoordinateArraySequence>(std::move(line)));
}

std::unique_ptr<Geometry> geometry_of(const Polygons& polygons) {
    std::vector<std::unique_ptr<geos::geom::Polygon>> out;
    out.reserve(polygons.size());
    for (const auto& p : polygons) {
        std::vector<std::unique_ptr<geos::geom::LinearRing>> holes;
        for (const auto& h : p.holes) holes.push_back(ring_of(h));
        out.push_back(factory().createPolygon(ring_of(p.outer), std::move(holes)));
    }
    return factory().createMultiPolygon(std::move(out));
}

std::vector<geo::LonLat> ring_from(const geos::geom::LinearRing& ring, bool counter_clockwise) {
    std::vector<geo::LonLat> out;
    const auto* const line = ring.getCoordinatesRO();
    out.reserve(line->size());
    for (std::size_t i = 0; i < line->size(); ++i) out.push_back({line->getAt(i).x, line->getAt(i).y});
    if ((ring_area(out) > 0) != counter_clockwise) std::reverse(out.begin(), out.end());
    return out;
}

void add_from(const Geometry& g, Polygons& out) {
    if (const auto* const polygon = dynamic_cast<const geos::geom::Polygon*>(&g)) {
        if (polygon->isEmpty()) return;
        Polygon p;
        p.outer = ring_from(*polygon->getExteriorRing(), true);
        for (std::size_t i = 0; i < polygon->getNumInteriorRing(); ++i)
            p.holes.push_back(ring_from(*polygon->getInteriorRingN(i), false));
        out.push_back(std::move(p));
        return;
    }
    for (std::size_t i = 0; g.getNumGeometries() > 1 && i < g.getNumGeometries(); ++i)
        add_from(*g.getGeometryN(i), out);
    if (g.getNumGeometries() == 1 && g.getGeometryN(0) != &g) add_from(*g.getGeometryN(0), out);
}

Polygons from(const Geometry& g) {
    Polygons out;
    add_from(g, out);
    std::stable_sort(out.begin(), out.end(),
                     [](const Polygon& a, const Polygon& b) { return ring_area(a.outer) > ring_area(b.outer); });
    return out;
}

Polygons overlaid(const Polygons& a, const Polygons& b, int how) {
    const auto ga = geometry_of(a), gb = geometry_of(b);
    return from(*OverlayNGRobust::Overlay(ga.get(), gb.get(), how));
}

bool apart(const Polygons& a, const Polygons& b) {
    const geo::Box p = box_of(a), q = box_of(b);
    return p.empty() || q.empty() || p.east < q.west || q.east < p.west || p.north < q.south || q.north < p.south;
}

Polygon rectangle(double west, double south, double east, double north) {
    return {{{west, south}, {east, south}, {east, north}, {west, north}, {west, south}}, {}};
}

}  // namespace

Polygons common(const Polygons& a, const Polygons& b) {
    return apart(a, b) ? Polygons() : overlaid(a, b, OverlayNG::INTERSECTION);
}
Polygons without(const Polygons& a, const Polygons& b) {
    return apart(a, b) ? a : overlaid(a, b, OverlayNG::DIFFERENCE);
}
Polygons together(const Polygons& a, const Polygons& b) {
    if (a.empty()) return b;
    if (b.empty()) return a;
    return overlaid(a, b, OverlayNG::UNION);
}

Polygons polygons_of(std::span<const geo::Area> areas) {
    // Every area by itself, then joined two by two, so that none is gone through more often than it must.
    std::vector<Polygons> parts;
    for (const auto& area : areas) {
        std::unique_ptr<Geometry> whole;
        for (const auto& ring : area.rings) {
            if (ring.size() < 3) continue;
            auto filled = geos::geom::util::GeometryFixer::fix(factory().createPolygon(ring_of(ring)).get());
            whole = whole ? OverlayNGRobust::Overlay(whole.get(), filled.get(), OverlayNG::SYMDIFFERENCE)
                          : std::move(filled);
        }
        if (whole) parts.push_back(from(*whole));
    }
    while (parts.size() > 1) {
        std::vector<Polygons> next;
        for (std::size_t i = 0; i < parts.size(); i += 2)
            next.push_back(i + 1 < parts.size() ? together(parts[i], parts[i + 1]) : std::move(parts[i]));
        parts = std::move(next);
    }
    return parts.empty() ? Polygons() : std::move(parts.front());
}

Polygons normalised(Polygons polygons) {
    const geo::Box box = box_of(polygons);
    if (box.empty() || (box.west >= -180 && box.east <= 180)) return polygons;
    Polygons out;
    for (double shift = -720; shift <= 720; shift += 360) {
        const double west = -180 + shift, east = 180 + shift;
        if (box.east <= west || box.west >= east) continue;
        for (Polygon p : common(polygons, {rectangle(west, -90, east, 90)})) {
            for (auto& v : p.outer) v.lon -= shift;
            for (auto& h : p.holes)
                for (auto& v : h) v.lon -= shift;
            out.push_back(std::move(p));
        }
    }
    return out;
}

Polygons without_slivers(Polygons polygons, double thin_metres) {
    const auto is_thin = [&](const std::vector<geo::LonLat>& ring) {
        double length = 0;
        for (std::size_t i = 1; i < ring.size(); ++i) length += geo::distance(ring[i - 1], ring[i]).metres();
        return 2 * std::abs(ring_area(ring)) < thin_metres * length;
    };
    std::erase_if(polygons, [&](const Polygon& p) { return is_thin(p.outer); });
    for (Polygon& p : polygons) std::erase_if(p.holes, is_thin);
    return polygons;
}

double square_metres(const Polygons& polygons) {
    double sum = 0;
    for (const auto& p : polygons) {
        sum += ring_area(p.outer);
        for (const auto& h : p.holes) sum += ring_area(h);
    }
    return sum;
}

geo::Box box_of(const Polygons& polygons) {
    geo::Box box;
    for (const auto& p : polygons)
        for (const auto& v : p.outer) box.add(v);
    return box;
}

geo::Area area_of(const Polygons& polygons) {
    geo::Area area;
    for (const auto& p : polygons) {
        area.add(p.outer);
        for (const auto& h : p.holes) area.add(h);
    }
    return area;
}

struct InsideOf::State {
    std::unique_ptr<Geometry> shape;
    std::unique_ptr<geos::geom::prep::PreparedGeometry> prepared;
};

InsideOf::InsideOf(const Polygons& polygons) : state_(std::make_unique<State>()), box_(box_of(polygons)) {
    state_->shape = geometry_of(polygons);
    state_->prepared = geos::geom::prep::PreparedGeometryFactory::prepare(state_->shape.get());
}
InsideOf::~InsideOf() = default;

double InsideOf::share_of(std::span<const geo::LonLat> line) const {
    if (line.size() < 2) return 0;
    std::vector<geos::geom::Coordinate> vertices;
    vertices.reserve(line.size());
    // Lengths as on the ground, near enough for a share.
    const double east = std::cos(line[0].lat * std::numbers::pi / 180);
    const auto length_of = [&](const geos::geom::CoordinateSequence& c) {
        double sum = 0;
        for (std::size_t i = 1; i < c.size(); ++i)
            sum += std::hypot((c.getAt(i).x - c.getAt(i - 1).x) * east, c.getAt(i).y - c.getAt(i - 1).y);
        return sum;
    };
    for (const auto p : line) vertices.emplace_back(p.lon, p.lat);
    const auto drawn =
        factory().createLineString(std::make_unique<geos::geom::CoordinateArraySequence>(std::move(vertices)));
    if (!state_->prepared->intersects(drawn.get())) return 0;
    if (state_->prepared->covers(drawn.get())) return 1;
    const double whole = length_of(*drawn->getCoordinatesRO());
    if (whole <= 0) return 0;
    const auto part = OverlayNGRobust::Overlay(drawn.get(), state_->shape.get(), OverlayNG::INTERSECTION);
    double sum = 0;
    for (std::size_t i = 0; i < part->getNumGeometries(); ++i)
        if (const auto* const piece = dynamic_cast<const geos::geom::LineString*>(part->getGeometryN(i)))
            sum += length_of(*piece->getCoordinatesRO());
    return std::clamp(sum / whole, 0.0, 1.0);
}

Polygon circle(geo::LonLat centre, double metres) {
    constexpr double kWithin = 0.01;
    const double step = metres > kWithin ? 2 * std::acos(1 - kWithin / metres) : 1;
    const int corners = std::clamp(static_cast<int>(std::ceil(2 * std::numbers::pi / step)), 72, 3600);
    const auto& earth = GeographicLib::Geodesic::WGS84();
    Polygon out;
    for (int i = 0; i < corners; ++i) {
        geo::LonLat p;
        earth.Direct(centre.lat, centre.lon, -360.0 * i / corners, metres, p.lat, p.lon);
        out.outer.push_back(geo::near_to(p, centre));
    }
    out.outer.push_back(out.outer.front());
    return out;
}

}  // namespace otoro::reach
