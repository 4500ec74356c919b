#pragma once
/// \file
/// Rows that are worth something when columns that cover them are chosen.
///
/// A row counts by how many of its columns are in: the first covers it, a second may still bring something (backup, or
/// the chance that the first is busy), each no more than the one before. Rows of one list are merged; rows that kept
/// columns cover as far as that goes, and rows that nobody covers, are settled at once.
///
/// \par Sources
/// Maximal cover: Church, ReVelle 1974. Backup cover: Hogan, ReVelle 1986. Expected cover: Daskin 1983. The relaxation
/// of "a row counts only if one of its columns is chosen": Galvao, ReVelle 1996.
#include "optimise/covers.h"
#include "optimise/goal_rows.h"

namespace otoro::optimise {

class CoverRows : public GoalRows {
public:
    /// \param amounts one a row, none negative; their sum must be held
    /// \param levels what the first column that covers a row brings for a unit of its amount, what the second, and so
    /// on; none more than the one before \pre there is one at least
    CoverRows(std::span<const std::int64_t> amounts, const Covers& covers, const ChoiceRules& rules,
              std::vector<std::int64_t> levels);

    [[nodiscard]] Wide value_of(const std::vector<std::uint8_t>& in) const override;
    void exchanges(std::span<const std::uint32_t> set, Exchanges& out) const override;
    void slope(const std::vector<double>& shares, double width, Slope& out) const override;
    [[nodiscard]] double scale() const override { return static_cast<double>(all_); }

    [[nodiscard]] Wide grain() const override { return grain_; }

private:
    /// The slope of a unit of amount where shares of its columns add up to this, its bends rounded off over a width.
    [[nodiscard]] double slope_at(std::size_t row, double sum, double width) const;
    /// What the `k`th column brings, from 1, beside those kept.
    [[nodiscard]] std::int64_t level(std::size_t row, std::size_t k) const {
        const std::size_t at = k - 1 + kept_[row];
        return at < levels_.size() ? levels_[at] : 0;
    }
    /// What so many columns bring beside those kept.
    [[nodiscard]] std::int64_t up_to(std::size_t row, std::size_t k) const;
    [[nodiscard]] std::span<const std::uint32_t> of(std::size_t row) const {
        return {columns_.data() + first_[row], columns_.data() + first_[row + 1]};
    }

    std::uint32_t n_;
    std::vector<std::int64_t> levels_;
    std::vector<std::int64_t> amounts_;
    std::vector<std::uint8_t> kept_;  ///< how many kept columns cover the row, up to the number of levels
    std::vector<std::size_t> first_{0};
    std::vector<std::uint32_t> columns_;
    Wide settled_ = 0;  ///< by kept columns
    Wide grain_ = 1;
    Wide all_ = 0;  ///< what is still to be had
};

}  // namespace otoro::optimise
