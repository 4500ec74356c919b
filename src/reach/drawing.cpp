#include "reach/drawing.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <tuple>

namespace otoro::reach {
namespace {

constexpr double kPerDegree = 1e9;
constexpr std::uint32_t kTaken = kNobody - 1;

std::uint64_t key(Point p) {
    return (std::uint64_t{static_cast<std::uint32_t>(p.x) ^ 0x80000000U} << 32U) |
           (static_cast<std::uint32_t>(p.y) ^ 0x80000000U);
}

}  // namespace

geo::LonLat place(GridPoint p) {
    return {static_cast<double>(p.x) / kPerDegree, static_cast<double>(p.y) / kPerDegree};
}

Spot metres_from(GridPoint origin, GridPoint p) {
    const double north = 111'320 / kPerDegree;
    const double east = north * std::cos(place(origin).lat * std::numbers::pi / 180);
    return {static_cast<double>(p.x - origin.x) * east, static_cast<double>(p.y - origin.y) * north};
}

Drawing::Drawing(const Plane& plane, const std::vector<Boundary>& boundaries) {
    std::vector<std::uint64_t> keys;
    keys.reserve(boundaries.size() * 2);
    for (const auto& b : boundaries)
        if (b.left != b.right)
            for (const Point p : {b.a, b.b}) keys.push_back(key(p));
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    vertices.reserve(keys.size());
    for (const std::uint64_t k : keys) {
        const auto x = static_cast<std::int32_t>(static_cast<std::uint32_t>(k >> 32U) ^ 0x80000000U);
        const auto y = static_cast<std::int32_t>(static_cast<std::uint32_t>(k) ^ 0x80000000U);
        const geo::LonLat at = plane.place(Point{x, y});
        vertices.push_back({std::llround(at.lon * kPerDegree), std::llround(at.lat * kPerDegree)});
    }
    const auto number = [&](Point p) {
        return static_cast<std::uint32_t>(std::lower_bound(keys.begin(), keys.end(), key(p)) - keys.begin());
    };
    lines.reserve(boundaries.size());
    for (const auto& b : boundaries)
        if (b.left != b.right) lines.push_back({number(b.a), number(b.b), b.left, b.right});
}

void Drawing::settle() {
    std::erase_if(lines, [&](const Line& l) { return l.a == l.b || l.left == l.right; });
    for (Line& l : lines)
        if (l.a > l.b) {
            std::swap(l.a, l.b);
            std::swap(l.left, l.right);
        }
    std::sort(lines.begin(), lines.end(), [](const Line& a, const Line& b) {
        return std::tie(a.a, a.b, a.left, a.right) < std::tie(b.a, b.b, b.left, b.right);
    });
    std::vector<Line> out;
    out.reserve(lines.size());
    for (std::size_t i = 0; i < lines.size();) {
        std::size_t end = i;
        while (end < lines.size() && lines[end].a == lines[i].a && lines[end].b == lines[i].b) ++end;
        if (end == i + 1) {
            out.push_back(lines[i]);
        } else {
            std::vector<std::uint32_t> lefts, rights;
            for (std::size_t k = i; k < end; ++k) {
                lefts.push_back(lines[k].left);
                rights.push_back(lines[k].right);
            }
            for (auto& l : lefts) {
                const auto same = std::find(rights.begin(), rights.end(), l);
                if (same == rights.end()) continue;
                rights.erase(same);
                l = kTaken;
            }
            std::erase(lefts, kTaken);
            for (std::size_t k = 0; k < lefts.size(); ++k) out.push_back({lines[i].a, lines[i].b, lefts[k], rights[k]});
        }
        i = end;
    }
    lines = std::move(out);
}

std::vector<std::pair<std::uint32_t, std::uint32_t>> Drawing::conflicts() const {
    std::vector<GridSegment> segments;
    segments.reserve(lines.size());
    for (const Line& l : lines) segments.push_back({vertices[l.a], vertices[l.b]});
    return meetings(segments);
}

bool Drawing::mend(const Task& task) {
    constexpr int kRounds = 60;
    for (int round = 0; round < kRounds; ++round) {
        const auto wrong = conflicts();
        if (wrong.empty()) return true;
        task.check();
        if (!snap(wrong)) return false;
        settle();
    }
    return false;
}

Drawing::Onto Drawing::nearest_on(std::uint32_t line, std::uint32_t vertex) const {
    const GridPoint a = vertices[lines[line].a];
    const Spot d = metres_from(a, vertices[lines[line].b]), e = metres_from(a, vertices[vertex]);
    const double t = std::clamp((d.x * e.x + d.y * e.y) / (d.x * d.x + d.y * d.y), 0.0, 1.0);
    return {line, vertex, t, std::hypot(e.x - t * d.x, e.y - t * d.y)};
}

Drawing::Onto Drawing::nearest_vertex(std::uint32_t p, std::uint32_t q) const {
    Onto best{p, 0, 0, std::numeric_limits<double>::infinity()};
    for (const auto& [line, other] : {std::pair(p, q), std::pair(q, p)})
        for (const std::uint32_t v : {lines[other].a, lines[other].b}) {
            if (v == lines[line].a || v == lines[line].b) continue;
            const Onto onto = nearest_on(line, v);
            if (std::tie(onto.metres, onto.line, onto.vertex) < std::tie(best.metres, best.line, best.vertex))
                best = onto;
        }
    return best;
}

bool Drawing::snap(const std::vector<std::pair<std::uint32_t, std::uint32_t>>& wrong) {
    constexpr double kRounding = 0.02, kSameVertex = 0.003;  // metres
    std::vector<Onto> cuts;
    std::unordered_map<std::uint32_t, std::uint32_t> merged;
    for (const auto& [p, q] : wrong) {
        const Onto best = nearest_vertex(p, q);
        if (best.metres > kRounding) return false;
        bool same = false;
        for (const std::uint32_t end : {lines[best.line].a, lines[best.line].b}) {
            const Spot away = metres_from(vertices[end], vertices[best.vertex]);
            if (same || std::hypot(away.x, away.y) >= kSameVertex) continue;
            same = true;
            merged.try_emplace(std::max(end, best.vertex), std::min(end, best.vertex));
        }
        if (!same) cuts.push_back(best);
    }
    part(std::move(cuts));
    merge(merged);
    return true;
}

void Drawing::part(std::vector<Onto> cuts) {
    std::sort(cuts.begin(), cuts.end(), [](const Onto& a, const Onto& b) {
        return std::tie(a.line, a.along, a.vertex) < std::tie(b.line, b.along, b.vertex);
    });
    for (std::size_t i = 0; i < cuts.size();) {
        const std::uint32_t line = cuts[i].line;
        const std::uint32_t end = lines[line].b;
        for (; i < cuts.size() && cuts[i].line == line; ++i) {
            if (lines[line].a == cuts[i].vertex) continue;
            Line piece = lines[line];
            piece.b = lines[line].a = cuts[i].vertex;
            lines.push_back(piece);
        }
        lines[line].b = end;
    }
}

void Drawing::merge(const std::unordered_map<std::uint32_t, std::uint32_t>& merged) {
    if (merged.empty()) return;
    const auto now = [&](std::uint32_t v) {
        for (auto at = merged.find(v); at != merged.end(); at = merged.find(v)) v = at->second;
        return v;
    };
    for (Line& l : lines) {
        l.a = now(l.a);
        l.b = now(l.b);
    }
}

}  // namespace otoro::reach
