#include "optimise/fewest_part.h"

#include <algorithm>
#include <limits>
#include <numeric>
#include <optional>

#include "optimise/choice_search.h"
#include "optimise/most_cover.h"
#include "optimise/rule_book.h"

namespace otoro::optimise {
namespace {

/// So many that rows of `wanted` in all are covered. \param known no set has fewer than its bound; where it has one,
/// that one covers enough
Fewest fewest_between(std::span<const std::int64_t> amounts, const Covers& covers, std::int64_t wanted,
                      const ChoiceRules& rules, Fewest known, const FewestLimits& limits, const Task& task) {
    ChoiceRules with = with_what_follows(rules);
    with.costs = {};
    Columns start;
    Fewest out = std::move(known);
    bool left_off = false;
    const auto told = [&](const Fewest& so_far) {
        if (limits.enough && limits.enough(so_far)) left_off = true;
    };
    /// With so many: a set that covers enough, or nothing if there is none; `left_off` if neither is known.
    const auto with_so_many = [&](std::uint32_t choose) -> std::optional<Columns> {
        with.choose = choose;
        const ChoiceLimits decided{0,
                                   wanted,
                                   [&](const Chosen& so_far) {
                                       told(out);
                                       return left_off || so_far.value >= wanted || so_far.bound < wanted;
                                   },
                                   {},
                                   limits.check_proof};
        const Chosen found = most_cover({amounts, covers, {1}, start}, with, decided, task);
        if (found.any && found.value >= wanted) {
            left_off = false;
            return found.columns;
        }
        left_off = found.left_off && found.bound >= wanted;
        return std::nullopt;
    };
    // Upwards in doubling steps until it is enough, then between.
    auto low = static_cast<std::uint32_t>(out.bound);  // fewer are not enough
    auto high = out.any ? static_cast<std::uint32_t>(out.value) : rules.columns;
    for (std::uint32_t choose = std::max(1U, low); out.any == false; choose *= 2) {
        choose = std::min(choose, rules.columns);
        const auto set = with_so_many(choose);
        if (set) {
            out = {*set, static_cast<std::int64_t>(set->size()), low};
            high = static_cast<std::uint32_t>(set->size());
        } else {
            if (left_off || choose >= rules.columns) {
                out.bound = low;
                out.left_off = left_off;
                return out;
            }
            low = choose + 1;
        }
    }
    while (low < high && !left_off) {
        out.bound = low;
        told(out);
        left_off = left_off || task.leave_off();
        if (left_off) break;
        const std::uint32_t middle = low + (high - low) / 2;
        const auto set = with_so_many(middle);
        if (set) {
            high = static_cast<std::uint32_t>(set->size());
            out.columns = *set;
            out.value = high;
        } else if (!left_off) {
            low = middle + 1;
        }
    }
    out.bound = left_off ? low : high;
    out.left_off = left_off;
    return out;
}

}  // namespace

Fewest fewest_for_part(std::span<const std::int64_t> amounts, const Covers& covers, std::int64_t wanted,
                       const ChoiceRules& rules, const FewestLimits& limits, const Task& task) {
    Fewest nothing;
    nothing.any = false;
    return fewest_between(amounts, covers, wanted, rules, nothing, limits, task);
}

Fewest fewest_with_several(const Covers& covers, const ChoiceRules& rules, const FewestLimits& limits,
                           const Task& task) {
    ChoiceRules single = with_what_follows(rules);
    single.groups.clear();
    std::vector<Group> several;
    for (Group& group : RuleBook(with_what_follows(rules)).groups)
        (group.least > 1 ? several : single.groups).push_back(std::move(group));
    ChoiceRules any_number = rules;
    any_number.choose = any_number.columns;
    const auto keeps = [&](const Fewest& f) { return f.any && keeps_to(any_number, f.columns); };
    // What does not keep to all rules is shown to nobody.
    bool left_off = false;
    std::int64_t bound = 0;
    const FewestLimits apart{limits.gap, limits.most,
                             [&](const Fewest& so_far) {
                                 Fewest shown;
                                 shown.any = false;
                                 shown.bound = bound = std::max(bound, so_far.bound);
                                 left_off = left_off || (limits.enough && limits.enough(shown));
                                 return left_off;
                             },
                             limits.most_nodes, limits.check_proof};
    Fewest known = fewest_for_all(covers, single, apart, task);
    left_off = left_off || known.left_off;
    if (!known.any || keeps(known)) return known;
    ChoiceRules filled = single;
    std::vector<std::uint8_t> in(rules.columns, 0), never(rules.columns, 0);
    for (const std::uint32_t c : known.columns) in[c] = 1;
    for (const std::uint32_t c : single.never) never[c] = 1;
    for (const Group& group : several) {
        std::uint32_t wanted = RuleBook::wanted(group, in);
        for (const std::uint32_t c : group.columns) {
            if (wanted == 0) break;
            if (in[c] != 0 || never[c] != 0) continue;
            filled.required.push_back(c);
            in[c] = 1;
            --wanted;
        }
        for (const std::uint32_t c : group.columns)
            if (in[c] != 0) filled.required.push_back(c);
    }
    bound = known.bound;
    Fewest with = left_off ? Fewest{} : fewest_for_all(covers, filled, apart, task);
    left_off = left_off || with.left_off;
    known.any = keeps(with);
    known.columns = known.any ? std::move(with.columns) : Columns{};
    known.value = known.any ? with.value : 0;
    // With a whole group in, so many others are needed at least, and of the group as many as it wants.
    for (const Group& group : several) {
        ChoiceRules all_in = single;
        std::vector<std::uint8_t> of(rules.columns, 0);
        for (const std::uint32_t c : group.columns)
            if (never[c] == 0) of[c] = 1;
        std::erase_if(all_in.apart, [&](const auto& pair) { return of[pair.first] != 0 || of[pair.second] != 0; });
        for (std::uint32_t c = 0; c < rules.columns; ++c)
            if (of[c] != 0) all_in.kept.push_back(c);
        if (left_off) break;
        Fewest others = fewest_for_all(covers, all_in, apart, task);
        left_off = left_off || others.left_off;
        if (others.bound == std::numeric_limits<std::int64_t>::max()) return others;  // not even then
        known.bound = std::max(known.bound, others.bound + std::int64_t{group.least});
        for (std::uint32_t c = 0; c < rules.columns; ++c)
            if (of[c] != 0) others.columns.push_back(c);
        others.value = static_cast<std::int64_t>(others.columns.size());
        if (!keeps(others) || (known.any && known.value <= others.value)) continue;
        known.any = true;
        known.columns = std::move(others.columns);
        known.value = others.value;
    }
    std::sort(known.columns.begin(), known.columns.end());
    known.left_off = left_off;
    if (left_off || (known.any && known.value == known.bound)) return known;
    std::vector<std::uint8_t> may(rules.columns, 1);
    for (const std::uint32_t c : single.never) may[c] = 0;
    std::vector<std::int64_t> amounts;
    for (std::uint32_t row = 0; row < covers.rows(); ++row) {
        const auto of = covers.of(row);
        amounts.push_back(std::any_of(of.begin(), of.end(), [&](std::uint32_t c) { return may[c] != 0; }) ? 1 : 0);
    }
    const auto all = std::accumulate(amounts.begin(), amounts.end(), std::int64_t{0});
    return fewest_between(amounts, covers, all, rules, std::move(known), limits, task);
}

bool wants_several(const ChoiceRules& rules) {
    const auto groups = RuleBook(with_what_follows(rules)).groups;
    return std::any_of(groups.begin(), groups.end(), [](const Group& group) { return group.least > 1; });
}

}  // namespace otoro::optimise
