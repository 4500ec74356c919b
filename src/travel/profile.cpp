#include "travel/profile.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "geo/ellipsoid.h"

namespace otoro::travel {
namespace {
using roads::Attributes;
using roads::RoadClass;

constexpr std::array<std::string_view, 4> kModes{"drive", "respond", "walk", "cycle"};
constexpr std::uint32_t kRampPerMille = 700;
constexpr std::uint32_t kRespondPerMille = 1150;
constexpr double kFerryKmh = 10;
constexpr double kSteepest = 1.0;  // rise over run that is still believed
constexpr std::array<std::string_view, 3> kTurningBack{"anywhere", "dead_ends", "never"};

double drive_kmh(RoadClass c) {
    switch (c) {
        case RoadClass::motorway:
            return 105;
        case RoadClass::trunk:
            return 85;
        case RoadClass::primary:
            return 65;
        case RoadClass::secondary:
            return 55;
        case RoadClass::tertiary:
            return 48;
        case RoadClass::unclassified:
            return 40;
        case RoadClass::service:
            return 15;
        case RoadClass::living_street:
            return 10;
        default:
            return 30;
    }
}

bool carries_vehicles(RoadClass c) { return c <= RoadClass::road || c == RoadClass::ferry || c == RoadClass::other; }
bool is_motorway_or_trunk(RoadClass c) { return c == RoadClass::motorway || c == RoadClass::trunk; }

bool class_allowed(RoadClass c, Mode mode) {
    switch (mode) {
        case Mode::drive:
        case Mode::respond:
            return carries_vehicles(c);
        case Mode::walk:
            return !is_motorway_or_trunk(c);
        case Mode::cycle:
            return (carries_vehicles(c) && !is_motorway_or_trunk(c)) || c == RoadClass::cycleway ||
                   c == RoadClass::track || c == RoadClass::path;
    }
    return false;
}

bool barred(const Attributes& road, Mode mode) {
    switch (mode) {
        case Mode::drive:
        case Mode::respond:
            return road.barred & roads::kBarredDrive;
        case Mode::walk:
            return road.barred & roads::kBarredWalk;
        case Mode::cycle:
            return road.barred & roads::kBarredCycle;
    }
    return false;
}

bool allowed(const Attributes& road, const Profile& profile) {
    if (barred(road, profile.mode)) return false;
    const RoadClass c = road.road_class;
    const bool by_class =
        profile.table ? (*profile.table)[static_cast<std::size_t>(c)].allowed : class_allowed(c, profile.mode);
    return by_class || (profile.mode == Mode::cycle && c == RoadClass::footway && (road.flags & roads::kCycleAllowed));
}

roads::OneWay one_way(const Attributes& road, const Profile& profile) {
    if (!obeys_one_way(profile)) return roads::OneWay::both;
    return profile.mode == Mode::cycle ? road.cycle_one_way() : road.drive_one_way();
}

/// Ground length of a link as if it were level, so that its time at the level speed is its time up and down: along, and
/// against.
struct LevelLength {
    Millimetres along, against;
};

LevelLength level_length(const roads::Network& network, LinkId link) {
    const auto shape = network.shape(link);
    const auto heights = network.lines().heights_of(link.value());
    const Millimetres length = network.length(link);
    if (heights.empty()) return {length, length};
    double metres = 0, along = 0, against = 0;
    for (std::size_t i = 1; i < shape.size(); ++i) {
        const double run = geo::distance_metres(shape[i - 1], shape[i]);
        const double rise = static_cast<double>(heights[i]) - static_cast<double>(heights[i - 1]);
        const double slope = run > 0 && std::isfinite(rise) ? std::clamp(rise / run, -kSteepest, kSteepest) : 0.0;
        metres += run;
        along += run * tobler_factor(slope);
        against += run * tobler_factor(-slope);
    }
    const double scale = metres > 0 ? length.metres() / metres : 1.0;
    return {Millimetres::from_metres(along * scale), Millimetres::from_metres(against * scale)};
}

Speed ferry_speed(const Attributes& road, const Profile& profile) {
    if (road.drive_speed.stated()) return road.drive_speed;
    return profile.table ? (*profile.table)[static_cast<std::size_t>(RoadClass::ferry)].speed
                         : Speed::km_per_hour(kFerryKmh);
}

}  // namespace

std::string_view name(Mode m) { return kModes[static_cast<std::size_t>(m)]; }

std::optional<Mode> parse_mode(std::string_view text) {
    const auto at = std::find(kModes.begin(), kModes.end(), text);
    if (at == kModes.end()) return std::nullopt;
    return static_cast<Mode>(at - kModes.begin());
}

std::string_view name(TurningBack t) { return kTurningBack[static_cast<std::size_t>(t)]; }

ClassTable standard_table(Mode mode) {
    ClassTable table;
    for (std::size_t i = 0; i < table.size(); ++i) {
        const auto c = static_cast<RoadClass>(i);
        double kmh = drive_kmh(c);
        if (mode == Mode::walk) kmh = c == RoadClass::steps ? 2.5 : 4.8;
        if (mode == Mode::cycle) kmh = c == RoadClass::track || c == RoadClass::path ? 12 : 16;
        if (c == RoadClass::ferry) kmh = kFerryKmh;
        Speed speed = Speed::km_per_hour(kmh);
        if (mode == Mode::respond && c != RoadClass::ferry) speed = speed.scaled(kRespondPerMille);
        table[i] = {class_allowed(c, mode), speed};
    }
    return table;
}

ClassTable table_of(const Profile& profile) { return profile.table ? *profile.table : standard_table(profile.mode); }

Turning turning_of(const Profile& profile) {
    if (profile.turning) return *profile.turning;
    Turning t;
    t.obeys_bans = profile.mode == Mode::drive;
    return t;
}

bool obeys_one_way(const Profile& profile) { return profile.one_way.value_or(profile.mode != Mode::walk); }

bool heeds_stated_times(const Profile& profile, roads::TimesOf of) {
    if (profile.one_speed || !profile.heeds_stated_speed) return false;
    switch (profile.mode) {
        case Mode::drive:
        case Mode::respond:
            return of == roads::TimesOf::vehicles;
        case Mode::walk:
            return of == roads::TimesOf::walkers;
        case Mode::cycle:
            return of == roads::TimesOf::cyclists;
    }
    return false;
}

std::string label(const Profile& profile) {
    return profile.name.empty() ? std::string(name(profile.mode)) : profile.name;
}

void add(Digest& d, const Profile& p) {
    d.value(static_cast<std::uint8_t>(p.mode)).value(p.one_speed ? p.one_speed->mm_per_hour() : 0U);
    for (const ClassRule& r : table_of(p)) d.value(static_cast<std::uint8_t>(r.allowed)).value(r.speed.mm_per_hour());
    d.value(static_cast<std::uint8_t>(p.heeds_stated_speed))
        .value(static_cast<std::uint8_t>(obeys_one_way(p)))
        .value(static_cast<std::uint8_t>(p.slope));
    const Turning t = turning_of(p);
    for (const Millis m : {t.left, t.straight, t.right, t.back, t.signal}) d.value(m.count());
    d.value(static_cast<std::uint8_t>(t.where_back)).value(static_cast<std::uint8_t>(t.obeys_bans));
}

double tobler_factor(double slope) { return std::exp(3.5 * (std::abs(slope + 0.05) - 0.05)); }

Speed speed_on(const Attributes& road, const Profile& profile) {
    if (road.road_class == RoadClass::ferry) return ferry_speed(road, profile);
    if (profile.one_speed) return *profile.one_speed;
    const bool drives = profile.mode == Mode::drive || profile.mode == Mode::respond;
    if (drives && profile.heeds_stated_speed && road.drive_speed.stated())
        return profile.mode == Mode::respond ? road.drive_speed.scaled(kRespondPerMille) : road.drive_speed;
    // The ramp's share comes off before the responder's extra, each rounded once.
    if (!profile.table && drives) {
        Speed s = Speed::km_per_hour(drive_kmh(road.road_class));
        if (road.flags & roads::kRamp) s = s.scaled(kRampPerMille);
        return profile.mode == Mode::respond ? s.scaled(kRespondPerMille) : s;
    }
    const Speed s = table_of(profile)[static_cast<std::size_t>(road.road_class)].speed;
    return drives && (road.flags & roads::kRamp) ? s.scaled(kRampPerMille) : s;
}

namespace {

/// Times that the file states for one road, and whose they are.
struct StatedTimes {
    std::uint32_t back_ms = 0;  ///< against the drawn direction; 0 if it is that along
    roads::TimesOf of = roads::TimesOf::vehicles;
};

/// Whether a stated time counts for this traveller. A ferry's does for everybody.
bool heeds_time(const Attributes& road, roads::TimesOf of, const Profile& profile) {
    if (road.fixed_ms == 0) return false;
    return road.road_class == RoadClass::ferry || heeds_stated_times(profile, of);
}

TraversalTime crossing(const Attributes& road, LevelLength length, StatedTimes stated, const Profile& profile) {
    if (!allowed(road, profile)) return {};
    const auto whole = [](Millis time) { return static_cast<std::uint64_t>(time.count()); };
    TraversalTime c;
    if (heeds_time(road, stated.of, profile)) {
        c = {road.fixed_ms, stated.back_ms != 0 ? stated.back_ms : road.fixed_ms};
    } else {
        const Speed speed = speed_on(road, profile);
        c = {whole(travel_time(length.along, speed)), whole(travel_time(length.against, speed))};
    }
    const auto way = one_way(road, profile);
    if (way == roads::OneWay::against) c.along = kNotAllowed;
    if (way == roads::OneWay::along) c.against = kNotAllowed;
    return c;
}

}  // namespace

TraversalTime crossing(const Attributes& road, Millimetres length, const Profile& profile) {
    return crossing(road, {length, length}, StatedTimes{}, profile);
}

TraversalTime crossing(const roads::Network& network, LinkId link, const Profile& profile) {
    const auto& against_ms = network.lines().against_ms;
    const Millimetres length = network.length(link);
    return crossing(network.attributes(link), profile.slope ? level_length(network, link) : LevelLength{length, length},
                    StatedTimes{against_ms.empty() ? 0 : against_ms[link.value()], network.lines().times_of}, profile);
}

std::vector<TraversalTime> traversal_times(const roads::Network& network, const Profile& wanted, const Task& task) {
    task.check();
    Profile profile = wanted;
    if (!profile.table && (profile.mode == Mode::walk || profile.mode == Mode::cycle))
        profile.table = standard_table(profile.mode);  // worked out once
    std::vector<TraversalTime> out(network.link_count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, network.link_count(), 8192), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) out[i] = crossing(network, LinkId(i), profile);
    });
    return out;
}

}  // namespace otoro::travel
