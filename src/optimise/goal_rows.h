#pragma once
/// \file
/// What a set of columns is worth to the rows of a table: what the search for the best set asks of a goal.
#include <span>
#include <vector>

#include "optimise/choice.h"

namespace otoro::optimise {

/// Rows, and what each is worth when a set of columns is chosen. The sum is to be as large as can be; goals that are
/// to be small count below nothing. A further column never makes it less.
///
/// The same numbers on any number of threads. Not for two threads at once.
class GoalRows {
public:
    virtual ~GoalRows() = default;

    /// By column: whether it is in.
    [[nodiscard]] virtual Wide value_of(const std::vector<std::uint8_t>& in) const = 0;

    /// What changes when a column comes in, goes, or one comes for another.
    struct Exchanges {
        std::vector<Wide> gain;    ///< by column that is not in
        std::vector<Wide> lost;    ///< by member of the set, in its order
        std::vector<Wide> shared;  ///< column after column, by member: that much better than gain less what is lost

        Exchanges() = default;
        Exchanges(std::size_t columns, std::size_t members)
            : gain(columns, 0), lost(members, 0), shared(columns * members, 0) {}
        void add(const Exchanges& o) {
            for (std::size_t k = 0; k < gain.size(); ++k) gain[k] += o.gain[k];
            for (std::size_t k = 0; k < lost.size(); ++k) lost[k] += o.lost[k];
            for (std::size_t k = 0; k < shared.size(); ++k) shared[k] += o.shared[k];
        }
    };
    /// \param set no column twice
    virtual void exchanges(std::span<const std::uint32_t> set, Exchanges& out) const = 0;

    /// What the goal's slopes prove where columns are chosen in part, its bends rounded off over a width: whatever is
    /// chosen, the goal is no more than `rest` and the worth of the chosen.
    struct Slope {
        std::vector<Wide> worth;  ///< by column, none below nothing
        Wide rest = 0;
    };
    virtual void slope(const std::vector<double>& shares, double width, Slope& out) const = 0;

    /// Every value is a multiple of this, so that bounds can be rounded.
    [[nodiscard]] virtual Wide grain() const = 0;

    /// About what the goal can gain by choosing, for the length of the first step.
    [[nodiscard]] virtual double scale() const = 0;
};

}  // namespace otoro::optimise
