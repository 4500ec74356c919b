#include "roads/closure.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <tuple>

#include "geo/box_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::roads {
namespace {

using geo::Flat;
using geo::LonLat;

constexpr std::array<std::string_view, 3> kShapes{"point", "line", "area"};
constexpr std::array<std::string_view, 3> kEffects{"closed", "slowed", "delay"};
constexpr double kPointReach = 50;
constexpr double kAlongside = 8;
constexpr double kAtCrossing = 2;  // so near to where roads meet, a point means the crossing
constexpr double kHardlyFarther = 5;
constexpr double kRunsAlong = 0.7;   // the cosine of the angle between a road and a line along it, at least: 45 degrees
constexpr double kLeastAlong = 0.3;  // of the shorter of both, at least, they go on together

/// A closure in flat metres about its first vertex.
class Drawn {
public:
    explicit Drawn(const Closure& c) : frame_(c.vertices.front()) {
        const bool closed = c.shape == ClosureShape::area;
        add(c.vertices, closed);
        for (const auto& ring : c.more_rings) add(ring, closed);
        for (const Edge& e : edges_) {
            far_x_ = std::max({far_x_, e.a.x, e.b.x});
            length_ += std::hypot(e.b.x - e.a.x, e.b.y - e.a.y);
        }
        if (edges_.size() > kIndexed)
            index_.emplace(static_cast<std::uint32_t>(edges_.size()),
                           [&](std::uint32_t i) { return box_of(edges_[i].a, edges_[i].b, 0); });
    }
    [[nodiscard]] const geo::LocalFrame& frame() const { return frame_; }
    [[nodiscard]] geo::Box box(double margin) const {
        const auto scale = geo::MetresPerDegree::at_latitude(box_.centre().lat);
        const double dx = margin / std::max(1.0, scale.east), dy = margin / scale.north;
        return {box_.west - dx, box_.south - dy, box_.east + dx, box_.north + dy};
    }

    struct Crossing {
        double at;
        bool over;  ///< the line comes from one side of the road and goes on on the other; what only touches does not
    };
    /// Where along a to b (0 to 1) the drawn lines meet it.
    void crossings(Flat a, Flat b, std::vector<Crossing>& out) const {
        each_edge(a, b, 0, [&](std::uint32_t edge) {
            const auto [p, q] = edges_[edge];
            const double rx = b.x - a.x, ry = b.y - a.y, sx = q.x - p.x, sy = q.y - p.y;
            const double cross = rx * sy - ry * sx;
            if (cross == 0) return;
            const double t = ((p.x - a.x) * sy - (p.y - a.y) * sx) / cross;
            if (!(t >= 0 && t <= 1)) return;
            const double u = ((p.x - a.x) * ry - (p.y - a.y) * rx) / cross;
            // A corner is on the same side for both of its edges: where they only touch, neither goes over, or both do.
            const auto left = [&](Flat v) { return rx * (v.y - a.y) - ry * (v.x - a.x) > 0; };
            const bool over = left(p) != left(q);
            if (over || (u >= 0 && u <= 1)) out.push_back({t, over});
        });
    }
    /// How many lines it is drawn of.
    [[nodiscard]] std::size_t count() const { return edges_.size(); }
    [[nodiscard]] bool inside(Flat p) const {
        bool in = false;
        each_edge(p, {far_x_ + 1, p.y}, 0, [&](std::uint32_t edge) {
            const auto [a, b] = edges_[edge];
            if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) in = !in;
        });
        return in;
    }
    /// The point of the drawn line that is nearest to `p`, if that is within so many metres.
    [[nodiscard]] std::optional<Flat> nearest(Flat p, double metres) const {
        std::optional<Flat> best;
        double least = metres;
        std::uint32_t first = 0;
        each_edge(p, p, metres, [&](std::uint32_t edge) {
            const auto [from, to] = edges_[edge];
            const Flat a{from.x - p.x, from.y - p.y}, b{to.x - p.x, to.y - p.y};
            const double t = geo::foot_of_origin(a, b);
            const Flat foot{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)};
            const double away = std::hypot(foot.x, foot.y);
            // Of several as near the first that was drawn.
            if (away > least || (best && away == least && edge > first)) return;
            least = away;
            first = edge;
            best = Flat{p.x + foot.x, p.y + foot.y};
        });
        return best;
    }
    [[nodiscard]] double length() const { return length_; }

private:
    static constexpr std::size_t kIndexed = 32;  // vertices from which an index pays
    // Single precision, in which boxes are kept, is outward: nothing is missed.
    static geo::Box box_of(Flat a, Flat b, double margin) {
        return {std::min(a.x, b.x) - margin, std::min(a.y, b.y) - margin, std::max(a.x, b.x) + margin,
                std::max(a.y, b.y) + margin};
    }
    /// The edges that may come within `margin` of the box of a and b, in any order.
    template <class Use>
    void each_edge(Flat a, Flat b, double margin, Use&& use) const {
        if (!index_) {
            for (std::uint32_t i = 0; i < edges_.size(); ++i) use(i);
            return;
        }
        thread_local std::vector<std::uint32_t> found;
        index_->touching(box_of(a, b, margin), found);
        for (const std::uint32_t i : found) use(i);
    }
    void add(const std::vector<LonLat>& vertices, bool closed) {
        for (std::size_t i = 0; i < vertices.size(); ++i) {
            box_.add(vertices[i]);
            if (i + 1 < vertices.size() || closed)
                edges_.push_back({frame_.flat(vertices[i]), frame_.flat(vertices[(i + 1) % vertices.size()])});
        }
    }
    struct Edge {
        Flat a, b;
    };
    geo::LocalFrame frame_;
    std::vector<Edge> edges_;
    double length_ = 0;
    geo::Box box_;
    double far_x_ = -1e300;
    std::optional<geo::BoxIndex> index_;
};

class Applier {
public:
    Applier(const Network& network, const Task& task) : network_(network), task_(task) {}

    enum class Until : std::uint8_t { end, first };

    void apply(const Closure& c, std::uint32_t number, Until until = Until::end) {
        if (c.vertices.empty()) return;
        closure_ = &c;  // while it is applied
        number_ = number;
        if (c.shape == ClosureShape::point) return at_point(c.vertices.front());
        const Drawn drawn(c);
        network_.links_touching(drawn.box(kAlongside), near_);
        std::sort(near_.begin(), near_.end());
        const std::size_t step = std::clamp<std::size_t>(1'000'000 / std::max<std::size_t>(1, drawn.count()), 1, 1024);
        for (std::size_t i = 0; i < near_.size(); ++i) {
            if (i % step == 0) task_.at("closing roads", static_cast<double>(i) / static_cast<double>(near_.size()));
            along(LinkId(near_[i]), drawn, c.shape == ClosureShape::area);
            if (until == Until::first && !out_.empty()) return;
        }
    }

    std::vector<LinkRestriction> take() {
        std::sort(out_.begin(), out_.end(), [](const LinkRestriction& a, const LinkRestriction& b) {
            return std::tie(a.link, a.begin, a.end, a.effect, a.factor_per_mille, a.delay, a.closure) <
                   std::tie(b.link, b.begin, b.end, b.effect, b.factor_per_mille, b.delay, b.closure);
        });
        return std::move(out_);
    }

private:
    void add(LinkId link, double begin, double end) {
        const Millimetres length = network_.length(link);
        const auto clamped = [&](double metres) {
            return std::clamp(Millimetres::from_metres(metres), Millimetres(0), length);
        };
        out_.push_back({link, clamped(begin), clamped(end), closure_->effect,
                        std::max(1000U, closure_->factor_per_mille), closure_->delay, number_, false});
    }
    /// A point of a road. A point cannot be slow: there it is the road around it.
    void add_point(LinkId link, double at) {
        if (closure_->effect == ClosureEffect::slowed)
            add(link, at - kAlongside, at + kAlongside);
        else
            add(link, at, at);
    }

    void at_point(LonLat p) {
        const PointTaken taken = point_taken(network_, *closure_);
        const geo::LocalFrame frame(p);
        for (const LinkId link : taken.links) {
            const auto shape = network_.shape(link);
            if (!taken.node) {
                const geo::LineFoot foot = geo::foot_on_line(shape, frame);
                add_point(link, network_.metres_to(link, foot.segment) +
                                    foot.along * geo::distance_metres(shape[foot.segment], shape[foot.segment + 1]));
                continue;
            }
            const auto ends = network_.ends(link);
            const auto added = out_.size();
            if (ends.from == *taken.node) add_point(link, 0);
            if (ends.to == *taken.node) add_point(link, network_.length(link).metres());
            for (std::size_t i = added; i < out_.size(); ++i) out_[i].of_crossing = true;
        }
    }

    /// Stretches of a link that are crossed, covered or run along.
    void along(LinkId link, const Drawn& drawn, bool area) {
        const auto shape = network_.shape(link);
        double before = 0;
        double open = -1;  // where a stretch began
        Flat opened{};
        for (std::size_t i = 0; i + 1 < shape.size(); ++i) {
            const Flat a = drawn.frame().flat(shape[i]), b = drawn.frame().flat(shape[i + 1]);
            const double step = geo::distance_metres(shape[i], shape[i + 1]);
            const auto at = [&](double t) { return Flat{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)}; };
            cuts_.clear();
            crossings_.clear();
            drawn.crossings(a, b, crossings_);
            for (const auto& c : crossings_) cuts_.push_back(c.at);
            // Slowed, it is the stretch beside the line that counts, crossed or not.
            if (!area && closure_->effect != ClosureEffect::slowed)
                for (const double t : cuts_) add(link, before + t * step, before + t * step);
            // Between crossings (for an area), or in steps of two metres (for a line), a stretch is wholly in or wholly
            // out.
            if (area) {
                cuts_.push_back(0);
                cuts_.push_back(1);
            } else {
                cuts_.clear();
                const int steps = std::max(1, static_cast<int>(std::ceil(step / 2)));
                for (int k = 0; k <= steps; ++k) cuts_.push_back(static_cast<double>(k) / steps);
            }
            std::sort(cuts_.begin(), cuts_.end());
            if (area) look_inside(drawn, at);
            for (std::size_t k = 0; k + 1 < cuts_.size(); ++k) {
                if (cuts_[k + 1] <= cuts_[k]) continue;
                const bool inside =
                    area ? inside_[k] != 0 : drawn.nearest(at((cuts_[k] + cuts_[k + 1]) / 2), kAlongside).has_value();
                if (inside && open < 0) {
                    open = before + cuts_[k] * step;
                    opened = at((cuts_[k] + cuts_[k + 1]) / 2);
                }
                if (!inside && open >= 0) {
                    const double last = k > 0 ? (cuts_[k - 1] + cuts_[k]) / 2 : 0;
                    close(link, drawn, area, open, opened, before + cuts_[k] * step, at(last));
                    open = -1;
                }
            }
            before += step;
            // The last piece that was looked at, should the road end inside.
            last_ = at((cuts_[cuts_.size() - 2] + cuts_.back()) / 2);
        }
        if (open >= 0) close(link, drawn, area, open, opened, before, last_);
    }
    /// Which of the pieces between cuts lie in an area. The longest is looked at; over every line that goes over the
    /// road it is the other way.
    template <class At>
    void look_inside(const Drawn& drawn, const At& at) {
        std::size_t longest = 0;
        for (std::size_t k = 1; k + 1 < cuts_.size(); ++k)
            if (cuts_[k + 1] - cuts_[k] > cuts_[longest + 1] - cuts_[longest]) longest = k;
        std::sort(crossings_.begin(), crossings_.end(), [](const auto& x, const auto& y) { return x.at < y.at; });
        inside_.assign(cuts_.size(), 0);
        std::size_t c = 0;
        bool odd = false;
        for (std::size_t k = 0; k + 1 < cuts_.size(); ++k) {
            // Of lines that meet the road at one point all are over before the next piece begins.
            for (; c < crossings_.size() && crossings_[c].at <= cuts_[k]; ++c) odd = odd != crossings_[c].over;
            inside_[k] = odd ? 1 : 0;
        }
        const bool wanted = drawn.inside(at((cuts_[longest] + cuts_[longest + 1]) / 2));
        if (wanted != (inside_[longest] != 0))
            for (auto& piece : inside_) piece ^= 1;
    }
    /// Takes a stretch that lies in an area, or beside a line that it runs along. One that the line merely crosses
    /// stays open but for the crossing.
    void close(LinkId link, const Drawn& drawn, bool area, double begin, Flat first, double end, Flat last) {
        if (!area && closure_->effect != ClosureEffect::slowed && end - begin <= 4 * kAlongside) {
            // Looked at in one place, a whole short road goes from its one end to the other.
            const auto shape = network_.shape(link);
            if (begin == 0) first = drawn.frame().flat(shape.front());
            if (end + 0.001 >= network_.length(link).metres()) last = drawn.frame().flat(shape.back());
            if (!goes_along(drawn, first, last)) return;
        }
        add(link, begin, end);
    }
    /// Whether the line goes on as the road does between two points of it: their nearest points on the line lie apart,
    /// and in much the same direction.
    [[nodiscard]] static bool goes_along(const Drawn& drawn, Flat first, Flat last) {
        const auto from = drawn.nearest(first, 2 * kAlongside), to = drawn.nearest(last, 2 * kAlongside);
        if (!from || !to) return false;
        const Flat road{last.x - first.x, last.y - first.y}, line{to->x - from->x, to->y - from->y};
        const double road_metres = std::hypot(road.x, road.y), line_metres = std::hypot(line.x, line.y);
        if (line_metres < kLeastAlong * std::min(road_metres, drawn.length())) return false;
        return std::abs(road.x * line.x + road.y * line.y) >= kRunsAlong * road_metres * line_metres;
    }

    const Network& network_;
    const Task& task_;
    const Closure* closure_ = nullptr;
    std::uint32_t number_ = 0;
    Flat last_{};
    std::vector<std::uint32_t> near_;
    std::vector<Drawn::Crossing> crossings_;
    std::vector<double> cuts_;
    std::vector<char> inside_;  ///< one a piece between two cuts
    std::vector<LinkRestriction> out_;
};

/// A closure with its longitudes counted as those of the roads are.
Closure placed(const Network& network, Closure c) {
    for (auto& p : c.vertices) p = network.near(p);
    for (auto& ring : c.more_rings)
        for (auto& p : ring) p = network.near(p);
    return c;
}

}  // namespace

std::string_view name(ClosureShape s) { return kShapes[static_cast<std::size_t>(s)]; }
std::string_view name(ClosureEffect e) { return kEffects[static_cast<std::size_t>(e)]; }

PointTaken point_taken(const Network& network, const Closure& closure) {
    const LonLat p = network.near(closure.vertices.front());
    const geo::LocalFrame frame(p);
    std::vector<std::uint32_t> near;
    network.links_touching(frame.box_around(kPointReach), near);
    std::sort(near.begin(), near.end());
    std::vector<std::pair<double, LinkId>> by_distance;
    for (const std::uint32_t link : near)
        if (const double away = std::sqrt(geo::foot_on_line(network.shape(LinkId(link)), frame).squared);
            away < kPointReach)
            by_distance.emplace_back(away, LinkId(link));
    PointTaken out;
    if (by_distance.empty()) return out;
    const auto [least, best] = *std::min_element(by_distance.begin(), by_distance.end());
    const auto ends = network.ends(best);
    const double from = geo::distance_metres(network.position(ends.from), p),
                 to = geo::distance_metres(network.position(ends.to), p);
    // In the middle of a road of a few metres that road is meant.
    const NodeId node = from <= to ? ends.from : ends.to;
    if (std::min(from, to) <= std::max(0.01, std::min(kAtCrossing, network.length(best).metres() / 4))) out.node = node;
    const auto meets = [&](LinkId link) { return network.ends(link).from == node || network.ends(link).to == node; };
    for (const auto& [away, link] : by_distance)
        if (out.node ? meets(link) : link == best) out.links.push_back(link);
    for (const auto& [away, link] : by_distance)
        if (away <= least + kHardlyFarther && std::find(out.links.begin(), out.links.end(), link) == out.links.end())
            out.others.push_back(link);
    return out;
}

std::vector<LinkRestriction> restrictions(const Network& network, std::span<const Closure> closures, const Task& task) {
    Applier applier(network, task);
    for (std::size_t i = 0; i < closures.size(); ++i)
        applier.apply(placed(network, closures[i]), static_cast<std::uint32_t>(i));
    return applier.take();
}

bool touches_a_road(const Network& network, const Closure& closure) {
    const Task nobody_stops;
    Applier applier(network, nobody_stops);
    applier.apply(placed(network, closure), 0, Applier::Until::first);
    return !applier.take().empty();
}

std::span<const LinkRestriction> restrictions_of(std::span<const LinkRestriction> all, LinkId link) {
    const auto begin =
        std::lower_bound(all.begin(), all.end(), link, [](const LinkRestriction& h, LinkId l) { return h.link < l; });
    const auto end =
        std::upper_bound(begin, all.end(), link, [](LinkId l, const LinkRestriction& h) { return l < h.link; });
    return all.subspan(static_cast<std::size_t>(begin - all.begin()), static_cast<std::size_t>(end - begin));
}

}  // namespace otoro::roads
