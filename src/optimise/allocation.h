#pragma once
/// \file
/// Demand given to sites that have only so many places: what is asked, and what comes out.
///
/// Nothing here knows what a place or a site is: rows have amounts, columns have room, and a sparse table says what a
/// unit of a row costs at a column.
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "geo/units.h"

namespace otoro::optimise {

/// One entry of the table: a column that a row may go to, and what a unit of it costs there.
struct Pair {
    std::uint32_t column = 0;
    std::uint32_t cost = 0;
    bool operator==(const Pair&) const = default;
};

/// A sparse table, row by row. Within a row each column stands once, in any order.
class Pairs {
public:
    void reserve(std::size_t rows, std::size_t pairs) {
        first_.reserve(rows + 1);
        pairs_.reserve(pairs);
    }
    void add_row(std::span<const Pair> row) {
        pairs_.insert(pairs_.end(), row.begin(), row.end());
        first_.push_back(pairs_.size());
    }
    [[nodiscard]] std::uint32_t rows() const { return static_cast<std::uint32_t>(first_.size() - 1); }
    [[nodiscard]] std::span<const Pair> of(std::uint32_t row) const {
        return {pairs_.data() + first_[row], pairs_.data() + first_[row + 1]};
    }
    [[nodiscard]] std::size_t count() const { return pairs_.size(); }

private:
    std::vector<std::size_t> first_{0};
    std::vector<Pair> pairs_;
};

/// A column without a bound on what it takes.
inline constexpr std::int64_t kNoBound = std::numeric_limits<std::int64_t>::max();

/// What is to be given to whom. Amounts and room are whole numbers of one unit (millionths of a person), costs are of
/// one unit.
struct Demand {
    std::span<const std::int64_t> amounts;  ///< one a row, none negative; sums must be held
    std::span<const std::int64_t> room;     ///< one a column, none negative, or `kNoBound`
    /// What each column is to have at least, no more than its room; empty: nothing.
    std::span<const std::int64_t> least = {};
};

/// Part of a row, or the whole of it, at a column.
struct Part {
    std::uint32_t row = 0, column = 0;
    std::int64_t amount = 0;
    bool operator==(const Part&) const = default;
};

/// Who goes where. What is in no part has found no room.
struct Allocation {
    std::vector<Part> parts;          ///< by row, and within one by column; none of nothing, but for rows of nothing
    std::int64_t left_over = 0;       ///< in no part
    std::int64_t short_of_least = 0;  ///< of all columns together
    Wide total = 0;                   ///< amounts times costs
};

}  // namespace otoro::optimise
