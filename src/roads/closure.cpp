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
constexpr std::array<std::string_view, 3> kEffects{"shut", "slowed", "delay"};
constexpr double kPointReach = 50;
constexpr double kAlongside = 8;

/// A closure in flat metres about its first vertex.
class Drawn {
public:
    explicit Drawn(const Closure& c) : frame_(c.vertices.front()) {
        for (const LonLat p : c.vertices) {
            flat_.push_back(frame_.flat(p));
            box_.add(p);
        }
        if (c.shape == ClosureShape::area) flat_.push_back(flat_.front());
        for (const Flat p : flat_) far_x_ = std::max(far_x_, p.x);
        if (flat_.size() > kIndexed) index_.emplace(static_cast<std::uint32_t>(flat_.size() - 1), [&](std::uint32_t i) { return box_of(flat_[i], flat_[i + 1], 0); });
    }
    [[nodiscard]] const geo::LocalFrame& frame() const { return frame_; }
    [[nodiscard]] geo::Box box(double margin) const {
        const auto scale = geo::MetresPerDegree::at_latitude(box_.centre().lat);
        const double dx = margin / std::max(1.0, scale.east), dy = margin / scale.north;
        return {box_.west - dx, box_.south - dy, box_.east + dx, box_.north + dy};
    }

    /// Where along a to b (0 to 1) the drawn lines cross it.
    void crossings(Flat a, Flat b, std::vector<double>& at) const {
        each_edge(a, b, 0, [&](Flat p, Flat q) {
            const double rx = b.x - a.x, ry = b.y - a.y, sx = q.x - p.x, sy = q.y - p.y;
            const double cross = rx * sy - ry * sx;
            if (cross == 0) return;
            const double t = ((p.x - a.x) * sy - (p.y - a.y) * sx) / cross;
            const double u = ((p.x - a.x) * ry - (p.y - a.y) * rx) / cross;
            if (t >= 0 && t <= 1 && u >= 0 && u <= 1) at.push_back(t);
        });
    }
    [[nodiscard]] bool inside(Flat p) const {
        bool in = false;
        each_edge(p, {far_x_ + 1, p.y}, 0, [&](Flat a, Flat b) {
            if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) in = !in;
        });
        return in;
    }
    [[nodiscard]] bool within(Flat p, double metres) const {
        bool near = false;
        each_edge(p, p, metres, [&](Flat from, Flat to) {
            const Flat a{from.x - p.x, from.y - p.y}, b{to.x - p.x, to.y - p.y};
            const double t = geo::foot_of_origin(a, b);
            near = near || std::hypot(a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)) <= metres;
        });
        return near;
    }

private:
    static constexpr std::size_t kIndexed = 32;  // vertices from which an index pays
    // Single precision, in which boxes are kept, is outward: nothing is missed.
    static geo::Box box_of(Flat a, Flat b, double margin) {
        return {std::min(a.x, b.x) - margin, std::min(a.y, b.y) - margin, std::max(a.x, b.x) + margin, std::max(a.y, b.y) + margin};
    }
    /// The edges that may come within `margin` of the box of a and b.
    template <class Use>
    void each_edge(Flat a, Flat b, double margin, Use&& use) const {
        if (!index_) {
            for (std::size_t i = 0; i + 1 < flat_.size(); ++i) use(flat_[i], flat_[i + 1]);
            return;
        }
        thread_local std::vector<std::uint32_t> found;
        index_->touching(box_of(a, b, margin), found);
        for (const std::uint32_t i : found) use(flat_[i], flat_[i + 1]);
    }
    geo::LocalFrame frame_;
    std::vector<Flat> flat_;
    geo::Box box_;
    double far_x_ = -1e300;
    std::optional<geo::BoxIndex> index_;
};

class Applier {
public:
    Applier(const Network& network, const Task& task) : network_(network), task_(task) {}

    enum class Until : std::uint8_t { end, first };

    void apply(const Closure& c, Until until = Until::end) {
        if (c.vertices.empty()) return;
        closure_ = &c;
        if (c.shape == ClosureShape::point) return at_point(c.vertices.front());
        const Drawn drawn(c);
        network_.links_touching(drawn.box(kAlongside), near_);
        std::sort(near_.begin(), near_.end());
        for (std::size_t i = 0; i < near_.size(); ++i) {
            if (i % 1024 == 0) task_.at("closing roads", static_cast<double>(i) / static_cast<double>(near_.size()));
            along(LinkId(near_[i]), drawn, c.shape == ClosureShape::area);
            if (until == Until::first && !out_.empty()) return;
        }
    }

    std::vector<Hindrance> take() {
        std::sort(out_.begin(), out_.end(), [](const Hindrance& a, const Hindrance& b) {
            return std::tie(a.link, a.begin, a.end, a.effect, a.factor_per_mille, a.delay) < std::tie(b.link, b.begin, b.end, b.effect, b.factor_per_mille, b.delay);
        });
        return std::move(out_);
    }

private:
    void add(LinkId link, double begin, double end) {
        const Millimetres length = network_.length(link);
        const auto clamped = [&](double metres) { return std::clamp(Millimetres::from_metres(metres), Millimetres(0), length); };
        out_.push_back({link, clamped(begin), clamped(end), closure_->effect, std::max(1000U, closure_->factor_per_mille), closure_->delay});
    }

    void at_point(LonLat p) {
        const geo::LocalFrame frame(p);
        network_.links_touching(frame.box_around(kPointReach), near_);
        std::sort(near_.begin(), near_.end());
        double least = kPointReach;
        std::optional<LinkId> best;
        double offset = 0;
        for (const std::uint32_t link : near_) {
            const auto shape = network_.shape(LinkId(link));
            const geo::LineFoot foot = geo::foot_on_line(shape, frame);
            if (std::sqrt(foot.squared) >= least) continue;
            least = std::sqrt(foot.squared);
            best = LinkId(link);
            offset = geo::line_length(shape.first(foot.segment + 1)).metres() + foot.along * geo::distance_metres(shape[foot.segment], shape[foot.segment + 1]);
        }
        if (best) add(*best, offset, offset);
    }

    /// Stretches of a link that are crossed, covered or run alongside.
    void along(LinkId link, const Drawn& drawn, bool area) {
        const auto shape = network_.shape(link);
        const auto counts = [&](Flat p) { return area ? drawn.inside(p) : drawn.within(p, kAlongside); };
        const auto mine = static_cast<std::ptrdiff_t>(out_.size());
        double before = 0;
        double open = -1;  // where a stretch began
        for (std::size_t i = 0; i + 1 < shape.size(); ++i) {
            const Flat a = drawn.frame().flat(shape[i]), b = drawn.frame().flat(shape[i + 1]);
            const double step = geo::distance_metres(shape[i], shape[i + 1]);
            cuts_.clear();
            drawn.crossings(a, b, cuts_);
            if (!area)
                for (const double t : cuts_) add(link, before + t * step, before + t * step);
            // Between crossings (for an area), or in steps of two metres (for a line), a stretch is wholly in or wholly out.
            if (area) {
                cuts_.push_back(0);
                cuts_.push_back(1);
            } else {
                cuts_.clear();
                const int steps = std::max(1, static_cast<int>(std::ceil(step / 2)));
                for (int k = 0; k <= steps; ++k) cuts_.push_back(static_cast<double>(k) / steps);
            }
            std::sort(cuts_.begin(), cuts_.end());
            for (std::size_t k = 0; k + 1 < cuts_.size(); ++k) {
                const double middle = (cuts_[k] + cuts_[k + 1]) / 2;
                const bool in = cuts_[k + 1] > cuts_[k] && counts({a.x + middle * (b.x - a.x), a.y + middle * (b.y - a.y)});
                if (in && open < 0) open = before + cuts_[k] * step;
                if (!in && open >= 0 && cuts_[k + 1] > cuts_[k]) {
                    add(link, open, before + cuts_[k] * step);
                    open = -1;
                }
            }
            before += step;
        }
        // A road that merely crosses a line is not alongside it: only what is longer than the strip is wide counts as that.
        if (open >= 0) add(link, open, before);
        if (area) return;
        const auto merely_crosses = [](const Hindrance& h) { return h.end > h.begin && (h.end - h.begin).metres() <= 4 * kAlongside; };
        out_.erase(std::remove_if(out_.begin() + mine, out_.end(), merely_crosses), out_.end());
    }

    const Network& network_;
    const Task& task_;
    const Closure* closure_ = nullptr;
    std::vector<std::uint32_t> near_;
    std::vector<double> cuts_;
    std::vector<Hindrance> out_;
};

}  // namespace

std::string_view name(ClosureShape s) { return kShapes[static_cast<std::size_t>(s)]; }
std::string_view name(ClosureEffect e) { return kEffects[static_cast<std::size_t>(e)]; }

std::vector<Hindrance> hindrances(const Network& network, std::span<const Closure> closures, const Task& task) {
    Applier applier(network, task);
    for (const Closure& c : closures) applier.apply(c);
    return applier.take();
}

bool touches_a_road(const Network& network, const Closure& closure) {
    const Task nobody_stops;
    Applier applier(network, nobody_stops);
    applier.apply(closure, Applier::Until::first);
    return !applier.take().empty();
}

std::span<const Hindrance> hindrances_of(std::span<const Hindrance> all, LinkId link) {
    const auto begin = std::lower_bound(all.begin(), all.end(), link, [](const Hindrance& h, LinkId l) { return h.link < l; });
    const auto end = std::upper_bound(begin, all.end(), link, [](LinkId l, const Hindrance& h) { return l < h.link; });
    return all.subspan(static_cast<std::size_t>(begin - all.begin()), static_cast<std::size_t>(end - begin));
}

}  // namespace otoro::roads
