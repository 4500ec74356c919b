#pragma once
/// \file
/// Reached ground, and whether it is valid.
#include <geos/geom/CoordinateArraySequence.h>
#include <geos/geom/GeometryFactory.h>
#include <geos/geom/LinearRing.h>
#include <geos/geom/MultiPolygon.h>
#include <geos/geom/Polygon.h>
#include <geos/operation/valid/IsValidOp.h>

#include <catch2/catch.hpp>
#include <memory>
#include <span>

#include "geo/edge_index.h"
#include "reach/overlay.h"
#include "service/reach_parts.h"
#include "service/road_values.h"
#include "support/asking.h"

namespace otoro::test {

struct Reached {
    std::vector<reach::Region> regions;
    std::vector<geo::Area> areas;
    std::vector<std::unique_ptr<geo::AreaIndex>> indexes;
    [[nodiscard]] std::uint32_t ground(geo::LonLat p) const {
        std::uint32_t found = reach::kNobody;
        for (std::size_t i = 0; i < areas.size(); ++i)
            if (indexes[i]->any_contains(p)) {
                if (found != reach::kNobody) FAIL_CHECK("areas overlap");
                found = regions[i].ground;
            }
        return found;
    }
};

inline Reached reach_of(const test::Answered& asked, std::vector<double> limits) {
    const auto values = service::values_of(asked.ready, asked.outcome, service::ValueOf::time, Task());
    const reach::Bands bands{std::move(limits),
                             service::per_metre_off_road(asked.ready->question, service::ValueOf::time)};
    const geo::Box all = asked.ready->inputs.network->extent();
    auto regions = service::with_boundaries(
        *asked.ready->ground, *values, bands, {&all, 1}, Task(),
        [&](const auto& found) { return reach::regions(asked.ready->ground->plane(), found, 0, Task()); });
    Reached out{std::move(regions), {}, {}};
    for (const auto& r : out.regions) out.areas.push_back(reach::area_of(r.polygons));
    for (const auto& a : out.areas) out.indexes.push_back(std::make_unique<geo::AreaIndex>(std::span(&a, 1)));
    return out;
}

/// Whether all ground of one class is valid by OGC's rules, and if not, why.
inline std::string flaw_of(const std::vector<reach::Polygon>& shape) {
    const auto factory = geos::geom::GeometryFactory::create();
    const auto ring = [&](const std::vector<geo::LonLat>& vertices) {
        auto line = std::make_unique<geos::geom::CoordinateArraySequence>();
        for (const auto p : vertices) line->add(geos::geom::Coordinate(p.lon, p.lat));
        return factory->createLinearRing(std::move(line));
    };
    std::vector<std::unique_ptr<geos::geom::Polygon>> polygons;
    for (const auto& p : shape) {
        std::vector<std::unique_ptr<geos::geom::LinearRing>> holes;
        for (const auto& h : p.holes) holes.push_back(ring(h));
        polygons.push_back(factory->createPolygon(ring(p.outer), std::move(holes)));
    }
    const auto all = factory->createMultiPolygon(std::move(polygons));
    geos::operation::valid::IsValidOp valid(all.get());
    const auto* const error = valid.getValidationError();
    return error == nullptr ? "" : error->toString();
}

}  // namespace otoro::test
