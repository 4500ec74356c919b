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

/// The 180th meridian is crossed by counting on: roads on both sides of it have longitudes that go on beyond 180, up to
/// this, so that everything is near what it is near to.
inline constexpr double kMostLongitude = 540;
/// A vertex of a road: on the globe, its longitude perhaps counted on.
inline bool on_the_globe_counted_on(LonLat p) {
    return std::isfinite(p.lon) && std::isfinite(p.lat) && std::abs(p.lon) <= kMostLongitude && std::abs(p.lat) <= 90.0;
}

/// A place with its longitude counted on or back so that it lies within 180 degrees of another.
inline LonLat near_to(LonLat p, LonLat other) {
    if (p.lon - other.lon > 180)
        p.lon -= 360;
    else if (p.lon - other.lon < -180)
        p.lon += 360;
    return p;
}
/// A place with its longitude between -180 and 180, as it is written to files.
inline LonLat normalised(LonLat p) {
    while (p.lon > 180) p.lon -= 360;
    while (p.lon < -180) p.lon += 360;
    return p;
}

/// A rectangle in degrees; across the 180th meridian its longitudes are counted on.
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
    [[nodiscard]] bool contains(LonLat p) const {
        return p.lon >= west && p.lon <= east && p.lat >= south && p.lat <= north;
    }
    [[nodiscard]] LonLat centre() const { return {(west + east) / 2, (south + north) / 2}; }
};

}  // namespace otoro::geo
