#include "travel/profile.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>

namespace otoro::travel {
namespace {
using roads::Attributes;
using roads::RoadClass;

constexpr std::array<std::string_view, 4> kModes{"drive", "respond", "walk", "cycle"};
constexpr std::uint32_t kRampPerMille = 700;
constexpr std::uint32_t kRespondPerMille = 1150;
constexpr double kFerryKmh = 10;

double drive_kmh(RoadClass c) {
    switch (c) {
        case RoadClass::motorway: return 105;
        case RoadClass::trunk: return 85;
        case RoadClass::primary: return 65;
        case RoadClass::secondary: return 55;
        case RoadClass::tertiary: return 48;
        case RoadClass::unclassified: return 40;
        case RoadClass::service: return 15;
        case RoadClass::living_street: return 10;
        default: return 30;
    }
}

bool carries_vehicles(RoadClass c) { return c <= RoadClass::road || c == RoadClass::ferry || c == RoadClass::other; }
bool is_motorway_or_trunk(RoadClass c) { return c == RoadClass::motorway || c == RoadClass::trunk; }

bool allowed(const Attributes& road, Mode mode) {
    const RoadClass c = road.road_class;
    switch (mode) {
        case Mode::drive:
        case Mode::respond: return carries_vehicles(c) && !(road.barred & roads::kBarredDrive);
        case Mode::walk: return !is_motorway_or_trunk(c) && !(road.barred & roads::kBarredWalk);
        case Mode::cycle:
            if (road.barred & roads::kBarredCycle) return false;
            if (c == RoadClass::footway) return road.flags & roads::kCycleAllowed;
            return (carries_vehicles(c) && !is_motorway_or_trunk(c)) || c == RoadClass::cycleway || c == RoadClass::track || c == RoadClass::path;
    }
    return false;
}

roads::OneWay one_way(const Attributes& road, Mode mode) {
    switch (mode) {
        case Mode::walk: return roads::OneWay::both;
        case Mode::cycle: return road.cycle_one_way();
        default: return road.drive_one_way();
    }
}

Speed ferry_speed(const Attributes& road) { return road.drive_speed.stated() ? road.drive_speed : Speed::km_per_hour(kFerryKmh); }

}  // namespace

std::string_view name(Mode m) { return kModes[static_cast<std::size_t>(m)]; }

std::optional<Mode> parse_mode(std::string_view text) {
    const auto at = std::find(kModes.begin(), kModes.end(), text);
    if (at == kModes.end()) return std::nullopt;
    return static_cast<Mode>(at - kModes.begin());
}

Speed speed_on(const Attributes& road, const Profile& profile) {
    if (road.road_class == RoadClass::ferry) return ferry_speed(road);
    if (profile.one_speed) return *profile.one_speed;
    switch (profile.mode) {
        case Mode::walk: return Speed::km_per_hour(road.road_class == RoadClass::steps ? 2.5 : 4.8);
        case Mode::cycle: return Speed::km_per_hour(road.road_class == RoadClass::track || road.road_class == RoadClass::path ? 12 : 16);
        default: break;
    }
    Speed s = road.drive_speed;
    if (!s.stated()) {
        s = Speed::km_per_hour(drive_kmh(road.road_class));
        if (road.flags & roads::kRamp) s = s.scaled(kRampPerMille);
    }
    return profile.mode == Mode::respond ? s.scaled(kRespondPerMille) : s;
}

Crossing crossing(const Attributes& road, Millimetres length, const Profile& profile) {
    if (!allowed(road, profile.mode)) return {};
    const std::int64_t ms = road.fixed_ms != 0 ? road.fixed_ms : travel_time(length, speed_on(road, profile)).count();
    const auto t = static_cast<std::uint32_t>(std::min<std::int64_t>(ms, kShut - 1));
    const auto way = one_way(road, profile.mode);
    return {way == roads::OneWay::against ? kShut : t, way == roads::OneWay::along ? kShut : t};
}

std::vector<Crossing> crossings(const roads::Network& network, const Profile& profile, const Task& task) {
    task.check();
    std::vector<Crossing> out(network.link_count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, network.link_count(), 8192), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i)
            out[i] = crossing(network.attributes(LinkId(i)), network.length(LinkId(i)), profile);
    });
    return out;
}

}  // namespace otoro::travel
