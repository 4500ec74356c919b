#include "reach/strips.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include "reach/strip_diagram.h"
#include "reach/tile_cutter.h"

namespace otoro::reach {
namespace {

/// Where a line between two cells meets the limit.
struct CapEnd {
    std::uint32_t cell = 0;
    bool upper = false;  ///< which side of a segment, seen from its start
    double order = 0;    ///< counter-clockwise around the cell
    bool starts = false;
    Spot spot;
};

/// Divides the ground of a tile: the diagram's lines, as far as they are within the limit, go to the cutter.
class Divider {
public:
    Divider(const StripCells& cells, const Rectangle& tile, double limit, double curve, const Task& task)
        : cells_(cells), tile_(tile), limit_(limit), curve_(curve), task_(task), cutter_(tile, cells, limit) {}

    Strips make() {
        if (!cells_.cells.empty()) {
            divide();
            task_.check();
            cap();
        }
        return cutter_.finish();
    }

private:
    [[nodiscard]] bool is_segment(std::uint32_t cell) const { return cells_.is_segment(cell); }

    void divide() {
        has_border_.assign(cells_.cells.size(), false);
        for (const DiagramLine& line : strip_diagram(cells_, tile_, limit_, task_).lines) add_border(line);
    }

    /// One line of the diagram, as far as it is within the limit.
    void add_border(const DiagramLine& line) {
        const auto [p, q, left, right, p_within, q_within, curved] = line;
        line_.clear();
        const std::uint32_t segment = is_segment(left) ? left : right, other = segment == left ? right : left;
        // Where the point is on the segment's own line, but for rounding, the parabola is straight.
        constexpr double kFlat = 1e-9;
        if (curved && std::abs(Axis(cells_.cells[segment]).y(spot(cells_.cells[other].a))) > kFlat) {
            sample_curve(segment, other, p, q, p_within, q_within);
        } else {
            const std::uint32_t point = is_segment(left) ? right : left;
            double t0 = 0, t1 = 1;
            if (!(p_within && q_within) && !inside_part(point, p, q, t0, t1, p_within, q_within)) return;
            line_.push_back(t0 > 0 ? p + t0 * (q - p) : p);
            // Between a segment and its own end the line runs through that end, from one side of the road to the other.
            if (is_segment(left) != is_segment(right)) {
                const Spot end = spot(cells_.cells[point].a);
                const double t = dot(end - p, q - p) / dot(q - p, q - p);
                if (t > t0 && t < t1) line_.push_back(end);
            }
            line_.push_back(t1 < 1 ? p + t1 * (q - p) : q);
        }
        if (line_.empty()) return;
        has_border_[left] = has_border_[right] = true;
        if (!p_within) {
            cap_end(right, true, line_.front());
            cap_end(left, false, line_.front());
        }
        if (!q_within) {
            cap_end(left, true, line_.back());
            cap_end(right, false, line_.back());
        }
        cutter_.add(line_, left, right);
    }

    /// The part of a straight line that is within the limit of a cell.
    bool inside_part(std::uint32_t cell, Spot p, Spot q, double& t0, double& t1, bool p_within, bool q_within) const {
        if (is_segment(cell)) {
            if (!p_within && !q_within) return false;
            const Axis axis(cells_.cells[cell]);
            const double d0 = std::abs(axis.y(p)), d1 = std::abs(axis.y(q));
            const double t = d0 == d1 ? (p_within ? 1.0 : 0.0) : std::clamp((limit_ - d0) / (d1 - d0), 0.0, 1.0);
            (p_within ? t1 : t0) = t;
            return true;
        }
        const Spot from = p - spot(cells_.cells[cell].a), step = q - p;
        const double a = dot(step, step), b = dot(from, step), c = dot(from, from) - limit_ * limit_;
        const double root = b * b - a * c;
        if (p_within || q_within) {
            const double r = std::sqrt(std::max(root, 0.0));
            if (!p_within) t0 = a > 0 ? std::clamp((-b - r) / a, 0.0, 1.0) : 0.0;
            if (!q_within) t1 = a > 0 ? std::clamp((-b + r) / a, 0.0, 1.0) : 1.0;
            return true;
        }
        if (root <= 0 || a <= 0) return false;
        t0 = (-b - std::sqrt(root)) / a;
        t1 = (-b + std::sqrt(root)) / a;
        return t0 > 0 && t1 < 1;
    }

    /// The parabola between a segment and a point.
    void sample_curve(std::uint32_t segment, std::uint32_t point, Spot p, Spot q, bool p_within, bool q_within) {
        const Axis axis(cells_.cells[segment]);
        const Spot focus = spot(cells_.cells[point].a);
        const double fx = axis.x(focus), fy = axis.y(focus), height = std::abs(fy);
        double x0 = axis.x(p), x1 = axis.x(q);
        const bool forward = x0 <= x1;
        if (!p_within || !q_within) {
            const double w2 = 2 * limit_ * height - height * height;
            if (w2 <= 0 && !p_within && !q_within) return;
            const double w = std::sqrt(std::max(w2, 0.0));
            const double low = fx - w, high = fx + w;
            if (!p_within && !q_within) {
                const double a = std::min(x0, x1), b = std::max(x0, x1);
                if (low <= a || high >= b) return;
            }
            if (!p_within) x0 = std::clamp(forward ? low : high, std::min(x0, x1), std::max(x0, x1));
            if (!q_within) x1 = std::clamp(forward ? high : low, std::min(x0, x1), std::max(x0, x1));
        }
        const auto at = [&](double x) { return axis.at(x, ((x - fx) * (x - fx) + fy * fy) / (2 * fy)); };
        const double step = std::sqrt(8 * height * curve_);
        const int parts = std::clamp(static_cast<int>(std::ceil(std::abs(x1 - x0) / step)), 1, 4096);
        line_.push_back(p_within ? p : at(x0));
        for (int i = 1; i < parts; ++i) line_.push_back(at(x0 + (x1 - x0) * i / parts));
        line_.push_back(q_within ? q : at(x1));
    }

    void cap_end(std::uint32_t cell, bool starts, Spot at) {
        CapEnd end{cell, false, 0, starts, at};
        const Axis axis(cells_.cells[cell]);
        if (is_segment(cell)) {
            end.upper = axis.y(at) > 0;
            end.order = end.upper ? -axis.x(at) : axis.x(at);
        } else {
            end.order = std::atan2(at.y - axis.origin.y, at.x - axis.origin.x);
        }
        caps_.push_back(end);
    }

    /// The edge of the ground that is within the limit: from where a line leaves it to where the next one does,
    /// counter-clockwise around a cell.
    void cap() {
        std::sort(caps_.begin(), caps_.end(), [](const CapEnd& a, const CapEnd& b) {
            return std::tie(a.cell, a.upper, a.order, b.starts) < std::tie(b.cell, b.upper, b.order, a.starts);
        });
        for (std::size_t i = 0; i < caps_.size();) {
            std::size_t end = i;
            while (end < caps_.size() && caps_[end].cell == caps_[i].cell && caps_[end].upper == caps_[i].upper) ++end;
            const std::size_t count = end - i;
            for (std::size_t k = 0; k < count; ++k) {
                if (!caps_[i + k].starts) continue;
                const CapEnd& from = caps_[i + k];
                const CapEnd& to = caps_[i + (k + 1) % count];
                if (is_segment(from.cell) && k + 1 == count) continue;
                line_.assign(1, from.spot);
                if (!is_segment(from.cell))
                    sample_arc(Arc::from_to(spot(cells_.cells[from.cell].a), limit_, from.spot, to.spot, from.order,
                                            to.order));
                line_.push_back(to.spot);
                cutter_.add(line_, from.cell, kNoCell);
            }
            i = end;
        }
        add_circles();
    }

    void sample_arc(const Arc& arc) {
        arc.each_between(curve_, [&](Spot s) { line_.push_back(s); });
    }
    /// Points that stand so far from every road that nothing cuts their circle.
    void add_circles() {
        for (const Point p : cells_.lone) {
            const std::uint32_t cell = cells_.point(p);
            if (has_border_[cell]) continue;
            line_.assign(1, spot(p) + limit_ * Spot{1, 0});
            sample_arc({spot(p), limit_, 0, 2 * std::numbers::pi});
            line_.push_back(line_.front());
            cutter_.add(line_, cell, kNoCell);
        }
    }

    const StripCells& cells_;
    Rectangle tile_;
    double limit_, curve_;  ///< units of the plane
    const Task& task_;
    TileCutter cutter_;
    std::vector<bool> has_border_;  ///< of each cell: whether a line within the limit bounds it, in the tile or not
    std::vector<Spot> line_;
    std::vector<CapEnd> caps_;
};

}  // namespace

Point on_side(const Rectangle& tile, Side side, std::int32_t at) {
    switch (side) {
        case Side::west:
            return {tile.low.x, at};
        case Side::east:
            return {tile.high.x, at};
        case Side::south:
            return {at, tile.low.y};
        case Side::north:
            return {at, tile.high.y};
    }
    return {};
}

std::size_t Strips::bytes() const {
    std::size_t sum =
        cells.capacity() * sizeof(Cell) + vertices.capacity() * sizeof(Point) + borders.capacity() * sizeof(Border);
    for (const auto& s : seams) sum += s.capacity() * sizeof(SeamPart);
    return sum;
}

Strips make_strips(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                   const Rectangle& tile, Millimetres limit, const Task& task) {
    const double per_metre = plane.per_metre(plane.place(0.5 * (spot(tile.low) + spot(tile.high))));
    const double reach = limit.metres() * per_metre;
    const auto rim = static_cast<std::int32_t>(std::ceil(reach)) + 2;
    const StripCells cells = strip_cells(network, use, plane, tile.widened(rim), task);
    task.check();
    return Divider(cells, tile, reach, kCurveMetres * per_metre, task).make();
}

}  // namespace otoro::reach
