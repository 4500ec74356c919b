#include "optimise/least_worst.h"

#include <algorithm>
#include <numeric>
#include <optional>
#include <tuple>

#include "optimise/choice_search.h"
#include "optimise/fewest_part.h"
#include "optimise/most_cover.h"
#include "optimise/travel_rows.h"

namespace otoro::optimise {
namespace {

std::vector<std::uint8_t> in_of(const ChoiceRules& rules, const Columns& columns) {
    std::vector<std::uint8_t> in(rules.columns, 0);
    for (const std::uint32_t c : rules.kept) in[c] = 1;
    for (const std::uint32_t c : columns) in[c] = 1;
    return in;
}

class Centre {
public:
    Centre(const TotalAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits, const Task& task)
        : asked_(asked), rules_(rules), limits_(limits), task_(task), rows_(asked.amounts, asked.pairs, rules, task) {}

    LeastWorst run() {
        // What is in reach first.
        const ChoiceLimits at_first{0,
                                    {},
                                    [&](const Chosen&) {
                                        Chosen nothing;
                                        nothing.any = false;
                                        return limits_.enough && limits_.enough(nothing);
                                    },
                                    {},
                                    limits_.check_proof};
        const auto left = least_left(asked_.amounts, asked_.pairs, rules_, at_first, task_);
        out_.chosen.any = left.any;
        out_.chosen.left_off = left.left_off;
        if (!left.any) return out_;
        out_.least_not_reached = left.least;
        take(asked_.start);
        take(left.columns);
        // A set with little travel is a good beginning.
        rows_.price_unreached((std::int64_t{rows_.dearest()} + 1) * 4, left.least);
        const ChoiceLimits at_once{0, {}, [](const Chosen&) { return true; }};
        take(best_choice(rows_, rules_, left.columns, at_once, task_).columns);
        // While it is not known how little must be left out, no cost is known to be too small.
        out_.chosen.left_off = left.amount > left.least;
        if (out_.chosen.left_off) return out_;
        low_ = nearest_of_all();
        // Some costs are easy to decide and some are hard: those that a short search decides come first.
        constexpr std::uint64_t kMoreNodes = 16;
        for (std::uint64_t nodes = 1; low_ < farthest_ && !done(); nodes *= kMoreNodes) {
            narrow(nodes, true);
            narrow(nodes, false);
        }
        done();
        out_.chosen.left_off = left_off_;
        return out_;
    }

private:
    /// Says how far it is. \returns whether to leave off
    bool done() {
        out_.chosen.bound = std::min<std::int64_t>(low_, farthest_);
        if (task_.leave_off() || (limits_.enough && limits_.enough(out_.chosen))) left_off_ = true;
        return left_off_ || out_.chosen.gap() <= limits_.gap;
    }
    /// Halves what lies between, where what cannot be decided counts as possible or as impossible.
    void narrow(std::uint64_t nodes, bool undecided_is_possible) {
        constexpr std::int64_t kFine = 32;
        const std::int64_t fine = (farthest_ - low_) / kFine;
        std::int64_t from = low_, to = farthest_;
        while (from < to && to - from > fine && !done()) {
            task_.at("narrowing down the worst case", 0);
            const std::int64_t middle = from + (to - from) / 2;
            bool decided = true;
            const std::optional<Columns> set = within(static_cast<std::uint32_t>(middle), nodes, decided);
            if (set) {
                take(*set);
                to = std::min(middle, farthest_);
            } else if (decided) {
                low_ = from = middle + 1;
            } else if (undecided_is_possible) {
                to = middle;
            } else {
                from = middle + 1;
            }
        }
    }
    /// A set, if it is better: reaches more, or has a nearer farthest, or, if equal in that, less travel.
    void take(Columns columns) {
        if (!keeps_to(rules_, columns)) return;
        std::sort(columns.begin(), columns.end());
        columns = filled(std::move(columns));
        const auto sum = rows_.sum_of(in_of(rules_, columns));
        const auto better = std::tuple(sum.not_reached, Wide{sum.farthest}, sum.travel);
        if (any_ && better >= std::tuple(out_.not_reached, Wide{farthest_}, travel_)) return;
        any_ = true;
        out_.chosen.columns = std::move(columns);
        out_.chosen.value = sum.farthest;
        out_.not_reached = sum.not_reached;
        farthest_ = sum.farthest;
        travel_ = sum.travel;
    }
    /// With as many as may be chosen: those that save most travel come to what is there.
    [[nodiscard]] Columns filled(Columns columns) const {
        GoalRows::Exchanges exchanges;
        while (rules_.costs.empty() ? columns.size() < rules_.choose : true) {
            rows_.exchanges(columns, exchanges);
            std::optional<std::uint32_t> best;
            for (std::uint32_t c = 0; c < rules_.columns; ++c) {
                if (std::find(columns.begin(), columns.end(), c) != columns.end()) continue;
                if (best && exchanges.gain[c] <= exchanges.gain[*best]) continue;
                if (!rules_.costs.empty() && exchanges.gain[c] == 0) continue;
                Columns more = columns;
                more.push_back(c);
                if (keeps_to(rules_, more)) best = c;
            }
            if (!best) break;
            columns.push_back(*best);
        }
        std::sort(columns.begin(), columns.end());
        return columns;
    }
    /// No set is better than the row that has its nearest column farthest.
    [[nodiscard]] std::int64_t nearest_of_all() const {
        if (out_.least_not_reached > 0) return 0;  // that row may be one of those left out
        std::vector<std::uint8_t> all(rules_.columns, 1);
        for (const std::uint32_t c : rules_.never) all[c] = 0;
        for (const std::uint32_t c : rules_.kept) all[c] = 1;
        return rows_.sum_of(all).farthest;
    }

    /// A set that leaves no more than must be, with nobody farther than this; nothing if there is none, or that is not
    /// decided.
    std::optional<Columns> within(std::uint32_t cost, std::uint64_t nodes, bool& decided) {
        Covers covers;
        std::vector<std::uint8_t> never(rules_.columns, 0);
        for (const std::uint32_t c : rules_.never) never[c] = 1;
        Columns list;
        std::vector<std::int64_t> amounts;
        Wide all = 0;
        for (std::uint32_t row = 0; row < asked_.pairs.rows(); ++row) {
            list.clear();
            bool reachable = false;
            for (const Pair& p : asked_.pairs.of(row)) {
                reachable = reachable || never[p.column] == 0;
                if (p.cost <= cost) list.push_back(p.column);
            }
            if (!reachable || asked_.amounts[row] == 0) continue;
            covers.add_row(list);
            amounts.push_back(asked_.amounts[row]);
            all += asked_.amounts[row];
        }
        if (out_.least_not_reached > 0 || wants_several(rules_))
            return leaving(covers, amounts, all - out_.least_not_reached, nodes, decided);
        const auto room = rules_.costs.empty() ? std::int64_t{rules_.choose} : rules_.budget;
        const FewestLimits limits{
            0, room,
            [&](const Fewest& so_far) { return done() || (so_far.any && so_far.value <= room) || so_far.bound > room; },
            nodes, limits_.check_proof};
        const Fewest found = fewest_for_all(covers, rules_, limits, task_);
        if (found.any && found.value <= room) return found.columns;
        decided = found.bound > room;
        return std::nullopt;
    }
    std::optional<Columns> leaving(const Covers& covers, const std::vector<std::int64_t>& amounts, Wide wanted,
                                   std::uint64_t nodes, bool& decided) {
        const ChoiceLimits limits{
            0, wanted, [&](const Chosen& so_far) { return done() || so_far.value >= wanted || so_far.bound < wanted; },
            nodes, limits_.check_proof};
        const Chosen found = most_cover({amounts, covers}, rules_, limits, task_);
        if (found.any && found.value >= wanted) return found.columns;
        decided = found.bound < wanted;
        return std::nullopt;
    }

    const TotalAsked& asked_;
    const ChoiceRules rules_;
    const ChoiceLimits& limits_;
    const Task& task_;
    TravelRows rows_;
    LeastWorst out_;
    std::int64_t low_ = 0, farthest_ = 0;  ///< what may be, and what is
    Wide travel_ = 0;
    bool any_ = false, left_off_ = false;
};

}  // namespace

LeastWorst least_worst(const TotalAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits,
                       const Task& task) {
    return Centre(asked, with_what_follows(rules), limits, task).run();
}

}  // namespace otoro::optimise
