#include "roads/prepare.h"

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <tuple>

#include "geo/box_index.h"
#include "geo/local_frame.h"
#include "roads/cut.h"
#include "roads/same_place.h"

namespace otoro::roads {
namespace {

using geo::LonLat;

constexpr std::array<std::string_view, 3> kRules{"ends", "vertices", "crossings"};
constexpr double kTouch = 1e-8;  // degrees: as near as `SamePlace` takes for the same

bool near(LonLat a, LonLat b) { return std::abs(a.lon - b.lon) <= kTouch && std::abs(a.lat - b.lat) <= kTouch; }

/// The point of a line nearest to `p`, in degrees; good for finding again a point that was taken from the line.
Cut nearest_point(const Lines& lines, std::uint32_t line, LonLat p) {
    const geo::LineFoot foot = geo::foot_on_line(lines.shape(line), geo::LocalFrame(p));
    return {line, static_cast<std::uint32_t>(foot.segment), foot.along, p};
}

/// Without the stated times of some lines.
std::shared_ptr<const Lines> without_times(std::shared_ptr<const Lines> lines, const std::vector<std::uint32_t>& of) {
    if (of.empty()) return lines;
    Lines out = *lines;
    for (const std::uint32_t line : of) {
        out.attributes[line].fixed_ms = 0;
        if (!out.against_ms.empty()) out.against_ms[line] = 0;
    }
    return std::make_shared<const Lines>(std::move(out));
}

/// Gaps closed: the far lines cut where connectors meet them, connectors added at the end.
std::shared_ptr<const Lines> close_gaps(std::shared_ptr<const Lines> lines, const std::vector<ClosedGap>& gaps) {
    if (gaps.empty()) return lines;
    std::vector<Cut> cuts;
    for (const ClosedGap& g : gaps)
        for (const auto& [line, at] : {std::pair{g.from_line, g.from}, std::pair{g.to_line, g.to}})
            if (!near(at, lines->shape(line).front()) && !near(at, lines->shape(line).back()))
                cuts.push_back(nearest_point(*lines, line, at));
    Lines out = *cut(lines, std::move(cuts));
    if (out.cut_from.empty()) {
        out.cut_from.resize(out.count());
        for (std::uint32_t i = 0; i < out.count(); ++i) out.cut_from[i] = i;
    }
    std::vector<std::uint32_t> parts_end(lines->count());  // where the parts of each line as read end
    for (std::uint32_t i = 0; i < out.count(); ++i) parts_end[out.cut_from[i]] = i + 1;
    const auto number_at = [&](std::uint32_t line, LonLat at) {
        for (std::uint32_t i = parts_end[line]; i-- > 0 && out.cut_from[i] == line;) {
            if (near(out.shape(i).front(), at)) return out.named_ends[i].from;
            if (near(out.shape(i).back(), at)) return out.named_ends[i].to;
        }
        return std::uint32_t{0xfffffff0};
    };
    for (const ClosedGap& g : gaps) {
        Attributes a = lines->attributes[g.from_line];
        a.set_one_way(OneWay::both, OneWay::both);
        a.fixed_ms = 0;
        a.name = 0;
        const std::array shape{g.from, g.to};
        out.add(shape, a);
        if (!out.named_ends.empty())
            out.named_ends.push_back({number_at(g.from_line, g.from), number_at(g.to_line, g.to)});
        if (!out.against_ms.empty()) out.against_ms.push_back(0);
        out.cut_from.push_back(Lines::kAdded);
    }
    return std::make_shared<const Lines>(std::move(out));
}

/// Cuts at inner vertices that share their place with another vertex, of any line.
std::vector<Cut> at_shared_vertices(const Lines& lines) {
    const auto count = static_cast<std::uint32_t>(lines.vertices.size());
    const auto found = SamePlace(count, [&](std::uint32_t v) { return lines.vertices[v]; }).find();
    std::vector<std::uint8_t> met(found.positions.size(), 0);
    for (const std::uint32_t place : found.place_of)
        met[place] = static_cast<std::uint8_t>(std::min(2, met[place] + 1));
    std::vector<Cut> cuts;
    for (std::uint32_t line = 0; line < lines.count(); ++line)
        for (std::uint32_t v = lines.first[line] + 1; v + 1 < lines.first[line + 1]; ++v)
            if (met[found.place_of[v]] > 1) cuts.push_back({line, v - lines.first[line], 0, lines.vertices[v]});
    return cuts;
}

struct Segment {
    std::uint32_t line, number;
    LonLat a, b;
};

/// A cut of a segment at a point known to be on it, unless that is its end (which the next segment's start, or the
/// line's end, stands for).
void add_cut(std::vector<Cut>& cuts, const Segment& s, LonLat at) {
    if (near(at, s.a)) return cuts.push_back({s.line, s.number, 0, s.a});
    if (near(at, s.b)) return cuts.push_back({s.line, s.number, 1, s.b});
    const double dx = s.b.lon - s.a.lon;
    const double dy = s.b.lat - s.a.lat;
    const double t = std::abs(dx) > std::abs(dy) ? (at.lon - s.a.lon) / dx : (at.lat - s.a.lat) / dy;
    cuts.push_back({s.line, s.number, std::clamp(t, 1e-12, 1 - 1e-12), at});
}

/// Whether `p` lies on the segment, within the tolerance.
bool touches(const Segment& s, LonLat p) {
    const double dx = s.b.lon - s.a.lon;
    const double dy = s.b.lat - s.a.lat;
    const double squared = dx * dx + dy * dy;
    const double t =
        squared > 0 ? std::clamp(((p.lon - s.a.lon) * dx + (p.lat - s.a.lat) * dy) / squared, 0.0, 1.0) : 0.0;
    return near(p, {s.a.lon + t * dx, s.a.lat + t * dy});
}

/// Where two segments meet, both are cut: at an end that touches the other, else at their crossing. Segments that lie
/// along each other meet at their ends.
void meet(const Segment& s, const Segment& u, std::vector<Cut>& cuts) {
    bool touched = false;
    for (const auto& [seg, p] : {std::pair{&s, u.a}, std::pair{&s, u.b}, std::pair{&u, s.a}, std::pair{&u, s.b}}) {
        if (!touches(*seg, p)) continue;
        touched = true;
        add_cut(cuts, s, p);
        add_cut(cuts, u, p);
    }
    if (touched) return;
    const double rx = s.b.lon - s.a.lon, ry = s.b.lat - s.a.lat;
    const double qx = u.b.lon - u.a.lon, qy = u.b.lat - u.a.lat;
    const double cross = rx * qy - ry * qx;
    if (cross == 0) return;
    const double wx = u.a.lon - s.a.lon, wy = u.a.lat - s.a.lat;
    const double t = (wx * qy - wy * qx) / cross;
    const double v = (wx * ry - wy * rx) / cross;
    if (t < 0 || t > 1 || v < 0 || v > 1) return;
    const LonLat at{s.a.lon + t * rx, s.a.lat + t * ry};
    add_cut(cuts, s, at);
    add_cut(cuts, u, at);
}

geo::Box box_of(LonLat a, LonLat b) {
    geo::Box box;
    box.add(a);
    box.add(b);
    return {box.west - kTouch, box.south - kTouch, box.east + kTouch, box.north + kTouch};
}
bool touch(const geo::Box& a, const geo::Box& b) {
    return a.west <= b.east && b.west <= a.east && a.south <= b.north && b.south <= a.north;
}

/// The same cut found from several sides, once; in an order that does not depend on who found it.
void tidy(std::vector<Cut>& cuts) {
    const auto key = [](const Cut& c) { return std::tuple(c.line, c.segment, c.along, c.at.lon, c.at.lat); };
    std::sort(cuts.begin(), cuts.end(), [&](const Cut& a, const Cut& b) { return key(a) < key(b); });
    cuts.erase(std::unique(cuts.begin(), cuts.end(),
                           [&](const Cut& a, const Cut& b) {
                               return a.line == b.line && near(a.at, b.at) &&
                                      std::abs(static_cast<int>(a.segment) - static_cast<int>(b.segment)) <= 1;
                           }),
               cuts.end());
}

/// Segments of all lines, each drawn but once: two thousand copies of one road are compared with the others as one. Of
/// those drawn alike all are cut alike.
class DistinctSegments {
public:
    /// One way of drawing a segment, and who draws it so.
    struct Distinct {
        LonLat a, b;  ///< a comes before b
        int level;
        std::uint32_t first_member, members;
    };
    struct Member {
        std::uint32_t line, number;
        bool turned;  ///< drawn from b to a
    };

    explicit DistinctSegments(const Lines& lines) {
        struct Drawn {
            LonLat a, b;
            int level;
            Member who;
        };
        std::vector<Drawn> drawn;
        drawn.reserve(lines.vertices.size());
        for (std::uint32_t l = 0; l < lines.count(); ++l) {
            const auto shape = lines.shape(l);
            for (std::uint32_t k = 0; k + 1 < shape.size(); ++k) {
                const bool turned = before(shape[k + 1], shape[k]);
                drawn.push_back({turned ? shape[k + 1] : shape[k],
                                 turned ? shape[k] : shape[k + 1],
                                 lines.attributes[l].level(),
                                 {l, k, turned}});
            }
        }
        const auto key = [](const Drawn& d) { return std::tuple(d.a.lon, d.a.lat, d.b.lon, d.b.lat, d.level); };
        std::sort(drawn.begin(), drawn.end(), [&](const Drawn& x, const Drawn& y) {
            return std::tuple(key(x), x.who.line, x.who.number) < std::tuple(key(y), y.who.line, y.who.number);
        });
        members_.reserve(drawn.size());
        for (std::size_t i = 0; i < drawn.size(); ++i) {
            if (i == 0 || key(drawn[i]) != key(drawn[i - 1]))
                all_.push_back({drawn[i].a, drawn[i].b, drawn[i].level, static_cast<std::uint32_t>(i), 0});
            ++all_.back().members;
            members_.push_back(drawn[i].who);
        }
    }
    [[nodiscard]] const std::vector<Distinct>& all() const { return all_; }
    [[nodiscard]] std::span<const Member> members(const Distinct& d) const {
        return std::span(members_).subspan(d.first_member, d.members);
    }
    /// Whether the two are neighbours on one line and nothing else: they meet at their common vertex and are not cut
    /// there.
    [[nodiscard]] bool only_neighbours(const Distinct& s, const Distinct& u) const {
        if (s.members != 1 || u.members != 1) return false;
        const Member &m = members(s)[0], &n = members(u)[0];
        return m.line == n.line && (m.number + 1 == n.number || n.number + 1 == m.number);
    }

private:
    static bool before(LonLat a, LonLat b) { return a.lon != b.lon ? a.lon < b.lon : a.lat < b.lat; }
    std::vector<Distinct> all_;
    std::vector<Member> members_;
};

/// Long segments stand in the index in parts, so that the box of a diagonal does not cover a town.
class SegmentIndex {
public:
    explicit SegmentIndex(const std::vector<DistinctSegments::Distinct>& segments) {
        const std::size_t room = 2 * segments.size() + 1000;
        double side = 0.002;  // degrees
        const auto parts_of = [&](const DistinctSegments::Distinct& s) {
            return static_cast<std::uint32_t>(
                std::ceil(std::max({std::abs(s.a.lon - s.b.lon), std::abs(s.a.lat - s.b.lat), side}) / side));
        };
        for (std::size_t n = room + 1; n > room; side *= n > room ? 2 : 1) {
            n = 0;
            for (const auto& s : segments) n += parts_of(s);
        }
        std::vector<geo::Box> boxes;
        for (std::uint32_t i = 0; i < segments.size(); ++i) {
            const auto& s = segments[i];
            const std::uint32_t parts = parts_of(s);
            for (std::uint32_t k = 0; k < parts; ++k) {
                boxes.push_back(box_of(geo::between(s.a, s.b, static_cast<double>(k) / parts),
                                       geo::between(s.a, s.b, static_cast<double>(k + 1) / parts)));
                of_.push_back(i);
            }
            first_.push_back(static_cast<std::uint32_t>(of_.size() - parts));
        }
        first_.push_back(static_cast<std::uint32_t>(of_.size()));
        index_.emplace(static_cast<std::uint32_t>(boxes.size()), [&](std::uint32_t i) { return boxes[i]; });
        boxes_ = std::move(boxes);
    }
    /// Numbers above `i` of segments that come near segment i, each once.
    void after(std::uint32_t i, std::vector<std::uint32_t>& found) const {
        thread_local std::vector<std::uint32_t> parts;
        found.clear();
        for (std::uint32_t k = first_[i]; k < first_[i + 1]; ++k) {
            index_->touching(boxes_[k], parts);
            for (const std::uint32_t part : parts)
                if (of_[part] > i) found.push_back(of_[part]);
        }
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
    }

private:
    std::vector<std::uint32_t> of_, first_;
    std::vector<geo::Box> boxes_;
    std::optional<geo::BoxIndex> index_;
};

/// Cuts where lines of one level cross or touch.
std::vector<Cut> at_crossings(const Lines& lines, const Task& task) {
    const DistinctSegments distinct(lines);
    task.at("finding where roads cross", 0.2);
    const auto& segments = distinct.all();
    const SegmentIndex index(segments);
    task.at("finding where roads cross", 0.4);
    tbb::enumerable_thread_specific<std::vector<Cut>> found;
    tbb::parallel_for(
        tbb::blocked_range<std::uint32_t>(0, static_cast<std::uint32_t>(segments.size()), 512), [&](const auto& range) {
            if (task.stop_requested()) return;
            std::vector<Cut>& cuts = found.local();
            std::vector<std::uint32_t> around;
            std::vector<Cut> met;
            for (std::uint32_t i = range.begin(); i != range.end(); ++i) {
                const auto& s = segments[i];
                const geo::Box box = box_of(s.a, s.b);
                index.after(i, around);
                for (const std::uint32_t j : around) {
                    const auto& u = segments[j];
                    if (u.level != s.level || !touch(box, box_of(u.a, u.b)) || distinct.only_neighbours(s, u)) continue;
                    met.clear();
                    meet({0, 0, s.a, s.b}, {1, 0, u.a, u.b}, met);  // lines 0 and 1 stand for the two
                    for (const Cut& c : met)
                        for (const auto& m : distinct.members(c.line == 0 ? s : u))
                            cuts.push_back({m.line, m.number, m.turned ? 1 - c.along : c.along, c.at});
                }
            }
        });
    task.check();
    std::vector<Cut> all;
    for (auto& cuts : found) {
        tidy(cuts);
        all.insert(all.end(), cuts.begin(), cuts.end());
        cuts = {};
    }
    return all;
}

}  // namespace

std::string_view name(JoinRule rule) { return kRules[static_cast<std::size_t>(rule)]; }

std::optional<JoinRule> parse_join_rule(std::string_view text) {
    const auto at = std::find(kRules.begin(), kRules.end(), text);
    return at == kRules.end() ? std::nullopt : std::optional(static_cast<JoinRule>(at - kRules.begin()));
}

std::shared_ptr<const Lines> prepared_lines(std::shared_ptr<const Lines> lines, const Preparation& preparation,
                                            const Task& task) {
    lines = close_gaps(without_times(std::move(lines), preparation.by_speed), preparation.closed);
    if (preparation.rule == JoinRule::ends || !lines->named_ends.empty()) return lines;
    task.at("finding where roads meet", 0.0);
    auto cuts = at_shared_vertices(*lines);
    if (preparation.rule == JoinRule::crossings) {
        const auto more = at_crossings(*lines, task);
        cuts.insert(cuts.end(), more.begin(), more.end());
    }
    tidy(cuts);
    return cut(std::move(lines), std::move(cuts));
}

Network prepare(std::shared_ptr<const Lines> lines, const Preparation& preparation, const Task& task) {
    return join(prepared_lines(std::move(lines), preparation, task), task);
}

}  // namespace otoro::roads
