#include "reach/strip_cells.h"

#include <algorithm>
#include <tuple>

#include "geo/box_index.h"
#include "reach/noding.h"

namespace otoro::reach {
namespace {

/// Adds links without length where no other road passes; those on the end of one are its end.
void add_lone_points(const std::vector<GroundLine>& lines, StripCells& out, std::vector<Cell>& points) {
    std::vector<Cell> lone;
    for (const auto& l : lines)
        if (l.a == l.b) lone.push_back({l.a, l.a, l.link, 0, 0});
    if (lone.empty()) return;
    std::vector<Point> ends;
    for (const Cell& c : points) ends.push_back(c.a);
    std::sort(ends.begin(), ends.end());
    const geo::BoxIndex boxes(out.segments, [&](std::uint32_t i) {
        const Cell& c = out.cells[i];
        const auto [west, east] = std::minmax({double(c.a.x), double(c.b.x)});
        const auto [south, north] = std::minmax({double(c.a.y), double(c.b.y)});
        return geo::Box{west, south, east, north};
    });
    constexpr double kOnIt = 2;  // units of the plane
    std::vector<std::uint32_t> near;
    for (const Cell& c : lone) {
        const Spot p = spot(c.a);
        const bool at_end = std::binary_search(ends.begin(), ends.end(), c.a);
        if (!at_end) {
            boxes.touching({p.x - kOnIt, p.y - kOnIt, p.x + kOnIt, p.y + kOnIt}, near);
            if (std::any_of(near.begin(), near.end(),
                            [&](std::uint32_t i) { return distance_to(out.cells[i], p) < kOnIt; }))
                continue;
            out.lone.push_back(c.a);
        }
        points.push_back(c);
    }
    std::sort(out.lone.begin(), out.lone.end());
    out.lone.erase(std::unique(out.lone.begin(), out.lone.end()), out.lone.end());
}

}  // namespace

std::uint32_t StripCells::point(Point p) const {
    const auto at = std::lower_bound(cells.begin() + segments, cells.end(), p,
                                     [](const Cell& c, Point wanted) { return c.a < wanted; });
    return static_cast<std::uint32_t>(at - cells.begin());
}

StripCells strip_cells(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                       const Rectangle& where, const Task& task) {
    StripCells out;
    const auto lines = ground_lines(network, use, plane, where, task);
    std::vector<Segment> segments;
    segments.reserve(lines.size());
    for (const auto& l : lines) segments.push_back({l.a, l.b});
    for (const NodedPiece& piece : noded(segments, task)) {
        const GroundLine& l = lines[piece.segment];
        const auto offset = [&](Point p) {
            if (p == l.a) return static_cast<std::uint32_t>(l.from.count());
            if (p == l.b) return static_cast<std::uint32_t>(l.to.count());
            const Spot d = spot(l.b) - spot(l.a);
            const double t = std::clamp(dot(spot(p) - spot(l.a), d) / dot(d, d), 0.0, 1.0);
            return static_cast<std::uint32_t>(l.from.count() +
                                              std::llround(t * static_cast<double>((l.to - l.from).count())));
        };
        out.cells.push_back({piece.a, piece.b, l.link, offset(piece.a), offset(piece.b)});
    }
    // Of roads drawn upon one another, ground is that of the first.
    const auto ends = [](const Cell& c) { return std::minmax({c.a, c.b}); };
    std::sort(out.cells.begin(), out.cells.end(), [&](const Cell& a, const Cell& b) {
        return std::make_tuple(ends(a).first, ends(a).second, a.link, a.from_mm) <
               std::make_tuple(ends(b).first, ends(b).second, b.link, b.from_mm);
    });
    out.cells.erase(std::unique(out.cells.begin(), out.cells.end(),
                                [&](const Cell& a, const Cell& b) { return ends(a) == ends(b); }),
                    out.cells.end());
    std::sort(out.cells.begin(), out.cells.end(), [](const Cell& a, const Cell& b) {
        return std::tie(a.link, a.from_mm, a.to_mm, a.a, a.b) < std::tie(b.link, b.from_mm, b.to_mm, b.a, b.b);
    });
    out.segments = static_cast<std::uint32_t>(out.cells.size());
    std::vector<Cell> points;
    points.reserve(out.cells.size() * 2);
    for (const Cell& c : out.cells) {
        points.push_back({c.a, c.a, c.link, c.from_mm, c.from_mm});
        points.push_back({c.b, c.b, c.link, c.to_mm, c.to_mm});
    }
    add_lone_points(lines, out, points);
    std::sort(points.begin(), points.end(), [](const Cell& a, const Cell& b) {
        return std::tie(a.a, a.link, a.from_mm) < std::tie(b.a, b.link, b.from_mm);
    });
    points.erase(std::unique(points.begin(), points.end(), [](const Cell& a, const Cell& b) { return a.a == b.a; }),
                 points.end());
    out.cells.insert(out.cells.end(), points.begin(), points.end());
    return out;
}

}  // namespace otoro::reach
