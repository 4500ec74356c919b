#pragma once
/// \file
/// Polygons laid over one another, by GEOS.
#include <memory>
#include <span>
#include <utility>
#include <vector>

#include "geo/area.h"
#include "reach/rings.h"

namespace otoro::reach {

using Polygons = std::vector<Polygon>;

/// Results are valid, outer rings counter-clockwise; what is left of lines and points is left out. Costs `n log n` in
/// vertices, some microseconds each. \pre both are valid. \throws std::runtime_error if GEOS cannot
Polygons common(const Polygons& a, const Polygons& b);
Polygons without(const Polygons& a, const Polygons& b);
Polygons together(const Polygons& a, const Polygons& b);

/// Areas by the even-odd rule as valid polygons that do not overlap; what crosses itself is mended as GEOS does it.
Polygons polygons_of(std::span<const geo::Area> areas);

/// With longitudes between -180 and 180: cut along the 180th meridian where they cross it.
Polygons normalised(Polygons polygons);

/// With coordinates of so many to a degree, and valid: what is too small for that is left out.
Polygons on_grid(Polygons polygons, double to_a_degree);

/// Without what is thinner than this: twice its area over the length of its ring. Where two areas that were found each
/// by itself are laid over one another, their edges are the same within millimetres, and what is left between them is
/// nothing. Holes as thin go too.
Polygons without_slivers(Polygons polygons, double thin_metres);

double square_metres(const Polygons& polygons);
geo::Box box_of(const Polygons& polygons);
/// As one area by the even-odd rule.
geo::Area area_of(const Polygons& polygons);

/// How much of lines lies in polygons.
class InsideOf {
public:
    explicit InsideOf(const Polygons& polygons);
    ~InsideOf();
    InsideOf(const InsideOf&) = delete;
    InsideOf& operator=(const InsideOf&) = delete;
    [[nodiscard]] const geo::Box& box() const { return box_; }
    /// The part of a line's length that is inside, 0 to 1. Some microseconds, more where the line crosses an edge.
    [[nodiscard]] double share_of(std::span<const geo::LonLat> line) const;
    /// The parts that are inside, as from where to where along the line, 0 to 1, ascending.
    [[nodiscard]] std::vector<std::pair<double, double>> parts_of(std::span<const geo::LonLat> line) const;
    /// The same as lines; and those that are outside.
    using Lines = std::vector<std::vector<geo::LonLat>>;
    [[nodiscard]] Lines inside(std::span<const geo::LonLat> line) const;
    [[nodiscard]] Lines outside(std::span<const geo::LonLat> line) const;

private:
    [[nodiscard]] Lines laid_over(std::span<const geo::LonLat> line, bool inside) const;

    struct State;
    std::unique_ptr<State> state_;
    geo::Box box_;
};

/// All that is within so many metres of a place, on the ellipsoid: a polygon with corners 1 cm within the circle at
/// most, never fewer than 72. Its longitudes are counted on from the place's.
Polygon circle(geo::LonLat centre, double metres);

}  // namespace otoro::reach
