#include "generator/terrain.h"

#include <algorithm>

#include "geo/local_frame.h"

namespace demo {

bool Terrain::water(Point p) const {
    for (const auto& i : islands) {
        const Point d = p - i.centre;
        const double wobble =
            1 + 0.12 * std::sin(3 * std::atan2(d.y, d.x) + 1) + 0.06 * std::sin(7 * std::atan2(d.y, d.x));
        if (std::hypot(d.x / i.rx, d.y / i.ry) < wobble) return false;
    }
    if (p.x < coast(p.y)) return true;
    return std::any_of(rivers.begin(), rivers.end(),
                       [&](const River& r) { return std::abs(p.y - r.centre(p.x)) < r.half_width(p.x); });
}

double Town::away(Point p) const {
    const Point d = p - centre;
    const double angle = std::atan2(d.y, d.x);
    const double turn = centre.x * 0.001 + centre.y * 0.0017;
    const double wobble = 1 + 0.26 * std::sin(2 * angle + turn) + 0.17 * std::sin(3 * angle - 2 * turn) +
                          0.09 * std::sin(7 * angle + 3 * turn);
    return length(d) / wobble;
}

void Terrain::index_towns() {
    wide_ = static_cast<long>((high.x - low.x) / kCell) + 1;
    high_ = static_cast<long>((high.y - low.y) / kCell) + 1;
    towns_by_cell_.assign(static_cast<std::size_t>(wide_ * high_), {});
    for (std::uint32_t i = 0; i < towns.size(); ++i) {
        const double reach = 1.75 * towns[i].radius + 800;  // farther than `spacing` and `kind` look
        const auto cell = [&](double at, long last) {
            return std::clamp(static_cast<long>(std::floor(at / kCell)), 0L, last);
        };
        const Point from = towns[i].centre - low - Point{reach, reach},
                    to = towns[i].centre - low + Point{reach, reach};
        for (long y = cell(from.y, high_ - 1); y <= cell(to.y, high_ - 1); ++y)
            for (long x = cell(from.x, wide_ - 1); x <= cell(to.x, wide_ - 1); ++x)
                towns_by_cell_[static_cast<std::size_t>(y * wide_ + x)].push_back(i);
    }
}

const std::vector<std::uint32_t>& Terrain::towns_near(Point p) const {
    const long x = std::clamp(static_cast<long>((p.x - low.x) / kCell), 0L, wide_ - 1),
               y = std::clamp(static_cast<long>((p.y - low.y) / kCell), 0L, high_ - 1);
    return towns_by_cell_[static_cast<std::size_t>(y * wide_ + x)];
}

double Terrain::spacing(Point p) const {
    double s = country_spacing * (1 + 0.25 * std::sin(p.x / 1700) * std::cos(p.y / 1300));
    for (const std::uint32_t i : towns_near(p)) {
        const Town& t = towns[i];
        if (std::abs(p.x - t.centre.x) > t.radius * 1.6 + 800 || std::abs(p.y - t.centre.y) > t.radius * 1.6 + 800)
            continue;
        const double green = 1 + 0.22 * std::sin(p.x / 310 + t.radius) * std::sin(p.y / 270);
        s = std::min(s, t.spacing * green + std::max(0.0, t.away(p) - t.radius) * 0.45);
    }
    return s;
}

Kind Terrain::kind(Point p) const {
    for (const std::uint32_t i : towns_near(p))
        if (towns[i].away(p) < towns[i].radius * 1.12) return towns[i].kind;
    return Kind::country;
}

Terrain saltmere() {
    Terrain t;
    t.name = "Saltmere";
    t.low = {-10500, -6300};
    t.high = {9000, 6300};
    t.coast_x = -6200;
    t.rivers = {{-300, 700, 2600, 0.4, 45, 600, -6200, 2200}};
    const auto bank = [&](double x, double off) { return Point{x, t.rivers[0].centre(x) + off}; };
    t.towns = {{bank(600, 850), 650, 54, Kind::old_town},   {bank(2500, 1900), 1500, 84, Kind::estate},
               {bank(-1700, 2000), 1350, 86, Kind::estate}, {bank(900, -1500), 1400, 84, Kind::estate},
               {bank(-900, -2600), 900, 88, Kind::estate},  {bank(6500, 800), 700, 92, Kind::village},
               {{5300, -4000}, 330, 96, Kind::village},     {{-4900, 4300}, 480, 92, Kind::village},
               {{-4500, -3600}, 560, 92, Kind::village},    {{1800, 5400}, 300, 96, Kind::village},
               {{-8700, 2200}, 430, 90, Kind::village}};
    t.crossings = {{0, 1250, false}, {0, 6400, false}, {0, -3000, true}};
    t.islands = {{{-8700, 2200}, 1250, 900, {-5900, 2900}}};
    t.index_towns();
    return t;
}

Terrain county(std::size_t links) {
    Terrain t;
    t.name = "county";
    const double side = std::sqrt(static_cast<double>(links) / 85.0) * 1000;  // about 85 links a square kilometre
    t.low = {-side / 2, -side / 2};
    t.high = {side / 2, side / 2};
    t.country_spacing = 330;
    t.coast_x = -side / 2 + side / 20;
    Dice dice(7);
    for (double y = -side / 2 + side / 8; y < side / 2; y += side / 4) {
        const River r{y, side / 30, side / 12, dice.between(0, 6), 50, 700, t.coast_x, side / 12};
        for (double x = t.coast_x + side / 12; x < side / 2; x += std::max(2500.0, side / 16))
            t.crossings.push_back({t.rivers.size(), x + dice.between(-900, 900), false});
        t.rivers.push_back(r);
    }
    const auto area = side * side / 1e6;
    for (std::size_t i = 0; i < static_cast<std::size_t>(area / 12) + 1; ++i) {
        const Point c{dice.between(t.coast_x + 600, t.high.x), dice.between(t.low.y, t.high.y)};
        const double size = dice.unit();
        const double radius = 300 + 2600 * size * size * size;
        t.towns.push_back({c, radius, radius > 1200 ? 74.0 : 90.0, radius > 900 ? Kind::estate : Kind::village});
        if (radius > 1300) t.towns.push_back({c, radius / 4, 56, Kind::old_town});
    }
    std::stable_sort(t.towns.begin(), t.towns.end(),
                     [](const Town& a, const Town& b) { return a.spacing < b.spacing; });
    t.index_towns();
    return t;
}

otoro::geo::LonLat place(Point p) {
    static const auto scale = otoro::geo::MetresPerDegree::at_latitude(46.2);
    const auto rounded = [](double v) { return std::round(v * 1e7) / 1e7; };
    return {rounded(-9.5 + p.x / scale.east), rounded(46.2 + p.y / scale.north)};
}

}  // namespace demo
