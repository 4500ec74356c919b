#include "optimise/cover_rows.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>
#include <utility>

#include "optimise/over_rows.h"

namespace otoro::optimise {

CoverRows::CoverRows(std::span<const std::int64_t> amounts, const Covers& covers, const ChoiceRules& rules,
                     std::vector<std::int64_t> levels)
    : n_(rules.columns), levels_(std::move(levels)) {
    std::vector<std::uint8_t> kept(n_, 0), never(n_, 0);
    for (const std::uint32_t c : rules.kept) kept[c] = 1;
    for (const std::uint32_t c : rules.never) never[c] = 1;
    std::unordered_multimap<std::uint64_t, std::uint32_t> known;
    std::vector<std::uint32_t> list;
    for (std::uint32_t row = 0; row < covers.rows(); ++row) {
        const std::int64_t amount = amounts[row];
        std::size_t times = 0;
        list.clear();
        for (const std::uint32_t c : covers.of(row)) {
            if (kept[c] != 0)
                ++times;
            else if (never[c] == 0)
                list.push_back(c);
        }
        times = std::min(times, levels_.size());
        for (std::size_t k = 0; k < times; ++k) settled_ += static_cast<Wide>(amount) * levels_[k];
        if (list.empty() || amount == 0 || times == levels_.size()) continue;
        std::sort(list.begin(), list.end());
        std::uint64_t hash = 1469598103934665603ULL ^ times;
        for (const std::uint32_t c : list) hash = (hash ^ c) * 1099511628211ULL;
        const auto [begin, end] = known.equal_range(hash);
        const auto same = std::find_if(begin, end, [&](const auto& k) {
            const auto there = of(k.second);
            return kept_[k.second] == times && std::equal(there.begin(), there.end(), list.begin(), list.end());
        });
        std::uint32_t into = same != end ? same->second : static_cast<std::uint32_t>(amounts_.size());
        if (same == end) {
            known.emplace(hash, into);
            amounts_.push_back(0);
            kept_.push_back(static_cast<std::uint8_t>(times));
            columns_.insert(columns_.end(), list.begin(), list.end());
            first_.push_back(columns_.size());
        }
        amounts_[into] += amount;
    }
    std::int64_t of_amounts = 0, of_levels = 0;
    for (const std::int64_t amount : amounts) of_amounts = std::gcd(of_amounts, amount);
    for (const std::int64_t level : levels_) of_levels = std::gcd(of_levels, level);
    grain_ = std::max<Wide>(1, static_cast<Wide>(of_amounts) * of_levels);
    for (std::size_t row = 0; row < amounts_.size(); ++row)
        all_ += static_cast<Wide>(amounts_[row]) * up_to(row, of(row).size());
}

std::int64_t CoverRows::up_to(std::size_t row, std::size_t k) const {
    std::int64_t out = 0;
    for (std::size_t at = kept_[row]; at < std::min(levels_.size(), kept_[row] + k); ++at) out += levels_[at];
    return out;
}

Wide CoverRows::value_of(const std::vector<std::uint8_t>& in) const {
    Wide value = settled_;
    over_rows(
        amounts_.size(), Wide{0},
        [&](std::size_t first, std::size_t last, Wide& sum) {
            for (std::size_t row = first; row < last; ++row) {
                std::size_t times = 0;
                for (const std::uint32_t c : of(row)) times += in[c];
                if (times > 0) sum += static_cast<Wide>(amounts_[row]) * up_to(row, times);
            }
        },
        [&](Wide sum) { value += sum; });
    return value;
}

void CoverRows::exchanges(std::span<const std::uint32_t> set, Exchanges& out) const {
    constexpr std::uint32_t kNot = 0xFFFF'FFFFU;
    const std::size_t members = set.size();
    std::vector<std::uint32_t> member(n_, kNot);
    for (std::uint32_t k = 0; k < members; ++k) member[set[k]] = k;
    const Exchanges none(n_, members);
    out = none;
    over_rows(
        amounts_.size(), none,
        [&](std::size_t first, std::size_t last, Exchanges& sums) {
            std::vector<std::uint32_t> in;
            for (std::size_t row = first; row < last; ++row) {
                const auto list = of(row);
                in.clear();
                for (const std::uint32_t c : list)
                    if (member[c] != kNot) in.push_back(member[c]);
                const auto amount = static_cast<Wide>(amounts_[row]);
                const Wide more = amount * level(row, in.size() + 1);
                const Wide less = in.empty() ? 0 : amount * level(row, in.size());
                if (more != 0)
                    for (const std::uint32_t c : list) sums.gain[c] += more;
                if (less == 0) continue;
                for (const std::uint32_t k : in) sums.lost[k] += less;
                if (less == more) continue;
                for (const std::uint32_t c : list)
                    for (const std::uint32_t k : in) sums.shared[c * members + k] += less - more;
            }
        },
        [&](const Exchanges& sums) { out.add(sums); });
}

double CoverRows::slope_at(std::size_t row, double sum, double width) const {
    const auto bend = static_cast<std::size_t>(std::llround(sum));
    if (bend == 0) return static_cast<double>(level(row, 1));
    const auto before = static_cast<double>(level(row, bend)), after = static_cast<double>(level(row, bend + 1));
    const double beyond = sum - static_cast<double>(bend);
    return after + (before - after) * std::clamp((width / 2 - beyond) / width, 0.0, 1.0);
}

void CoverRows::slope(const std::vector<double>& shares, double width, Slope& out) const {
    struct Sums {
        std::vector<Wide> worth;
        Wide rest = 0;
    };
    out.worth.assign(n_, 0);
    out.rest = settled_;
    over_rows(
        amounts_.size(), Sums{std::vector<Wide>(n_, 0)},
        [&](std::size_t first, std::size_t last, Sums& sums) {
            for (std::size_t row = first; row < last; ++row) {
                const auto list = of(row);
                double sum = 0;
                for (const std::uint32_t c : list) sum += shares[c];
                const double slope = static_cast<double>(amounts_[row]) * slope_at(row, sum, width);
                const Wide most = static_cast<Wide>(amounts_[row]) * level(row, 1);
                const Wide price = std::clamp<Wide>(static_cast<Wide>(std::round(slope)), 0, most);
                // At this price a row takes as many columns as bring more.
                for (std::size_t k = 1; k <= list.size(); ++k) {
                    const Wide over = static_cast<Wide>(amounts_[row]) * level(row, k) - price;
                    if (over <= 0) break;
                    sums.rest += over;
                }
                if (price == 0) continue;
                for (const std::uint32_t c : list) sums.worth[c] += price;
            }
        },
        [&](const Sums& sums) {
            out.rest += sums.rest;
            for (std::uint32_t c = 0; c < n_; ++c) out.worth[c] += sums.worth[c];
        });
}

}  // namespace otoro::optimise
