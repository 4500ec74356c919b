#include "reach/boundaries.h"

#include <algorithm>
#include <cmath>
#include <span>
#include <tuple>

#include "reach/flat.h"

namespace otoro::reach {
namespace {

constexpr double kHair = 0.5;  // millimetres of road that are too short to be told apart

/// A part of a cell in which one owner's value is even.
struct Part {
    double from = 0, to = 1;  // along the cell's segment, 0 to 1
    double value_from = 0, value_to = 0;
    std::uint32_t owner = kNobody;
    std::uint32_t band = 0;  // where legs off the road do not count
};

/// A cell in which the class changes.
struct Mixed {
    std::uint32_t cell = 0;
    std::vector<Part> parts;
};

/// Where a spot is in a cell: along its segment, 0 to 1, and how far off it, positive on the left.
struct InCell {
    double along = 0, off = 0;
};

/// A place on the rim of a mixed cell where a line across the cell ends.
struct LineEnd {
    std::uint32_t mixed = 0;
    std::uint32_t part = 0;
    std::int32_t kind = 0;  // -1: the line between this part and the next; else the level
    bool upper = false;     // which side of the segment
    double order = 0;
    bool starts = false;  // around a point: counter-clockwise, the cell begins here
    Point at;
    double off = 0;
};

class Walker {
public:
    Walker(const Strips& strips, const AlongRoads& along, const Bands& bands, double units_per_metre)
        : strips_(strips),
          along_(along),
          bands_(bands),
          classes_{static_cast<std::uint32_t>(bands.limits.size())},
          off_weight_(bands.per_metre_off_road / units_per_metre),
          curve_(kCurveMetres * units_per_metre) {}

    TileBoundaries walk() {
        if (!classify()) {
            for (const Side side : kSides) whole_seam(side);
            return std::move(out_);
        }
        for (const Border& border : strips_.borders) {
            const Look left = look(border.left), right = look(border.right);
            if (!left.mixed && !right.mixed) {
                emit(strips_.vertices[border.a], strips_.vertices[border.b], left.ground, right.ground);
                continue;
            }
            piece(strips_.vertices[border.a], strips_.vertices[border.b], left, right);
        }
        for (const Side side : kSides) seam(side);
        lines_between_parts();
        if (off_weight_ > 0) level_lines();
        return std::move(out_);
    }

private:
    /// What is known of one side of a line.
    struct Look {
        std::uint32_t ground = kNobody;
        const Mixed* mixed = nullptr;
        std::uint32_t number = 0;  // of the mixed cell
        std::int64_t part = -1;    // of a line inside the cell, which part it is beside
    };

    // --- what the cells are ---

    /// \returns whether any ground is somebody's
    bool classify() {
        bool any = false;
        ground_.resize(strips_.cells.size());
        std::optional<LinkId> known;
        for (std::uint32_t i = 0; i < strips_.cells.size(); ++i) {
            const Cell& cell = strips_.cells[i];
            if (cell.is_point()) {
                classify_point(i, cell);
            } else {
                if (known != cell.link) along_.stretches(cell.link, stretches_);
                known = cell.link;
                classify_segment(i, cell);
            }
            any = any || ground_[i] != kNobody;
        }
        return any;
    }
    static constexpr std::uint32_t kMixed = kNobody - 1;  // ground_: the number of the mixed cell is in mixed_of_

    void classify_point(std::uint32_t i, const Cell& cell) {
        const auto value = along_.at(cell.link, cell.from());
        if (!value) {
            ground_[i] = kNobody;
            return;
        }
        const std::uint32_t band = bands_.of(value->value);
        if (off_weight_ == 0 || value->owner == kNobody || band >= bands_.limits.size()) {
            ground_[i] = classes_.of(value->owner, band);
            return;
        }
        mix(i, {Part{0, 1, value->value, value->value, value->owner, band}});
    }

    void classify_segment(std::uint32_t i, const Cell& cell) {
        parts_.clear();
        const auto from = static_cast<double>(cell.from_mm), to = static_cast<double>(cell.to_mm);
        double at = from;
        const auto add = [&](double end, double value_at, double value_end, std::uint32_t owner) {
            if (end - at < kHair && to - from > 2 * kHair) return;
            const std::uint32_t band = owner == kNobody ? 0 : bands_.of((value_at + value_end) / 2);
            const bool nobody = owner == kNobody || (off_weight_ == 0 && band >= bands_.limits.size());
            Part part{at, end, value_at, value_end, nobody ? kNobody : owner, nobody ? 0 : band};
            if (!parts_.empty()) {
                Part& last = parts_.back();
                const bool same =
                    part.owner == last.owner && (part.owner == kNobody || (off_weight_ == 0 && part.band == last.band));
                if (same) {
                    last.to = end;
                    last.value_to = value_end;
                    at = end;
                    return;
                }
            }
            parts_.push_back(part);
            at = end;
        };
        if (to <= from) {
            for (const Stretch& s : stretches_)
                if (s.from <= from && from <= s.to && parts_.empty()) {
                    at = from - 1;
                    add(from, s.value_from, s.value_from, s.owner);
                }
        }
        for (const Stretch& s : stretches_) {
            if (s.to <= from || s.from >= to) continue;
            if (s.from > at) add(s.from, 0, 0, kNobody);
            const double end = std::min(s.to, to);
            const auto value = [&](double x) {
                return s.value_from + (s.value_to - s.value_from) * (x - s.from) / (s.to - s.from);
            };
            if (off_weight_ > 0) {
                add(end, value(at), value(end), s.owner);
                continue;
            }
            // Cut where a limit falls.
            const double v0 = value(at), v1 = value(end);
            const std::uint32_t b0 = bands_.of(v0), b1 = bands_.of(v1);
            const double start = at;
            for (std::uint32_t b = b0; b != b1;) {
                const double limit = bands_.limits[b < b1 ? b : b - 1];
                const double x = std::clamp(start + (limit - v0) / (v1 - v0) * (end - start), at, end);
                add(x, value(at), value(x), s.owner);
                b < b1 ? ++b : --b;
            }
            add(end, value(at), v1, s.owner);
        }
        if (at < to) add(to, 0, 0, kNobody);
        if (parts_.empty()) parts_.push_back({from, to, 0, 0, kNobody, 0});
        if (parts_.size() == 1) {
            const Part& only = parts_.front();
            if (only.owner == kNobody) {
                ground_[i] = kNobody;
                return;
            }
            if (off_weight_ == 0) {
                ground_[i] = classes_.of(only.owner, only.band);
                return;
            }
        }
        // In parts of the segment, 0 to 1.
        for (Part& p : parts_) {
            p.from = to > from ? (p.from - from) / (to - from) : 0;
            p.to = to > from ? (p.to - from) / (to - from) : 1;
        }
        parts_.front().from = 0;
        parts_.back().to = 1;
        for (std::size_t k = 0; k + 1 < parts_.size(); ++k) parts_[k].to = parts_[k + 1].from;
        mix(i, parts_);
    }

    void mix(std::uint32_t cell, std::vector<Part> parts) {
        ground_[cell] = kMixed;
        if (mixed_of_.empty()) mixed_of_.resize(strips_.cells.size());
        mixed_of_[cell] = static_cast<std::uint32_t>(mixed_.size());
        mixed_.push_back({cell, std::move(parts)});
    }

    [[nodiscard]] Look look(std::uint32_t cell) const {
        if (cell == kNoCell) return {};
        if (ground_[cell] != kMixed) return {ground_[cell], nullptr, 0, -1};
        return {kNobody, &mixed_[mixed_of_[cell]], mixed_of_[cell], -1};
    }

    // --- values ---

    [[nodiscard]] InCell in_cell(const Mixed& m, Spot p) const {
        const Cell& cell = strips_.cells[m.cell];
        const Spot a = spot(cell.a);
        if (cell.is_point()) return {0.5, std::hypot(p.x - a.x, p.y - a.y)};
        const double dx = double(cell.b.x) - cell.a.x, dy = double(cell.b.y) - cell.a.y;
        const double squared = dx * dx + dy * dy;
        return {((p.x - a.x) * dx + (p.y - a.y) * dy) / squared,
                (dx * (p.y - a.y) - dy * (p.x - a.x)) / std::sqrt(squared)};
    }
    static std::uint32_t part_of(const Mixed& m, double along) {
        std::uint32_t part = 0;
        while (part + 1 < m.parts.size() && along >= m.parts[part].to) ++part;
        return part;
    }
    [[nodiscard]] double value(const Part& p, InCell at) const {
        const double t = p.to > p.from ? (at.along - p.from) / (p.to - p.from) : 0;
        return p.value_from + (p.value_to - p.value_from) * t + off_weight_ * std::abs(at.off);
    }
    [[nodiscard]] std::uint32_t band(const Part& p, InCell at) const {
        if (p.owner == kNobody) return 0;
        return off_weight_ > 0 ? bands_.of(value(p, at)) : p.band;
    }
    [[nodiscard]] std::uint32_t ground(const Part& p, std::uint32_t in_band) const {
        return classes_.of(p.owner, in_band);
    }

    // --- lines ---

    /// What one side of a piece becomes at some point along it.
    struct Change {
        double at = 0;
        bool right = false;
        std::uint32_t ground = kNobody;
        std::int32_t order = 0;  // of changes at one spot, as they follow on one another
    };

    /// A straight piece, cut where either side changes.
    void piece(Point a, Point b, const Look& left, const Look& right) {
        changes_.clear();
        std::uint32_t l = left.mixed ? changes(left, a, b, false) : left.ground;
        std::uint32_t r = right.mixed ? changes(right, a, b, true) : right.ground;
        std::sort(changes_.begin(), changes_.end(), [](const Change& x, const Change& y) {
            return std::tie(x.at, x.right, x.order) < std::tie(y.at, y.right, y.order);
        });
        Point from = a;
        for (const Change& c : changes_) {
            const Point to = rounded(between(spot(a), spot(b), c.at));
            emit(from, to, l, r);
            from = to;
            (c.right ? r : l) = c.ground;
        }
        emit(from, b, l, r);
    }
    void emit(Point a, Point b, std::uint32_t left, std::uint32_t right) {
        if (a != b && left != right) out_.lines.push_back({a, b, left, right});
    }

    /// Finds where a mixed cell changes along its rim from `a` to `b`, and notes the ends of lines across it.
    /// \returns its ground at `a`
    std::uint32_t changes(const Look& side, Point a, Point b, bool right) {
        const Mixed& m = *side.mixed;
        const InCell from = in_cell(m, spot(a)), to = in_cell(m, spot(b));
        const bool point = strips_.cells[m.cell].is_point();
        std::uint32_t part = side.part >= 0 ? static_cast<std::uint32_t>(side.part) : part_of(m, from.along);
        std::uint32_t now = band(m.parts[part], from);
        const std::uint32_t first = ground(m.parts[part], now);
        std::int32_t order = 0;
        double s = 0;
        InCell here = from;
        const auto levels_to = [&](double next_s, InCell next) {
            if (off_weight_ == 0 || m.parts[part].owner == kNobody) return;
            now = levels(side, part, a, b, right, s, here, next_s, next, now, point, order);
        };
        if (!point && side.part < 0) {
            const std::uint32_t last = part_of(m, to.along);
            while (part != last) {
                const bool up = part < last;
                const std::uint32_t edge = up ? part : part - 1;  // the line between this part and the next
                const double at = m.parts[edge].to;
                const double next_s = std::clamp((at - from.along) / (to.along - from.along), s, 1.0);
                const InCell next{at, from.off + (to.off - from.off) * next_s};
                levels_to(next_s, next);
                part = up ? part + 1 : part - 1;
                now = band(m.parts[part], next);
                changes_.push_back({next_s, right, ground(m.parts[part], now), order++});
                ends_.push_back({side.number, edge, -1, false, next.off, false,
                                 rounded(between(spot(a), spot(b), next_s)), next.off});
                s = next_s;
                here = next;
            }
        }
        levels_to(1, to);
        return first;
    }

    /// Where the value of a part passes limits between two places on a piece. \returns the band at the end
    std::uint32_t levels(const Look& side, std::uint32_t part, Point a, Point b, bool right, double s0, InCell p0,
                         double s1, InCell p1, std::uint32_t now, bool point, std::int32_t& order) {
        const Mixed& m = *side.mixed;
        const Part& p = m.parts[part];
        const std::uint32_t last = band(p, p1);
        const bool right_of_it = right;
        const auto pass = [&](std::uint32_t level, double s, bool outward) {
            now = outward ? level + 1 : level;
            changes_.push_back({s, right, ground(p, now), order++});
            const Spot at = between(spot(a), spot(b), s);
            LineEnd end{side.number, part, static_cast<std::int32_t>(level), false, 0, false, rounded(at), 0};
            if (point) {
                const Spot centre = spot(strips_.cells[m.cell].a);
                end.order = std::atan2(at.y - centre.y, at.x - centre.x);
                end.starts = outward != right_of_it;
            } else {
                const InCell in = in_cell(m, at);
                end.upper = p0.off + p1.off > 0;
                end.order = in.along;
            }
            ends_.push_back(end);
        };
        if (point) {
            // The distance from a point first falls, then rises, along a straight line.
            const Spot centre = spot(strips_.cells[m.cell].a), d{double(b.x) - a.x, double(b.y) - a.y},
                       f{double(a.x) - centre.x, double(a.y) - centre.y};
            const double squared = d.x * d.x + d.y * d.y, middle = -(f.x * d.x + f.y * d.y) / squared;
            const double turn = std::clamp(middle, s0, s1);
            const double least = std::hypot(f.x + turn * d.x, f.y + turn * d.y);
            const std::uint32_t inner = std::min({bands_.of(p.value_from + off_weight_ * least), now, last});
            const auto at_level = [&](std::uint32_t level, bool outward) {
                const double radius = (bands_.limits[level] - p.value_from) / off_weight_;
                const double away2 = f.x * f.x + f.y * f.y - middle * middle * squared;
                const double half = std::sqrt(std::max(0.0, (radius * radius - away2) / squared));
                return std::clamp(outward ? middle + half : middle - half, outward ? turn : s0, outward ? s1 : turn);
            };
            while (now > inner) pass(now - 1, at_level(now - 1, false), false);
            while (now < last) pass(now, at_level(now, true), true);
            return now;
        }
        const double v0 = value(p, p0), v1 = value(p, p1);
        const auto at_level = [&](std::uint32_t level) {
            return std::clamp(s0 + (bands_.limits[level] - v0) / (v1 - v0) * (s1 - s0), s0, s1);
        };
        while (now > last) pass(now - 1, at_level(now - 1), false);
        while (now < last) pass(now, at_level(now), true);
        return now;
    }

    // --- lines across cells ---

    /// Lines perpendicular to a road, where one part ends and the next begins.
    void lines_between_parts() {
        std::vector<LineEnd> ends;
        std::copy_if(ends_.begin(), ends_.end(), std::back_inserter(ends), [](const LineEnd& e) { return e.kind < 0; });
        std::sort(ends.begin(), ends.end(), [](const LineEnd& a, const LineEnd& b) {
            return std::tie(a.mixed, a.part, a.order, a.at) < std::tie(b.mixed, b.part, b.order, b.at);
        });
        for (std::size_t i = 0; i + 1 < ends.size();) {
            const LineEnd &low = ends[i], &high = ends[i + 1];
            if (low.mixed != high.mixed || low.part != high.part) {
                ++i;
                continue;
            }
            const Mixed& m = mixed_[low.mixed];
            const Look before{kNobody, &m, low.mixed, low.part}, after{kNobody, &m, low.mixed, low.part + 1};
            if (off_weight_ > 0 && low.off < 0 && high.off > 0) {
                const Cell& cell = strips_.cells[m.cell];
                const Point foot = rounded(between(spot(cell.a), spot(cell.b), m.parts[low.part].to));
                piece(low.at, foot, before, after);
                piece(foot, high.at, before, after);
            } else {
                piece(low.at, high.at, before, after);
            }
            i += 2;
        }
    }

    /// Where legs off the road count: lines on which value and leg come to a limit.
    void level_lines() {
        add_tips();
        std::vector<LineEnd> ends;
        std::copy_if(ends_.begin(), ends_.end(), std::back_inserter(ends),
                     [](const LineEnd& e) { return e.kind >= 0; });
        std::sort(ends.begin(), ends.end(), [](const LineEnd& a, const LineEnd& b) {
            return std::tie(a.mixed, a.part, a.kind, a.upper, a.order, b.starts) <
                   std::tie(b.mixed, b.part, b.kind, b.upper, b.order, a.starts);
        });
        for (std::size_t i = 0; i < ends.size();) {
            std::size_t end = i;
            const auto same = [&](const LineEnd& e) {
                return std::tie(e.mixed, e.part, e.kind, e.upper) ==
                       std::tie(ends[i].mixed, ends[i].part, ends[i].kind, ends[i].upper);
            };
            while (end < ends.size() && same(ends[end])) ++end;
            if (strips_.cells[mixed_[ends[i].mixed].cell].is_point())
                arcs(std::span(ends).subspan(i, end - i));
            else
                straight_levels(std::span(ends).subspan(i, end - i));
            i = end;
        }
    }
    /// Where a level line meets the road itself, it goes on on the other side.
    void add_tips() {
        for (std::uint32_t k = 0; k < mixed_.size(); ++k) {
            const Mixed& m = mixed_[k];
            const Cell& cell = strips_.cells[m.cell];
            if (cell.is_point()) continue;
            for (std::uint32_t n = 0; n < m.parts.size(); ++n) {
                const Part& p = m.parts[n];
                if (p.owner == kNobody) continue;
                const std::uint32_t b0 = bands_.of(p.value_from), b1 = bands_.of(p.value_to);
                for (std::uint32_t level = std::min(b0, b1); level < std::max(b0, b1); ++level) {
                    const double t =
                        p.from + (p.to - p.from) * (bands_.limits[level] - p.value_from) / (p.value_to - p.value_from);
                    const Point at = rounded(between(spot(cell.a), spot(cell.b), t));
                    if (!strips_.tile.contains(at)) continue;
                    for (const bool upper : {false, true})
                        ends_.push_back({k, n, static_cast<std::int32_t>(level), upper, t, false, at, 0});
                }
            }
        }
    }
    void straight_levels(std::span<const LineEnd> ends) {
        for (std::size_t i = 0; i + 1 < ends.size(); i += 2) {
            const Part& p = mixed_[ends[i].mixed].parts[ends[i].part];
            const auto level = static_cast<std::uint32_t>(ends[i].kind);
            // The ground nearer to the road is on the left.
            const Point from = ends[i].upper ? ends[i + 1].at : ends[i].at;
            const Point to = ends[i].upper ? ends[i].at : ends[i + 1].at;
            emit(from, to, ground(p, level), ground(p, level + 1));
        }
    }
    void arcs(std::span<const LineEnd> ends) {
        for (std::size_t i = 0; i < ends.size(); ++i) {
            if (!ends[i].starts) continue;
            const LineEnd &from = ends[i], &to = ends[(i + 1) % ends.size()];
            const Mixed& m = mixed_[from.mixed];
            const Part& p = m.parts[from.part];
            const auto level = static_cast<std::uint32_t>(from.kind);
            const double radius = (bands_.limits[level] - p.value_from) / off_weight_;
            const Arc arc =
                Arc::from_to(spot(strips_.cells[m.cell].a), radius, spot(from.at), spot(to.at), from.order, to.order);
            Point last = from.at;
            const auto go_to = [&](Point next) {
                emit(last, next, ground(p, level), ground(p, level + 1));
                last = next;
            };
            arc.each_between(curve_, [&](Spot s) { go_to(rounded(s)); });
            go_to(to.at);
        }
    }

    // --- the tile's sides ---

    void whole_seam(Side side) {
        const auto& parts = strips_.seams[static_cast<std::size_t>(side)];
        if (!parts.empty())
            out_.seams[static_cast<std::size_t>(side)].push_back({parts.front().from, parts.back().to, kNobody});
    }
    void seam(Side side) {
        auto& out = out_.seams[static_cast<std::size_t>(side)];
        const auto add = [&](std::int32_t from, std::int32_t to, std::uint32_t ground) {
            if (to <= from) return;
            if (!out.empty() && out.back().ground == ground && out.back().to == from)
                out.back().to = to;
            else
                out.push_back({from, to, ground});
        };
        const bool upright = is_upright(side);
        // Going along the side, ascending: it matters to lines around points alone.
        const bool tile_on_right = side == Side::west || side == Side::north;
        for (const SeamPart& part : strips_.seams[static_cast<std::size_t>(side)]) {
            const Look inside = look(part.cell);
            if (!inside.mixed) {
                add(part.from, part.to, inside.ground);
                continue;
            }
            const auto walk = [&](std::int32_t start, std::int32_t end) {
                if (start >= end) return;
                const Point a = on_side(strips_.tile, side, start), b = on_side(strips_.tile, side, end);
                changes_.clear();
                std::uint32_t now = changes(inside, a, b, tile_on_right);
                std::sort(changes_.begin(), changes_.end(), [](const Change& x, const Change& y) {
                    return std::tie(x.at, x.order) < std::tie(y.at, y.order);
                });
                std::int32_t from = start;
                for (const Change& c : changes_) {
                    const Point at = rounded(between(spot(a), spot(b), c.at));
                    const std::int32_t to = upright ? at.y : at.x;
                    add(from, to, now);
                    from = std::max(from, to);
                    now = c.ground;
                }
                add(from, end, now);
            };
            const std::int32_t road = where_the_road_passes(*inside.mixed, side, part);
            walk(part.from, road);
            walk(road, part.to);
        }
    }
    /// Distances from a road rise on both sides of it; the end of the part where it is on one side of it.
    [[nodiscard]] std::int32_t where_the_road_passes(const Mixed& m, Side side, const SeamPart& part) const {
        if (off_weight_ == 0 || strips_.cells[m.cell].is_point()) return part.to;
        const double a = in_cell(m, spot(on_side(strips_.tile, side, part.from))).off,
                     b = in_cell(m, spot(on_side(strips_.tile, side, part.to))).off;
        if ((a > 0) == (b > 0) || a == b) return part.to;
        return static_cast<std::int32_t>(
            std::lround(part.from + (static_cast<double>(part.to) - part.from) * a / (a - b)));
    }

    const Strips& strips_;
    const AlongRoads& along_;
    const Bands& bands_;
    Classes classes_;
    double off_weight_, curve_;
    TileBoundaries out_;
    std::vector<std::uint32_t> ground_, mixed_of_;
    std::vector<Mixed> mixed_;
    std::vector<Stretch> stretches_;
    std::vector<Part> parts_;
    std::vector<Change> changes_;
    std::vector<LineEnd> ends_;
};

}  // namespace

TileBoundaries boundaries(const Strips& strips, const AlongRoads& along, const Bands& bands, double units_per_metre) {
    return Walker(strips, along, bands, units_per_metre).walk();
}

}  // namespace otoro::reach
