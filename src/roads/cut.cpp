#include "roads/cut.h"

#include <algorithm>
#include <limits>
#include <map>
#include <tuple>
#include <utility>

#include "geo/ellipsoid.h"

namespace otoro::roads {
namespace {

bool before(const Cut& a, const Cut& b) {
    return std::tie(a.line, a.segment, a.along) < std::tie(b.line, b.segment, b.along);
}

/// Makes the parts one after another.
class Cutter {
public:
    Cutter(const Lines& in, const std::vector<Cut>& cuts) : in_(in), cuts_(cuts) {
        out_.names = in.names;
        out_.traffic_signals = in.traffic_signals;
        for (const NamedEnds& e : in.named_ends) next_number_ = std::max({next_number_, e.from + 1, e.to + 1});
    }

    Lines all() {
        std::size_t next = 0;
        for (std::uint32_t line = 0; line < in_.count(); ++line) {
            const std::size_t begin = next;
            while (next < cuts_.size() && cuts_[next].line == line) ++next;
            first_part_.push_back(out_.count());
            parts_of(line, std::span(cuts_).subspan(begin, next - begin));
        }
        first_part_.push_back(out_.count());
        move_bans();
        return std::move(out_);
    }

private:
    void parts_of(std::uint32_t line, std::span<const Cut> cuts) {
        const auto shape = in_.shape(line);
        const auto heights = in_.heights_of(line);
        std::vector<geo::LonLat> part{shape.front()};
        std::vector<float> part_heights;
        if (!heights.empty()) part_heights.push_back(heights.front());
        const std::uint32_t first = out_.count();
        std::uint32_t from_number = in_.named_ends.empty() ? 0 : in_.named_ends[line].from;
        const auto push = [&](geo::LonLat p, float height) {
            if (p == part.back()) return;
            part.push_back(p);
            if (!heights.empty()) part_heights.push_back(height);
        };
        const auto finish = [&](std::uint32_t to_number) {
            out_.add(part, in_.attributes[line], part_heights);
            if (!in_.named_ends.empty()) out_.named_ends.push_back({from_number, to_number});
            if (!in_.against_ms.empty()) out_.against_ms.push_back(in_.against_ms[line]);
            out_.cut_from.push_back(in_.as_read(line));
        };
        std::size_t next = 0;
        for (std::uint32_t v = 0; v + 1 < shape.size(); ++v) {
            if (v > 0) push(shape[v], heights.empty() ? 0 : heights[v]);
            for (; next < cuts.size() && cuts[next].segment == v; ++next) {
                const Cut& c = cuts[next];
                const float height =
                    heights.empty() ? 0 : static_cast<float>(heights[v] + (heights[v + 1] - heights[v]) * c.along);
                push(c.at, height);
                if (part.size() < 2 || c.at == shape.back()) continue;
                const std::uint32_t number = in_.named_ends.empty() ? 0 : number_at(c.at);
                finish(number);
                from_number = number;
                part.assign(1, c.at);
                part_heights.clear();
                if (!heights.empty()) part_heights.push_back(height);
            }
        }
        push(shape.back(), heights.empty() ? 0 : heights.back());
        if (part.size() < 2) part.push_back(shape.back());
        finish(in_.named_ends.empty() ? 0 : in_.named_ends[line].to);
        share_times(out_, first, in_.attributes[line].fixed_ms, in_.against_ms.empty() ? 0 : in_.against_ms[line]);
    }

    std::uint32_t number_at(geo::LonLat p) {
        const auto [at, added] = numbers_.try_emplace({p.lon, p.lat}, next_number_);
        if (added) ++next_number_;
        return at->second;
    }

    void move_bans() {
        const auto first = [&](std::uint32_t line) { return first_part_[line]; };
        const auto last = [&](std::uint32_t line) { return first_part_[line + 1] - 1; };
        for (const TurnBan& b : in_.bans) {
            const LineWay from =
                b.from.is_against() ? LineWay::against(first(b.from.line())) : LineWay::along(last(b.from.line()));
            const LineWay to =
                b.to.is_against() ? LineWay::against(last(b.to.line())) : LineWay::along(first(b.to.line()));
            out_.bans.push_back({from, to});
        }
        std::sort(out_.bans.begin(), out_.bans.end());
        // Of a path the first and the last line count by the part that touches the next; those between are travelled
        // whole.
        for (const BannedPath& path : in_.banned_paths) {
            BannedPath parts;
            for (std::size_t i = 0; i < path.size(); ++i) {
                const std::uint32_t line = path[i].line();
                const bool against = path[i].is_against();
                const std::uint32_t begin = against ? last(line) : first(line),
                                    end = against ? first(line) : last(line);
                const auto add = [&](std::uint32_t part) {
                    parts.push_back(against ? LineWay::against(part) : LineWay::along(part));
                };
                if (i == 0) {
                    add(end);
                } else if (i + 1 == path.size()) {
                    add(begin);
                } else {
                    for (std::uint32_t part = begin;; against ? --part : ++part) {
                        add(part);
                        if (part == end) break;
                    }
                }
            }
            out_.banned_paths.push_back(std::move(parts));
        }
        std::sort(out_.banned_paths.begin(), out_.banned_paths.end());
    }

    const Lines& in_;
    const std::vector<Cut>& cuts_;
    Lines out_;
    std::vector<std::uint32_t> first_part_;
    std::map<std::pair<double, double>, std::uint32_t> numbers_;
    std::uint32_t next_number_ = 0;
};

}  // namespace

std::shared_ptr<const Lines> cut(std::shared_ptr<const Lines> lines, std::vector<Cut> cuts) {
    if (cuts.empty()) return lines;
    std::sort(cuts.begin(), cuts.end(), before);
    return std::make_shared<const Lines>(Cutter(*lines, cuts).all());
}

}  // namespace otoro::roads
