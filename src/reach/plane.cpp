#include "reach/plane.h"

#include <GeographicLib/LambertConformalConic.hpp>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace otoro::reach {

struct Plane::Projection {
    GeographicLib::LambertConformalConic conic;
};

namespace {
constexpr double kEquatorialRadius = 6378137.0;
constexpr double kFlattening = 1.0 / 298.257223563;
}  // namespace

Plane::Plane(const geo::Box& extent)
    : projection_(std::make_unique<const Projection>(
          Projection{GeographicLib::LambertConformalConic(kEquatorialRadius, kFlattening, extent.centre().lat, 1.0)})),
      centre_(extent.centre()) {
    double most = 0;
    for (const double lon : {extent.west, centre_.lon, extent.east})
        for (const double lat : {extent.south, centre_.lat, extent.north}) {
            const Spot s = spot({lon, lat});
            most = std::max({most, std::abs(s.x), std::abs(s.y)});
        }
    // Twice as far, for what is near the roads and for the frame around a tile.
    while (most * 2 > kMost) {
        most /= 10;
        per_metre_ /= 10;
    }
}
Plane::~Plane() = default;
Plane::Plane(Plane&&) noexcept = default;
Plane& Plane::operator=(Plane&&) noexcept = default;

Spot Plane::spot(geo::LonLat p) const {
    double x = 0, y = 0;
    projection_->conic.Forward(centre_.lon, p.lat, p.lon, x, y);
    return {x * per_metre_, y * per_metre_};
}
Point Plane::point(geo::LonLat p) const { return rounded(spot(p)); }

geo::LonLat Plane::place(Spot p) const {
    geo::LonLat out;
    projection_->conic.Reverse(centre_.lon, p.x / per_metre_, p.y / per_metre_, out.lat, out.lon);
    return geo::near_to(out, centre_);
}

double Plane::per_metre(geo::LonLat p) const {
    double x = 0, y = 0, convergence = 0, scale = 1;
    projection_->conic.Forward(centre_.lon, p.lat, p.lon, x, y, convergence, scale);
    return per_metre_ * scale;
}

Point rounded(Spot s) {
    const auto held = [](double v) {
        return static_cast<std::int32_t>(std::llround(std::clamp(v, -Plane::kMost * 2, Plane::kMost * 2)));
    };
    return {held(s.x), held(s.y)};
}

PlanePatch::PlanePatch(const Plane& plane, const geo::Box& box) : plane_(&plane) {
    constexpr double kMostDegrees = 0.25;  // some 28 km of latitude
    const double half_lon = (box.east - box.west) / 2, half_lat = (box.north - box.south) / 2;
    centre_ = {box.west + half_lon, box.south + half_lat};
    const double wide = half_lon * std::cos(centre_.lat * std::numbers::pi / 180);
    if (!(half_lon > 0 && half_lat > 0) || wide > kMostDegrees / 2 || half_lat > kMostDegrees / 2 || half_lon > 1 ||
        std::abs(centre_.lat) > 80)
        return;
    per_lon_ = 1 / half_lon;
    per_lat_ = 1 / half_lat;
    // Chebyshev's places, and the polynomial that is 1 at one of them and 0 at the others.
    std::array<double, kNodes> nodes{};
    for (int k = 0; k < kNodes; ++k) nodes[k] = std::cos((2 * k + 1) * std::numbers::pi / (2 * kNodes));
    std::array<std::array<double, kNodes>, kNodes> one_at{};
    for (int k = 0; k < kNodes; ++k) {
        std::array<double, kNodes> p{1};
        int degree = 0;
        for (int m = 0; m < kNodes; ++m) {
            if (m == k) continue;
            const double scale = 1 / (nodes[k] - nodes[m]);
            for (int d = ++degree; d >= 0; --d)
                p[d] = ((d > 0 ? p[d - 1] : 0) - (d < degree ? p[d] * nodes[m] : 0)) * scale;
        }
        one_at[k] = p;
    }
    for (int i = 0; i < kNodes; ++i)
        for (int j = 0; j < kNodes; ++j) {
            const Spot s = plane.spot({centre_.lon + nodes[i] * half_lon, centre_.lat + nodes[j] * half_lat});
            for (int a = 0; a < kNodes; ++a)
                for (int b = 0; b < kNodes; ++b) {
                    x_[a][b] += s.x * one_at[i][a] * one_at[j][b];
                    y_[a][b] += s.y * one_at[i][a] * one_at[j][b];
                }
        }
}

Spot PlanePatch::spot(geo::LonLat p) const {
    const double u = (p.lon - centre_.lon) * per_lon_, v = (p.lat - centre_.lat) * per_lat_;
    if (per_lon_ == 0 || std::abs(u) > 1 || std::abs(v) > 1) return plane_->spot(p);
    Spot out;
    for (int a = kNodes - 1; a >= 0; --a) {
        const auto &cx = x_[a], &cy = y_[a];
        out.x = out.x * u + (((cx[3] * v + cx[2]) * v + cx[1]) * v + cx[0]);
        out.y = out.y * u + (((cy[3] * v + cy[2]) * v + cy[1]) * v + cy[0]);
    }
    return out;
}

Point PlanePatch::point(geo::LonLat p) const { return rounded(spot(p)); }

}  // namespace otoro::reach
