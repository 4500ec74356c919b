#include "reach/faces.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <tuple>

#include "geo/units.h"
#include "reach/flat.h"
#include "reach/noding.h"

namespace otoro::reach {
namespace {

/// An edge in one direction; the other direction is the number next to it.
struct Half {
    Point from, to;
};

/// Whether `a` comes before `b`, turning counter-clockwise around the origin from due east.
bool turns_before(Point a, Point b) {
    const auto upper = [](Point p) { return p.y > 0 || (p.y == 0 && p.x > 0); };
    if (upper(a) != upper(b)) return upper(a);
    return static_cast<Wide>(a.x) * b.y - static_cast<Wide>(a.y) * b.x > 0;
}
Point towards(const Half& h) { return {h.to.x - h.from.x, h.to.y - h.from.y}; }

/// What is where, by the nearest road.
class ClassAt {
public:
    ClassAt(const Strips& strips, const AlongRoads& along, const Bands& bands, double units_per_metre,
            Millimetres limit)
        : strips_(strips),
          along_(along),
          bands_(bands),
          classes_{static_cast<std::uint32_t>(bands.limits.size())},
          units_per_metre_(units_per_metre),
          limit_(limit.metres() * units_per_metre) {}

    [[nodiscard]] std::uint32_t operator()(Spot at) const {
        const Cell* nearest = nullptr;
        double least = limit_;
        for (const Cell& cell : strips_.cells) {
            if (is_beyond(cell, at, least)) continue;
            const double away = distance_to(cell, at);
            if (away > least || (nearest != nullptr && away == least)) continue;
            least = away;
            nearest = &cell;
        }
        return nearest == nullptr ? kNobody : on(*nearest, at, bands_.per_metre_off_road * least / units_per_metre_);
    }

private:
    /// Whether even the box around a cell is farther off.
    [[nodiscard]] static bool is_beyond(const Cell& cell, Spot at, double most) {
        const auto [west, east] = std::minmax(cell.a.x, cell.b.x);
        const auto [south, north] = std::minmax(cell.a.y, cell.b.y);
        return at.x < west - most || at.x > east + most || at.y < south - most || at.y > north + most;
    }
    [[nodiscard]] std::uint32_t on(const Cell& cell, Spot at, double off_road) const {
        const Axis axis(cell);
        const double part = axis.reach > 0 ? std::clamp(axis.x(at) / axis.reach, 0.0, 1.0) : 0.0;
        const double mm = cell.from_mm + part * (static_cast<double>(cell.to_mm) - cell.from_mm);
        // Beside an end it is that end, at which the value may be another than along the road.
        if (part <= 0 || part >= 1) {
            const auto value = along_.at(cell.link, Millimetres(std::llround(mm)));
            return value ? classes_.of(value->owner, bands_.of(value->value + off_road)) : kNobody;
        }
        std::vector<Stretch> stretches;
        along_.stretches(cell.link, stretches);
        for (const Stretch& s : stretches) {
            if (mm < s.from || mm > s.to) continue;
            const double value = s.value_from + (s.value_to - s.value_from) * (mm - s.from) / (s.to - s.from);
            return classes_.of(s.owner, bands_.of(value + off_road));
        }
        return kNobody;
    }

    const Strips& strips_;
    const AlongRoads& along_;
    const Bands& bands_;
    Classes classes_;
    double units_per_metre_, limit_;
};

/// Where to ask what is on the left of a rim: where it is narrow one place may be beyond the other side, so that there
/// are a few, beside its longest edges.
std::vector<Spot> beside(std::vector<std::uint32_t> rim, const std::vector<Half>& halves) {
    constexpr std::size_t kPlaces = 7;
    constexpr double kBeside = 2;  // units of the plane: between what is rounded to whole ones
    const auto along = [&](std::uint32_t h) { return length(spot(halves[h].to) - spot(halves[h].from)); };
    const std::size_t places = std::min(kPlaces, rim.size());
    std::partial_sort(rim.begin(), rim.begin() + static_cast<std::ptrdiff_t>(places), rim.end(),
                      [&](std::uint32_t a, std::uint32_t b) {
                          const double la = along(a), lb = along(b);
                          return la != lb ? la > lb : a < b;
                      });
    std::vector<Spot> out;
    for (std::size_t k = 0; k < places; ++k) {
        const Spot a = spot(halves[rim[k]].from), b = spot(halves[rim[k]].to);
        const double away = along(rim[k]);
        out.push_back(0.5 * (a + b) + (std::min(kBeside, away / 4) / away) * Spot{a.y - b.y, b.x - a.x});
    }
    return out;
}

std::uint32_t most_often(const std::vector<Spot>& places, const ClassAt& class_at) {
    std::vector<std::uint32_t> found;
    for (const Spot p : places) found.push_back(class_at(p));
    const auto count = [&](std::uint32_t c) { return std::count(found.begin(), found.end(), c); };
    return *std::max_element(found.begin(), found.end(), [&](auto a, auto b) {
        const auto na = count(a), nb = count(b);
        return na != nb ? na < nb : a > b;
    });
}

/// The edge that is next to the west of a point, in the direction that has the east on its left; nothing if there is
/// none.
std::optional<std::uint32_t> facing_east(const std::vector<Half>& halves, Point p) {
    std::optional<std::uint32_t> best;
    Crossing nearest;
    for (std::uint32_t h = 0; h < halves.size(); ++h) {
        if (halves[h].from.y <= halves[h].to.y) continue;
        const auto crossing = crossing_north_of(p, halves[h].from, halves[h].to);
        if (!crossing || crossing->east >= 0 || (best && *crossing <= nearest)) continue;
        nearest = *crossing;
        best = h;
    }
    return best;
}

}  // namespace

std::vector<Point> open_ends(std::span<const Boundary> boundaries) {
    struct End {
        Point at;
        std::uint32_t ground;
        int by;
    };
    std::vector<End> ends;
    ends.reserve(boundaries.size() * 4);
    for (const Boundary& b : boundaries) {
        if (b.a == b.b || b.left == b.right) continue;
        // Ground on the left is gone around from a to b, that on the right from b to a.
        for (const auto& [ground, by] : {std::pair{b.left, 1}, std::pair{b.right, -1}}) {
            if (ground == kNobody) continue;
            ends.push_back({b.a, ground, by});
            ends.push_back({b.b, ground, -by});
        }
    }
    std::sort(ends.begin(), ends.end(),
              [](const End& a, const End& b) { return std::tie(a.at, a.ground) < std::tie(b.at, b.ground); });
    std::vector<Point> out;
    int sum = 0;
    for (std::size_t i = 0; i < ends.size(); ++i) {
        sum += ends[i].by;
        if (i + 1 < ends.size() && ends[i + 1].at == ends[i].at && ends[i + 1].ground == ends[i].ground) continue;
        if (sum != 0 && (out.empty() || out.back() != ends[i].at)) out.push_back(ends[i].at);
        sum = 0;
    }
    return out;
}

namespace {

/// All lines that are between two classes.
std::vector<Boundary> faces_of(std::span<const Segment> lines, const ClassAt& class_at, const Task& task) {
    std::vector<std::pair<Point, Point>> edges;
    for (const NodedPiece& piece : noded(lines, task)) {
        const auto [low, high] = std::minmax(piece.a, piece.b);
        if (low != high) edges.emplace_back(low, high);
    }
    std::sort(edges.begin(), edges.end());
    edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
    std::vector<Half> halves;
    for (const auto& [a, b] : edges) {
        halves.push_back({a, b});
        halves.push_back({b, a});
    }
    // Around each point, counter-clockwise.
    std::vector<std::uint32_t> order(halves.size());
    std::iota(order.begin(), order.end(), 0U);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        if (halves[a].from != halves[b].from) return halves[a].from < halves[b].from;
        return turns_before(towards(halves[a]), towards(halves[b]));
    });
    // With the face on the left, a rim goes on along the edge that comes before the way back.
    std::vector<std::uint32_t> next(halves.size());
    for (std::size_t first = 0; first < order.size();) {
        std::size_t end = first;
        while (end < order.size() && halves[order[end]].from == halves[order[first]].from) ++end;
        for (std::size_t k = first; k < end; ++k) {
            const std::uint32_t back = order[k] ^ 1U;  // comes to this point
            next[back] = order[k == first ? end - 1 : k - 1];
        }
        first = end;
    }
    // Rims: those that run clockwise go around whatever hangs together within a face, and are of that face.
    constexpr std::uint32_t kUnknown = kNobody - 1;
    struct Rim {
        std::uint32_t ground = kNobody;
        bool within = false;
        Point west;
        std::vector<Spot> ask = {};
    };
    std::vector<Rim> rims;
    std::vector<std::uint32_t> rim_of(halves.size(), kUnknown), rim;
    for (std::uint32_t h = 0; h < halves.size(); ++h) {
        if (rim_of[h] != kUnknown) continue;
        if (h % 1024 == 0) task.check();
        rim.clear();
        Rim made;
        made.west = halves[h].from;
        Wide twice_area = 0;
        for (std::uint32_t at = h; rim_of[at] == kUnknown; at = next[at]) {
            rim_of[at] = static_cast<std::uint32_t>(rims.size());
            rim.push_back(at);
            made.west = std::min(made.west, halves[at].from);
            twice_area += static_cast<Wide>(halves[at].from.x) * halves[at].to.y -
                          static_cast<Wide>(halves[at].to.x) * halves[at].from.y;
        }
        made.within = twice_area <= 0;
        if (!made.within) made.ask = beside(rim, halves);
        rims.push_back(std::move(made));
    }
    tbb::parallel_for(std::size_t{0}, rims.size(), [&](std::size_t r) {
        if (!rims[r].within && !task.stop_requested()) rims[r].ground = most_often(rims[r].ask, class_at);
    });
    task.check();
    std::vector<std::uint32_t> inner;
    for (std::uint32_t r = 0; r < rims.size(); ++r)
        if (rims[r].within) inner.push_back(r);
    std::sort(inner.begin(), inner.end(),
              [&](std::uint32_t a, std::uint32_t b) { return rims[a].west < rims[b].west; });
    for (const std::uint32_t r : inner) {
        task.check();
        if (const auto around = facing_east(halves, rims[r].west)) rims[r].ground = rims[rim_of[*around]].ground;
    }
    std::vector<std::uint32_t> ground;
    for (const std::uint32_t r : rim_of) ground.push_back(rims[r].ground);
    std::vector<Boundary> out;
    for (std::uint32_t h = 0; h < halves.size(); h += 2)
        if (ground[h] != ground[h + 1]) out.push_back({halves[h].from, halves[h].to, ground[h], ground[h + 1]});
    return out;
}

/// A point that is on a side but for rounding is on it: noding would bend the side to it.
Point onto_side(Point p, const Rectangle& tile) {
    constexpr std::int32_t kBesideIt = 2;
    for (const auto& [value, side] : {std::pair{&p.x, tile.low.x}, std::pair{&p.x, tile.high.x},
                                      std::pair{&p.y, tile.low.y}, std::pair{&p.y, tile.high.y}})
        if (std::abs(*value - side) <= kBesideIt) *value = side;
    return p;
}

}  // namespace

TileBoundaries boundaries_anew(const Strips& strips, const TileBoundaries& walked, const AlongRoads& along,
                               const Bands& bands, double units_per_metre, Millimetres limit, const Task& task) {
    const Rectangle& tile = strips.tile;
    const Point corner{tile.high.x, tile.low.y}, other{tile.low.x, tile.high.y};
    std::vector<Segment> lines{{tile.low, corner}, {corner, tile.high}, {other, tile.high}, {tile.low, other}};
    const auto add = [&](Point a, Point b) { lines.push_back({onto_side(a, tile), onto_side(b, tile)}); };
    for (const Boundary& b : walked.lines) add(b.a, b.b);
    for (const Border& b : strips.borders) add(strips.vertices[b.a], strips.vertices[b.b]);
    TileBoundaries out;
    for (const Boundary& b : faces_of(lines, {strips, along, bands, units_per_metre, limit}, task)) {
        // Beyond a side nothing is known here: what is inside is a part of that side.
        const auto on = [&](Side side) {
            const auto across = [&](Point p) { return is_upright(side) ? p.x : p.y; };
            const std::int32_t line = across(side == Side::west || side == Side::south ? tile.low : tile.high);
            return across(b.a) == line && across(b.b) == line;
        };
        const auto side = std::find_if(kSides.begin(), kSides.end(), on);
        if (side == kSides.end()) {
            out.lines.push_back(b);
            continue;
        }
        const auto along_side = [&](Point p) { return is_upright(*side) ? p.y : p.x; };
        const auto [from, to] = std::minmax(along_side(b.a), along_side(b.b));
        out.seams[static_cast<std::size_t>(*side)].push_back({from, to, b.left != kNobody ? b.left : b.right});
    }
    for (auto& seam : out.seams)
        std::sort(seam.begin(), seam.end(), [](const SeamClass& a, const SeamClass& b) { return a.from < b.from; });
    return out;
}

}  // namespace otoro::reach
