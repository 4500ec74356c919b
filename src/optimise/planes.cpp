#include "optimise/planes.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

namespace otoro::optimise {
namespace {

/// The nearest parts, none below nothing, that add up to one.
void on_simplex(std::vector<double>& parts) {
    std::vector<double> sorted = parts;
    std::sort(sorted.begin(), sorted.end(), std::greater<>());
    double sum = 0, cut = 0;
    for (std::size_t k = 0; k < sorted.size(); ++k) {
        sum += sorted[k];
        const double at = (sum - 1) / static_cast<double>(k + 1);
        if (sorted[k] > at) cut = at;
    }
    for (double& part : parts) part = std::max(0.0, part - cut);
}

}  // namespace

double Planes::height_at(const Plane& plane, const std::vector<double>& x) {
    return std::inner_product(x.begin(), x.end(), plane.slope.begin(), plane.height);
}

double Planes::under(const std::vector<double>& x) const {
    double least = std::numeric_limits<double>::infinity();
    for (const Plane& plane : planes_) least = std::min(least, height_at(plane, x));
    return least;
}

void Planes::add(const GoalRows::Slope& at) {
    if (planes_.size() >= kMost)
        planes_.erase(std::max_element(planes_.begin(), planes_.end(),
                                       [](const Plane& a, const Plane& b) { return a.idle < b.idle; }));
    Plane plane{at.rest, at.worth, static_cast<double>(at.rest) / unit_, std::vector<double>(at.worth.size())};
    for (std::size_t c = 0; c < at.worth.size(); ++c) plane.slope[c] = static_cast<double>(at.worth[c]) / unit_;
    planes_.push_back(std::move(plane));
}

Planes::Peak Planes::peak(const std::vector<double>& centre, double reach, const Within& within) {
    const std::size_t count = planes_.size(), n = centre.size();
    std::vector<double> parts(count), before(count), ahead(count), lean(n), moved(n), at, rises(count);
    double sum = 0;
    for (std::size_t k = 0; k < count; ++k) sum += parts[k] = planes_[k].part;
    if (sum <= 0) parts.back() = sum = 1;
    for (double& part : parts) part /= sum;
    // The dual: of all means of planes the one whose highest point, drawn to the centre, is lowest.
    const auto highest = [&](const std::vector<double>& of) {
        std::fill(lean.begin(), lean.end(), 0.0);
        double height = 0;
        for (std::size_t k = 0; k < count; ++k) {
            if (of[k] == 0) continue;
            height += of[k] * planes_[k].height;
            for (std::uint32_t c = 0; c < n; ++c) lean[c] += of[k] * planes_[k].slope[c];
        }
        for (std::uint32_t c = 0; c < n; ++c) moved[c] = centre[c] + reach * lean[c];
        at = within(moved);
        for (std::uint32_t c = 0; c < n; ++c) {
            const double by = at[c] - centre[c];
            height += lean[c] * at[c] - by * by / (2 * reach);
        }
        return height;
    };
    before = ahead = parts;
    double momentum = 1, length = 1;
    constexpr int kRounds = 120;
    for (int round = 0; round < kRounds; ++round) {
        const double here = highest(ahead);
        for (std::size_t k = 0; k < count; ++k) rises[k] = height_at(planes_[k], at);
        const double most = std::inner_product(rises.begin(), rises.end(), ahead.begin(), 0.0);
        const double least = *std::min_element(rises.begin(), rises.end());
        if (most - least <= 1e-9 * (std::abs(most) + 1e-3)) break;
        for (length *= 1.2;; length /= 2) {
            std::vector<double> next(count);
            for (std::size_t k = 0; k < count; ++k) next[k] = ahead[k] - length * rises[k];
            on_simplex(next);
            double promised = here;
            for (std::size_t k = 0; k < count; ++k) {
                const double by = next[k] - ahead[k];
                promised += rises[k] * by + by * by / (2 * length);
            }
            parts = std::move(next);
            if (length < 1e-12 || highest(parts) <= promised + 1e-13 * std::abs(here)) break;
        }
        double turned = 0;
        for (std::size_t k = 0; k < count; ++k) turned += (ahead[k] - parts[k]) * (parts[k] - before[k]);
        if (turned > 0) momentum = 1;
        const double more = (1 + std::sqrt(1 + 4 * momentum * momentum)) / 2;
        for (std::size_t k = 0; k < count; ++k) ahead[k] = parts[k] + (momentum - 1) / more * (parts[k] - before[k]);
        on_simplex(ahead);
        momentum = more;
        before = parts;
    }
    highest(before);
    Peak out{at, std::numeric_limits<double>::infinity()};
    for (std::size_t k = 0; k < count; ++k) {
        planes_[k].part = before[k];
        planes_[k].idle = before[k] > 1e-9 ? 0 : planes_[k].idle + 1;
        out.height = std::min(out.height, height_at(planes_[k], at));
    }
    return out;
}

GoalRows::Slope Planes::mean() const {
    constexpr double kWhole = 1 << 20;
    GoalRows::Slope out;
    const std::size_t n = planes_.back().worth.size();
    out.worth.assign(n, 0);
    Wide all = 0;
    for (const Plane& plane : planes_) {
        const auto part = static_cast<Wide>(plane.part * kWhole);
        if (part == 0) continue;
        all += part;
        out.rest += part * plane.rest;
        for (std::uint32_t c = 0; c < n; ++c) out.worth[c] += part * plane.worth[c];
    }
    if (all == 0) return {planes_.back().worth, planes_.back().rest};
    const auto up = [&](Wide v) { return v >= 0 ? (v + all - 1) / all : -(-v / all); };
    out.rest = up(out.rest);
    for (Wide& w : out.worth) w = up(w);
    return out;
}

}  // namespace otoro::optimise
