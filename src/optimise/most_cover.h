#pragma once
/// \file
/// So many columns chosen that the rows they cover weigh as much as can be.
///
/// \par Problem
/// Every row has an amount and a list of columns that cover it. A row counts once, however many of its columns are
/// chosen: the maximal covering location problem (Church, ReVelle 1974), NP-hard. Or a second column counts too, and a
/// third, each no more than the one before: backup (Hogan, ReVelle 1986) and expected cover (Daskin 1983).
///
/// \par Method, exactness
/// `choice_search.h` over `cover_rows.h`.
///
/// \par Cost
/// Rows of one list are merged; a step looks at every entry of the merged table, two or three times.
///
/// \par Example
/// \code
///   // Three rows of 1; the middle column covers two of them, the others one each.
///   Covers covers;
///   covers.add_row(std::array{0U, 1U});
///   covers.add_row(std::array{1U});
///   covers.add_row(std::array{2U});
///   most_cover({std::array{1L, 1L, 1L}, covers}, {3}, {}, task).columns == std::vector{1U};
/// \endcode
#include "geo/task.h"
#include "optimise/choice.h"
#include "optimise/covers.h"

namespace otoro::optimise {

struct CoverAsked {
    std::span<const std::int64_t> amounts;  ///< one a row, none negative; their sum must be held
    const Covers& covers;
    /// What the first column that covers a row brings for a unit of its amount, what the second, and so on.
    std::vector<std::int64_t> levels = {1};
    Columns start = {};  ///< a set to begin with
};

/// What each further column of a row brings, in parts of `kWholeLevel`, when every one is busy that share of the time,
/// whatever the others do (Daskin 1983); those that bring less than one part are left out. \pre busy under 100 %
std::vector<std::int64_t> expected_levels(Share busy);
inline constexpr std::int64_t kWholeLevel = 1'000'000'000;

/// \throws Stopped
Chosen most_cover(const CoverAsked& asked, const ChoiceRules& rules, const ChoiceLimits& limits, const Task& task);

}  // namespace otoro::optimise
