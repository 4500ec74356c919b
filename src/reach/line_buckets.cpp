#include "reach/line_buckets.h"

#include <algorithm>
#include <cmath>

namespace otoro::reach {

std::int32_t LineBuckets::column(double x) const {
    return static_cast<std::int32_t>(std::clamp((x - low_.x) * per_side_, 0.0, columns_ - 0.5));
}
std::int32_t LineBuckets::row(double y) const {
    return static_cast<std::int32_t>(std::clamp((y - low_.y) * per_side_, 0.0, rows_ - 0.5));
}

template <class Use>
void LineBuckets::each_bucket(const PlacedLine& l, Use&& use) const {
    constexpr int kFew = 4;
    const double bx = l.ax + l.dx, by = l.ay + l.dy;
    const auto [left, right] = std::minmax({l.ax, bx});
    const auto [top, bottom] = std::minmax({l.ay, by});
    const std::int32_t c0 = column(left), c1 = column(right), r0 = row(top), r1 = row(bottom);
    const bool few = (c1 - c0 + 1) * (r1 - r0 + 1) <= kFew || c0 == c1 || r0 == r1;
    for (std::int32_t r = r0; r <= r1; ++r) {
        std::int32_t from = c0, to = c1;
        // Of a long line only what it has of each row; rows at the rim hold all beyond them.
        if (!few && r > 0 && r + 1 < rows_) {
            const double margin = side_ * 1e-6;
            const double y0 = low_.y + r * side_ - margin, y1 = y0 + side_ + 2 * margin;
            const double t0 = std::clamp((y0 - l.ay) / l.dy, 0.0, 1.0), t1 = std::clamp((y1 - l.ay) / l.dy, 0.0, 1.0);
            const auto [x0, x1] = std::minmax({l.ax + t0 * l.dx, l.ax + t1 * l.dx});
            from = column(x0 - margin);
            to = column(x1 + margin);
        }
        for (std::int32_t c = from; c <= to; ++c)
            use(static_cast<std::size_t>(r) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(c));
    }
}

void LineBuckets::build(const std::vector<PlacedLine>& lines, const LineColumns& which, Spot low, Spot high,
                        double error) {
    constexpr double kLinesABucket = 2.0;
    constexpr double kMostASide = 256;
    lines_ = &lines;
    error_ = error;
    const double width = std::max(high.x - low.x, 1.0), height = std::max(high.y - low.y, 1.0);
    side_ = std::sqrt(width * height * kLinesABucket / static_cast<double>(std::max<std::size_t>(which.size(), 1)));
    side_ = std::max({side_, width / kMostASide, height / kMostASide});
    per_side_ = 1 / side_;
    low_ = low;
    columns_ = static_cast<std::int32_t>(width * per_side_) + 1;
    rows_ = static_cast<std::int32_t>(height * per_side_) + 1;
    starts_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_) + 2, 0);
    for (std::size_t i = 0; i < which.size(); ++i)
        each_bucket(lines[which.number(i)], [&](std::size_t bucket) { ++starts_[bucket + 2]; });
    for (std::size_t i = 2; i < starts_.size(); ++i) starts_[i] += starts_[i - 1];
    entries_.resize(starts_.back());
    for (std::size_t i = 0; i < which.size(); ++i) {
        const PlacedLine& l = lines[which.number(i)];
        each_bucket(l, [&](std::size_t bucket) { entries_.put(starts_[bucket + 1]++, l, which.number(i)); });
    }
    near_.resize(entries_.size() + LineColumns::kRoom);
}

void LineBuckets::nearest(double x, double y, NearestLine& best) {
    double within = std::sqrt(best.at.squared);
    const std::int32_t middle = row(y);
    const auto look_in = [&](std::int32_t r, double away) {
        const double half = std::sqrt(std::max(best.at.squared - away * away, 0.0));
        const std::size_t base = static_cast<std::size_t>(r) * static_cast<std::size_t>(columns_);
        const std::uint32_t from = starts_[base + static_cast<std::size_t>(column(x - half))],
                            to = starts_[base + static_cast<std::size_t>(column(x + half)) + 1];
        if (from == to) return;
        const double most = within + error_;
        const std::size_t found = near_lines(entries_, from, to, static_cast<float>(x), static_cast<float>(y),
                                             static_cast<float>(most * most), near_.data());
        const double before = best.at.squared;
        for (std::size_t k = 0; k < found; ++k) {
            const std::uint32_t number = entries_.number(near_[k]);
            best.offer(number, foot((*lines_)[number], x, y));
        }
        if (best.at.squared < before) within = std::sqrt(best.at.squared);
    };
    look_in(middle, 0);
    for (std::int32_t step = 1;; ++step) {
        const std::int32_t above = middle - step, below = middle + step;
        const double to_above = y - (low_.y + (above + 1) * side_), to_below = low_.y + below * side_ - y;
        const bool go_above = above >= 0 && to_above <= within, go_below = below < rows_ && to_below <= within;
        if (!go_above && !go_below) return;
        if (go_above) look_in(above, std::max(to_above, 0.0));
        if (go_below) look_in(below, std::max(to_below, 0.0));
    }
}

}  // namespace otoro::reach
