#include "optimise/least_total.h"

#include <algorithm>

#include "optimise/choice_search.h"
#include "optimise/most_cover.h"
#include "optimise/travel_rows.h"

namespace otoro::optimise {

LeastLeft least_left(std::span<const std::int64_t> amounts, const Pairs& pairs, const ChoiceRules& said,
                     const ChoiceLimits& limits, const Task& task) {
    const ChoiceRules rules = with_what_follows(said);
    Covers covers;
    covers.reserve(pairs.rows(), pairs.count());
    std::vector<std::uint8_t> never(rules.columns, 0);
    for (const std::uint32_t c : rules.never) never[c] = 1;
    Columns list;
    Wide all = 0;
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        list.clear();
        for (const Pair& p : pairs.of(row)) list.push_back(p.column);
        if (std::any_of(list.begin(), list.end(), [&](std::uint32_t c) { return never[c] == 0; })) all += amounts[row];
        covers.add_row(list);
    }
    const ChoiceLimits exact{0, {}, limits.enough, {}, limits.check_proof};
    const Chosen most = most_cover({amounts, covers}, rules, exact, task);
    return {all - most.value, all - most.bound, most.columns, most.any, most.left_off};
}

LeastTotal least_total(const TotalAsked& asked, const ChoiceRules& said, const ChoiceLimits& limits, const Task& task) {
    const ChoiceRules rules = with_what_follows(said);
    TravelRows rows(asked.amounts, asked.pairs, rules, task);
    LeastTotal out;
    Columns start = asked.start;
    const auto in_of = [&](const Columns& columns) {
        std::vector<std::uint8_t> in(rules.columns, 0);
        for (const std::uint32_t c : rules.kept) in[c] = 1;
        for (const std::uint32_t c : columns) in[c] = 1;
        return in;
    };
    if (rows.any_may_be_left()) {
        // Nothing is shown of it, but it may be left off like the rest.
        const ChoiceLimits at_first{0,
                                    {},
                                    [&](const Chosen&) {
                                        Chosen nothing;
                                        nothing.any = false;
                                        return limits.enough && limits.enough(nothing);
                                    },
                                    {},
                                    limits.check_proof};
        const LeastLeft left = least_left(asked.amounts, asked.pairs, rules, at_first, task);
        out.chosen.any = left.any;
        out.chosen.left_off = left.left_off;
        if (!left.any) return out;
        out.least_not_reached = left.least;
        if (!keeps_to(rules, start) || rows.sum_of(in_of(start)).not_reached > left.amount) start = left.columns;
    }
    // A row that is left out costs little more than the dearest way at first: dearer prices are harder to prove
    // anything with. Where more is left out than must be, they rise until it is not.
    constexpr std::int64_t kAtFirst = 16, kDearer = 64, kDearest = std::int64_t{1} << 52;
    for (std::int64_t price = (std::int64_t{rows.dearest()} + 1) * kAtFirst;; price *= kDearer) {
        rows.price_unreached(price, out.least_not_reached);
        // The best set leaves no more than one that is known; where it may leave less than that, its travel may be less
        // by what that costs.
        const auto at_least = [&](Wide bound, Wide left) {
            return std::max<Wide>(0, -bound - (left - out.least_not_reached) * price);
        };
        const auto told = [&](const Chosen& so_far) {
            if (!limits.enough) return false;
            Chosen shown = so_far;
            const auto sum = rows.sum_of(in_of(so_far.columns));
            shown.value = sum.travel;
            shown.bound = at_least(so_far.bound, sum.not_reached);
            return limits.enough(shown);
        };
        const ChoiceLimits within{limits.gap, {}, told, {}, limits.check_proof};
        const Chosen found = best_choice(rows, rules, start, within, task);
        out.chosen = found;
        if (!found.any) return out;
        const auto sum = rows.sum_of(in_of(found.columns));
        out.not_reached = sum.not_reached;
        out.chosen.value = sum.travel;
        out.chosen.bound = at_least(found.bound, sum.not_reached);
        if (sum.not_reached <= out.least_not_reached || price >= kDearest) return out;
        start = found.columns;
    }
}

}  // namespace otoro::optimise
