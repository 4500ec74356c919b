#include "reach/faces.h"

#include <algorithm>
#include <numeric>
#include <optional>
#include <tuple>

#include "geo/units.h"
#include "reach/flat.h"

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

/// What is on the left of a rim: where it is narrow what is asked for may be beyond the other side, so that a few
/// places are asked for, beside its longest edges.
std::uint32_t most_often(std::vector<std::uint32_t> rim, const std::vector<Half>& halves,
                         const std::function<std::uint32_t(Spot)>& class_at) {
    constexpr std::size_t kPlaces = 7;
    const auto along = [&](std::uint32_t h) { return length(spot(halves[h].to) - spot(halves[h].from)); };
    const std::size_t places = std::min(kPlaces, rim.size());
    std::partial_sort(rim.begin(), rim.begin() + static_cast<std::ptrdiff_t>(places), rim.end(),
                      [&](std::uint32_t a, std::uint32_t b) {
                          const double la = along(a), lb = along(b);
                          return la != lb ? la > lb : a < b;
                      });
    std::vector<std::uint32_t> found;
    for (std::size_t k = 0; k < places; ++k) {
        constexpr double kBeside = 2;  // units of the plane: between what is rounded to whole ones
        const Spot a = spot(halves[rim[k]].from), b = spot(halves[rim[k]].to);
        const double away = along(rim[k]);
        found.push_back(class_at(0.5 * (a + b) + (std::min(kBeside, away / 4) / away) * Spot{a.y - b.y, b.x - a.x}));
    }
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
    double nearest = 0;
    for (std::uint32_t h = 0; h < halves.size(); ++h) {
        const Point a = halves[h].from, b = halves[h].to;
        if (a.y <= b.y || !(a.y > p.y && b.y <= p.y)) continue;  // southwards, across the parallel of the point
        const double x = a.x + (static_cast<double>(b.x) - a.x) * (static_cast<double>(p.y) - a.y) /
                                   (static_cast<double>(b.y) - a.y);
        if (x >= p.x || (best && x <= nearest)) continue;
        nearest = x;
        best = h;
    }
    return best;
}

}  // namespace

bool are_closed(std::span<const Boundary> boundaries) {
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
    int sum = 0;
    for (std::size_t i = 0; i < ends.size(); ++i) {
        sum += ends[i].by;
        const bool last = i + 1 == ends.size() || ends[i + 1].at != ends[i].at || ends[i + 1].ground != ends[i].ground;
        if (last && sum != 0) return false;
        if (last) sum = 0;
    }
    return true;
}

std::vector<Boundary> faces_of(std::span<const Segment> lines, const std::function<std::uint32_t(Spot)>& class_at,
                               const Task& task) {
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
        if (!made.within) made.ground = most_often(rim, halves, class_at);
        rims.push_back(made);
    }
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

}  // namespace otoro::reach
