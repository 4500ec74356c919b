#include "reach/meetings.h"

#include <algorithm>

namespace otoro::reach {

bool meet_within(const GridSegment& p, const GridSegment& q) {
    const GridPoint a = p.a, b = p.b, c = q.a, d = q.b;
    if (std::max(a.x, b.x) < std::min(c.x, d.x) || std::max(c.x, d.x) < std::min(a.x, b.x) ||
        std::max(a.y, b.y) < std::min(c.y, d.y) || std::max(c.y, d.y) < std::min(a.y, b.y))
        return false;
    const bool from_a = a == c || a == d, from_b = b == c || b == d;
    if (from_a && from_b) return false;
    if (from_a || from_b) {
        // Both go the same way from the common end.
        const GridPoint o = from_a ? a : b, u = from_a ? b : a, v = o == c ? d : c;
        if (cross(o, u, v) != 0) return false;
        return static_cast<Wide>(u.x - o.x) * (v.x - o.x) + static_cast<Wide>(u.y - o.y) * (v.y - o.y) > 0;
    }
    return sign(cross(a, b, c)) * sign(cross(a, b, d)) <= 0 && sign(cross(c, d, a)) * sign(cross(c, d, b)) <= 0;
}

void each_near_pair(std::span<const GridSegment> segments, std::int64_t rim,
                    const std::function<void(std::uint32_t, std::uint32_t)>& use) {
    if (segments.empty()) return;
    GridPoint low = segments[0].a, high = low;
    double sum = 0;
    for (const GridSegment& s : segments) {
        for (const GridPoint p : {s.a, s.b}) {
            low = {std::min(low.x, p.x), std::min(low.y, p.y)};
            high = {std::max(high.x, p.x), std::max(high.y, p.y)};
        }
        sum += static_cast<double>(std::max(std::abs(s.a.x - s.b.x), std::abs(s.a.y - s.b.y)));
    }
    const auto size = std::max<std::int64_t>({static_cast<std::int64_t>(2 * sum / static_cast<double>(segments.size())),
                                              (high.x - low.x) / 1'000'000, (high.y - low.y) / 1'000'000, 8 * rim, 1});
    // Each segment in all squares that its box touches.
    struct Entry {
        std::uint64_t square;
        std::uint32_t segment;
    };
    std::vector<Entry> entries;
    entries.reserve(segments.size() * 3);
    for (std::uint32_t i = 0; i < segments.size(); ++i) {
        const auto [a, b] = segments[i];
        const auto column = [&](std::int64_t x) { return static_cast<std::uint64_t>((x - low.x + rim) / size); };
        const auto row = [&](std::int64_t y) { return static_cast<std::uint64_t>((y - low.y + rim) / size); };
        for (auto x = column(std::min(a.x, b.x) - rim); x <= column(std::max(a.x, b.x) + rim); ++x)
            for (auto y = row(std::min(a.y, b.y) - rim); y <= row(std::max(a.y, b.y) + rim); ++y)
                entries.push_back({x << 32U | y, i});
    }
    std::sort(entries.begin(), entries.end(), [](const Entry& p, const Entry& q) {
        return p.square != q.square ? p.square < q.square : p.segment < q.segment;
    });
    for (std::size_t i = 0; i < entries.size();) {
        std::size_t end = i;
        while (end < entries.size() && entries[end].square == entries[i].square) ++end;
        for (std::size_t p = i; p < end; ++p)
            for (std::size_t q = p + 1; q < end; ++q) use(entries[p].segment, entries[q].segment);
        i = end;
    }
}

std::vector<std::pair<std::uint32_t, std::uint32_t>> meetings(std::span<const GridSegment> segments) {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> out;
    each_near_pair(segments, 0, [&](std::uint32_t p, std::uint32_t q) {
        if (meet_within(segments[p], segments[q])) out.emplace_back(p, q);
    });
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

}  // namespace otoro::reach
