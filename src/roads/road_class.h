#pragma once
/// \file
/// What kind of road something is. The words are those of OpenStreetMap's `highway` key, an open vocabulary that most
/// road files can be mapped to.
#include <array>
#include <cstdint>
#include <optional>
#include <string_view>

namespace otoro::roads {

enum class RoadClass : std::uint8_t {
    motorway,
    trunk,
    primary,
    secondary,
    tertiary,
    unclassified,
    residential,
    living_street,
    service,
    road,
    footway,
    path,
    pedestrian,
    steps,
    track,
    cycleway,
    bridleway,
    corridor,
    ferry,
    other,  ///< the file gives no class, or one that is not known
};
inline constexpr std::size_t kRoadClasses = 20;

/// The word for a class, as in files: `living_street`.
std::string_view name(RoadClass c);

/// A class as files write it. `ramp` is set for `motorway_link` and its like.
struct ParsedClass {
    RoadClass road_class = RoadClass::other;
    bool ramp = false;
};
/// Case, blanks and hyphens do not matter (`Living street` is `living_street`). Nothing for a word that is not known.
std::optional<ParsedClass> parse_class(std::string_view text);

/// Which way along the drawn line one may go.
enum class OneWay : std::uint8_t { both, along, against };

/// A one-way field as files write it: `yes true 1 along forward ft` along the line, `-1 reverse against backward tf`
/// against it, and `no false 0 both b` or nothing for both. Nothing for a word that is not known.
std::optional<OneWay> parse_one_way(std::string_view text);

}  // namespace otoro::roads
