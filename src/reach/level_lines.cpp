#include "reach/level_lines.h"

#include <algorithm>
#include <map>
#include <unordered_map>

namespace otoro::reach {
namespace {

/// Segments joined end to end at points where two meet.
std::vector<std::vector<Point>> joined(const std::vector<std::pair<Point, Point>>& segments) {
    const auto key = [](Point p) {
        return std::uint64_t{static_cast<std::uint32_t>(p.x)} << 32U | static_cast<std::uint32_t>(p.y);
    };
    std::unordered_multimap<std::uint64_t, std::uint32_t> at;
    at.reserve(segments.size() * 2);
    for (std::uint32_t i = 0; i < segments.size(); ++i) {
        at.emplace(key(segments[i].first), i);
        at.emplace(key(segments[i].second), i);
    }
    std::vector<bool> done(segments.size(), false);
    const auto goes_on = [&](Point p) { return at.count(key(p)) == 2; };
    const auto follow = [&](std::uint32_t i, Point from, std::vector<Point>& line) {
        while (true) {
            done[i] = true;
            const Point to = segments[i].first == from ? segments[i].second : segments[i].first;
            line.push_back(to);
            if (!goes_on(to)) return;
            const auto range = at.equal_range(key(to));
            const std::uint32_t next = range.first->second == i ? std::next(range.first)->second : range.first->second;
            if (done[next]) return;
            i = next;
            from = to;
        }
    };
    std::vector<std::vector<Point>> out;
    const auto start = [&](std::uint32_t i, Point from) {
        out.push_back({from});
        follow(i, from, out.back());
    };
    for (std::uint32_t i = 0; i < segments.size(); ++i)
        for (const Point end : {segments[i].first, segments[i].second})
            if (!done[i] && !goes_on(end)) start(i, end);
    for (std::uint32_t i = 0; i < segments.size(); ++i)
        if (!done[i]) start(i, segments[i].first);
    return out;
}

}  // namespace

std::vector<LevelLine> level_lines(const Plane& plane, const std::vector<Boundary>& boundaries,
                                   const Classes& classes) {
    std::map<std::uint32_t, std::vector<std::pair<Point, Point>>> by_level;
    for (const Boundary& b : boundaries) {
        if (b.left == kNobody || b.right == kNobody) continue;
        const auto [low, high] = std::minmax({classes.band(b.left), classes.band(b.right)});
        for (std::uint32_t level = low; level < high; ++level) by_level[level].emplace_back(b.a, b.b);
    }
    std::vector<LevelLine> out;
    for (const auto& [level, segments] : by_level)
        for (const auto& line : joined(segments)) {
            LevelLine drawn{level, {}};
            for (const Point p : line) drawn.vertices.push_back(plane.place(p));
            out.push_back(std::move(drawn));
        }
    return out;
}

}  // namespace otoro::reach
