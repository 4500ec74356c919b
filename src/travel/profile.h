#pragma once
/// \file
/// Travel profiles: which roads somebody may use, how fast, and which way.
///
/// The defaults, in km/h by class: motorway 105, trunk 85, primary 65, secondary 55, tertiary 48, unclassified 40,
/// residential 30, road and unknown 30, service 15, living street 10; a ramp 0.7 of its kind. A speed or a time that
/// the file states is used instead. *Respond* drives 1.15 times as fast. *Walk* is 4.8, on steps 2.5, and knows no
/// one-way. *Cycle* is 16, on paths and tracks 12. A ferry takes its stated time or speed for everybody, or 10 km/h.
///
/// Everything of that can be changed class by class in a profile of one's own. Climbing costs walkers time by Tobler's
/// function (Tobler 1993, "Three presentations on geographical analysis and modeling", NCGIA report 93-1): speed falls
/// as exp(-3.5 |slope + 0.05|), taken relative to level ground, where the table's speed holds.
#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "geo/digest.h"
#include "geo/task.h"
#include "roads/network.h"

namespace otoro::travel {

enum class Mode : std::uint8_t { drive, respond, walk, cycle };
std::string_view name(Mode m);
std::optional<Mode> parse_mode(std::string_view text);

/// One class of road for one traveller.
struct ClassRule {
    bool allowed = false;
    Speed speed;
    bool operator==(const ClassRule&) const = default;
};
using ClassTable = std::array<ClassRule, roads::kRoadClasses>;

/// Where somebody may turn back on the road they came by.
enum class TurningBack : std::uint8_t { anywhere, dead_ends, never };
std::string_view name(TurningBack t);

/// What turning costs. Straight on is a change of direction of at most 45 degrees, or any bend where only two roads
/// meet.
struct Turning {
    Millis left, straight, right, back;
    Millis signal;  ///< for passing a crossing with traffic signals
    TurningBack where_back = TurningBack::anywhere;
    bool obeys_bans = false;  ///< forbidden moves that the roads name
    bool operator==(const Turning&) const = default;
    /// Whether it changes nothing on any network without forbidden moves.
    [[nodiscard]] bool is_free() const {
        return *this == Turning{{}, {}, {}, {}, {}, TurningBack::anywhere, obeys_bans};
    }
};

/// How somebody moves.
struct Profile {
    Mode mode = Mode::drive;
    std::optional<Speed> one_speed = {};   ///< the same speed on all roads (ferries keep their own time)
    std::string name = {};                 ///< empty: the standard one of its mode
    std::optional<ClassTable> table = {};  ///< instead of the mode's own
    bool heeds_stated_speed =
        true;  ///< a speed that the file states is used instead of the table's (by drive and respond)
    std::optional<bool> one_way = {};     ///< whether one-way rules are obeyed; none: as the mode does
    bool slope = false;                   ///< climbing costs time, where heights are known
    std::optional<Turning> turning = {};  ///< none: as the mode does
    bool operator==(const Profile&) const = default;
};

/// The table of a mode before anything is changed.
ClassTable standard_table(Mode mode);
/// The table that a profile goes by.
ClassTable table_of(const Profile& profile);
/// As the profile says, else free; `drive` obeys forbidden moves.
Turning turning_of(const Profile& profile);
bool obeys_one_way(const Profile& profile);
/// Whether minutes that a file states for its roads count for this traveller: not with one speed for all roads, and not
/// where they are another's. `respond` takes vehicles' as they stand.
bool heeds_stated_times(const Profile& profile, roads::TimesOf of);
/// The profile's name, or that of its mode.
std::string label(const Profile& profile);
void add(Digest& digest, const Profile& profile);

/// A way along a link that the traveller may not take.
inline constexpr std::uint64_t kNotAllowed = std::numeric_limits<std::uint64_t>::max();

/// Milliseconds to travel one link from end to end, wide enough for any link at any speed; `kNotAllowed` where that is
/// not allowed.
struct TraversalTime {
    std::uint64_t along = kNotAllowed;    ///< as drawn
    std::uint64_t against = kNotAllowed;  ///< the other way
    [[nodiscard]] bool usable() const { return along != kNotAllowed || against != kNotAllowed; }
};

/// What one link costs one traveller. Pure.
TraversalTime crossing(const roads::Network& network, LinkId link, const Profile& profile);
/// The same for any level road of this kind and length.
TraversalTime crossing(const roads::Attributes& road, Millimetres length, const Profile& profile);

/// How many times as long as on level ground it takes to walk up this slope (rise over run; negative down).
double tobler_factor(double slope);

/// The speed on a road of this kind on level ground, whether or not it may be used.
Speed speed_on(const roads::Attributes& road, const Profile& profile);

/// One crossing a link. Linear, parallel.
std::vector<TraversalTime> traversal_times(const roads::Network& network, const Profile& profile, const Task& task);

}  // namespace otoro::travel
