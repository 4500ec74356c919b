#include "reach/strip_diagram.h"

#include <algorithm>
#include <boost/polygon/voronoi.hpp>
#include <cmath>
#include <cstdint>
#include <limits>
#include <utility>

namespace otoro::reach {
namespace {

using Diagram = boost::polygon::voronoi_diagram<double>;
constexpr std::uint32_t kFrame = kNoCell - 1;

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
        builder.construct(&diagram_);
        number_.resize(diagram_.cells().size());
        for (std::size_t i = 0; i < number_.size(); ++i) number_[i] = number_of(diagram_.cells()[i]);
    }

    [[nodiscard]] std::size_t unsound() const {
        const auto& corners = diagram_.vertices();
        return static_cast<std::size_t>(
            std::count_if(corners.begin(), corners.end(), [this](const auto& v) { return !is_sound(v); }));
    }

    [[nodiscard]] std::vector<DiagramLine> lines() const {
        // Whether a corner is within the limit is decided once for all lines that meet there.
        std::vector<bool> within(diagram_.vertices().size());
        for (std::size_t i = 0; i < within.size(); ++i) {
            const auto& v = diagram_.vertices()[i];
            const std::uint32_t cell = cell_of(*v.incident_edge());
            within[i] = cell != kFrame && distance_to(cells_.cells[cell], at(v)) <= limit_;
        }
        const auto is_within = [&](const Diagram::vertex_type* v) {
            return within[static_cast<std::size_t>(v - diagram_.vertices().data())];
        };
        std::vector<DiagramLine> out;
        out.reserve(diagram_.edges().size() / 2);
        for (std::size_t i = 0; i < diagram_.edges().size(); i += 2) {
            const auto& e = diagram_.edges()[i];
            if (e.vertex0() == nullptr || e.vertex1() == nullptr) continue;
            const std::uint32_t left = cell_of(e), right = cell_of(*e.twin());
            if (left == kFrame || right == kFrame || left == right) continue;
            out.push_back({at(*e.vertex0()), at(*e.vertex1()), left, right, is_within(e.vertex0()),
                           is_within(e.vertex1()), e.is_curved()});
        }
        return out;
    }

private:
    /// The diagram is made about the middle of the tile: with small numbers its predicates are decided sooner.
    [[nodiscard]] Point turned(Point p) const {
        Point out{p.x - origin_.x, p.y - origin_.y};
        for (int i = 0; i < quarters_; ++i) out = {-out.y, out.x};
        return out;
    }
    [[nodiscard]] Spot at(const Diagram::vertex_type& v) const {
        Spot out{v.x(), v.y()};
        for (int i = 0; i < quarters_; ++i) out = {out.y, -out.x};
        return out + spot(origin_);
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

    [[nodiscard]] std::uint32_t number_of(const Diagram::cell_type& cell) const {
        const std::size_t source = cell.source_index();
        if (cell.contains_segment()) return source < cells_.segments ? static_cast<std::uint32_t>(source) : kFrame;
        Point p;
        if (source < cells_.segments)
            p = cell.source_category() == boost::polygon::SOURCE_CATEGORY_SEGMENT_START_POINT ? cells_.cells[source].a
                                                                                              : cells_.cells[source].b;
        else if (source < cells_.segments + 4)
            return kFrame;
        else
            p = cells_.lone[source - cells_.segments - 4];
        return cells_.point(p);
    }
    [[nodiscard]] std::uint32_t cell_of(const Diagram::edge_type& e) const {
        return number_[static_cast<std::size_t>(e.cell() - diagram_.cells().data())];
    }

    /// Whether a corner, if it is within the limit, is as far from all cells that meet there.
    [[nodiscard]] bool is_sound(const Diagram::vertex_type& v) const {
        constexpr double kApart = 2;  // units of the plane
        const Spot here = at(v);
        if (!std::isfinite(here.x) || !std::isfinite(here.y)) return false;
        double least = std::numeric_limits<double>::infinity(), most = 0;
        const auto* e = v.incident_edge();
        do {
            const std::uint32_t cell = cell_of(*e);
            if (cell != kFrame) {
                const double away = distance_to(cells_.cells[cell], here);
                least = std::min(least, away);
                most = std::max(most, away);
            }
            e = e->rot_next();
        } while (e != v.incident_edge());
        return least > limit_ || most - least <= kApart;
    }

    const StripCells& cells_;
    double limit_;
    int quarters_;
    Point origin_;
    Diagram diagram_;
    std::vector<std::uint32_t> number_;
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
