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
#include <geos/linearref/ExtractLineByLocation.h>
#include <geos/linearref/LinearLocation.h>
#include <geos/linearref/LocationIndexedLine.h>
#include <geos/operation/overlayng/OverlayNG.h>
#include <geos/operation/overlayng/OverlayNGRobust.h>
#include <geos/operation/valid/IsValidOp.h>
#include <geos/precision/GeometryPrecisionReducer.h>
#include <geos/util/GEOSException.h>

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

Polygons on_grid(Polygons polygons, double to_a_degree) {
    Polygons out = polygons;
    const auto round = [to_a_degree](std::vector<geo::LonLat>& ring) {
        for (auto& p : ring)
            p = {std::round(p.lon * to_a_degree) / to_a_degree, std::round(p.lat * to_a_degree) / to_a_degree};
    };
    for (auto& p : out) {
        round(p.outer);
        for (auto& h : p.holes) round(h);
    }
    // Nearly always that is all.
    try {
        if (geos::operation::valid::IsValidOp(geometry_of(out).get()).isValid()) return out;
    } catch (const geos::util::GEOSException&) {
        // A ring has too few points.
    }
    const geos::geom::PrecisionModel grid(to_a_degree);
    out.clear();
    add_from(*geos::precision::GeometryPrecisionReducer::reduce(*geometry_of(polygons), grid), out);
    return out;
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

namespace {

std::unique_ptr<geos::geom::LineString> line_of(std::span<const geo::LonLat> line) {
    std::vector<geos::geom::Coordinate> vertices;
    vertices.reserve(line.size());
    for (const auto p : line) vertices.emplace_back(p.lon, p.lat);
    return factory().createLineString(std::make_unique<geos::geom::CoordinateArraySequence>(std::move(vertices)));
}

template <class Use>
void each_line(const Geometry& g, Use&& use) {
    for (std::size_t i = 0; i < g.getNumGeometries(); ++i)
        if (const auto* const piece = dynamic_cast<const geos::geom::LineString*>(g.getGeometryN(i)))
            if (!piece->isEmpty()) use(*piece);
}

/// How far along a line its vertices are, as on the ground, near enough for a share.
std::vector<double> lengths_along(std::span<const geo::LonLat> line) {
    const double east = std::cos(line[0].lat * std::numbers::pi / 180);
    std::vector<double> out{0};
    for (std::size_t i = 1; i < line.size(); ++i)
        out.push_back(out.back() + std::hypot((line[i].lon - line[i - 1].lon) * east, line[i].lat - line[i - 1].lat));
    return out;
}

}  // namespace

double InsideOf::share_of(std::span<const geo::LonLat> line) const {
    double sum = 0;
    for (const auto& [from, to] : parts_of(line)) sum += to - from;
    return std::clamp(sum, 0.0, 1.0);
}

std::vector<std::pair<double, double>> InsideOf::parts_of(std::span<const geo::LonLat> line) const {
    if (line.size() < 2) return {};
    const auto drawn = line_of(line);
    if (!state_->prepared->intersects(drawn.get())) return {};
    if (state_->prepared->covers(drawn.get())) return {{0, 1}};
    const auto along = lengths_along(line);
    if (along.back() <= 0) return {};
    const auto part = OverlayNGRobust::Overlay(drawn.get(), state_->shape.get(), OverlayNG::INTERSECTION);
    geos::linearref::LocationIndexedLine index(drawn.get());
    const auto share = [&](const geos::linearref::LinearLocation& at) {
        const std::size_t k = std::min<std::size_t>(at.getSegmentIndex(), line.size() - 2);
        const double within = at.getSegmentIndex() > k ? 1 : at.getSegmentFraction();
        return (along[k] + within * (along[k + 1] - along[k])) / along.back();
    };
    std::vector<std::pair<double, double>> out;
    each_line(*part, [&](const geos::geom::LineString& piece) {
        const std::unique_ptr<geos::linearref::LinearLocation[]> ends(index.indicesOf(&piece));
        const auto [from, to] = std::minmax({share(ends[0]), share(ends[1])});
        if (to > from) out.emplace_back(from, to);
    });
    std::sort(out.begin(), out.end());
    return out;
}

InsideOf::Lines InsideOf::laid_over(std::span<const geo::LonLat> line, bool inside) const {
    const Lines whole{{line.begin(), line.end()}};
    if (line.size() < 2) return inside ? Lines() : whole;
    const auto drawn = line_of(line);
    if (!state_->prepared->intersects(drawn.get())) return inside ? Lines() : whole;
    if (state_->prepared->covers(drawn.get())) return inside ? whole : Lines();
    Lines out;
    const auto part = OverlayNGRobust::Overlay(drawn.get(), state_->shape.get(),
                                               inside ? OverlayNG::INTERSECTION : OverlayNG::DIFFERENCE);
    each_line(*part, [&](const geos::geom::LineString& piece) {
        auto& vertices = out.emplace_back();
        const auto* const c = piece.getCoordinatesRO();
        for (std::size_t i = 0; i < c->size(); ++i) vertices.push_back({c->getAt(i).x, c->getAt(i).y});
    });
    return out;
}
InsideOf::Lines InsideOf::inside(std::span<const geo::LonLat> line) const { return laid_over(line, true); }
InsideOf::Lines InsideOf::outside(std::span<const geo::LonLat> line) const { return laid_over(line, false); }

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
