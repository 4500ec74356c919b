#include "optimise/choice_bounds.h"

#include <algorithm>
#include <cmath>

namespace otoro::optimise {
namespace {

/// More than rounding can have done to sums of this size.
Wide slack(long double size) { return static_cast<Wide>(size * 1e-15L); }

}  // namespace

Relaxed ChoiceBounds::relax(const GoalRows::Slope& at) const {
    Relaxed out;
    out.worth = at.worth;
    out.rest = at.rest;
    out.taken.assign(rules_.n, 0);
    out.exact = at.rest;
    for (const std::uint32_t c : fates_.chosen()) out.exact += out.worth[c];
    Columns open = fates_.open();
    std::sort(open.begin(), open.end(), [&](std::uint32_t a, std::uint32_t b) {
        if (rules_.dearer(out.worth[a], a, out.worth[b], b)) return true;
        return !rules_.dearer(out.worth[b], b, out.worth[a], a) && a < b;
    });
    Wide left = fates_.room_left(), taken = 0;
    const Group* group = fates_.leading();
    const Wide for_others = group != nullptr ? left - fates_.still_wanted(*group) : left;
    Wide others = 0;
    for (const std::uint32_t c : open) {
        if (rules_.cost[c] > left) {
            if (!out.first_out) out.first_out = c;
            out.in_part = left > 0;
            break;
        }
        // The best of all that leave the group its room are the best there are: these sets are a laminar matroid.
        const bool other = group != nullptr && !RuleBook::is_of(*group, c);
        if (other && others == for_others) {
            if (!out.first_out) out.first_out = c;
            continue;
        }
        out.taken[c] = 1;
        out.last_in = c;
        if (other) {
            ++others;
            out.last_other = c;
        }
        taken += out.worth[c];
        left -= rules_.cost[c];
    }
    if (group != nullptr && others == for_others) out.group = group;
    out.exact += taken;
    if (!rules_.counting && out.first_out) {
        // Whatever comes after brings no more for a unit of room than this one does, but for rounding.
        const auto part = rate_of(out, *out.first_out) * static_cast<long double>(left);
        out.exact += static_cast<Wide>(part) + 1 + slack(static_cast<long double>(taken) + part);
    }
    out.bound = rounded(out.exact);
    return out;
}

Wide ChoiceBounds::rounded(Wide bound) const {
    const Wide grain = rows_.grain(), over = bound % grain;
    return bound - (over < 0 ? over + grain : over);
}

long double ChoiceBounds::rate_of(const Relaxed& r, std::uint32_t c) const {
    return static_cast<long double>(r.worth[c]) / static_cast<long double>(rules_.cost[c]);
}

Wide ChoiceBounds::loss_of(const Relaxed& r, std::uint32_t c) const {
    const bool in = r.taken[c] != 0;
    const auto next = in || r.in_part ? r.first_out : r.last_in;
    if (rules_.counting) {
        const auto gives_way = in || r.group == nullptr || RuleBook::is_of(*r.group, c) ? next : r.last_other;
        const Wide other = gives_way ? r.worth[*gives_way] : 0;
        return std::max<Wide>(0, in ? r.worth[c] - other : gives_way ? other - r.worth[c] : 0);
    }
    if (rules_.cost[c] == 0)
        return in ? std::max<Wide>(0, r.worth[c] - slack(static_cast<long double>(r.worth[c])) - 1) : 0;
    const long double rate = next && rules_.cost[*next] > 0 ? rate_of(r, *next) : 0;
    const long double for_room = rate * static_cast<long double>(rules_.cost[c]);
    const auto worth = static_cast<long double>(r.worth[c]);
    const long double loss = in ? worth - for_room : for_room - worth;
    return std::max<Wide>(0, static_cast<Wide>(loss) - slack(worth + for_room) - 1);
}

std::vector<double> ChoiceBounds::within(std::vector<double> shares) const {
    Columns open = fates_.open();
    const auto left = static_cast<double>(fates_.room_left());
    auto out = cut_to(shares, open, left);
    if (const Group* group = fates_.leading()) {
        const auto wanted = static_cast<double>(fates_.still_wanted(*group));
        const auto others =
            std::stable_partition(open.begin(), open.end(), [&](auto c) { return RuleBook::is_of(*group, c); });
        const Columns of_group(open.begin(), others), rest(others, open.end());
        double has = 0;
        for (const std::uint32_t c : of_group) has += out[c];
        if (has < wanted) {  // then it has no more than that, and the others what is left
            out = cut_to(std::move(shares), of_group, wanted);
            out = cut_to(std::move(out), rest, left - wanted);
        }
    }
    for (std::uint32_t c = 0; c < rules_.n; ++c)
        if (fates_[c] != Fate::open) out[c] = fates_[c] == Fate::chosen ? 1 : 0;
    return out;
}

std::vector<double> ChoiceBounds::cut_to(std::vector<double> shares, const Columns& columns, double left) const {
    double low = 0, high = 0, all = 0;
    const auto cost = [&](std::uint32_t c) { return static_cast<double>(rules_.cost[c]); };
    for (const std::uint32_t c : columns) {
        all += cost(c);
        low = std::min(low, (shares[c] - 1) / std::max(1.0, cost(c)));
        high = std::max(high, shares[c] / std::max(1.0, cost(c)));
    }
    const auto cut = [&](std::uint32_t c, double by) {
        return rules_.cost[c] == 0 ? 1.0 : std::clamp(shares[c] - by * cost(c), 0.0, 1.0);
    };
    double by = low;
    if (all > left) {
        // What is left falls with the cut, bend by bend: Newton's steps, halving where one leaves the bracket.
        constexpr int kMostSteps = 60;
        by = (low + high) / 2;
        for (int k = 0; k < kMostSteps; ++k) {
            double sum = 0, steepness = 0;
            for (const std::uint32_t c : columns) {
                const double share = cut(c, by);
                sum += cost(c) * share;
                if (share > 0 && share < 1) steepness += cost(c) * cost(c);
            }
            (sum > left ? low : high) = by;
            if (std::abs(sum - left) <= 1e-12 * (left + 1)) break;
            const double step = steepness > 0 ? by + (sum - left) / steepness : low;
            by = step > low && step < high ? step : (low + high) / 2;
        }
    }
    for (const std::uint32_t c : columns) shares[c] = cut(c, by);
    return shares;
}

}  // namespace otoro::optimise
