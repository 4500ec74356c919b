/// What can be left out of a best set at no loss.
#include <algorithm>
#include <set>

#include "optimise/most_cover.h"
#include "service/best_set_parts.h"

namespace otoro::service {

std::pair<Wide, Wide> SetChooser::State::worth(const BestSetAsked& asked, const std::vector<std::uint8_t>& in) const {
    Wide lost_weight = 0, value = 0;
    if (!has_limit(asked.goal)) {
        for (std::uint32_t i = 0; i < amounts.size(); ++i) {
            std::optional<std::uint32_t> least;
            for (const optimise::Pair& p : pairs->of(i))
                if (in[p.column] != 0 && (!least || p.cost < *least)) least = p.cost;
            if (!least)
                lost_weight += amounts[i];
            else if (asked.goal == Goal::travel)
                value += static_cast<Wide>(*least) * amounts[i];
            else
                value = std::max<Wide>(value, *least);
        }
        return {lost_weight, value};
    }
    const std::vector<std::int64_t> levels = asked.goal == Goal::cover    ? std::vector<std::int64_t>{1}
                                             : asked.goal == Goal::backup ? std::vector<std::int64_t>{1, 1}
                                                                          : optimise::expected_levels(asked.busy);
    for (std::uint32_t i = 0; i < amounts.size(); ++i) {
        std::size_t times = 0;
        for (const std::uint32_t c : covers.of(i))
            if (in[c] != 0 && times < levels.size()) value -= static_cast<Wide>(levels[times++]) * amounts[i];
    }
    return {0, value};
}

std::vector<std::uint8_t> SetChooser::State::columns_in(const BestSet& set) const {
    std::vector<std::uint8_t> in(columns(), 0);
    for (const auto* part : {&set.kept, &set.chosen})
        for (const SiteIndex site : *part)
            if (const std::uint32_t c = column_of[site.value()]; c != kNoColumn) in[c] = 1;
    return in;
}

BestSet SetChooser::of_just(const BestSetAsked& asked, const std::vector<SiteIndex>& sites, const Task& task) {
    const Instead just_these{static_cast<std::uint32_t>(sites.size()), nullptr};
    BestSetAsked just = asked;
    just.budget.reset();
    just.required = sites;
    just.choose = std::max(1U, just_these.choose);
    if (!sites.empty()) {
        just.forbidden.clear();
        for (std::uint32_t i = 0; i < state_->sites.size(); ++i) {
            const SiteIndex site(i);
            const bool stays = asked.keep_open && is_open(site);
            if (in_question(site) && !stays && std::find(sites.begin(), sites.end(), site) == sites.end())
                just.forbidden.push_back(site);
        }
    }
    return search(just, {}, task, &just_these);
}

BestSet SetChooser::leaving_out(const BestSetAsked& asked, BestSet set, const Task& task) {
    const State& s = *state_;
    const SetRules from = rules_of(asked, s.sites, s.open, s.column_of, s.site_of);
    std::vector<std::uint8_t> in = s.columns_in(set);
    const auto keeps_to_groups = [&] {
        return std::all_of(from.rules.groups.begin(), from.rules.groups.end(), [&](const optimise::Group& group) {
            std::set<std::uint32_t> members;
            for (const std::uint32_t c : group.columns)
                if (in[c] != 0) members.insert(c);
            return members.size() >= group.least;
        });
    };
    const auto whole = s.worth(asked, in);
    for (auto at = set.chosen.size(); at-- > 0;) {
        task.check();
        const SiteIndex site = set.chosen[at];
        if (std::find(asked.required.begin(), asked.required.end(), site) != asked.required.end()) continue;
        std::vector<SiteIndex> others = set.chosen;
        others.erase(others.begin() + static_cast<std::ptrdiff_t>(at));
        in[s.column_of[site.value()]] = 0;
        bool as_good = keeps_to_groups();
        if (as_good && asked.heed_room) {  // who finds room is told by a search that has no choice
            const BestSet left = of_just(asked, others, task);
            as_good = left.any && !is_better(set, left);
        } else if (as_good) {
            as_good = s.worth(asked, in) == whole;
        }
        if (as_good) {
            set.chosen = std::move(others);
            ++set.spare;
        } else {
            in[s.column_of[site.value()]] = 1;
        }
    }
    return set;
}

BestSet SetChooser::without_passengers(const BestSetAsked& asked, BestSet set, const Task& task) {
    if (!set.any || asked.goal == Goal::fewest || set.chosen.empty()) return set;
    set = leaving_out(asked, std::move(set), task.quietly());
    if (asked.budget || asked.goal == Goal::travel || set.chosen.empty() || task.leave_off()) return set;
    const auto take = [&set](const BestSet& fewer) {
        set.spare += static_cast<std::uint32_t>(set.chosen.size() - fewer.chosen.size());
        set.chosen = fewer.chosen;
    };
    const bool all_covered = asked.goal == Goal::cover && !asked.heed_room && set.not_reached == Weight();
    if (asked.goal == Goal::worst || all_covered) {
        // So many that nobody is farther than the farthest is, or that all are covered that can be.
        BestSetAsked fewest = asked;
        fewest.goal = Goal::fewest;
        const auto farthest = static_cast<std::int64_t>(set.value);
        if (asked.goal == Goal::worst)
            fewest.within =
                set.measure == routing::Measure::time ? Amount(Millis(farthest)) : Amount(Millimetres(farthest));
        const Instead fewer_of{static_cast<std::uint32_t>(set.chosen.size()), &set};
        const BestSet fewer = search(fewest, {}, task.quietly(), &fewer_of);
        // Those that weigh nothing count for the worst case, and not for the fewest.
        if (fewer.any && fewer.chosen.size() < set.chosen.size() &&
            state_->worth(asked, state_->columns_in(fewer)) == state_->worth(asked, state_->columns_in(set)))
            take(fewer);
        return set;
    }
    // One fewer first: mostly each site helps. The more may be chosen, the better the best.
    auto low = static_cast<std::uint32_t>(asked.required.size());
    auto high = static_cast<std::uint32_t>(set.chosen.size());
    for (std::uint32_t next = high - 1; low < high && !task.leave_off(); next = low + (high - low) / 2) {
        const Instead fewer_of{next, &set};
        const BestSet fewer = search(asked, {}, task.quietly(), &fewer_of);
        if (fewer.any && !is_better(set, fewer)) {
            high = static_cast<std::uint32_t>(fewer.chosen.size());
            set.value = fewer.value;  // of a set that was not proven one of fewer may even be better
            set.reached = fewer.reached;
            set.not_reached = fewer.not_reached;
            take(fewer);
        } else if (next + 1 == high) {
            break;
        } else {
            low = next + 1;
        }
    }
    return set;
}

}  // namespace otoro::service
