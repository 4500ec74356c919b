#pragma once
/// \file
/// Where something is: longitude and latitude on WGS84, in degrees.
#include <cmath>

namespace otoro::geo {

struct LonLat {
    double lon = 0;  ///< degrees east, -180 to 180
    double lat = 0;  ///< degrees north, -90 to 90
    bool operator==(const LonLat&) const = default;
};

/// Finite and on the globe. What fails this is a `bad_location`.
inline bool on_the_globe(LonLat p) {
    return std::isfinite(p.lon) && std::isfinite(p.lat) && std::abs(p.lon) <= 180.0 && std::abs(p.lat) <= 90.0;
}

/// A rectangle in degrees. It does not cross the 180th meridian.
struct Box {
    double west = 1e9, south = 1e9, east = -1e9, north = -1e9;

    [[nodiscard]] bool empty() const { return west > east; }
    void add(LonLat p) {
        if (p.lon < west) west = p.lon;
        if (p.lon > east) east = p.lon;
        if (p.lat < south) south = p.lat;
        if (p.lat > north) north = p.lat;
    }
    void add(const Box& b) {
        if (b.empty()) return;
        add(LonLat{b.west, b.south});
        add(LonLat{b.east, b.north});
    }
    [[nodiscard]] bool contains(LonLat p) const { return p.lon >= west && p.lon <= east && p.lat >= south && p.lat <= north; }
    [[nodiscard]] LonLat centre() const { return {(west + east) / 2, (south + north) / 2}; }
};

}  // namespace otoro::geo
