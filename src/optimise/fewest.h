#pragma once
/// \file
/// As few columns as can be, or as cheap ones, that cover every row that can be covered; or so much of what rows weigh.
///
/// \par Problem
/// The set covering problem (Toregas, Swain, ReVelle, Bergman 1971), NP-hard; and its like where a part is enough.
///
/// \par Method
/// Of all: rows that contain another are dropped, columns that another contains too, single columns are taken, as long
/// as that changes anything. The bound is Lagrangian, climbed by subgradient steps (Held, Karp 1971), and columns that
/// it excludes are settled (Beasley 1987); sets are found greedily by reduced cost; what is left is searched, the row
/// with the fewest columns first. Of a part: numbers are tried from one that is found greedily downwards, each with
/// `most_cover.h`.
///
/// \par Exact
/// Bounds are rounded down far beyond what adding up can have done. The same on any number of threads.
#include "geo/task.h"
#include "optimise/choice.h"
#include "optimise/covers.h"

namespace otoro::optimise {

/// A set that covers, and what is proven.
struct Fewest {
    Columns columns;         ///< besides those kept, ascending
    std::int64_t value = 0;  ///< how many, or what they cost
    std::int64_t bound = 0;  ///< no set that covers has fewer, or costs less; the largest number if there is none
    bool any = true;         ///< false: no set that keeps to the rules covers, or none was found yet
    bool left_off = false;   ///< before all was looked at
    [[nodiscard]] bool proven() const { return any && value == bound; }
};

struct FewestLimits {
    double gap = 0;  ///< of the value
    /// Dearer sets are of no use: where none keeps to it, that is all that is proven.
    std::optional<std::int64_t> most = {};
    std::function<bool(const Fewest&)> enough = {};
    std::optional<std::uint64_t> most_nodes = {};  ///< of the search: no more are looked at
    bool check_proof = kCheckProofs;               ///< as of `ChoiceLimits`; from when rows and columns are reduced
};

/// Of all rows that columns not excluded cover. `rules.choose` and `rules.budget` do not limit. Where a group wants
/// several: `fewest_part.h`. \pre then no costs \throws Stopped
Fewest fewest_for_all(const Covers& covers, const ChoiceRules& rules, const FewestLimits& limits, const Task& task);

/// So many columns that rows of `wanted` in all are covered. Costs do not count. \param amounts one a row \throws
/// Stopped
Fewest fewest_for_part(std::span<const std::int64_t> amounts, const Covers& covers, std::int64_t wanted,
                       const ChoiceRules& rules, const FewestLimits& limits, const Task& task);

}  // namespace otoro::optimise
