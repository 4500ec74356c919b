#pragma once
/// \file
/// The flat plane in which ground is divided among roads.
///
/// \par Problem
/// Which road is nearest is decided by lengths on the ground. A plane in which every direction has the same scale at a
/// spot keeps that order of what is near it.
///
/// \par Method
/// Lambert's conformal conic projection, true to scale along the parallel through the middle of the roads (on the
/// equator that is Mercator's), counted in whole millimetres; in whole centimetres and so on where the roads go on for
/// more than 1,000 km.
///
/// \par Error
/// The scale differs from 1 by half the square of the distance north or south of the middle over the earth's radius: 3
/// in 100,000 at 50 km. It changes by 1 in a million over 800 m there, so that the line between two roads 250 m off is
/// within a millimetre of where lengths on the ground put it. A line that is straight in degrees is within 2 cm of
/// straight in the plane over 1 km.
#include <array>
#include <cstdint>
#include <memory>

#include "geo/position.h"

namespace otoro::reach {

/// A spot of the plane, in its own unit.
struct Point {
    std::int32_t x = 0;
    std::int32_t y = 0;
    auto operator<=>(const Point&) const = default;
};

/// A spot between points.
struct Spot {
    double x = 0;
    double y = 0;
};

class Plane {
public:
    /// \param extent of all that is to be in it
    explicit Plane(const geo::Box& extent);
    ~Plane();
    Plane(Plane&&) noexcept;
    Plane& operator=(Plane&&) noexcept;

    /// About 0.3 microseconds.
    [[nodiscard]] Spot spot(geo::LonLat p) const;
    [[nodiscard]] Point point(geo::LonLat p) const;
    /// Its longitude is counted on as those of the extent are.
    [[nodiscard]] geo::LonLat place(Spot p) const;
    [[nodiscard]] geo::LonLat place(Point p) const { return place(Spot{double(p.x), double(p.y)}); }
    /// Units of the plane for a metre on the ground, at a place.
    [[nodiscard]] double per_metre(geo::LonLat p) const;
    /// The largest coordinate that a point may have.
    static constexpr double kMost = 1.0e9;

private:
    struct Projection;
    std::unique_ptr<const Projection> projection_;
    geo::LonLat centre_;
    double per_metre_ = 1000;
};

/// A plane over a small box, some thirty times as fast.
///
/// \par Method
/// The projection at 4 x 4 places, and the polynomials of third degree in longitude and latitude through them.
///
/// \par Error
/// The fourth derivatives of a conformal projection times the fourth power of the box: under a hundredth of a
/// millimetre over 20 km at latitude 60. Larger boxes, and places outside of the box, are projected as the plane does
/// it.
class PlanePatch {
public:
    /// \pre `plane` stays
    PlanePatch(const Plane& plane, const geo::Box& box);
    [[nodiscard]] Spot spot(geo::LonLat p) const;
    [[nodiscard]] Point point(geo::LonLat p) const;

private:
    static constexpr int kNodes = 4;
    using Coefficients = std::array<std::array<double, kNodes>, kNodes>;  // by power of u, then of v
    const Plane* plane_;
    geo::LonLat centre_{};
    double per_lon_ = 0, per_lat_ = 0;  ///< 0: the box is too large
    Coefficients x_{}, y_{};
};

/// The point nearest to a spot.
Point rounded(Spot s);

}  // namespace otoro::reach
