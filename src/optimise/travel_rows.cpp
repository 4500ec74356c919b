#include "optimise/travel_rows.h"

#include <algorithm>
#include <cmath>

#include "optimise/over_rows.h"

namespace otoro::optimise {

TravelRows::TravelRows(std::span<const std::int64_t> amounts, const Pairs& pairs, const ChoiceRules& rules,
                       const Task& task)
    : n_(rules.columns) {
    std::vector<std::uint8_t> kept(n_, 0), never(n_, 0);
    for (const std::uint32_t c : rules.kept) kept[c] = 1;
    for (const std::uint32_t c : rules.never) never[c] = 1;
    const std::uint32_t may =
        n_ - static_cast<std::uint32_t>(std::count_if(never.begin(), never.end(), [](auto v) { return v != 0; }));
    const bool some = !rules.required.empty() || (rules.costs.empty() && rules.choose > 0);
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        std::int64_t by_kept = kNobody;
        std::uint32_t dearest = 0;
        bool any = false;
        for (const Pair& p : pairs.of(row)) {
            if (never[p.column] != 0) continue;
            any = true;
            if (kept[p.column] != 0) by_kept = by_kept == kNobody ? p.cost : std::min<std::int64_t>(by_kept, p.cost);
            dearest = std::max(dearest, p.cost);
        }
        if (!any || amounts[row] == 0) continue;
        for (const Pair& p : pairs.of(row))
            if (never[p.column] == 0 && kept[p.column] == 0 && (by_kept == kNobody || p.cost < by_kept))
                pairs_.push_back(p);
        amounts_.push_back(amounts[row]);
        otherwise_.push_back(by_kept);
        first_.push_back(pairs_.size());
        dearest_ = std::max(dearest_, dearest);
        if (by_kept != kNobody) continue;
        // Where every column reaches it, the dearest is the worst that can happen if any is chosen at all.
        if (some && of(amounts_.size() - 1).size() == may)
            otherwise_.back() = dearest;
        else
            may_be_left_ = true;
    }
    std::int64_t grain = 0;
    for (const std::int64_t amount : amounts_) grain = std::gcd(grain, amount);
    grain_ = std::max<std::int64_t>(1, grain);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, amounts_.size(), 256), [&](const auto& range) {
        task.check();
        for (std::size_t row = range.begin(); row != range.end(); ++row)
            std::sort(pairs_.data() + first_[row], pairs_.data() + first_[row + 1], [](const Pair& a, const Pair& b) {
                return a.cost != b.cost ? a.cost < b.cost : a.column < b.column;
            });
    });
}

TravelRows::Sum TravelRows::sum_of(const std::vector<std::uint8_t>& in) const {
    Sum out;
    over_rows(
        amounts_.size(), Sum{},
        [&](std::size_t first, std::size_t last, Sum& sum) {
            for (std::size_t row = first; row < last; ++row) {
                const auto list = of(row);
                const auto at =
                    std::find_if(list.begin(), list.end(), [&](const Pair& p) { return in[p.column] != 0; });
                if (at == list.end() && otherwise_[row] == kNobody) {
                    sum.not_reached += amounts_[row];
                    continue;
                }
                const std::int64_t cost = at == list.end() ? otherwise_[row] : std::int64_t{at->cost};
                sum.travel += static_cast<Wide>(amounts_[row]) * cost;
                sum.farthest = std::max(sum.farthest, static_cast<std::uint32_t>(cost));
            }
        },
        [&](const Sum& sum) {
            out.travel += sum.travel;
            out.not_reached += sum.not_reached;
            out.farthest = std::max(out.farthest, sum.farthest);
        });
    return out;
}

Wide TravelRows::value_of(const std::vector<std::uint8_t>& in) const {
    const Sum sum = sum_of(in);
    return set_aside_ - sum.travel - sum.not_reached * unreached_;
}

void TravelRows::exchanges(std::span<const std::uint32_t> set, Exchanges& out) const {
    constexpr std::uint32_t kNot = 0xFFFF'FFFFU;
    const std::size_t members = set.size();
    std::vector<std::uint32_t> member(n_, kNot);
    for (std::uint32_t k = 0; k < members; ++k) member[set[k]] = k;
    const Exchanges none(n_, members);
    out = none;
    over_rows(
        amounts_.size(), none,
        [&](std::size_t first, std::size_t last, Exchanges& sums) {
            for (std::size_t row = first; row < last; ++row) {
                const auto list = of(row);
                const auto amount = static_cast<Wide>(amounts_[row]);
                const auto in = [&](const Pair& p) { return member[p.column] != kNot; };
                const auto nearest = std::find_if(list.begin(), list.end(), in);
                const std::int64_t now = nearest == list.end() ? otherwise(row) : std::int64_t{nearest->cost};
                for (auto p = list.begin(); p != nearest; ++p) sums.gain[p->column] += amount * (now - p->cost);
                if (nearest == list.end()) continue;
                const auto second = std::find_if(nearest + 1, list.end(), in);
                const std::int64_t then = second == list.end() ? otherwise(row) : std::int64_t{second->cost};
                const std::uint32_t k = member[nearest->column];
                sums.lost[k] += amount * (then - now);
                // Whoever is nearer than the second limits what is lost when the nearest goes.
                for (auto p = list.begin(); p != second; ++p)
                    sums.shared[p->column * members + k] += amount * (then - std::max<std::int64_t>(p->cost, now));
            }
        },
        [&](const Exchanges& sums) { out.add(sums); });
}

double TravelRows::price(std::size_t row, const std::vector<double>& shares, double width) const {
    const double from = 1 - width / 2, to = 1 + width / 2;
    double full = 0, price = 0;
    const auto take = [&](double share, double cost) {
        const double till = full + share;
        price += cost * (std::clamp(till, from, to) - std::clamp(full, from, to)) / width;
        full = till;
    };
    for (const Pair& p : of(row)) {
        if (full >= to) break;
        if (shares[p.column] > 0) take(shares[p.column], p.cost);
    }
    if (full < to) take(to - full, static_cast<double>(otherwise(row)));
    return price;
}

void TravelRows::slope(const std::vector<double>& shares, double width, Slope& out) const {
    struct Sums {
        std::vector<Wide> worth;
        Wide rest = 0;
    };
    out.worth.assign(n_, 0);
    out.rest = set_aside_;
    over_rows(
        amounts_.size(), Sums{std::vector<Wide>(n_, 0)},
        [&](std::size_t first, std::size_t last, Sums& sums) {
            for (std::size_t row = first; row < last; ++row) {
                const auto amount = static_cast<Wide>(amounts_[row]);
                // No more than what it costs where none of its columns is in: that one is there in any case.
                const std::int64_t at =
                    std::clamp<std::int64_t>(std::llround(price(row, shares, width)), 0, otherwise(row));
                sums.rest -= amount * at;
                for (const Pair& p : of(row)) {
                    if (p.cost >= at) break;
                    sums.worth[p.column] += amount * (at - p.cost);
                }
            }
        },
        [&](const Sums& sums) {
            out.rest += sums.rest;
            for (std::uint32_t c = 0; c < n_; ++c) out.worth[c] += sums.worth[c];
        });
}

double TravelRows::scale() const {
    return sum_over_rows(amounts_.size(), [&](std::size_t first, std::size_t last) {
        double sum = 0;
        for (std::size_t row = first; row < last; ++row) {
            const auto list = of(row);
            if (!list.empty())
                sum += static_cast<double>(amounts_[row]) * static_cast<double>(otherwise_[row] == kNobody
                                                                                    ? std::int64_t{list.back().cost}
                                                                                    : otherwise_[row]) -
                       static_cast<double>(amounts_[row]) * list.front().cost;
        }
        return sum;
    });
}

}  // namespace otoro::optimise
