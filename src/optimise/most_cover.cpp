#include "optimise/most_cover.h"

#include <cmath>

#include "optimise/choice_search.h"
#include "optimise/cover_rows.h"

namespace otoro::optimise {

std::vector<std::int64_t> expected_levels(Share busy) {
    const double free = 1 - busy.percent() / 100;
    std::vector<std::int64_t> out;
    double chance = free;
    constexpr std::size_t kMost = 200;
    while (out.size() < kMost) {
        const std::int64_t parts = std::llround(chance * static_cast<double>(kWholeLevel));
        if (parts == 0) break;
        out.push_back(parts);
        chance *= 1 - free;
    }
    return out;
}

Chosen most_cover(const CoverAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits, const Task& task) {
    const ChoiceRules with = with_what_follows(rules);
    const CoverRows rows(asked.amounts, asked.covers, with, asked.levels);
    return best_choice(rows, with, asked.start, limits, task);
}

}  // namespace otoro::optimise
