#include "optimise/rule_book.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "optimise/choice_search.h"

namespace otoro::optimise {

double Chosen::gap() const {
    if (value == bound) return 0;
    const auto apart = static_cast<double>(value > bound ? value - bound : bound - value);
    return value == 0 ? 1 : apart / std::abs(static_cast<double>(value));
}

RuleBook::RuleBook(const ChoiceRules& asked)
    : n(asked.columns),
      cost(asked.costs.begin(), asked.costs.end()),
      room(asked.costs.empty() ? asked.choose : asked.budget),
      counting(asked.costs.empty()),
      against(asked.columns),
      never(asked.columns, 0),
      required(asked.columns, 0) {
    if (counting) cost.assign(n, 1);
    std::vector<std::uint8_t> kept(n, 0);
    for (const std::uint32_t c : asked.kept) kept[c] = never[c] = 1;
    for (const std::uint32_t c : asked.never) never[c] = 1;
    for (const std::uint32_t c : asked.required)
        if (kept[c] == 0) required[c] = 1;
    for (const auto& [a, b] : asked.apart) {
        if (kept[a] != 0 && kept[b] != 0) continue;
        against[a].push_back(b);
        against[b].push_back(a);
    }
    for (Group group : asked.groups) {
        Columns& of = group.columns;
        std::sort(of.begin(), of.end());
        of.erase(std::unique(of.begin(), of.end()), of.end());
        group.least = wanted(group, kept);
        std::erase_if(of, [&](std::uint32_t c) { return kept[c] != 0; });
        if (group.least > 0) groups.push_back(std::move(group));
    }
}

std::uint32_t RuleBook::wanted(const Group& group, const std::vector<std::uint8_t>& in) {
    const auto has =
        std::count_if(group.columns.begin(), group.columns.end(), [&](std::uint32_t c) { return in[c] != 0; });
    return group.least - std::min(group.least, static_cast<std::uint32_t>(has));
}

bool RuleBook::is_of(const Group& group, std::uint32_t column) {
    return std::binary_search(group.columns.begin(), group.columns.end(), column);
}

bool RuleBook::dearer(Wide gain_a, std::uint32_t a, Wide gain_b, std::uint32_t b) const {
    if (counting) return gain_a > gain_b;
    const auto rate = [&](Wide gain, std::uint32_t c) {
        if (cost[c] == 0) return std::numeric_limits<double>::infinity();
        return static_cast<double>(gain) / static_cast<double>(cost[c]);
    };
    return rate(gain_a, a) > rate(gain_b, b);
}

bool RuleBook::plain() const {
    return groups.empty() && std::all_of(against.begin(), against.end(), [](const Columns& c) { return c.empty(); });
}

bool RuleBook::allow(const Columns& set) const {
    std::vector<std::uint8_t> in(n, 0);
    Wide sum = 0;
    for (const std::uint32_t c : set) {
        if (never[c] != 0 || in[c] != 0) return false;
        in[c] = 1;
        sum += cost[c];
    }
    if (sum > room) return false;
    for (std::uint32_t c = 0; c < n; ++c)
        if (required[c] != 0 && in[c] == 0) return false;
    for (const std::uint32_t c : set)
        for (const std::uint32_t other : against[c])
            if (in[other] != 0) return false;
    return std::all_of(groups.begin(), groups.end(), [&](const Group& group) { return wanted(group, in) == 0; });
}

bool keeps_to(const ChoiceRules& rules, const Columns& set) { return RuleBook(with_what_follows(rules)).allow(set); }

ChoiceRules with_what_follows(ChoiceRules rules) {
    std::vector<std::uint8_t> kept(rules.columns, 0);
    for (const std::uint32_t c : rules.kept) kept[c] = 1;
    for (const auto& [a, b] : rules.apart) {
        if (kept[a] != 0 && kept[b] == 0) rules.never.push_back(b);
        if (kept[b] != 0 && kept[a] == 0) rules.never.push_back(a);
    }
    std::erase_if(rules.never, [&](std::uint32_t c) { return kept[c] != 0; });
    return rules;
}

}  // namespace otoro::optimise
