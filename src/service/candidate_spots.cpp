#include "service/candidate_spots.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "geo/error.h"
#include "geo/local_frame.h"
#include "geo/wording.h"

namespace otoro::service {
namespace {

places::Site candidate(std::string id, geo::LonLat at) {
    places::Site site;
    site.name = id;
    site.id = std::move(id);
    site.position = at;
    site.state = places::SiteState::candidate;
    return site;
}

void check_count(std::size_t count, const char* where) {
    if (count > kMostSpots)
        throw InputError(
            {"", std::nullopt,
             fmt::format("candidates {} would be {}, more than {}", where, said_whole(static_cast<std::int64_t>(count)),
                         said_whole(static_cast<std::int64_t>(kMostSpots))),
             "Take a wider grid, or a smaller area"});
    if (count == 0)
        throw InputError({"", std::nullopt, fmt::format("there is nowhere for candidates {}", where),
                          "Name candidates in a file of sites"});
}

}  // namespace

places::SiteSet grid_candidates(const places::Demand& demand, Millimetres spacing) {
    std::optional<geo::LonLat> first;
    geo::Box box;
    for (const auto& set : demand.sets())
        for (const auto& place : set->places) {
            if (!place.position) continue;
            if (!first) first = place.position;
            box.add(geo::near_to(*place.position, *first));
        }
    if (!first) check_count(0, "on a grid");
    const auto scale = geo::MetresPerDegree::at_latitude((box.south + box.north) / 2);
    const double metres = std::max(spacing.metres(), 1e-3);
    const double by_lon = metres / std::max(1.0, scale.east), by_lat = metres / scale.north;
    constexpr double kWhole = 1e-3;  // a row is not lost to rounding
    const double columns = std::floor((box.east - box.west) / by_lon + kWhole) + 1;
    const double rows = std::floor((box.north - box.south) / by_lat + kWhole) + 1;
    constexpr double kMostOnGrid = 1e15;
    check_count(static_cast<std::size_t>(std::min(kMostOnGrid, columns * rows)), "on a grid");
    places::SiteSet out;
    out.name = "grid";
    // What is left over is shared by both sides.
    const double from_lon = box.west + (box.east - box.west - (columns - 1) * by_lon) / 2;
    const double from_lat = box.south + (box.north - box.south - (rows - 1) * by_lat) / 2;
    for (double row = 0; row < rows; ++row)
        for (double column = 0; column < columns; ++column)
            out.sites.push_back(candidate(fmt::format("grid-{}", out.sites.size() + 1),
                                          geo::normalised({from_lon + column * by_lon, from_lat + row * by_lat})));
    return out;
}

places::SiteSet junction_candidates(const roads::Network& network) {
    std::vector<std::uint32_t> ends(network.node_count(), 0);
    for (std::uint32_t l = 0; l < network.link_count(); ++l) {
        ++ends[network.ends(LinkId(l)).from.value()];
        ++ends[network.ends(LinkId(l)).to.value()];
    }
    constexpr std::uint32_t kRoads = 3;
    check_count(static_cast<std::size_t>(std::count_if(ends.begin(), ends.end(), [](auto n) { return n >= kRoads; })),
                "at junctions");
    places::SiteSet out;
    out.name = "junctions";
    for (std::uint32_t n = 0; n < ends.size(); ++n)
        if (ends[n] >= kRoads)
            out.sites.push_back(candidate(fmt::format("junction-{}", out.sites.size() + 1),
                                          geo::normalised(network.position(NodeId(n)))));
    return out;
}

places::SiteSet demand_candidates(const places::Demand& demand) {
    places::SiteSet out;
    out.name = "demand places";
    std::set<std::pair<double, double>> taken;
    for (const auto& set : demand.sets())
        for (const auto& place : set->places) {
            if (!place.position || !taken.emplace(place.position->lon, place.position->lat).second) continue;
            out.sites.push_back(candidate("at-" + place.id, *place.position));
        }
    check_count(out.sites.size(), "at demand places");
    return out;
}

}  // namespace otoro::service
