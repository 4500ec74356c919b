#include <algorithm>
#include <numeric>
#include <span>
#include <utility>

#include "optimise/column_flow.h"
#include "optimise/whole_rows.h"

namespace otoro::optimise {
namespace {

/// Depth first: of what is not fixed the flow says what it comes to at least; a row that it splits is fixed to one of
/// its columns after another, and left over last.
class BestWhole {
public:
    BestWhole(const Pairs& pairs, const Demand& demand, std::vector<std::int64_t>& best, std::int64_t most_work,
              const Task& task)
        : pairs_(pairs),
          demand_(demand),
          best_(best),
          task_(task),
          goals_(goals_of(pairs, demand, best)),
          fixed_(pairs.rows(), kFree),
          work_(most_work) {
        for (std::uint32_t row = 0; row < pairs.rows(); ++row)
            if (demand.amounts[row] == 0) fixed_[row] = static_cast<std::int64_t>(pairs.of(row).size());
    }

    /// Whether all was looked at.
    bool run() {
        look();
        return work_ > 0;
    }

private:
    static constexpr std::int64_t kFree = -1;

    /// What is left to decide, and what is decided.
    struct Rest {
        Pairs pairs;
        std::vector<std::uint32_t> rows;              // of the whole table
        std::vector<std::vector<std::size_t>> slots;  // of each of them: which slots of the whole row its pairs are
        std::vector<std::int64_t> amounts, room, least;
        Goals fixed;
    };
    [[nodiscard]] Rest rest() const {
        Rest out;
        out.room.assign(demand_.room.begin(), demand_.room.end());
        out.least.assign(demand_.least.begin(), demand_.least.end());
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
            if (fixed_[row] == kFree) continue;
            const auto of_row = pairs_.of(row);
            const auto slot = static_cast<std::size_t>(fixed_[row]);
            const std::int64_t amount = demand_.amounts[row];
            if (slot == of_row.size()) {
                out.fixed.left_over += amount;
                continue;
            }
            const std::uint32_t c = of_row[slot].column;
            out.fixed.total += Wide{of_row[slot].cost} * amount;
            if (out.room[c] != kNoBound) out.room[c] -= amount;
            if (!out.least.empty()) out.least[c] = std::max<std::int64_t>(out.least[c] - amount, 0);
        }
        std::vector<Pair> fits;
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
            if (fixed_[row] != kFree) continue;
            fits.clear();
            std::vector<std::size_t> slots;
            const auto of_row = pairs_.of(row);
            for (std::size_t s = 0; s < of_row.size(); ++s) {
                if (out.room[of_row[s].column] < demand_.amounts[row]) continue;
                fits.push_back(of_row[s]);
                slots.push_back(s);
            }
            out.pairs.add_row(fits);
            out.rows.push_back(row);
            out.slots.push_back(std::move(slots));
            out.amounts.push_back(demand_.amounts[row]);
        }
        return out;
    }

    void look() {
        task_.check();
        const Rest rest = this->rest();
        work_ -= static_cast<std::int64_t>(pairs_.count() + pairs_.rows() + demand_.room.size());
        if (work_ <= 0) return;
        ColumnFlow flow(rest.pairs, {rest.amounts, rest.room, rest.least});
        flow.settle(task_.quietly());
        Goals bound = rest.fixed;
        std::uint32_t most_split = kNothing;
        std::vector<std::int64_t> answer = fixed_;
        for (std::uint32_t k = 0; k < rest.rows.size(); ++k) {
            const auto of_row = rest.pairs.of(k);
            std::size_t parts = 0;
            for (std::size_t s = 0; s <= of_row.size(); ++s) {
                const std::int64_t held = flow.held(k, s);
                if (held == 0) continue;
                ++parts;
                answer[rest.rows[k]] =
                    static_cast<std::int64_t>(s == of_row.size() ? pairs_.of(rest.rows[k]).size() : rest.slots[k][s]);
                if (s == of_row.size())
                    bound.left_over += held;
                else
                    bound.total += Wide{of_row[s].cost} * held;
            }
            if (parts > 1 && (most_split == kNothing || rest.amounts[k] > rest.amounts[most_split])) most_split = k;
        }
        for (std::uint32_t c = 0; c < rest.least.size(); ++c)
            bound.short_of_least += std::max<std::int64_t>(rest.least[c] - flow.load(c), 0);
        if (!(bound < goals_)) return;
        if (most_split == kNothing) {
            goals_ = bound;
            best_ = answer;
            return;
        }
        const std::uint32_t row = rest.rows[most_split];
        std::vector<std::size_t> order(rest.slots[most_split].size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return flow.held(most_split, a) > flow.held(most_split, b);
        });
        for (const std::size_t s : order) {
            fixed_[row] = static_cast<std::int64_t>(rest.slots[most_split][s]);
            look();
            if (work_ <= 0) break;
        }
        if (work_ > 0) {
            fixed_[row] = static_cast<std::int64_t>(pairs_.of(row).size());
            look();
        }
        fixed_[row] = kFree;
    }

    static constexpr std::uint32_t kNothing = 0xffffffff;
    const Pairs& pairs_;
    const Demand& demand_;
    std::vector<std::int64_t>& best_;
    const Task& task_;
    Goals goals_;
    std::vector<std::int64_t> fixed_;
    std::int64_t work_;
};

}  // namespace

bool search_best_whole(const Pairs& pairs, const Demand& demand, std::vector<std::int64_t>& at, const Task& task,
                       std::int64_t most_work) {
    constexpr std::int64_t kWorthwhile = 500;  // flows: fewer decide nothing
    if (static_cast<std::int64_t>(pairs.count()) > most_work / kWorthwhile) return false;
    return BestWhole(pairs, demand, at, most_work, task).run();
}

}  // namespace otoro::optimise
