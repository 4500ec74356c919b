#pragma once
/// \file
/// Rows that each go to the cheapest column that is in, and are worth what that costs, below nothing.
///
/// \par Method
/// Each row's columns stand in order of cost, and end where a kept column serves it. Prices are what the row would pay
/// for the share of a column that makes it whole; a column is worth what it saves against them. That relaxation is as
/// tight as the linear one (Cornuejols, Fisher, Nemhauser 1977).
///
/// \par Cost
/// A step looks at the beginning of each row, as far as its shares take to make it whole.
#include <numeric>

#include "geo/task.h"
#include "optimise/allocation.h"
#include "optimise/goal_rows.h"

namespace otoro::optimise {

class TravelRows : public GoalRows {
public:
    /// \param amounts one a row, none negative \param pairs what a unit of each row costs at each column; rows of no
    /// pair, and of no amount, are left out of everything \throws Stopped
    TravelRows(std::span<const std::int64_t> amounts, const Pairs& pairs, const ChoiceRules& rules, const Task& task);

    /// What a row costs that no column in reaches, but for what is left out whatever is chosen.
    /// \param cost more than any pair's
    void price_unreached(std::int64_t cost, Wide left_anyway) {
        unreached_ = cost;
        left_anyway_ = left_anyway;
        set_aside_ = left_anyway * cost;
    }

    /// What is in reach of a set, and what it costs.
    struct Sum {
        Wide travel = 0;             ///< amounts times costs
        Wide not_reached = 0;        ///< amounts that no column in reaches
        std::uint32_t farthest = 0;  ///< cost, of rows that are reached
    };
    [[nodiscard]] Sum sum_of(const std::vector<std::uint8_t>& in) const;

    [[nodiscard]] Wide value_of(const std::vector<std::uint8_t>& in) const override;
    void exchanges(std::span<const std::uint32_t> set, Exchanges& out) const override;
    void slope(const std::vector<double>& shares, double width, Slope& out) const override;
    [[nodiscard]] double scale() const override;
    [[nodiscard]] Wide grain() const override { return std::gcd(grain_, static_cast<std::int64_t>(left_anyway_)); }

    [[nodiscard]] std::uint32_t dearest() const { return dearest_; }
    /// Rows that some column does not reach, none kept does, and hence may be left out.
    [[nodiscard]] bool any_may_be_left() const { return may_be_left_; }

private:
    [[nodiscard]] std::span<const Pair> of(std::size_t row) const {
        return {pairs_.data() + first_[row], pairs_.data() + first_[row + 1]};
    }
    /// What the row costs where none of its columns is in.
    [[nodiscard]] std::int64_t otherwise(std::size_t row) const {
        return otherwise_[row] == kNobody ? unreached_ : otherwise_[row];
    }
    /// What a unit of the row pays for the share that makes it whole; a mean over wholes from half a width less to half
    /// a width more than one.
    [[nodiscard]] double price(std::size_t row, const std::vector<double>& shares, double width) const;

    static constexpr std::int64_t kNobody = -1;
    std::uint32_t n_;
    std::vector<std::int64_t> amounts_;
    std::vector<std::int64_t> otherwise_;  ///< what a kept column costs, or the dearest, or `kNobody`
    std::vector<std::size_t> first_{0};
    std::vector<Pair> pairs_;  ///< cheapest first
    std::int64_t unreached_ = 0;
    std::int64_t grain_ = 1;
    Wide left_anyway_ = 0;
    Wide set_aside_ = 0;  ///< what costs anyway
    std::uint32_t dearest_ = 0;
    bool may_be_left_ = false;
};

}  // namespace otoro::optimise
