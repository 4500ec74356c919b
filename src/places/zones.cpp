#include "places/zones.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <atomic>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/register/point.hpp>
#include <boost/geometry/geometries/register/ring.hpp>

#include "geo/box_index.h"
#include "geo/digest.h"

BOOST_GEOMETRY_REGISTER_POINT_2D(otoro::geo::LonLat, double, boost::geometry::cs::cartesian, lon, lat)
BOOST_GEOMETRY_REGISTER_RING(std::vector<otoro::geo::LonLat>)

namespace otoro::places {
namespace {

/// Rings whose last vertex is their first again.
std::vector<std::vector<geo::LonLat>> closed_rings(const geo::Area& area) {
    auto rings = area.rings;
    for (auto& ring : rings)
        if (!ring.empty() && ring.front() != ring.back()) ring.push_back(ring.front());
    return rings;
}

/// Inside by the even-odd rule over all rings; edges are inside.
bool covers(const std::vector<std::vector<geo::LonLat>>& rings, geo::LonLat p) {
    bool inside = false;
    for (const auto& ring : rings) {
        const bool within = boost::geometry::within(p, ring);
        if (!within && boost::geometry::covered_by(p, ring)) return true;  // on its edge
        inside = inside != within;
    }
    return inside;
}

}  // namespace

std::string ZoneSet::digest() const {
    Digest d;
    for (const auto& z : zones) {
        d.text(z.id).text(z.name).value(static_cast<std::uint64_t>(z.area.rings.size()));
        for (const auto& ring : z.area.rings) d.array(ring);
    }
    return d.hex();
}

std::vector<std::uint32_t> zones_of(const ZoneSet& set, const std::vector<std::optional<geo::LonLat>>& positions,
                                    const Task& task) {
    std::vector<std::vector<std::vector<geo::LonLat>>> rings;
    rings.reserve(set.zones.size());
    for (const auto& z : set.zones) rings.push_back(closed_rings(z.area));
    const geo::BoxIndex index(set.count(), [&](std::uint32_t i) { return set.zones[i].area.box; });

    std::vector<std::uint32_t> out(positions.size(), kNoZone);
    std::atomic<bool> stop = false;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, positions.size(), 1024), [&](const auto& range) {
        if (task.stop_requested()) stop = true;
        if (stop) return;
        std::vector<std::uint32_t> near;
        for (std::size_t i = range.begin(); i != range.end(); ++i) {
            if (!positions[i]) continue;
            const geo::LonLat p = *positions[i];
            index.touching({p.lon, p.lat, p.lon, p.lat}, near);
            std::sort(near.begin(), near.end());
            const auto at = std::find_if(near.begin(), near.end(), [&](std::uint32_t z) {
                return set.zones[z].area.box.contains(p) && covers(rings[z], p);
            });
            if (at != near.end()) out[i] = *at;
        }
    });
    task.check();
    return out;
}

}  // namespace otoro::places
