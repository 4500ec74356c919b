#include "reach/tile_cutter.h"

#include <algorithm>
#include <tuple>

namespace otoro::reach {

Strips TileCutter::finish() {
    out_.tile = tile_;
    sew();
    close_slits();
    pack();
    return std::move(out_);
}

void TileCutter::add(std::span<const Spot> line, std::uint32_t left, std::uint32_t right) {
    rounded_.clear();
    for (const Spot s : line)
        if (const Point p = rounded(s); rounded_.empty() || rounded_.back() != p) rounded_.push_back(p);
    for (std::size_t i = 0; i + 1 < rounded_.size(); ++i) {
        const Point a = rounded_[i], b = rounded_[i + 1];
        const bool a_in = tile_.contains(a), b_in = tile_.contains(b);
        if (a_in && b_in)
            add_piece(a, b, left, right);
        else
            cut(a, b, a_in, b_in, left, right);
    }
}

void TileCutter::add_piece(Point a, Point b, std::uint32_t left, std::uint32_t right) {
    if (a != b) pieces_.push_back({a, b, left, right});
}

/// A straight piece that has at least one end outside of the tile.
void TileCutter::cut(Point a, Point b, bool a_in, bool b_in, std::uint32_t left, std::uint32_t right) {
    // What is in the tile needs no cut: there is none before the start, or none after the end.
    double t0 = a_in ? 0 : -1, t1 = b_in ? 1 : 2;
    Side in = Side::west, out = Side::west;
    const double ax = a.x, ay = a.y, dx = double(b.x) - a.x, dy = double(b.y) - a.y;
    const auto bound = [&](double p, double d, double low, double high, Side low_side, Side high_side) {
        if (d == 0) return p >= low && p < high;
        double enter = (low - p) / d, leave = (high - p) / d;
        Side first = low_side, last = high_side;
        if (d < 0) {
            std::swap(enter, leave);
            std::swap(first, last);
        }
        if (enter > t0) {
            t0 = enter;
            in = first;
        }
        if (leave < t1) {
            t1 = leave;
            out = last;
        }
        return true;
    };
    const Rectangle& r = tile_;
    const bool meets = bound(ax, dx, r.low.x, r.high.x, Side::west, Side::east) &&
                       bound(ay, dy, r.low.y, r.high.y, Side::south, Side::north) && t0 <= t1;
    if (!meets && !a_in && !b_in) return;
    if (!a_in && !b_in && (t0 >= t1 || t0 < 0 || t1 > 1)) return;
    const auto at_side = [&](Side side, double t) {
        Point p = rounded({ax + t * dx, ay + t * dy});
        if (side == Side::west) p.x = r.low.x;
        if (side == Side::east) p.x = r.high.x;
        if (side == Side::south) p.y = r.low.y;
        if (side == Side::north) p.y = r.high.y;
        p.x = std::clamp(p.x, r.low.x, r.high.x);
        p.y = std::clamp(p.y, r.low.y, r.high.y);
        return p;
    };
    const Point from = a_in ? a : at_side(in, t0), to = b_in ? b : at_side(out, t1);
    if (!a_in) cross_side(in, from, is_upright(in) ? ay + t0 * dy : ax + t0 * dx, right, left);
    if (!b_in) cross_side(out, to, is_upright(out) ? ay + t1 * dy : ax + t1 * dx, left, right);
    add_piece(from, to, left, right);
}

/// A line leaves the tile here, with these cells on its left and right.
void TileCutter::cross_side(Side side, Point p, double exact, std::uint32_t left, std::uint32_t right) {
    const bool left_is_after = side == Side::east || side == Side::south;
    crossings_[static_cast<std::size_t>(side)].push_back(
        {is_upright(side) ? p.y : p.x, exact, left_is_after ? right : left, left_is_after ? left : right});
}

void TileCutter::sew() {
    for (const Side side : kSides) {
        auto& crossings = crossings_[static_cast<std::size_t>(side)];
        std::sort(crossings.begin(), crossings.end(), [](const Crossing& a, const Crossing& b) {
            return std::tie(a.exact, a.before, a.after) < std::tie(b.exact, b.before, b.after);
        });
        std::int32_t from = is_upright(side) ? tile_.low.y : tile_.low.x;
        const std::int32_t end = is_upright(side) ? tile_.high.y : tile_.high.x;
        auto& parts = out_.seams[static_cast<std::size_t>(side)];
        for (std::size_t i = 0; i <= crossings.size(); ++i) {
            const std::int32_t to = i < crossings.size() ? crossings[i].at : end;
            if (to <= from) continue;
            const bool sure = i > 0 && i < crossings.size() && crossings[i - 1].after == crossings[i].before;
            const std::uint32_t cell =
                sure ? crossings[i].before
                     : cell_at(0.5 * (spot(on_side(tile_, side, from)) + spot(on_side(tile_, side, to))));
            if (!parts.empty() && parts.back().cell == cell)
                parts.back().to = to;
            else
                parts.push_back({from, to, cell});
            from = to;
        }
        crossings.clear();
    }
}
/// The cell of the nearest road, if that is within the limit.
std::uint32_t TileCutter::cell_at(Spot at) const {
    std::uint32_t best = kNoCell;
    double least = limit_;
    for (std::uint32_t i = 0; i < cells_.cells.size(); ++i) {
        // A segment is nearest only beside it; beyond its end it is its end that is.
        const Axis axis(cells_.cells[i]);
        if (cells_.is_segment(i)) {
            const double x = axis.x(at);
            if (x < 0 || x > axis.reach) continue;
        }
        const double d = distance_to(cells_.cells[i], at);
        if (d > least || (d == least && best != kNoCell)) continue;
        least = d;
        best = i;
    }
    return best;
}

/// Where a road goes straight on over a corner, that corner's ground is no wider than rounding made it: it becomes
/// that of the road beside it.
void TileCutter::close_slits() {
    constexpr double kWidth = 3;  // units of the plane: millimetres
    struct Shape {
        double twice_area = 0, around = 0, longest = 0;
        std::uint32_t beside = kNoCell;
    };
    std::vector<Shape> shapes(cells_.cells.size());
    const auto add = [&](std::uint32_t cell, Point a, Point b, std::uint32_t other) {
        if (cell == kNoCell || cells_.is_segment(cell)) return;
        Shape& shape = shapes[cell];
        const Spot o = spot(cells_.cells[cell].a), p = spot(a) - o, q = spot(b) - o;
        const double away = length(q - p);
        shape.twice_area += cross(p, q);
        shape.around += away;
        if (other != kNoCell && cells_.is_segment(other) && away > shape.longest) {
            shape.longest = away;
            shape.beside = other;
        }
    };
    for (const Piece& p : pieces_) {
        add(p.left, p.a, p.b, p.right);
        add(p.right, p.b, p.a, p.left);
    }
    for (const Side side : kSides) {
        // Counter-clockwise around the tile.
        const bool ascending = side == Side::south || side == Side::east;
        for (const SeamPart& s : out_.seams[static_cast<std::size_t>(side)])
            add(s.cell, on_side(tile_, side, ascending ? s.from : s.to),
                on_side(tile_, side, ascending ? s.to : s.from), kNoCell);
    }
    const auto closed = [&](std::uint32_t cell) {
        if (cell == kNoCell || cells_.is_segment(cell)) return cell;
        const Shape& shape = shapes[cell];
        const bool slit = shape.beside != kNoCell && std::abs(shape.twice_area) < kWidth * shape.around;
        return slit ? shape.beside : cell;
    };
    for (Piece& p : pieces_) {
        p.left = closed(p.left);
        p.right = closed(p.right);
    }
    std::erase_if(pieces_, [](const Piece& p) { return p.left == p.right; });
    for (auto& side : out_.seams)
        for (SeamPart& s : side) s.cell = closed(s.cell);
}

/// Vertices once each, and only cells that have ground in the tile.
void TileCutter::pack() {
    std::vector<Point>& vertices = out_.vertices;
    vertices.reserve(pieces_.size() * 2);
    for (const Piece& p : pieces_) {
        vertices.push_back(p.a);
        vertices.push_back(p.b);
    }
    std::sort(vertices.begin(), vertices.end());
    vertices.erase(std::unique(vertices.begin(), vertices.end()), vertices.end());
    vertices.shrink_to_fit();
    const auto vertex = [&](Point p) {
        return static_cast<std::uint32_t>(std::lower_bound(vertices.begin(), vertices.end(), p) - vertices.begin());
    };
    std::vector<std::uint32_t> now(cells_.cells.size(), kNoCell);
    const auto mark = [&](std::uint32_t cell) {
        if (cell != kNoCell) now[cell] = 0;
    };
    for (const Piece& p : pieces_) {
        mark(p.left);
        mark(p.right);
    }
    for (const auto& side : out_.seams)
        for (const SeamPart& part : side) mark(part.cell);
    std::vector<Cell> cells;
    cells.reserve(static_cast<std::size_t>(std::count(now.begin(), now.end(), 0U)));
    for (std::uint32_t i = 0; i < now.size(); ++i) {
        if (now[i] == kNoCell) continue;
        now[i] = static_cast<std::uint32_t>(cells.size());
        cells.push_back(cells_.cells[i]);
    }
    out_.cells = std::move(cells);
    const auto moved = [&](std::uint32_t cell) { return cell == kNoCell ? kNoCell : now[cell]; };
    out_.borders.reserve(pieces_.size());
    for (const Piece& p : pieces_) out_.borders.push_back({vertex(p.a), vertex(p.b), moved(p.left), moved(p.right)});
    for (auto& side : out_.seams) {
        for (SeamPart& part : side) part.cell = moved(part.cell);
        side.shrink_to_fit();
    }
}

}  // namespace otoro::reach
