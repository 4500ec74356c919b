#pragma once
/// \file
/// Areas with a name, by which answers are summed up.
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "geo/area.h"
#include "geo/task.h"

namespace otoro::places {

struct Zone {
    std::string id;
    std::string name;  ///< empty where the file names none
    geo::Area area;
    [[nodiscard]] const std::string& label() const { return name.empty() ? id : name; }
};

/// A set of zones in file order. That order settles which of two overlapping zones a place is in.
struct ZoneSet {
    std::string name;
    std::vector<Zone> zones;
    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(zones.size()); }
    [[nodiscard]] std::string digest() const;
};

/// A place in no zone.
inline constexpr std::uint32_t kNoZone = 0xffffffff;

/// The number of the first zone, in file order, that contains each position; one on an edge is in the first of the
/// zones that share it. `kNoZone` for a place in none, or without a position.
///
/// Zones are found by an R-tree of their boxes; a zone's rings are gone through for each place within its box. Edges
/// are taken as straight in degrees. Runs on all threads. \throws Stopped
std::vector<std::uint32_t> zones_of(const ZoneSet& set, const std::vector<std::optional<geo::LonLat>>& positions,
                                    const Task& task);

}  // namespace otoro::places
