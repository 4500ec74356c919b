#include "travel/stated_time.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "geo/amounts.h"
#include "geo/ellipsoid.h"
#include "geo/wording.h"
#include "travel/profile.h"

namespace otoro::travel {
namespace {

constexpr double kFastestKmh = 200;
constexpr double kUsualKmh = 50, kSlowestKmh = 1.5;  // of a road whose class is not known
constexpr Millis kMuchShorter = Millis::seconds(6), kMuchLonger = Millis::minutes(1);

Profile whose(roads::TimesOf of) {
    Profile p;
    p.mode = of == roads::TimesOf::walkers ? Mode::walk : of == roads::TimesOf::cyclists ? Mode::cycle : Mode::drive;
    return p;
}

bool class_is_known(roads::RoadClass c) { return c != roads::RoadClass::other && c != roads::RoadClass::road; }

/// \pre the time is above nothing
std::optional<Doubt> doubt(Millimetres length, Millis stated, const std::optional<Speed>& own, bool back) {
    const double kmh = length.kilometres() / (stated.minutes() / 60);
    const Millis expected = travel_time(length, own.value_or(Speed::km_per_hour(kUsualKmh)));
    const bool fast =
        stated + kMuchShorter <= expected && (kmh > kFastestKmh || (own && stated.count() * 3 <= expected.count()));
    const bool slow = own ? stated >= expected + kMuchLonger && stated.count() >= expected.count() * 10
                          : stated >= kMuchLonger && kmh < kSlowestKmh;
    return fast || slow ? std::optional(Doubt{stated, length, kmh, own, back}) : std::nullopt;
}

}  // namespace

std::optional<Doubt> doubt_of(const roads::Lines& lines, std::uint32_t line) {
    const roads::Attributes& road = lines.attributes[line];
    if (road.fixed_ms == 0 || road.road_class == roads::RoadClass::ferry) return std::nullopt;
    const Millimetres length = geo::line_length(lines.shape(line));
    const bool known = road.drive_speed.stated() || class_is_known(road.road_class);
    const auto own = known ? std::optional(speed_on(road, whose(lines.times_of))) : std::nullopt;
    if (auto found = doubt(length, Millis(road.fixed_ms), own, false)) return found;
    const std::uint32_t back = lines.against_ms.empty() ? 0 : lines.against_ms[line];
    return back == 0 ? std::nullopt : doubt(length, Millis(back), own, true);
}

std::string describe_speed(double kmh) {
    const double speed = kmh * in_speed_units(Speed::km_per_hour(1));
    if (speed < 0.05) return "less than 0.1 " + speed_unit();
    return (speed < 10 ? said(speed, 1) : said_whole(std::llround(speed))) + " " + speed_unit();
}

std::string describe(const Doubt& d) {
    const auto metres = std::max<std::int64_t>(1, (d.length.count() + 500) / 1000);
    return fmt::format("{} min{} for {} are {}{}", said_shortly(d.stated.minutes(), 2), d.back ? " back" : "",
                       otoro::describe(Millimetres(metres * 1000)), describe_speed(d.kmh),
                       d.own ? fmt::format(", against {} otherwise", otoro::describe(*d.own)) : std::string());
}

}  // namespace otoro::travel
