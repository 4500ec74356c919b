#pragma once
/// \file
/// Plain geometry in the plane: what strips and boundaries share.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "reach/plane.h"

namespace otoro::reach {

inline Spot operator-(Spot a, Spot b) { return {a.x - b.x, a.y - b.y}; }
inline Spot operator+(Spot a, Spot b) { return {a.x + b.x, a.y + b.y}; }
inline Spot operator*(double k, Spot a) { return {k * a.x, k * a.y}; }
inline double dot(Spot a, Spot b) { return a.x * b.x + a.y * b.y; }
inline double cross(Spot a, Spot b) { return a.x * b.y - a.y * b.x; }
inline double length(Spot a) { return std::hypot(a.x, a.y); }
inline Spot spot(Point p) { return {static_cast<double>(p.x), static_cast<double>(p.y)}; }
inline Spot between(Spot a, Spot b, double t) { return a + t * (b - a); }

/// Where an edge crosses the parallel just north of a point.
struct Crossing {
    double east = 0;  ///< of the point
    double lean = 0;  ///< eastwards, going north: of edges that leave one vertex, the one that leans more is farther
    auto operator<=>(const Crossing&) const = default;
};
/// \returns nothing if the edge does not cross it
template <class P>
std::optional<Crossing> crossing_north_of(P p, P a, P b) {
    if ((a.y > p.y) == (b.y > p.y)) return std::nullopt;
    const P low = a.y < b.y ? a : b, high = a.y < b.y ? b : a;
    const auto less = [](auto from, auto to) { return static_cast<double>(to) - static_cast<double>(from); };
    const double lean = less(low.x, high.x) / less(low.y, high.y);
    return Crossing{less(p.x, low.x) + lean * less(low.y, p.y), lean};
}

/// How far a curve may be from the straight lines that it is drawn as, in metres.
inline constexpr double kCurveMetres = 0.1;

/// An arc around a centre, counter-clockwise.
struct Arc {
    Spot centre;
    double radius = 0, start = 0, turn = 0;  ///< radians

    /// From one spot on a circle to another. Where a road goes straight on, the ground of its corner has no width, and
    /// its arc none either: two spots within a centimetre are not a whole turn apart. \param start, end angles
    static Arc from_to(Spot centre, double radius, Spot from, Spot to, double start, double end) {
        constexpr double kNoWidth = 10;  // units of the plane
        double turn = end - start;
        if (turn <= 0) turn += 2 * std::numbers::pi;
        if (turn > 1.5 * std::numbers::pi && length(to - from) < kNoWidth) turn = 0;
        return {centre, radius, start, turn};
    }
    /// Calls `use(spot)` for spots between its ends, none nearer to the chords than `curve`.
    template <class Use>
    void each_between(double curve, Use&& use) const {
        constexpr double kMostParts = 4096;
        const double step = 2 * std::acos(std::max(-1.0, 1 - curve / std::max(radius, curve)));
        const int parts = static_cast<int>(std::clamp(std::ceil(turn / step), 1.0, kMostParts));
        for (int i = 1; i < parts; ++i) {
            const double angle = start + turn * i / parts;
            use(centre + radius * Spot{std::cos(angle), std::sin(angle)});
        }
    }
};

}  // namespace otoro::reach
