#pragma once
/// \file
/// How much the columns that are open can be worth at most under a plane, as the rules leave room for them.
///
/// \par Exact
/// Of columns that are counted the sets that leave a group its room are a laminar matroid: the greedy one is the best.
/// For money a part of the first that there is no room for is taken, and what rounding can have done is added.
#include <optional>
#include <vector>

#include "optimise/choice_fates.h"
#include "optimise/goal_rows.h"

namespace otoro::optimise {

struct Relaxed {
    Wide exact = 0;  ///< no set of this part is worth more
    Wide bound = 0;  ///< the same, rounded to what values there are
    std::vector<Wide> worth;
    Wide rest = 0;                    ///< of the plane with that worth
    std::vector<std::uint8_t> taken;  ///< of those open: whole, in the relaxed optimum
    /// The last that is taken whole, and the first that is not: between them stands what a unit of room brings.
    std::optional<std::uint32_t> last_in, first_out;
    bool in_part = false;  ///< whether that one is taken in part
    /// Where a group leaves others no more room than is taken: the group, and the last of the others.
    const Group* group = nullptr;
    std::optional<std::uint32_t> last_other;
};

class ChoiceBounds {
public:
    /// \pre both stay
    ChoiceBounds(const ChoiceFates& fates, const GoalRows& rows) : fates_(fates), rules_(fates.rules()), rows_(rows) {}

    /// The most that those open are worth within the room that is left, in part too, and what stands besides.
    [[nodiscard]] Relaxed relax(const GoalRows::Slope& at) const;
    /// No value lies between the multiples of the grain.
    [[nodiscard]] Wide rounded(Wide bound) const;
    /// At least how much the bound falls when a column that is taken goes out, or one that is not comes in.
    [[nodiscard]] Wide loss_of(const Relaxed& r, std::uint32_t column) const;
    /// The nearest shares between nothing and one, those that are settled as they are, that cost what there is room
    /// for, and of which the leading group has what it wants.
    [[nodiscard]] std::vector<double> within(std::vector<double> shares) const;

private:
    [[nodiscard]] long double rate_of(const Relaxed& r, std::uint32_t column) const;
    /// The shares of some columns moved by as much for what they cost, between nothing and one, until they cost so
    /// much.
    [[nodiscard]] std::vector<double> cut_to(std::vector<double> shares, const Columns& columns, double left) const;

    const ChoiceFates& fates_;
    const RuleBook& rules_;
    const GoalRows& rows_;
};

}  // namespace otoro::optimise
