#include "reach/rings.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <stdexcept>
#include <tuple>

#include "geo/units.h"
#include "reach/flat.h"
#include "reach/simplify.h"

namespace otoro::reach {
namespace {

struct Ring {
    std::vector<std::uint32_t> vertices;  // not closed
    bool outer = false;
    std::uint32_t group = 0;  // rings of one way around
};

class Follower {
public:
    explicit Follower(const Drawing& drawing) : drawing_(drawing) {
        for (const Drawing::Line& l : drawing.lines) {
            if (l.left != kNobody) halves_.push_back({l.left, l.a, l.b});
            if (l.right != kNobody) halves_.push_back({l.right, l.b, l.a});
        }
        std::sort(halves_.begin(), halves_.end(), [](const Half& a, const Half& b) {
            return std::tie(a.ground, a.from, a.to) < std::tie(b.ground, b.from, b.to);
        });
        first_at_.assign(drawing.vertices.size(), kNone);
        on_path_.assign(drawing.vertices.size(), kNone);
    }

    std::vector<Region> regions(const Task& task) {
        std::vector<Region> out;
        for (std::size_t i = 0; i < halves_.size();) {
            std::size_t end = i;
            while (end < halves_.size() && halves_[end].ground == halves_[i].ground) ++end;
            task.check();
            out.push_back(region(i, end));
            i = end;
        }
        return out;
    }

private:
    struct Half {
        std::uint32_t ground, from, to;
    };
    static constexpr std::uint32_t kNone = 0xffffffff, kTouching = kNone - 1;

    Region region(std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i)
            if (i == begin || halves_[i].from != halves_[i - 1].from)
                first_at_[halves_[i].from] = static_cast<std::uint32_t>(i);
        std::vector<bool> done(end - begin, false);
        std::vector<Ring> rings;
        std::uint32_t group = 0;
        for (std::size_t i = begin; i < end; ++i)
            if (!done[i - begin]) follow(i, begin, end, done, rings, group++);
        for (std::size_t i = begin; i < end; ++i) first_at_[halves_[i].from] = kNone;
        return assemble(halves_[begin].ground, rings);
    }

    void follow(std::size_t start, std::size_t begin, std::size_t end, std::vector<bool>& done,
                std::vector<Ring>& rings, std::uint32_t group) {
        path_.clear();
        std::size_t at = start;
        while (!done[at - begin]) {
            done[at - begin] = true;
            step(halves_[at].from, rings, group);
            const std::size_t next = next_of(at, end);
            if (next == kNone) throw UnsoundBoundaries("a boundary of ground has an end");
            at = next;
        }
        step(halves_[at].from, rings, group);
        if (path_.size() != 1) throw UnsoundBoundaries("a boundary of ground does not come back");
        on_path_[path_.back()] = kNone;
        path_.clear();
    }

    /// Comes to a vertex; what has been walked since it was here before is a ring.
    void step(std::uint32_t vertex, std::vector<Ring>& rings, std::uint32_t group) {
        if (on_path_[vertex] != kNone) {
            Ring ring;
            ring.group = group;
            ring.vertices.assign(path_.begin() + on_path_[vertex], path_.end());
            for (std::size_t i = on_path_[vertex] + 1; i < path_.size(); ++i) on_path_[path_[i]] = kNone;
            path_.resize(on_path_[vertex] + 1);
            const Wide area = twice_area(ring.vertices);
            ring.outer = area > 0;
            if (!is_slit(ring.vertices, area)) rings.push_back(std::move(ring));
            return;
        }
        on_path_[vertex] = static_cast<std::uint32_t>(path_.size());
        path_.push_back(vertex);
    }

    [[nodiscard]] std::size_t next_of(std::size_t half, std::size_t end) const {
        const Half& h = halves_[half];
        const std::uint32_t first = first_at_[h.to];
        if (first == kNone) return kNone;
        std::size_t best = first;
        for (std::size_t i = first + 1; i < end && halves_[i].from == h.to; ++i)
            if (clockwise_before(h.to, h.from, halves_[i].to, halves_[best].to)) best = i;
        return best;
    }

    /// Whether, turning clockwise around `o` from the direction of `back`, one comes to `a` before `b`.
    [[nodiscard]] bool clockwise_before(std::uint32_t o, std::uint32_t back, std::uint32_t a, std::uint32_t b) const {
        const GridPoint po = at(o), pb = at(back), pa = at(a), pc = at(b);
        // Half 0: clockwise by less than half a turn (to the right of back), half 1: by half a turn or more.
        const auto half = [&](GridPoint p) {
            const Wide c = cross(po, pb, p);
            if (c < 0) return 0;
            if (c > 0) return 1;
            const Wide d =
                static_cast<Wide>(pb.x - po.x) * (p.x - po.x) + static_cast<Wide>(pb.y - po.y) * (p.y - po.y);
            return d < 0 ? 1 : 2;  // straight on; straight back comes last
        };
        const int ha = half(pa), hb = half(pc);
        if (ha != hb) return ha < hb;
        return cross(po, pa, pc) < 0;
    }

    [[nodiscard]] GridPoint at(std::uint32_t v) const { return drawing_.vertices[v]; }
    [[nodiscard]] Wide twice_area(const std::vector<std::uint32_t>& ring) const {
        Wide sum = 0;
        const GridPoint o = at(ring[0]);
        for (std::size_t i = 1; i + 1 < ring.size(); ++i) sum += cross(o, at(ring[i]), at(ring[i + 1]));
        return sum;
    }
    /// Whether a ring is no wider than rounding made it: it may as well be the other way around.
    [[nodiscard]] bool is_slit(const std::vector<std::uint32_t>& ring, Wide twice_area) const {
        constexpr double kWidth = 60;  // units of the grid: 6 mm
        double around = 0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const GridPoint a = at(ring[i]), b = at(ring[(i + 1) % ring.size()]);
            around += std::hypot(static_cast<double>(b.x - a.x), static_cast<double>(b.y - a.y));
        }
        return std::abs(static_cast<double>(twice_area)) < kWidth * around;
    }

    Region assemble(std::uint32_t ground, const std::vector<Ring>& rings) const {
        Region out;
        out.ground = ground;
        std::vector<std::uint32_t> of_group(rings.empty() ? 0 : rings.back().group + 1, kNone);  // polygons
        std::vector<std::vector<std::uint32_t>> outers(of_group.size());                         // rings, by group
        std::vector<std::uint32_t> polygon_of(rings.size(), kNone);
        for (std::uint32_t r = 0; r < rings.size(); ++r) {
            const Ring& ring = rings[r];
            if (!ring.outer) continue;
            outers[ring.group].push_back(r);
            polygon_of[r] = static_cast<std::uint32_t>(out.polygons.size());
            of_group[ring.group] = static_cast<std::uint32_t>(out.polygons.size());
            out.polygons.emplace_back();
            out.polygons.back().outer = closed(ring.vertices);
        }
        place_holes(rings, of_group);
        for (const Ring& ring : rings) {
            if (ring.outer) continue;
            // One way around may have gone around several grounds that touch in a vertex.
            if (outers[ring.group].size() > 1) {
                const std::uint32_t inside = smallest_of(outers[ring.group], ring, rings);
                if (inside != kNone) {
                    out.polygons[polygon_of[inside]].holes.push_back(closed(ring.vertices));
                    continue;
                }
            }
            if (of_group[ring.group] == kNone) throw UnsoundBoundaries("a hole lies in no ground");
            out.polygons[of_group[ring.group]].holes.push_back(closed(ring.vertices));
        }
        std::vector<std::pair<double, std::size_t>> sizes;
        for (std::size_t i = 0; i < out.polygons.size(); ++i) {
            double area = ring_area(out.polygons[i].outer);
            for (const auto& hole : out.polygons[i].holes) area += ring_area(hole);
            sizes.emplace_back(-area, i);
            out.square_metres += area;
        }
        std::sort(sizes.begin(), sizes.end());
        std::vector<Polygon> sorted;
        sorted.reserve(sizes.size());
        for (const auto& [_, i] : sizes) sorted.push_back(std::move(out.polygons[i]));
        out.polygons = std::move(sorted);
        return out;
    }
    [[nodiscard]] std::vector<geo::LonLat> closed(const std::vector<std::uint32_t>& ring) const {
        std::vector<geo::LonLat> out;
        out.reserve(ring.size() + 1);
        for (const std::uint32_t v : ring) out.push_back(place(at(v)));
        out.push_back(out.front());
        return out;
    }

    /// Holes that touch no outer ring belong to the ring whose edge is the next to the west of their westernmost
    /// vertex, or to that ring's own.
    void place_holes(const std::vector<Ring>& rings, std::vector<std::uint32_t>& of_group) const {
        struct Wanted {
            GridPoint west;
            std::uint32_t group;
        };
        std::vector<Wanted> wanted;
        for (const Ring& ring : rings) {
            if (ring.outer || of_group[ring.group] != kNone) continue;
            for (const std::uint32_t v : ring.vertices) {
                if (wanted.empty() || wanted.back().group != ring.group)
                    wanted.push_back({at(v), ring.group});
                else
                    wanted.back().west = std::min(wanted.back().west, at(v));
            }
        }
        if (wanted.empty()) return;
        std::sort(wanted.begin(), wanted.end(), [](const Wanted& a, const Wanted& b) { return a.west < b.west; });

        // Edges by rows.
        struct Edge {
            std::uint32_t a, b, ring;
        };
        std::vector<Edge> edges;
        std::int64_t low = std::numeric_limits<std::int64_t>::max(), high = std::numeric_limits<std::int64_t>::min();
        for (std::uint32_t r = 0; r < rings.size(); ++r) {
            const auto& v = rings[r].vertices;
            for (std::size_t i = 0; i < v.size(); ++i) {
                edges.push_back({v[i], v[(i + 1) % v.size()], r});
                low = std::min(low, at(v[i]).y);
                high = std::max(high, at(v[i]).y);
            }
        }
        const std::int64_t rows = std::clamp<std::int64_t>(static_cast<std::int64_t>(edges.size() / 4), 1, 1 << 20);
        const std::int64_t height = (high - low) / rows + 1;
        std::vector<std::vector<std::uint32_t>> in_row(static_cast<std::size_t>((high - low) / height + 1));
        for (std::uint32_t e = 0; e < edges.size(); ++e) {
            const auto [p, q] = std::minmax({at(edges[e].a).y, at(edges[e].b).y});
            for (std::int64_t r = (p - low) / height; r <= (q - low) / height; ++r)
                in_row[static_cast<std::size_t>(r)].push_back(e);
        }
        for (const Wanted& w : wanted) {
            const auto& row = in_row[static_cast<std::size_t>((w.west.y - low) / height)];
            const std::uint32_t ring = edge_to_the_west(w.west, w.group, row, edges, rings);
            if (ring == kTouching)
                of_group[w.group] = smallest_around(w.group, rings, of_group);
            else if (ring != kNone)
                of_group[w.group] = of_group[rings[ring].group];
        }
    }

    /// The smallest of these rings that another lies in; `kNone` if it lies in none.
    [[nodiscard]] std::uint32_t smallest_of(const std::vector<std::uint32_t>& outers, const Ring& ring,
                                            const std::vector<Ring>& rings) const {
        std::uint32_t best = kNone;
        Wide least = 0;
        for (const std::uint32_t r : outers) {
            const Wide area = twice_area(rings[r].vertices);
            if ((best != kNone && area >= least) || !lies_in(ring.vertices, rings[r].vertices)) continue;
            best = r;
            least = area;
        }
        return best;
    }
    /// The polygon of the smallest outer ring around the holes of a group. \returns `kNone` if there is none
    [[nodiscard]] std::uint32_t smallest_around(std::uint32_t group, const std::vector<Ring>& rings,
                                                const std::vector<std::uint32_t>& of_group) const {
        std::uint32_t best = kNone;
        Wide least = 0;
        for (const Ring& outer : rings) {
            if (!outer.outer || outer.group == group) continue;
            const Wide area = twice_area(outer.vertices);
            if (best != kNone && area >= least) continue;
            const bool around = std::all_of(rings.begin(), rings.end(), [&](const Ring& hole) {
                return hole.group != group || lies_in(hole.vertices, outer.vertices);
            });
            if (!around) continue;
            best = of_group[outer.group];
            least = area;
        }
        return best;
    }
    /// Whether a ring lies in another that it does not cross: by the first of its vertices that is not on it.
    [[nodiscard]] bool lies_in(const std::vector<std::uint32_t>& ring, const std::vector<std::uint32_t>& outer) const {
        for (const std::uint32_t v : ring) {
            const GridPoint p = at(v);
            bool inside = false, on = false;
            for (std::size_t i = 0; i < outer.size() && !on; ++i) {
                const GridPoint a = at(outer[i]), b = at(outer[(i + 1) % outer.size()]);
                const Wide side = cross(a, b, p);
                on = side == 0 && std::min(a.x, b.x) <= p.x && p.x <= std::max(a.x, b.x) && std::min(a.y, b.y) <= p.y &&
                     p.y <= std::max(a.y, b.y);
                if ((a.y > p.y) != (b.y > p.y)) inside = inside != ((side > 0) == (b.y > a.y));
            }
            if (!on) return inside;
        }
        return true;
    }

    /// The ring of the nearest edge that crosses the parallel of a point to its west; `kTouching` where the point is on
    /// another ring.
    template <class Edges>
    std::uint32_t edge_to_the_west(GridPoint p, std::uint32_t group, const std::vector<std::uint32_t>& row,
                                   const Edges& edges, const std::vector<Ring>& rings) const {
        std::uint32_t best = kNone;
        Crossing nearest;
        for (const std::uint32_t e : row) {
            if (rings[edges[e].ring].group == group) continue;
            const GridPoint a = at(edges[e].a), b = at(edges[e].b);
            if (a == p || b == p) return kTouching;
            const auto crossing = crossing_north_of(p, a, b);
            if (!crossing) continue;
            if (cross(a, b, p) == 0) return kTouching;
            if (crossing->east >= 0 || (best != kNone && *crossing <= nearest)) continue;
            nearest = *crossing;
            best = edges[e].ring;
        }
        return best;
    }

    const Drawing& drawing_;
    std::vector<Half> halves_;
    std::vector<std::uint32_t> first_at_, on_path_, path_;
};

}  // namespace

double ring_area(const std::vector<geo::LonLat>& ring) {
    // Ground between the equator and a latitude, for a radian of longitude.
    constexpr double kA = 6378137.0, kF = 1 / 298.257223563, kE2 = kF * (2 - kF);
    constexpr double kRadians = std::numbers::pi / 180;
    static const double e = std::sqrt(kE2);
    const auto below = [&](double lat) {
        const double s = std::sin(lat * kRadians);
        return kA * kA * (1 - kE2) / 2 * (s / (1 - kE2 * s * s) + std::atanh(e * s) / e);
    };
    if (ring.size() < 4) return 0;
    const double base = below(ring[0].lat);
    double sum = 0, before = 0;
    for (std::size_t i = 1; i < ring.size(); ++i) {
        const double here = below(ring[i].lat) - base;
        sum -= (ring[i].lon - ring[i - 1].lon) * kRadians * (before + here) / 2;
        before = here;
    }
    return sum;
}

std::vector<Region> regions(const Plane& plane, const std::vector<Boundary>& boundaries, double simplify_metres,
                            const Task& task) {
    Drawing drawing(plane, boundaries);
    task.check();
    drawing.settle();
    if (!drawing.mend(task)) throw UnsoundBoundaries("boundaries of ground cannot be told apart");
    if (simplify_metres > 0) simplify(drawing, simplify_metres, task);
    return Follower(drawing).regions(task);
}

}  // namespace otoro::reach
