#include "optimise/whole_rows.h"

#include <algorithm>
#include <limits>
#include <optional>

namespace otoro::optimise {
namespace {

class WholeRows {
public:
    WholeRows(const Pairs& pairs, const Demand& demand, const SplitAnswer& split, std::vector<std::int64_t>& at)
        : pairs_(pairs),
          demand_(demand),
          split_(split),
          at_(at),
          room_(demand.room.begin(), demand.room.end()),
          load_(demand.room.size(), 0),
          rows_(demand.room.size()),
          place_in_(pairs.rows(), 0) {}

    void run(const Task& task) {
        std::vector<std::uint32_t> split;
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
            if (at_[row] < 0)
                split.push_back(row);
            else if (!without(row))
                come(row, static_cast<std::size_t>(at_[row]));
        }
        std::stable_sort(split.begin(), split.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return amount(a) > amount(b); });
        for (const std::uint32_t row : split) at_[row] = static_cast<std::int64_t>(pairs_.of(row).size());
        for (const std::uint32_t row : split) {
            task.check();
            if (const auto slot = best_part(row))
                come(row, *slot);
            else
                take_in(row);
            moved_.push_back(row);
        }
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row)
            if (amount(row) > 0 && without(row))
                if (const auto slot = cheapest(row, kAnyCost)) come(row, *slot);
        constexpr int kMostRounds = 50;
        for (int round = 0; round < kMostRounds; ++round) {
            task.at("putting together what was split", static_cast<double>(round) / kMostRounds);
            const bool filled = fill(task);
            if (!improve(task) && !filled) return;
        }
    }

private:
    [[nodiscard]] std::int64_t amount(std::uint32_t row) const { return demand_.amounts[row]; }
    [[nodiscard]] bool without(std::uint32_t row) const {
        return at_[row] == static_cast<std::int64_t>(pairs_.of(row).size());
    }
    [[nodiscard]] const Pair& pair(std::uint32_t row) const {
        return pairs_.of(row)[static_cast<std::size_t>(at_[row])];
    }
    [[nodiscard]] bool fits(std::uint32_t column, std::int64_t more) const { return room_[column] >= more; }
    [[nodiscard]] std::int64_t least(std::uint32_t column) const {
        return demand_.least.empty() ? 0 : demand_.least[column];
    }
    /// Whether a column can spare so much.
    [[nodiscard]] bool spares(std::uint32_t column, std::int64_t amount) const {
        return amount <= 0 || least(column) == 0 || load_[column] - amount >= least(column);
    }

    void come(std::uint32_t row, std::size_t slot) {
        at_[row] = static_cast<std::int64_t>(slot);
        const std::uint32_t column = pair(row).column;
        if (demand_.room[column] != kNoBound) room_[column] -= amount(row);
        load_[column] += amount(row);
        place_in_[row] = static_cast<std::uint32_t>(rows_[column].size());
        rows_[column].push_back(row);
    }
    void go(std::uint32_t row) {
        const std::uint32_t column = pair(row).column;
        if (demand_.room[column] != kNoBound) room_[column] += amount(row);
        load_[column] -= amount(row);
        auto& here = rows_[column];
        place_in_[here.back()] = place_in_[row];
        std::swap(here[place_in_[row]], here.back());
        here.pop_back();
        at_[row] = static_cast<std::int64_t>(pairs_.of(row).size());
    }

    /// Of the columns that a row was split over, which all are as good for it at the prices, the one that lacks most of
    /// the load it then had. Nothing if none has room.
    [[nodiscard]] std::optional<std::size_t> best_part(std::uint32_t row) const {
        const auto pairs = pairs_.of(row);
        const auto priced = [&](const Pair& p) { return std::int64_t{p.cost} + split_.prices[p.column]; };
        std::optional<std::size_t> best;
        std::int64_t least = std::numeric_limits<std::int64_t>::max(), most_lacking = 0;
        for (const Pair& p : pairs) least = std::min(least, priced(p));
        for (std::size_t s = 0; s < pairs.size(); ++s) {
            const std::uint32_t c = pairs[s].column;
            const std::int64_t lacking = split_.loads[c] - load_[c];
            if (priced(pairs[s]) != least || !fits(c, amount(row)) || (best && lacking <= most_lacking)) continue;
            best = s;
            most_lacking = lacking;
        }
        return best;
    }

    static constexpr std::int64_t kAnyCost = std::int64_t{1} << 40;

    /// The cheapest slot with room, other than where it is, that costs less than `below`.
    [[nodiscard]] std::optional<std::size_t> cheapest(std::uint32_t row, std::int64_t below) const {
        const auto pairs = pairs_.of(row);
        std::optional<std::size_t> best;
        for (std::size_t s = 0; s < pairs.size(); ++s)
            if (static_cast<std::int64_t>(s) != at_[row] && pairs[s].cost < below &&
                fits(pairs[s].column, amount(row)) && (!best || pairs[s].cost < pairs[*best].cost))
                best = s;
        return best;
    }

    /// Finds room for who has none: where there is some, or where one row, moved on, makes it.
    bool take_in(std::uint32_t row) {
        if (const auto slot = cheapest(row, kAnyCost)) {
            come(row, *slot);
            return true;
        }
        struct Chain {
            Wide cost;
            std::size_t slot, next;
            std::uint32_t other;
        };
        std::optional<Chain> best;
        const auto pairs = pairs_.of(row);
        const std::int64_t most = *std::max_element(room_.begin(), room_.end());
        for (std::size_t s = 0; s < pairs.size(); ++s) {
            const std::int64_t wanted = amount(row) - room_[pairs[s].column];
            if (wanted > most) continue;
            for (const std::uint32_t other : rows_[pairs[s].column]) {
                if (amount(other) < wanted || amount(other) > most) continue;
                const auto next = cheapest(other, kAnyCost);
                if (!next) continue;
                const Wide cost = Wide{pairs[s].cost} * amount(row) +
                                  (Wide{pairs_.of(other)[*next].cost} - pair(other).cost) * amount(other);
                if (!best || cost < best->cost) best = Chain{cost, s, *next, other};
            }
        }
        if (!best) return false;
        go(best->other);
        come(best->other, best->next);
        come(row, best->slot);
        moved_.push_back(best->other);
        return true;
    }

    /// Exchanges a row with one of a column that it would rather be at, if that saves.
    bool exchange(std::uint32_t row) {
        const auto pairs = pairs_.of(row);
        const Pair now = pair(row);
        for (std::size_t s = 0; s < pairs.size(); ++s) {
            if (pairs[s].cost >= now.cost) continue;
            for (const std::uint32_t other : rows_[pairs[s].column]) {
                const std::int64_t less = amount(row) - amount(other);
                if (!fits(now.column, -less) || !fits(pairs[s].column, less) || !spares(now.column, less) ||
                    !spares(pairs[s].column, -less))
                    continue;
                const auto of_other = pairs_.of(other);
                const auto back = std::find_if(of_other.begin(), of_other.end(),
                                               [&](const Pair& p) { return p.column == now.column; });
                if (back == of_other.end()) continue;
                const Wide more = (Wide{pairs[s].cost} - now.cost) * amount(row) +
                                  (Wide{back->cost} - pair(other).cost) * amount(other);
                if (more >= 0) continue;
                go(row);
                go(other);
                come(row, s);
                come(other, static_cast<std::size_t>(back - of_other.begin()));
                moved_.push_back(other);
                return true;
            }
        }
        return false;
    }

    /// Those that were put together, or had to move for them; the others are where the flow, which is the cheapest, has
    /// them.
    bool improve(const Task& task) {
        bool better = false;
        std::vector<std::uint32_t> rows;
        rows.swap(moved_);
        std::sort(rows.begin(), rows.end());
        rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
        for (const std::uint32_t row : rows) {
            task.check();
            const bool changed = without(row) ? take_in(row) : move_on(row) || exchange(row);
            better |= changed;
            moved_.push_back(row);
        }
        return better;
    }

    /// Columns that are short of their least get rows that others can spare, as long as there are some: each time the
    /// one that costs least for what it brings.
    bool fill(const Task& task) {
        bool any = false;
        for (std::uint32_t column = 0; column < demand_.least.size(); ++column) {
            while (load_[column] < least(column)) {
                task.check();
                const std::int64_t wanted = least(column) - load_[column];
                double best = std::numeric_limits<double>::infinity();
                std::optional<std::pair<std::uint32_t, std::size_t>> move;
                for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
                    if (amount(row) == 0 || without(row) || !fits(column, amount(row)) || pair(row).column == column ||
                        !spares(pair(row).column, amount(row)))
                        continue;
                    const auto pairs = pairs_.of(row);
                    for (std::size_t s = 0; s < pairs.size(); ++s) {
                        if (pairs[s].column != column) continue;
                        const double more = (static_cast<double>(pairs[s].cost) - pair(row).cost) *
                                            static_cast<double>(amount(row)) /
                                            static_cast<double>(std::min(amount(row), wanted));
                        if (more >= best) continue;
                        best = more;
                        move = {row, s};
                    }
                }
                if (!move) break;
                go(move->first);
                come(move->first, move->second);
                moved_.push_back(move->first);
                any = true;
            }
        }
        return any;
    }

    bool move_on(std::uint32_t row) {
        if (!spares(pair(row).column, amount(row))) return false;
        const auto slot = cheapest(row, pair(row).cost);
        if (!slot) return false;
        go(row);
        come(row, *slot);
        return true;
    }

    const Pairs& pairs_;
    const Demand& demand_;
    const SplitAnswer& split_;
    std::vector<std::int64_t>& at_;
    std::vector<std::int64_t> room_, load_;
    std::vector<std::vector<std::uint32_t>> rows_;  // by column
    std::vector<std::uint32_t> place_in_;           // of each row in its column's
    std::vector<std::uint32_t> moved_;
};

}  // namespace

void make_whole(const Pairs& pairs, const Demand& demand, const SplitAnswer& split, std::vector<std::int64_t>& at,
                const Task& task) {
    WholeRows(pairs, demand, split, at).run(task);
}

}  // namespace otoro::optimise
