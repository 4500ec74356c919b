#pragma once
/// \file
/// So many columns chosen that the rows they cover weigh as much as can be.
///
/// \par Problem
/// Every row has an amount and a list of columns that cover it. A row counts once, however many of its columns are
/// chosen: the maximal covering location problem (Church, ReVelle 1974), NP-hard.
///
/// \par Method
/// Rows that kept columns cover, and rows that nobody covers, are settled at once; rows of one list become one. A set
/// is found greedily and improved by exchanging one column for another as long as that gains (Teitz, Bart 1968). The
/// bound is that of relaxing *a row counts only if one of its columns is chosen* (Galvao, ReVelle 1996). Its
/// multipliers are the slopes of a smoothed relaxation (Nesterov 2005), which is climbed in the few columns instead of
/// the many rows (Beck, Teboulle 2009); every multiplier is rounded to a whole number, so that the bound is exact.
/// Columns whose choice, or whose absence, would bring the bound below the best set are settled for good. What is left
/// is searched by branch and bound, the branch of the higher bound first.
///
/// \par Exact
/// `Chosen::proven` says that nothing is better. Equal gains are settled by the number of the column. The same on any
/// number of threads, unless it is stopped before it is done.
///
/// \par Cost
/// A step looks at every entry of the merged table, two or three times.
///
/// \par Example
/// \code
///   // Three rows of 1; the middle column covers two of them, the others one each.
///   Covers covers;
///   covers.add_row(std::array{0U, 1U});
///   covers.add_row(std::array{1U});
///   covers.add_row(std::array{2U});
///   most_cover({std::array{1L, 1L, 1L}, covers, 3, {}, 1}, {}, task).columns == std::vector{1U};
/// \endcode
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "geo/task.h"
#include "geo/units.h"

namespace otoro::optimise {

/// For each row the columns that cover it, each once.
class Covers {
public:
    void reserve(std::size_t rows, std::size_t entries) {
        first_.reserve(rows + 1);
        columns_.reserve(entries);
    }
    void add_row(std::span<const std::uint32_t> columns) {
        columns_.insert(columns_.end(), columns.begin(), columns.end());
        first_.push_back(columns_.size());
    }
    [[nodiscard]] std::uint32_t rows() const { return static_cast<std::uint32_t>(first_.size() - 1); }
    [[nodiscard]] std::size_t count() const { return columns_.size(); }
    [[nodiscard]] std::span<const std::uint32_t> of(std::uint32_t row) const {
        return {columns_.data() + first_[row], columns_.data() + first_[row + 1]};
    }

private:
    std::vector<std::size_t> first_{0};
    std::vector<std::uint32_t> columns_;
};

struct CoverAsked {
    std::span<const std::int64_t> amounts;  ///< one a row, none negative; their sum must be held
    const Covers& covers;
    std::uint32_t columns = 0;              ///< how many there are
    std::vector<std::uint32_t> kept = {};   ///< chosen whatever happens, not counted among `choose`
    std::uint32_t choose = 1;               ///< how many more; no more than there are
    std::vector<std::uint32_t> never = {};  ///< not to be chosen
};

/// The best set so far, and what is proven of it.
struct Chosen {
    std::vector<std::uint32_t> columns;  ///< besides those kept, ascending
    std::int64_t value = 0;              ///< of all rows that are covered
    std::int64_t bound = 0;              ///< no set has more
    [[nodiscard]] bool proven() const { return value == bound; }
};

/// When to leave off before it is proven.
struct CoverLimits {
    double gap = 0;                                  ///< of the bound: less than this is good enough
    std::function<bool(const Chosen&)> enough = {};  ///< asked whenever something is found, and now and then between
};

/// \throws Stopped
Chosen most_cover(const CoverAsked& asked, const CoverLimits& limits, const Task& task);

}  // namespace otoro::optimise
