#pragma once
/// \file
/// Travel profiles: which roads somebody may use, how fast, and which way.
///
/// The defaults, in km/h by class: motorway 105, trunk 85, primary 65, secondary 55, tertiary 48, unclassified 40, residential 30, road and
/// unknown 30, service 15, living street 10; a ramp 0.7 of its kind. A speed that the file states is used instead. *Respond*
/// drives 1.15 times as fast. *Walk* is 4.8, on steps 2.5, and knows no one-way. *Cycle* is 16, on paths and tracks 12. A ferry takes its
/// stated time or speed for everybody, or 10 km/h.
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "geo/task.h"
#include "roads/network.h"

namespace otoro::travel {

enum class Mode : std::uint8_t { drive, respond, walk, cycle };
std::string_view name(Mode m);
std::optional<Mode> parse_mode(std::string_view text);

/// How somebody moves.
struct Profile {
    Mode mode = Mode::drive;
    std::optional<Speed> one_speed;  ///< the same speed on all roads (ferries keep their own time)
    bool operator==(const Profile&) const = default;
};

/// A way along a link that the traveller may not take.
inline constexpr std::uint32_t kShut = std::numeric_limits<std::uint32_t>::max();

/// Milliseconds to travel one link from end to end; `kShut` where that is not allowed.
struct Crossing {
    std::uint32_t along = kShut;    ///< as drawn
    std::uint32_t against = kShut;  ///< the other way
    [[nodiscard]] bool usable() const { return along != kShut || against != kShut; }
};

/// What one road of this kind and length costs one traveller. Pure.
Crossing crossing(const roads::Attributes& road, Millimetres length, const Profile& profile);

/// The speed on a road of this kind, whether or not it may be used.
Speed speed_on(const roads::Attributes& road, const Profile& profile);

/// One crossing a link. Linear, parallel.
std::vector<Crossing> crossings(const roads::Network& network, const Profile& profile, const Task& task);

}  // namespace otoro::travel
