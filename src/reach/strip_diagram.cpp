#include "reach/strip_diagram.h"

#include <algorithm>
#include <boost/polygon/voronoi.hpp>
#include <cmath>
#include <cstdint>
#include <deque>
#include <limits>
#include <numeric>
#include <utility>

namespace otoro::reach {
namespace {

constexpr std::uint32_t kFrame = kNoCell - 1;
constexpr std::uint32_t kNoCorner = 0xffffffff;

/// What the sweep tells, line by line. Boost.Polygon's own diagram also goes around the corners of what it was told,
/// which has no end where the sweep erred.
class Swept {
public:
    using Corner = boost::polygon::voronoi_vertex<double>;
    /// Where a point or segment was among those put in.
    struct Source {
        std::size_t index = 0;
        boost::polygon::SourceCategory category = boost::polygon::SOURCE_CATEGORY_SINGLE_POINT;
    };
    /// One side of a line: what is there, and the corner from which it goes counter-clockwise around that.
    struct Half {
        std::uint32_t source, corner;
    };

    const std::deque<Half>& halves() const { return halves_; }  ///< those of one line after one another
    const std::vector<Source>& sources() const { return sources_; }
    const std::vector<Corner>& corners() const { return corners_; }

    // What a `voronoi_builder` calls, and as it calls it.
    void _reserve(std::size_t sources) {
        sources_.reserve(sources);
        corners_.reserve(sources * 2);
    }
    template <class Site>
    void _process_single_site(const Site& site) {
        know(site);
    }
    template <class Site>
    std::pair<void*, void*> _insert_new_edge(const Site& a, const Site& b) {
        return line(know(a), know(b), kNoCorner);
    }
    template <class Site, class Circle>
    std::pair<void*, void*> _insert_new_edge(const Site& a, const Site& b, const Circle& at, void* before,
                                             void* after) {
        const auto corner = static_cast<std::uint32_t>(corners_.size());
        corners_.emplace_back(at.x(), at.y());
        for (void* ends : {before, after})
            if (ends != nullptr) static_cast<Half*>(ends)->corner = corner;
        return line(know(a), know(b), corner);
    }
    void _build() {}

private:
    template <class Site>
    std::uint32_t know(const Site& site) {
        const std::size_t number = site.sorted_index();
        if (number >= sources_.size()) sources_.resize(number + 1);
        sources_[number] = {site.initial_index(), site.source_category()};
        return static_cast<std::uint32_t>(number);
    }
    std::pair<void*, void*> line(std::uint32_t a, std::uint32_t b, std::uint32_t from) {
        Half& first = halves_.emplace_back(Half{a, kNoCorner});
        return {&first, &halves_.emplace_back(Half{b, from})};
    }

    std::deque<Half> halves_;  // they stay where they are
    std::vector<Source> sources_;
    std::vector<Corner> corners_;
};

/// The diagram as it is seen after so many quarter turns, counter-clockwise. Turned whole numbers are whole numbers.
class Turned {
public:
    Turned(const StripCells& cells, const Rectangle& tile, double limit, int quarters)
        : cells_(cells), limit_(limit), quarters_(quarters) {
        origin_ = {static_cast<std::int32_t>((std::int64_t{tile.low.x} + tile.high.x) / 2),
                   static_cast<std::int32_t>((std::int64_t{tile.low.y} + tile.high.y) / 2)};
        boost::polygon::default_voronoi_builder builder;
        for (std::uint32_t i = 0; i < cells_.segments; ++i) insert(builder, cells_.cells[i].a, cells_.cells[i].b);
        insert_frame(builder, tile);
        for (const Point p : cells_.lone) {
            const Point t = turned(p);
            builder.insert_point(t.x, t.y);
        }
        Swept swept;
        builder.construct(&swept);
        for (const auto& c : swept.corners()) corners_.push_back(turned_back({c.x(), c.y()}));
        const auto merged = merged_corners(swept);
        std::vector<std::uint32_t> number;
        for (const auto& s : swept.sources()) number.push_back(number_of(s));
        for (std::size_t i = 0; i < swept.halves().size(); i += 2) {
            const auto &a = swept.halves()[i], &b = swept.halves()[i + 1];
            const auto at = [&](std::uint32_t corner) { return corner == kNoCorner ? kNoCorner : merged[corner]; };
            const Line line{at(a.corner), at(b.corner), number[a.source], number[b.source]};
            if (line.from != line.to || line.from == kNoCorner) lines_.push_back(line);
        }
    }

    /// How many lines are unsound.
    [[nodiscard]] std::size_t unsound() const {
        struct Away {
            double least = std::numeric_limits<double>::infinity(), most = 0;
        };
        std::vector<Away> corner(corners_.size());
        for (const Line& line : lines_)
            for (const std::uint32_t end : {line.from, line.to})
                for (const std::uint32_t cell : {line.left, line.right}) {
                    if (end == kNoCorner || cell == kFrame) continue;
                    const double away = distance_to(cells_.cells[cell], corners_[end]);
                    corner[end].least = std::min(corner[end].least, away);
                    corner[end].most = std::max(corner[end].most, away);
                }
        const auto is_sound = [&](std::uint32_t end) {
            constexpr double kApart = 2;  // units of the plane
            if (end == kNoCorner || !std::isfinite(corners_[end].x) || !std::isfinite(corners_[end].y)) return false;
            return corner[end].least > limit_ || corner[end].most - corner[end].least <= kApart;
        };
        return static_cast<std::size_t>(std::count_if(lines_.begin(), lines_.end(), [&](const Line& line) {
            return is_between(line) && (!is_sound(line.from) || !is_sound(line.to));
        }));
    }

    [[nodiscard]] std::vector<DiagramLine> lines() const {
        // Whether a corner is within the limit is decided once for all lines that meet there.
        std::vector<std::uint32_t> cell(corners_.size(), kFrame);
        for (const Line& line : lines_) {
            if (line.from != kNoCorner) cell[line.from] = line.left;
            if (line.to != kNoCorner) cell[line.to] = line.right;
        }
        std::vector<bool> within(corners_.size());
        for (std::size_t i = 0; i < within.size(); ++i)
            within[i] = cell[i] != kFrame && distance_to(cells_.cells[cell[i]], corners_[i]) <= limit_;
        std::vector<DiagramLine> out;
        out.reserve(lines_.size());
        for (const Line& line : lines_)
            if (is_between(line) && line.from != kNoCorner && line.to != kNoCorner)
                out.push_back({corners_[line.from], corners_[line.to], line.left, line.right, within[line.from],
                               within[line.to], is_curved(line)});
        return out;
    }

private:
    struct Line {
        std::uint32_t from, to, left, right;
    };
    [[nodiscard]] static bool is_between(const Line& line) {
        return line.left != kFrame && line.right != kFrame && line.left != line.right;
    }
    /// Between a segment and a point that is not an end of it.
    [[nodiscard]] bool is_curved(const Line& line) const {
        if (cells_.is_segment(line.left) == cells_.is_segment(line.right)) return false;
        const bool first = cells_.is_segment(line.left);
        const Cell& segment = cells_.cells[first ? line.left : line.right];
        const Point p = cells_.cells[first ? line.right : line.left].a;
        return segment.a != p && segment.b != p;
    }

    /// By corner, which it is one with: lines without length, but for rounding, are none.
    [[nodiscard]] static std::vector<std::uint32_t> merged_corners(const Swept& swept) {
        const boost::polygon::voronoi_diagram_traits<double>::vertex_equality_predicate_type are_one;
        std::vector<std::uint32_t> out(swept.corners().size());
        std::iota(out.begin(), out.end(), 0U);
        const auto one = [&](std::uint32_t c) {
            while (out[c] != c) c = out[c] = out[out[c]];
            return c;
        };
        for (std::size_t i = 0; i < swept.halves().size(); i += 2) {
            const std::uint32_t a = swept.halves()[i].corner, b = swept.halves()[i + 1].corner;
            if (a == kNoCorner || b == kNoCorner) continue;
            const std::uint32_t from = one(a), to = one(b);
            if (are_one(swept.corners()[from], swept.corners()[to])) out[to] = from;
        }
        for (std::uint32_t c = 0; c < out.size(); ++c) out[c] = one(c);
        return out;
    }

    /// The diagram is made about the middle of the tile: with small numbers its predicates are decided sooner.
    [[nodiscard]] Point turned(Point p) const {
        Point out{p.x - origin_.x, p.y - origin_.y};
        for (int i = 0; i < quarters_; ++i) out = {-out.y, out.x};
        return out;
    }
    [[nodiscard]] Spot turned_back(Spot p) const {
        for (int i = 0; i < quarters_; ++i) p = {p.y, -p.x};
        return p + spot(origin_);
    }

    void insert(boost::polygon::default_voronoi_builder& builder, Point a, Point b) const {
        const Point from = turned(a), to = turned(b);
        builder.insert_segment(from.x, from.y, to.x, to.y);
    }
    /// Four lines so far around everything that no line between two roads within the limit goes beyond them.
    void insert_frame(boost::polygon::default_voronoi_builder& builder, const Rectangle& tile) const {
        Point low = tile.low, high = tile.high;
        for (const Cell& c : cells_.cells)
            for (const Point p : {c.a, c.b}) {
                low = {std::min(low.x, p.x), std::min(low.y, p.y)};
                high = {std::max(high.x, p.x), std::max(high.y, p.y)};
            }
        const auto away = static_cast<std::int64_t>(std::ceil(limit_ * 2.5)) + 10;
        // Neither it nor how far it is from the middle is more than a whole number may be.
        const auto held = [](std::int64_t v, std::int64_t middle) {
            constexpr std::int64_t kMost = 2'147'000'000;
            return static_cast<std::int32_t>(
                std::clamp(v, std::max(-kMost, middle - kMost), std::min(kMost, middle + kMost)));
        };
        const std::int32_t west = held(low.x - away, origin_.x), south = held(low.y - away, origin_.y),
                           east = held(high.x + away, origin_.x), north = held(high.y + away, origin_.y);
        insert(builder, {west, south}, {east, south});
        insert(builder, {east, south}, {east, north});
        insert(builder, {east, north}, {west, north});
        insert(builder, {west, north}, {west, south});
    }

    [[nodiscard]] std::uint32_t number_of(const Swept::Source& source) const {
        using namespace boost::polygon;
        const auto index = static_cast<std::uint32_t>(source.index);
        if (belongs(source.category, GEOMETRY_CATEGORY_SEGMENT)) return index < cells_.segments ? index : kFrame;
        if (index >= cells_.segments && index < cells_.segments + 4) return kFrame;
        if (index >= cells_.segments) return cells_.point(cells_.lone[index - cells_.segments - 4]);
        const Cell& segment = cells_.cells[index];
        return cells_.point(source.category == SOURCE_CATEGORY_SEGMENT_START_POINT ? segment.a : segment.b);
    }

    const StripCells& cells_;
    double limit_;
    int quarters_;
    Point origin_;
    std::vector<Spot> corners_;
    std::vector<Line> lines_;
};

}  // namespace

StripDiagram strip_diagram(const StripCells& cells, const Rectangle& tile, double limit, const Task& task) {
    constexpr int kSides = 4;
    StripDiagram best;
    for (int quarters = 0; quarters < kSides; ++quarters) {
        const Turned diagram(cells, tile, limit, quarters);
        task.check();
        const std::size_t unsound = diagram.unsound();
        if (quarters == 0 || unsound < best.unsound) best = {diagram.lines(), unsound};
        if (unsound == 0) break;
    }
    return best;
}

}  // namespace otoro::reach
