#include "generator/streets.h"

#include <algorithm>
#include <array>
#include <functional>
#include <numeric>
#include <queue>
#include <tuple>

namespace demo {
namespace {

/// Corners by square cell, for looking around.
class Cells {
public:
    Cells(const Terrain& t, double size)
        : low_(t.low),
          size_(size),
          wide_(cell(t.high.x - t.low.x) + 1),
          high_(cell(t.high.y - t.low.y) + 1),
          cells_(static_cast<std::size_t>(wide_ * high_)) {}
    void add(Point p, std::uint32_t i) {
        cells_[static_cast<std::size_t>(cell(p.y - low_.y) * wide_ + cell(p.x - low_.x))].push_back(i);
    }
    template <class Use>
    void near(Point p, double radius, Use&& use) const {
        const long x0 = std::max(0L, cell(p.x - low_.x - radius)),
                   x1 = std::min(wide_ - 1, cell(p.x - low_.x + radius));
        const long y0 = std::max(0L, cell(p.y - low_.y - radius)),
                   y1 = std::min(high_ - 1, cell(p.y - low_.y + radius));
        for (long y = y0; y <= y1; ++y)
            for (long x = x0; x <= x1; ++x)
                for (const std::uint32_t i : cells_[static_cast<std::size_t>(y * wide_ + x)]) use(i);
    }

private:
    [[nodiscard]] long cell(double v) const { return static_cast<long>(std::floor(v / size_)); }
    Point low_;
    double size_;
    long wide_, high_;
    std::vector<std::vector<std::uint32_t>> cells_;
};

bool wet(const Terrain& t, Point a, Point b) {
    const int steps = std::max(2, static_cast<int>(length(b - a) / 20));
    for (int i = 0; i <= steps; ++i)
        if (t.water(a + (b - a) * (static_cast<double>(i) / steps))) return true;
    return false;
}

std::vector<Point> throw_corners(const Terrain& t, Dice& dice) {
    std::vector<Point> corners;
    Cells cells(t, 120);
    const auto try_at = [&](Point p) {
        if (p.x < t.low.x || p.x > t.high.x || p.y < t.low.y || p.y > t.high.y || t.water(p)) return;
        const double s = t.spacing(p);
        bool free = true;
        cells.near(p, s, [&](std::uint32_t i) { free = free && length(corners[i] - p) >= s * 0.92; });
        if (!free) return;
        cells.add(p, static_cast<std::uint32_t>(corners.size()));
        corners.push_back(p);
    };
    for (const auto& town : t.towns) {
        const double reach = town.radius + 500;
        const auto tries = static_cast<std::size_t>(14 * reach * reach / (town.spacing * town.spacing));
        for (std::size_t i = 0; i < tries; ++i) {
            const double r = reach * std::sqrt(dice.unit());
            const double angle = dice.between(0, 6.283185307);
            try_at(town.centre + Point{r * std::cos(angle), r * std::sin(angle)});
        }
    }
    const double area = (t.high.x - t.low.x) * (t.high.y - t.low.y);
    const auto tries = static_cast<std::size_t>(60 * area / (t.country_spacing * t.country_spacing));
    for (std::size_t i = 0; i < tries; ++i) try_at({dice.between(t.low.x, t.high.x), dice.between(t.low.y, t.high.y)});
    return corners;
}

/// Streets between Gabriel neighbours (Gabriel, Sokal 1969). A shortest spanning tree of them always stays, which keeps
/// the plan connected; of the others, those that are also relative neighbours (Toussaint 1980) stay more often than the
/// rest. That leaves closes and dead ends.
void join_corners(const Terrain& t, Dice& dice, StreetPlan& plan) {
    Cells cells(t, 160);
    for (std::uint32_t i = 0; i < plan.corners.size(); ++i) cells.add(plan.corners[i], i);
    struct Possible {
        std::uint32_t a, b;
        double length;
        bool relative;
    };
    std::vector<Possible> possible;
    std::vector<std::uint32_t> around;
    for (std::uint32_t a = 0; a < plan.corners.size(); ++a) {
        const Point p = plan.corners[a];
        const double reach = 2.6 * t.spacing(p);
        around.clear();
        cells.near(p, reach, [&](std::uint32_t i) {
            if (i != a && length(plan.corners[i] - p) < reach) around.push_back(i);
        });
        std::sort(around.begin(), around.end());
        for (const std::uint32_t b : around) {
            if (b <= a) continue;
            const Point q = plan.corners[b];
            const double d = length(q - p);
            const Point middle = (p + q) * 0.5;
            bool gabriel = true;
            bool relative = true;
            for (const std::uint32_t c : around) {
                if (c == b) continue;
                const Point r = plan.corners[c];
                gabriel = gabriel && length(r - middle) >= d / 2;
                relative = relative && std::max(length(r - p), length(r - q)) >= d;
            }
            if (!gabriel || wet(t, p, q)) continue;
            possible.push_back({a, b, d, relative});
        }
    }
    std::stable_sort(possible.begin(), possible.end(),
                     [](const Possible& l, const Possible& r) { return l.length < r.length; });
    std::vector<std::uint32_t> tree(plan.corners.size());
    std::iota(tree.begin(), tree.end(), 0U);
    const auto root = [&](std::uint32_t n) {
        while (tree[n] != n) n = tree[n] = tree[tree[n]];
        return n;
    };
    for (const auto& [a, b, d, relative] : possible) {
        const Kind kind = t.kind((plan.corners[a] + plan.corners[b]) * 0.5);
        const bool joins = root(a) != root(b);
        if (joins) tree[root(a)] = root(b);
        const double stay = (kind == Kind::old_town  ? 0.7
                             : kind == Kind::country ? 0.35
                                                     : 0.45) *
                            (relative ? 1.0 : 0.45);
        if (joins || dice.chance(stay))
            plan.streets.push_back({a, b, "", "", 0, 0, {}, false});
        else if (kind != Kind::country && dice.chance(0.06))
            plan.streets.push_back({a, b, "footway", "", 0, 0, {}, false});
    }
}

std::uint32_t nearest_corner(const StreetPlan& plan, Point p, const std::function<bool(std::uint32_t)>& fits) {
    std::uint32_t best = 0;
    double least = 1e300;
    for (std::uint32_t i = 0; i < plan.corners.size(); ++i)
        if (const double d = length(plan.corners[i] - p); d < least && fits(i)) {
            least = d;
            best = i;
        }
    return best;
}

void add_link(StreetPlan& plan, std::uint32_t a, std::uint32_t b, std::string road_class, std::string name, int speed,
              double bow) {
    Street s{a, b, std::move(road_class), std::move(name), speed, 0, {}, true};
    const Point p = plan.corners[a];
    const Point d = plan.corners[b] - p;
    const int steps = std::max(2, static_cast<int>(length(d) / 60));
    for (int i = 0; i <= steps; ++i) {
        const double u = static_cast<double>(i) / steps;
        s.shape.push_back(p + d * u + Point{-d.y, d.x} * (bow * u * (1 - u)));
    }
    plan.streets.push_back(std::move(s));
}

void cross_water(const Terrain& t, StreetPlan& plan) {
    int bridge = 0;
    constexpr std::array<const char*, 2> kBridges{"Tallow Bridge", "Ninestone Bridge"};
    for (const auto& c : t.crossings) {
        const River& r = t.rivers[c.river];
        const double middle = r.centre(c.x);
        const double half = r.half_width(c.x);
        const auto near_x = [&](std::uint32_t i) { return std::abs(plan.corners[i].x - c.x) < 900; };
        const auto north_of = [&](std::uint32_t i) { return plan.corners[i].y > r.centre(plan.corners[i].x); };
        const auto north =
            nearest_corner(plan, {c.x, middle + half + 20}, [&](std::uint32_t i) { return near_x(i) && north_of(i); });
        const auto south =
            nearest_corner(plan, {c.x, middle - half - 20}, [&](std::uint32_t i) { return near_x(i) && !north_of(i); });
        if (length(plan.corners[north] - plan.corners[south]) > 6 * half + 1200) continue;
        if (c.ferry)
            add_link(plan, north, south, "ferry", "Chain Ferry", 4, 0.0);
        else
            add_link(plan, north, south, "primary", kBridges[static_cast<std::size_t>(bridge++) % kBridges.size()], 55,
                     0.02);
    }
    for (const auto& i : t.islands) {
        const auto mainland = [&](std::uint32_t n) { return plan.corners[n].x >= t.coast(plan.corners[n].y); };
        const auto shore = nearest_corner(plan, i.landfall, mainland);
        const auto landing = nearest_corner(plan, i.landfall, [&](std::uint32_t n) { return !mainland(n); });
        add_link(plan, shore, landing, "tertiary", "The Strand Causeway", 45, 0.18);
    }
}

using Neighbours = std::vector<std::vector<std::uint32_t>>;  // street numbers at each corner

Neighbours streets_at(const StreetPlan& plan) {
    Neighbours at(plan.corners.size());
    for (std::uint32_t i = 0; i < plan.streets.size(); ++i) {
        at[plan.streets[i].a].push_back(i);
        at[plan.streets[i].b].push_back(i);
    }
    return at;
}

void keep_largest_piece(StreetPlan& plan) {
    const auto at = streets_at(plan);
    std::vector<std::uint32_t> piece(plan.corners.size(), 0);
    std::vector<std::size_t> size{0};
    for (std::uint32_t start = 0; start < plan.corners.size(); ++start) {
        if (piece[start] != 0) continue;
        const auto number = static_cast<std::uint32_t>(size.size());
        size.push_back(0);
        std::vector<std::uint32_t> todo{start};
        piece[start] = number;
        while (!todo.empty()) {
            const auto n = todo.back();
            todo.pop_back();
            ++size[number];
            for (const auto s : at[n]) {
                if (plan.streets[s].road_class == "footway") continue;
                for (const auto m : {plan.streets[s].a, plan.streets[s].b})
                    if (piece[m] == 0) {
                        piece[m] = number;
                        todo.push_back(m);
                    }
            }
        }
    }
    const auto largest = static_cast<std::uint32_t>(std::max_element(size.begin(), size.end()) - size.begin());
    std::erase_if(plan.streets, [&](const Street& s) { return piece[s.a] != largest || piece[s.b] != largest; });
}

/// Marks the shortest way between two corners as a main road, unless it already is a greater one.
class MainRoads {
public:
    explicit MainRoads(StreetPlan& plan)
        : plan_(plan),
          at_(streets_at(plan)),
          rank_(plan.streets.size(), 0),
          cost_(plan.corners.size(), 1e300),
          by_(plan.corners.size(), 0xffffffff) {}

    /// Towards `to` first (Hart, Nilsson, Raphael 1968): what is left is at least the straight line along main roads.
    void mark(std::uint32_t from, std::uint32_t to, int rank) {
        constexpr double kMain = 0.62;  // what a main road costs of its length
        for (const auto n : reached_) {
            cost_[n] = 1e300;
            by_[n] = 0xffffffff;
        }
        reached_ = {from};
        struct Item {
            double at_least, cost;
            std::uint32_t corner;
            bool operator>(const Item& o) const { return std::tie(at_least, corner) > std::tie(o.at_least, o.corner); }
        };
        std::priority_queue<Item, std::vector<Item>, std::greater<>> queue;
        cost_[from] = 0;
        queue.push({0, 0, from});
        while (!queue.empty() && queue.top().corner != to) {
            const auto [at_least, d, n] = queue.top();
            queue.pop();
            if (d > cost_[n]) continue;
            for (const auto s : at_[n]) {
                if (plan_.streets[s].road_class == "footway" || plan_.streets[s].road_class == "ferry") continue;
                const auto m = plan_.streets[s].a == n ? plan_.streets[s].b : plan_.streets[s].a;
                const double step = length(plan_.corners[m] - plan_.corners[n]) * (rank_[s] > 0 ? kMain : 1.0);
                if (d + step < cost_[m]) {
                    if (cost_[m] == 1e300) reached_.push_back(m);
                    cost_[m] = d + step;
                    by_[m] = s;
                    queue.push({cost_[m] + kMain * length(plan_.corners[to] - plan_.corners[m]), cost_[m], m});
                }
            }
        }
        path_.clear();
        for (std::uint32_t n = to; n != from && by_[n] != 0xffffffff;) {
            const auto s = by_[n];
            rank_[s] = std::max(rank_[s], rank);
            path_.push_back(n);
            n = plan_.streets[s].a == n ? plan_.streets[s].b : plan_.streets[s].a;
        }
    }

    /// Draws the last way smoother: each corner moves towards the middle of its neighbours on the way.
    void smooth(const Terrain& t) {
        for (int round = 0; round < 4; ++round)
            for (std::size_t i = 1; i + 1 < path_.size(); ++i) {
                Point& p = plan_.corners[path_[i]];
                const bool fixed = std::any_of(at_[path_[i]].begin(), at_[path_[i]].end(),
                                               [&](std::uint32_t s) { return plan_.streets[s].fixed; });
                const Point target = p * 0.55 + (plan_.corners[path_[i - 1]] + plan_.corners[path_[i + 1]]) * 0.225;
                if (!fixed && !t.water(target)) p = target;
            }
    }
    [[nodiscard]] int rank(std::uint32_t s) const { return rank_[s]; }

private:
    StreetPlan& plan_;
    Neighbours at_;
    std::vector<int> rank_;
    std::vector<double> cost_;  // of the last way
    std::vector<std::uint32_t> by_, reached_, path_;
};

/// Class and speed by rank of main road and by where the street lies.
void classify(const Terrain& t, Dice& dice, StreetPlan& plan, const MainRoads& mains) {
    for (std::uint32_t i = 0; i < plan.streets.size(); ++i) {
        Street& s = plan.streets[i];
        if (!s.road_class.empty()) continue;
        const Kind kind = t.kind((plan.corners[s.a] + plan.corners[s.b]) * 0.5);
        const bool built_up = kind != Kind::country;
        switch (mains.rank(i)) {
            case 3:
                s.road_class = "primary";
                s.speed = kind == Kind::old_town ? 28 : built_up ? 38 : 66;
                break;
            case 2:
                s.road_class = "secondary";
                s.speed = kind == Kind::old_town ? 25 : built_up ? 34 : 54;
                break;
            case 1:
                s.road_class = "tertiary";
                s.speed = kind == Kind::old_town ? 22 : built_up ? 30 : 44;
                break;
            default:
                if (kind == Kind::old_town) {
                    s.road_class = dice.chance(0.15) ? "living_street" : "residential";
                    s.speed = dice.chance(0.5) ? 18 : 0;
                    s.one_way = dice.chance(0.45) ? 1 : 0;
                    if (s.one_way && dice.chance(0.5)) std::swap(s.a, s.b);
                } else if (built_up) {
                    s.road_class = "residential";
                    s.speed = dice.chance(0.7) ? 22 : 0;
                } else {
                    s.road_class = "unclassified";
                    s.speed = dice.chance(0.6) ? 34 : 0;
                }
        }
    }
}

/// Makes one-way streets two-way until every corner can be reached and left again.
void open_traps(StreetPlan& plan) {
    const auto at = streets_at(plan);
    const auto reach = [&](bool backwards) {
        std::vector<bool> seen(plan.corners.size());
        std::vector<std::uint32_t> todo{plan.streets.front().a};
        seen[todo[0]] = true;
        while (!todo.empty()) {
            const auto n = todo.back();
            todo.pop_back();
            for (const auto i : at[n]) {
                const Street& s = plan.streets[i];
                if (s.road_class == "footway") continue;
                const bool leaves = s.one_way == 0 || (s.a == n) != backwards;
                const auto m = s.a == n ? s.b : s.a;
                if (leaves && !seen[m]) {
                    seen[m] = true;
                    todo.push_back(m);
                }
            }
        }
        return seen;
    };
    for (bool changed = true; changed;) {
        changed = false;
        const auto out = reach(false);
        const auto back = reach(true);
        for (auto& s : plan.streets)
            if (s.one_way && (!out[s.a] || !out[s.b] || !back[s.a] || !back[s.b])) {
                s.one_way = 0;
                changed = true;
            }
    }
}

/// The street that carries straight on from `s` at corner `n`; itself if none does.
std::uint32_t straight_on(const StreetPlan& plan, const Neighbours& at, std::uint32_t s, std::uint32_t n) {
    const auto far = [&](std::uint32_t i) { return plan.streets[i].a == n ? plan.streets[i].b : plan.streets[i].a; };
    const Point in = plan.corners[n] - plan.corners[far(s)];
    std::uint32_t best = s;
    double least = 0.75;  // cosine: within about 40 degrees
    for (const auto i : at[n]) {
        if (i == s || plan.streets[i].road_class == "footway") continue;
        const Point out = plan.corners[far(i)] - plan.corners[n];
        const double cosine = dot(in, out) / std::max(1e-9, length(in) * length(out));
        if (cosine > least) {
            least = cosine;
            best = i;
        }
    }
    return best;
}

void draw_curves(StreetPlan& plan) {
    const auto at = streets_at(plan);
    const auto direction = [&](std::uint32_t s, std::uint32_t n) {
        const auto other = plan.streets[s].a == n ? plan.streets[s].b : plan.streets[s].a;
        const Point in = plan.corners[n] - plan.corners[other];
        const auto next = straight_on(plan, at, s, n);
        if (next == s || straight_on(plan, at, next, n) != s) return in * (1 / std::max(1e-9, length(in)));
        const auto beyond = plan.streets[next].a == n ? plan.streets[next].b : plan.streets[next].a;
        const Point through = plan.corners[beyond] - plan.corners[other];
        return through * (1 / std::max(1e-9, length(through)));
    };
    for (std::uint32_t i = 0; i < plan.streets.size(); ++i) {
        Street& s = plan.streets[i];
        if (s.fixed) continue;
        const Point p = plan.corners[s.a];
        const Point q = plan.corners[s.b];
        const double d = length(q - p);
        const Point begin = direction(i, s.a) * -d;
        const Point end = direction(i, s.b) * d;
        const int steps = std::clamp(static_cast<int>(d / 28), 2, 9);
        for (int k = 0; k <= steps; ++k) {
            const double u = static_cast<double>(k) / steps;
            const double u2 = u * u, u3 = u2 * u;
            s.shape.push_back(p * (2 * u3 - 3 * u2 + 1) + begin * (u3 - 2 * u2 + u) + q * (-2 * u3 + 3 * u2) +
                              end * (u3 - u2));
        }
        s.shape.front() = p;
        s.shape.back() = q;
    }
}

/// One name for a run of streets that carry straight on.
void name_streets(StreetPlan& plan, Dice& dice) {
    constexpr std::array<const char*, 40> kFirst{
        "Heron",  "Tallow",  "Brine",   "Otter",    "Sedge",    "Marram", "Cooper", "Lantern", "Samphire", "Plover",
        "Kelp",   "Anchor",  "Withy",   "Salters",  "Ropewalk", "Gannet", "Thrift", "Pilot",   "Harrow",   "Quarry",
        "Linnet", "Orchard", "Shingle", "Mallow",   "Curlew",   "Barley", "Fuller", "Dunlin",  "Hazel",    "Copper",
        "Teasel", "Wherry",  "Bramble", "Chandler", "Osier",    "Rook",   "Tarn",   "Saltpan", "Eider",    "Juniper"};
    constexpr std::array<const char*, 9> kTown{"Street", "Lane",  "Row",     "Road", "Close",
                                               "Way",    "Place", "Gardens", "Drive"};
    constexpr std::array<const char*, 4> kMain{"Road", "High Road", "New Road", "Parade"};
    const auto at = streets_at(plan);
    for (std::uint32_t i = 0; i < plan.streets.size(); ++i) {
        if (!plan.streets[i].name.empty() || plan.streets[i].road_class == "footway") continue;
        const bool main = plan.streets[i].road_class == "primary" || plan.streets[i].road_class == "secondary";
        const std::string name = std::string(kFirst[dice.below(kFirst.size())]) + " " +
                                 (main ? kMain[dice.below(kMain.size())] : kTown[dice.below(kTown.size())]);
        for (const bool forward : {true, false}) {
            std::uint32_t s = i;
            std::uint32_t n = forward ? plan.streets[s].b : plan.streets[s].a;
            for (int k = 0; k < (main ? 30 : 7); ++k) {
                plan.streets[s].name = name;
                const auto next = straight_on(plan, at, s, n);
                if (next == s || !plan.streets[next].name.empty() ||
                    plan.streets[next].road_class != plan.streets[i].road_class)
                    break;
                n = plan.streets[next].a == n ? plan.streets[next].b : plan.streets[next].a;
                s = next;
            }
        }
    }
}

}  // namespace

StreetPlan grow_streets(const Terrain& terrain, Dice& dice) {
    StreetPlan plan;
    plan.corners = throw_corners(terrain, dice);
    join_corners(terrain, dice, plan);
    cross_water(terrain, plan);
    keep_largest_piece(plan);

    MainRoads mains(plan);
    std::vector<bool> used(plan.corners.size());
    for (const auto& s : plan.streets) used[s.a] = used[s.b] = true;
    std::vector<std::uint32_t> hubs;
    for (const auto& town : terrain.towns) {
        hubs.push_back(nearest_corner(plan, town.centre, [&](std::uint32_t i) { return used[i]; }));
        if (hubs.size() >= 60) break;
    }
    for (std::size_t i = 1; i < hubs.size(); ++i) {
        // Each town to the nearest of those before it, greatest first.
        std::size_t to = 0;
        for (std::size_t j = 1; j < i; ++j)
            if (length(plan.corners[hubs[j]] - plan.corners[hubs[i]]) <
                length(plan.corners[hubs[to]] - plan.corners[hubs[i]]))
                to = j;
        mains.mark(hubs[i], hubs[to], i < 4 ? 3 : i < 8 ? 2 : 1);
        mains.smooth(terrain);
    }
    for (std::size_t i = 0; i + 2 < hubs.size(); i += 2) {
        mains.mark(hubs[i], hubs[i + 2], i < 4 ? 2 : 1);
        mains.smooth(terrain);
    }
    for (const Point edge : {Point{terrain.high.x, 0}, Point{terrain.high.x / 3, terrain.high.y},
                             Point{terrain.high.x / 2, terrain.low.y}}) {
        const auto way_out = nearest_corner(plan, edge, [&](std::uint32_t i) { return used[i]; });
        if (!hubs.empty()) {
            mains.mark(hubs[0], way_out, 3);
            mains.smooth(terrain);
        }
    }
    classify(terrain, dice, plan, mains);
    open_traps(plan);
    for (auto& s : plan.streets)
        if (s.fixed) {
            s.shape.front() = plan.corners[s.a];
            s.shape.back() = plan.corners[s.b];
        }
    draw_curves(plan);
    name_streets(plan, dice);
    return plan;
}

void plant_flaws(StreetPlan& plan, Dice& dice) {
    // A piece cut off: the streets round one outlying corner lose their links to the rest.
    const auto at = streets_at(plan);
    const auto is_local = [&](const Street& s) {
        return s.road_class == "residential" || s.road_class == "unclassified";
    };
    std::vector<std::uint32_t> order(plan.corners.size());
    std::iota(order.begin(), order.end(), 0U);
    for (std::size_t i = order.size() - 1; i > 0; --i) std::swap(order[i], order[dice.below(i + 1)]);
    std::vector<bool> inside(plan.corners.size());
    for (const auto start : order) {
        const Point centre = plan.corners[start];
        if (at[start].size() < 3 || centre.x < 1500 || centre.x > 2800 || centre.y < 1200) continue;
        std::size_t main = 0;
        std::size_t count = 0;
        for (const auto& s : plan.streets)
            if (length(plan.corners[s.a] - centre) < 230 && length(plan.corners[s.b] - centre) < 230)
                ++(is_local(s) ? count : main);
        if (main > 0 || count < 8) continue;
        for (std::size_t n = 0; n < plan.corners.size(); ++n) inside[n] = length(plan.corners[n] - centre) < 230;
        break;
    }
    std::erase_if(plan.streets, [&](const Street& s) { return inside[s.a] != inside[s.b]; });

    // Ends that miss: the last vertex of a few streets is drawn short by some metres.
    int left = 6;
    for (std::size_t tries = 0; tries < 20'000 && left > 0; ++tries) {
        Street& s = plan.streets[dice.below(plan.streets.size())];
        if (!is_local(s) || s.fixed || s.one_way || inside[s.a]) continue;
        const Point end = s.shape.back();
        const Point before = s.shape[s.shape.size() - 2];
        const double last = length(end - before);
        if (last < 15) continue;
        s.shape.back() = end + (before - end) * (dice.between(2.5, 8.0) / last);
        --left;
    }
}

}  // namespace demo
