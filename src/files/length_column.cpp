#include "files/length_column.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "files/road_columns.h"
#include "geo/amounts.h"

namespace otoro::files {
namespace {

constexpr double kFoot = 0.3048, kMile = 1609.344, kYard = 0.9144;

double web_x(double lon) { return lon * 20'037'508.342789244 / 180; }
double web_y(double lat) {
    return std::asinh(std::tan(std::clamp(lat, -89.0, 89.0) * std::numbers::pi / 180)) * 6'378'137.0;
}

/// A stated length that the drawn line does not bear out.
bool disagree(double stated, double drawn) { return std::abs(stated - drawn) > std::max(20.0, 0.05 * drawn); }

}  // namespace

void LengthColumn::add(std::int64_t record, double number, double metres_each, double drawn,
                       std::span<const geo::LonLat> vertices) {
    double degrees = 0, web = 0;
    for (std::size_t i = 1; i < vertices.size(); ++i) {
        const auto a = vertices[i - 1], b = vertices[i];
        degrees += std::hypot(b.lon - a.lon, b.lat - a.lat);
        web += std::hypot(web_x(b.lon) - web_x(a.lon), web_y(b.lat) - web_y(a.lat));
    }
    roads_.push_back({record, number, metres_each, drawn, degrees, web});
}

void LengthColumn::tell(const std::string& file, FlawList& flaws) const {
    if (roads_.empty()) return;
    const double by_heading = metres_by_heading(heading_);
    // What a stated length is, in metres, if the column is in a unit.
    struct Unit {
        const char* name;
        double metres;        // of one; 0 where it differs from road to road
        double Road::*drawn;  // what it is compared with
    };
    std::array<Unit, 7> units{{{"metres", 1, &Road::drawn},
                               {"kilometres", 1000, &Road::drawn},
                               {"miles", kMile, &Road::drawn},
                               {"feet", kFoot, &Road::drawn},
                               {"yards", kYard, &Road::drawn},
                               {"degrees", 1, &Road::degrees},
                               {"metres of the web map", 1, &Road::web_metres}}};
    // That of the heading first: of as good ones it is taken.
    std::stable_partition(units.begin(), units.end(),
                          [&](const Unit& u) { return u.drawn == &Road::drawn && u.metres == by_heading; });
    const auto agrees = [](const Unit& u, const Road& r) {
        constexpr double kClose = 0.03;
        const double stated = r.number * (r.metres_each > 0 ? r.metres_each : u.metres);
        const double drawn = r.metres_each > 0 ? r.drawn : r.*u.drawn;
        return std::abs(stated - drawn) <= kClose * drawn;
    };
    const Unit* best = nullptr;
    std::int64_t most = -1;
    for (const Unit& u : units) {
        const auto n = std::count_if(roads_.begin(), roads_.end(), [&](const Road& r) { return agrees(u, r); });
        // The heading's holds unless another is right for twice as many.
        if (best == nullptr || (best == &units.front() ? n > 2 * most : n > most)) {
            best = &u;
            most = n;
        }
    }
    const auto count = static_cast<std::int64_t>(roads_.size());
    const std::string about = heading_.empty() || heading_[0] == '=' ? std::string("its lengths")
                                                                     : fmt::format("its lengths in '{}'", heading_);
    const auto metres_of_road = [&](const Road& r) {
        if (r.metres_each > 0) return r.number * r.metres_each;
        return best->drawn == &Road::drawn ? r.number * best->metres
                                           : r.number * r.drawn / std::max(1e-12, r.*(best->drawn));
    };
    const auto wrong = std::count_if(roads_.begin(), roads_.end(),
                                     [&](const Road& r) { return disagree(metres_of_road(r), r.drawn); });
    const auto one = [&](std::string text) {
        flaws.push_back({file, roads_.front().record, "", std::move(text), false, FlawKind::length, std::nullopt});
    };
    constexpr std::int64_t kFew = 3;
    if (count > kFew && wrong * 2 > count)
        return one(fmt::format(
            "{} agree with the drawn lines in no unit tried, neither metres, kilometres, miles, feet, yards, "
            "degrees nor metres of the web map: {} of {} differ; the drawn ones are used",
            about, wrong, count));
    if (best != &units.front() && most * 2 > count)
        one(fmt::format(
            "{} are in {}, not in {} as its heading would have it: so they agree with {} of {} drawn lines; the "
            "drawn ones are used",
            about, best->name, units.front().name, most, count));
    for (const Road& r : roads_)
        if (disagree(metres_of_road(r), r.drawn))
            flaws.push_back(
                {file, r.record, "",
                 fmt::format("its length is stated as {:.0f} m and drawn as {:.0f} m; the drawn one is used",
                             metres_of_road(r), r.drawn),
                 false, FlawKind::length, std::nullopt});
}

}  // namespace otoro::files
