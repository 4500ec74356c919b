#pragma once
/// \file
/// Choosing columns: what may be chosen, and what is found.
///
/// Whatever the goal, so many columns are chosen, or as many as a budget pays for, beside those kept; some must be in,
/// some may not, some exclude each other, and of some groups so many at least are wanted. More columns never hurt.
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "geo/units.h"

namespace otoro::optimise {

using Columns = std::vector<std::uint32_t>;

/// Columns of which so many at least are wanted; one that is named twice counts once.
struct Group {
    Columns columns;
    std::uint32_t least = 1;
};

/// What may be chosen of `columns` columns, numbered from 0.
struct ChoiceRules {
    std::uint32_t columns = 0;  ///< how many there are
    Columns kept = {};          ///< in whatever happens; they neither count nor cost
    std::uint32_t choose = 1;   ///< how many besides; fewer only where the other rules allow no more
    Columns never = {};         ///< not to be chosen
    Columns required = {};      ///< to be among the chosen
    /// With costs, one a column and none negative, what they may come to in all counts instead of `choose`.
    std::span<const std::int64_t> costs = {};
    std::int64_t budget = 0;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> apart = {};  ///< not both, of those that are in
    std::vector<Group> groups = {};                                   ///< kept ones are of them too
};

/// The same with what follows: what is not to stand beside a kept column is never chosen, and what is kept is kept,
/// though it may not be chosen.
ChoiceRules with_what_follows(ChoiceRules rules);

/// The best set so far, and what is proven of it. Values are as the goal counts them.
struct Chosen {
    Columns columns;  ///< besides those kept, ascending
    Wide value = 0;
    Wide bound = 0;         ///< no set is better than this
    bool any = true;        ///< false: no set keeps to the rules, or none was found yet
    bool left_off = false;  ///< before all was looked at
    [[nodiscard]] bool proven() const { return any && value == bound; }
    /// How far the value may be from the best, as a part of it.
    [[nodiscard]] double gap() const;
};

#ifdef NDEBUG
inline constexpr bool kCheckProofs = false;
#else
inline constexpr bool kCheckProofs = true;
#endif

/// When to leave off before it is proven.
struct ChoiceLimits {
    double gap = 0;  ///< of the value: no more than this is good enough
    /// Sets below this are of no use: where none reaches it, that is all that is proven.
    std::optional<Wide> wanted = {};
    std::function<bool(const Chosen&)> enough = {};  ///< asked whenever something is found, and now and then between
    std::optional<std::uint64_t> most_nodes = {};    ///< of the search: no more are looked at
    /// Whether the proof is written down and gone through by `proof.h`. \throws std::logic_error if it does not hold
    bool check_proof = kCheckProofs;
};

}  // namespace otoro::optimise
