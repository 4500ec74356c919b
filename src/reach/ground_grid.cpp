#include "reach/ground_grid.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <unordered_map>

#include "reach/line_buckets.h"

namespace otoro::reach {
namespace {

constexpr std::uint32_t kBlock = 16;

/// Positions of spots: exact at the corners of blocks, even between them.
class Positions {
public:
    Positions(const Plane& plane, std::uint32_t width, std::uint32_t height,
              const std::function<geo::LonLat(double, double)>& place_of)
        : columns_((width + kBlock - 1) / kBlock + 1) {
        const std::uint32_t rows = (height + kBlock - 1) / kBlock + 1;
        corners_.reserve(std::size_t{columns_} * rows);
        for (std::uint32_t r = 0; r < rows; ++r)
            for (std::uint32_t c = 0; c < columns_; ++c)
                corners_.push_back(plane.spot(place_of(double(c) * kBlock, double(r) * kBlock)));
    }
    [[nodiscard]] Spot at(double x, double y) const {
        const auto c = std::min(static_cast<std::uint32_t>(x / kBlock), columns_ - 2);
        const auto r = std::min(static_cast<std::uint32_t>(y / kBlock),
                                static_cast<std::uint32_t>(corners_.size() / columns_) - 2);
        const double u = x / kBlock - c, v = y / kBlock - r;
        const Spot &a = corner(c, r), &b = corner(c + 1, r), &d = corner(c, r + 1), &e = corner(c + 1, r + 1);
        return {(a.x * (1 - u) + b.x * u) * (1 - v) + (d.x * (1 - u) + e.x * u) * v,
                (a.y * (1 - u) + b.y * u) * (1 - v) + (d.y * (1 - u) + e.y * u) * v};
    }
    [[nodiscard]] const std::vector<Spot>& corners() const { return corners_; }

private:
    [[nodiscard]] const Spot& corner(std::uint32_t c, std::uint32_t r) const {
        return corners_[std::size_t{r} * columns_ + c];
    }
    std::uint32_t columns_;
    std::vector<Spot> corners_;
};

class Filler {
public:
    Filler(const std::vector<GroundLine>& lines, const Positions& positions, Spot origin, double limit,
           double units_per_metre, GroundGrid& grid, const Task& task)
        : lines_(lines),
          positions_(positions),
          origin_(origin),
          limit_(limit),
          units_per_metre_(units_per_metre),
          grid_(grid),
          task_(task) {}

    void run() {
        LineColumns all;
        all.clear(lines_.size());
        placed_.reserve(lines_.size());
        double most = 0;
        for (std::uint32_t i = 0; i < lines_.size(); ++i) {
            const GroundLine& l = lines_[i];
            const double dx = double(l.b.x) - l.a.x, dy = double(l.b.y) - l.a.y;
            const double squared = dx * dx + dy * dy;
            placed_.push_back({l.a.x - origin_.x, l.a.y - origin_.y, dx, dy, squared > 0 ? 1 / squared : 0});
            all.add(placed_.back(), i);
            most = std::max({most, std::abs(placed_.back().ax), std::abs(placed_.back().ay)});
        }
        error_ = single_precision_error(most);
        near_.resize(lines_.size() + LineColumns::kRoom);
        fill(0, 0, grid_.width, grid_.height, all, 0);
    }

private:
    [[nodiscard]] Spot at(double x, double y) const {
        const Spot s = positions_.at(x, y);
        return {s.x - origin_.x, s.y - origin_.y};
    }

    void fill(std::uint32_t x0, std::uint32_t y0, std::uint32_t x1, std::uint32_t y1, const LineColumns& lines,
              std::size_t depth) {
        constexpr std::uint32_t kSmall = 4;
        constexpr std::size_t kFew = 16;
        // Where lines are many for so few spots dividing further would look at each again and again.
        constexpr std::size_t kLeastBucketed = 4 * 4, kSpotsALine = 40;
        if (lines.size() == 0 || x0 >= x1 || y0 >= y1) return;
        if (depth < 3) task_.check();
        // The farthest spot from the middle, spots being in the middle of their cells.
        const Spot middle = at((x0 + x1 - 1) / 2.0, (y0 + y1 - 1) / 2.0);
        Spot low = middle, high = middle;
        double radius = 0;
        for (const double x : {double(x0), x1 - 1.0})
            for (const double y : {double(y0), y1 - 1.0}) {
                const Spot corner = at(x, y);
                low = {std::min(low.x, corner.x), std::min(low.y, corner.y)};
                high = {std::max(high.x, corner.x), std::max(high.y, corner.y)};
                const double dx = corner.x - middle.x, dy = corner.y - middle.y;
                radius = std::max(radius, dx * dx + dy * dy);
            }
        radius = std::sqrt(radius) * 1.001;
        if (levels_.size() <= depth) levels_.resize(depth + 1);
        LineColumns kept = std::move(levels_[depth].kept);
        auto& squares = levels_[depth].squares;
        if (squares.size() < lines.size() + LineColumns::kRoom) squares.resize(lines.size() + LineColumns::kRoom);
        const double least = std::sqrt(
            squared_distances(lines, static_cast<float>(middle.x), static_cast<float>(middle.y), squares.data()));
        const double most = std::min(least + error_ + 2 * radius, limit_ + radius) + 1 + error_;
        const auto bound = static_cast<float>(most * most);
        kept.clear(lines.size());
        for (std::size_t i = 0; i < lines.size(); ++i)
            if (squares[i] <= bound) kept.add(lines, i);
        kept.resize(kept.size());
        const std::size_t spots = std::size_t{x1 - x0} * (y1 - y0);
        const bool small = x1 - x0 <= kSmall && y1 - y0 <= kSmall;
        if (spots >= kLeastBucketed && kept.size() * kSpotsALine > spots) {
            buckets_.build(placed_, kept, low, high, error_);
            each_spot(x0, y0, x1, y1, [&](Spot p, NearestLine& best) { buckets_.nearest(p.x, p.y, best); });
        } else if (small && (kept.size() <= kFew || x1 - x0 <= 2)) {
            each_spot(x0, y0, x1, y1, [&](Spot p, NearestLine& best) { look(p, kept, best); });
        } else {
            const std::uint32_t mx = x1 - x0 > 1 ? x0 + (x1 - x0 + 1) / 2 : x1;
            const std::uint32_t my = y1 - y0 > 1 ? y0 + (y1 - y0 + 1) / 2 : y1;
            fill(x0, y0, mx, my, kept, depth + 1);
            fill(mx, y0, x1, my, kept, depth + 1);
            fill(x0, my, mx, y1, kept, depth + 1);
            fill(mx, my, x1, y1, kept, depth + 1);
        }
        levels_[depth].kept = std::move(kept);
    }

    void look(Spot p, const LineColumns& lines, NearestLine& best) {
        const double most = std::sqrt(best.at.squared) + error_;
        const std::size_t found = near_lines(lines, 0, lines.size(), static_cast<float>(p.x), static_cast<float>(p.y),
                                             static_cast<float>(most * most), near_.data());
        for (std::size_t k = 0; k < found; ++k) {
            const std::uint32_t number = lines.number(near_[k]);
            best.offer(number, foot(placed_[number], p.x, p.y));
        }
    }

    /// Each spot looks no farther than to the lines of the spots before it, to the left and above.
    template <class Find>
    void each_spot(std::uint32_t x0, std::uint32_t y0, std::uint32_t x1, std::uint32_t y1, Find&& find) {
        std::uint32_t left = NearestLine::kNone;
        above_.assign(x1 - x0, NearestLine::kNone);
        for (std::uint32_t y = y0; y < y1; ++y)
            for (std::uint32_t x = x0; x < x1; ++x) {
                const Spot p = at(x, y);
                NearestLine best{NearestLine::kNone, {limit_ * limit_, 0}};
                const std::uint32_t above = above_[x - x0];
                if (left != NearestLine::kNone) best.offer(left, foot(placed_[left], p.x, p.y));
                if (above != NearestLine::kNone && above != left) best.offer(above, foot(placed_[above], p.x, p.y));
                find(p, best);
                left = above_[x - x0] = best.number;
                if (best.number != NearestLine::kNone) put(x, y, best);
            }
    }

    void put(std::uint32_t x, std::uint32_t y, const NearestLine& found) {
        const GroundLine& l = lines_[found.number];
        GridSpot& spot = grid_.spots[std::size_t{y} * grid_.width + x];
        spot.link = l.link.value();
        spot.offset_mm = static_cast<std::uint32_t>(
            l.from.count() + std::llround(found.at.along * static_cast<double>((l.to - l.from).count())));
        spot.off_metres = static_cast<float>(std::sqrt(found.at.squared) / units_per_metre_);
    }

    struct Level {
        LineColumns kept;
        std::vector<float> squares;
    };
    const std::vector<GroundLine>& lines_;
    const Positions& positions_;
    Spot origin_;
    double limit_, units_per_metre_, error_ = 0;
    GroundGrid& grid_;
    const Task& task_;
    std::vector<PlacedLine> placed_;
    std::vector<Level> levels_;
    LineBuckets buckets_;
    std::vector<std::uint32_t> above_, near_;
};

}  // namespace

GroundGrid ground_grid(const roads::Network& network, const std::vector<bool>& use, const Plane& plane,
                       Millimetres limit, std::uint32_t width, std::uint32_t height,
                       const std::function<geo::LonLat(double column, double row)>& place_of, const Task& task) {
    GroundGrid out{width, height, std::vector<GridSpot>(std::size_t{width} * height)};
    if (width == 0 || height == 0) return out;
    const Positions positions(plane, width, height, place_of);
    Spot low = positions.corners().front(), high = low;
    for (const Spot s : positions.corners()) {
        low = {std::min(low.x, s.x), std::min(low.y, s.y)};
        high = {std::max(high.x, s.x), std::max(high.y, s.y)};
    }
    const Spot middle{(low.x + high.x) / 2, (low.y + high.y) / 2};
    const double units = plane.per_metre(plane.place(middle));
    const double reach = limit.metres() * units;
    const Rectangle around{rounded({low.x - reach - 2, low.y - reach - 2}),
                           rounded({high.x + reach + 2, high.y + reach + 2})};
    const PlanePatch patch(plane, box_of(plane, around));
    const auto lines = ground_lines(network, use, plane, patch, around, task);
    Filler(lines, positions, middle, reach, units, out, task).run();
    return out;
}

std::vector<GridValue> grid_values(const GroundGrid& grid, const roads::Network& network, const AlongRoads& along,
                                   double per_metre_off_road) {
    constexpr float kNot = std::numeric_limits<float>::quiet_NaN();
    std::vector<GridValue> out(grid.spots.size(), GridValue{kNot, kNobody});
    // Roads as they are met; neighbours are mostly on the same one.
    struct Known {
        std::uint32_t first = 0, count = 0;
        std::uint32_t length = 0;
        std::array<std::optional<PointValue>, 2> ends;
        std::array<bool, 2> ends_known{};
    };
    std::unordered_map<std::uint32_t, std::uint32_t> number;
    std::vector<Known> known;
    std::vector<Stretch> all, some;
    std::uint32_t last = GridSpot::kNone, last_number = 0;
    for (std::size_t i = 0; i < grid.spots.size(); ++i) {
        const GridSpot& s = grid.spots[i];
        if (!s.attached()) continue;
        out[i].value = std::numeric_limits<float>::infinity();
        if (s.link != last) {
            const auto [at, is_new] = number.try_emplace(s.link, static_cast<std::uint32_t>(known.size()));
            if (is_new) {
                along.stretches(LinkId(s.link), some);
                Known k;
                k.first = static_cast<std::uint32_t>(all.size());
                k.count = static_cast<std::uint32_t>(some.size());
                k.length = static_cast<std::uint32_t>(network.length(LinkId(s.link)).count());
                all.insert(all.end(), some.begin(), some.end());
                known.push_back(k);
            }
            last = s.link;
            last_number = at->second;
        }
        Known& k = known[last_number];
        const double off = per_metre_off_road * static_cast<double>(s.off_metres);
        if (s.offset_mm == 0 || s.offset_mm == k.length) {
            const std::size_t end = s.offset_mm == 0 ? 0 : 1;
            if (!k.ends_known[end]) {
                k.ends[end] = along.at(LinkId(s.link), Millimetres(s.offset_mm));
                k.ends_known[end] = true;
            }
            if (k.ends[end]) out[i] = {static_cast<float>(k.ends[end]->value + off), k.ends[end]->owner};
            continue;
        }
        const double x = s.offset_mm;
        for (std::uint32_t n = k.first; n < k.first + k.count; ++n) {
            const Stretch& stretch = all[n];
            if (x < stretch.from || x > stretch.to) continue;
            const double value = stretch.value_from + (stretch.value_to - stretch.value_from) * (x - stretch.from) /
                                                          (stretch.to - stretch.from);
            out[i] = {static_cast<float>(value + off), stretch.owner};
            break;
        }
    }
    return out;
}

}  // namespace otoro::reach
