#include "optimise/whole_rows.h"

#include <algorithm>
#include <array>
#include <limits>
#include <numeric>
#include <optional>
#include <span>
#include <utility>

namespace otoro::optimise {
namespace {

/// A row to one of its slots.
struct Step {
    std::uint32_t row = 0;
    std::size_t slot = 0;
};

/// Rows at one column each, and what moving some of them would change.
class WholeRows {
public:
    WholeRows(const Pairs& pairs, const Demand& demand)
        : pairs_(pairs),
          demand_(demand),
          at_(pairs.rows()),
          load_(demand.room.size(), 0),
          rows_(demand.room.size()),
          saved_(demand.room.size()),
          place_in_(pairs.rows(), 0) {
        for (std::uint32_t row = 0; row < pairs.rows(); ++row) at_[row] = none(row);
        constexpr std::int64_t kAlways = 30'000'000;
        const auto count = static_cast<std::int64_t>(pairs.count());
        work_ = 2 * kAlways + 8 * count;
        work_whatever_the_cost_ = kAlways;
        // About how many chains of two there are to begin.
        small_ = rows_.empty() || pairs_.count() / rows_.size() * pairs_.rows() <= kMostChains;
        for (std::uint32_t c = 0; c < demand.least.size(); ++c) lacking_columns_ += lacking(c) > 0 ? 1 : 0;
    }

    void from_flow(const SplitAnswer& split, const std::vector<std::int64_t>& at) {
        std::vector<std::uint32_t> were_split;
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
            if (at[row] < 0)
                were_split.push_back(row);
            else if (static_cast<std::size_t>(at[row]) != none(row))
                put({row, static_cast<std::size_t>(at[row])});
        }
        largest_first(were_split);
        for (const std::uint32_t row : were_split) {
            if (const auto slot = best_part(split, row)) put({row, *slot});
            touched_.push_back(row);
        }
    }

    void from_leasts() {
        std::vector<std::uint32_t> rows(pairs_.rows());
        std::iota(rows.begin(), rows.end(), 0U);
        largest_first(rows);
        for (const std::uint32_t row : rows) {
            const auto of_row = pairs_.of(row);
            std::optional<std::size_t> best;
            for (std::size_t s = 0; s < of_row.size(); ++s) {
                if (!fits(of_row[s].column, amount(row))) continue;
                const auto key = [&](std::size_t slot) {
                    return std::pair(-lacking(of_row[slot].column), of_row[slot].cost);
                };
                if (!best || key(s) < key(*best)) best = s;
            }
            if (best) put({row, *best});
        }
    }

    void improve(const Task& task) {
        for (std::uint32_t row = 0; row < pairs_.rows(); ++row)
            if (small_ || without(row)) touched_.push_back(row);
        constexpr int kMostRounds = 200;
        for (int round = 0; round < kMostRounds; ++round) {
            task.at("keeping places whole", static_cast<double>(round) / kMostRounds);
            const bool filled = fill(task);
            const auto looked_at = touched_;
            if (!improve_touched(task) && !filled) break;
            // Who found a better place may be where another would rather be.
            if (small_) touched_.insert(touched_.end(), looked_at.begin(), looked_at.end());
        }
    }

    /// Whether every row may begin chains.
    [[nodiscard]] bool is_small() const { return small_; }
    [[nodiscard]] Goals goals() const {
        std::vector<std::int64_t> at(at_.begin(), at_.end());
        return goals_of(pairs_, demand_, at);
    }
    [[nodiscard]] std::vector<std::int64_t> answer() const { return {at_.begin(), at_.end()}; }

private:
    static constexpr std::size_t kMostChains = 10'000'000;  // of more only rows that were split begin one

    /// What an answer gets less good by; better if below nothing.
    struct Change {
        Wide left_over = 0, short_of_least = 0, total = 0;
        bool operator<(const Change& o) const {
            return std::tie(left_over, short_of_least, total) < std::tie(o.left_over, o.short_of_least, o.total);
        }
        [[nodiscard]] bool better() const { return *this < Change{}; }
    };

    [[nodiscard]] std::int64_t amount(std::uint32_t row) const { return demand_.amounts[row]; }
    [[nodiscard]] std::size_t none(std::uint32_t row) const { return pairs_.of(row).size(); }
    [[nodiscard]] bool without(std::uint32_t row) const { return at_[row] == none(row); }
    [[nodiscard]] const Pair& pair(std::uint32_t row) const { return pairs_.of(row)[at_[row]]; }
    [[nodiscard]] bool fits(std::uint32_t column, std::int64_t more) const {
        return demand_.room[column] == kNoBound || demand_.room[column] - load_[column] >= more;
    }
    [[nodiscard]] std::int64_t least(std::uint32_t column) const {
        return demand_.least.empty() ? 0 : demand_.least[column];
    }
    [[nodiscard]] std::int64_t lacking(std::uint32_t column) const {
        return std::max<std::int64_t>(least(column) - load_[column], 0);
    }
    void largest_first(std::vector<std::uint32_t>& rows) const {
        std::stable_sort(rows.begin(), rows.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return amount(a) > amount(b); });
    }
    void load(std::uint32_t column, std::int64_t more) {
        saved_[column].known = false;
        lacking_columns_ -= lacking(column) > 0 ? 1 : 0;
        load_[column] += more;
        lacking_columns_ += lacking(column) > 0 ? 1 : 0;
    }
    void put(const Step& step) {
        if (!without(step.row)) {
            const std::uint32_t column = pair(step.row).column;
            load(column, -amount(step.row));
            auto& here = rows_[column];
            place_in_[here.back().row] = place_in_[step.row];
            std::swap(here[place_in_[step.row]], here.back());
            here.pop_back();
        }
        at_[step.row] = step.slot;
        if (without(step.row)) return;
        const std::uint32_t column = pair(step.row).column;
        load(column, amount(step.row));
        place_in_[step.row] = static_cast<std::uint32_t>(rows_[column].size());
        const Wide saved = Wide{pairs_.of(step.row).front().cost} - pair(step.row).cost;
        rows_[column].push_back({step.row, saved * amount(step.row)});
    }

    /// What steps of different rows, made together, would change; nothing where a column has no room for them.
    [[nodiscard]] std::optional<Change> change_by(std::span<const Step> steps) const {
        std::array<std::pair<std::uint32_t, std::int64_t>, 4> loads;
        std::size_t columns = 0;
        const auto add = [&](std::uint32_t column, std::int64_t more) {
            for (std::size_t k = 0; k < columns; ++k)
                if (loads[k].first == column) {
                    loads[k].second += more;
                    return;
                }
            loads[columns++] = {column, more};
        };
        Change out;
        for (const Step& s : steps) {
            if (without(s.row)) {
                out.left_over -= amount(s.row);
            } else {
                add(pair(s.row).column, -amount(s.row));
                out.total -= Wide{pair(s.row).cost} * amount(s.row);
            }
            if (s.slot == none(s.row)) {
                out.left_over += amount(s.row);
            } else {
                const Pair& to = pairs_.of(s.row)[s.slot];
                add(to.column, amount(s.row));
                out.total += Wide{to.cost} * amount(s.row);
            }
        }
        for (std::size_t k = 0; k < columns; ++k) {
            const auto [column, more] = loads[k];
            if (more > 0 && !fits(column, more)) return std::nullopt;
            out.short_of_least += std::max<std::int64_t>(least(column) - load_[column] - more, 0) - lacking(column);
        }
        return out;
    }

    /// Of the columns that a row was split over, which all are as good for it at the prices, the one that lacks most of
    /// the load it then had. Nothing if none has room.
    [[nodiscard]] std::optional<std::size_t> best_part(const SplitAnswer& split, std::uint32_t row) const {
        const auto pairs = pairs_.of(row);
        const auto priced = [&](const Pair& p) { return std::int64_t{p.cost} + split.prices[p.column]; };
        std::optional<std::size_t> best;
        std::int64_t least_priced = std::numeric_limits<std::int64_t>::max(), most_lacking = 0;
        for (const Pair& p : pairs) least_priced = std::min(least_priced, priced(p));
        for (std::size_t s = 0; s < pairs.size(); ++s) {
            const std::uint32_t c = pairs[s].column;
            const std::int64_t lacks = split.loads[c] - load_[c];
            if (priced(pairs[s]) != least_priced || !fits(c, amount(row)) || (best && lacks <= most_lacking)) continue;
            best = s;
            most_lacking = lacks;
        }
        return best;
    }

    /// The best chain that begins with a row.
    struct Chain {
        Change change;
        std::array<Step, 2> steps;
        std::size_t count = 0;
    };
    void consider(Chain& best, std::span<const Step> steps) const {
        const auto change = change_by(steps);
        if (!change || !(*change < best.change)) return;
        best.change = *change;
        std::copy(steps.begin(), steps.end(), best.steps.begin());
        best.count = steps.size();
    }
    [[nodiscard]] Chain best_chain(std::uint32_t row) {
        Chain best;
        const auto pairs = pairs_.of(row);
        // While somebody has no place, or too little, a dearer chain may be the better one.
        const bool any_cost = without(row) || lacking_columns_ > 0;
        for (std::size_t s = 0; s < pairs.size(); ++s) {
            if (s == at_[row]) continue;
            consider(best, std::array{Step{row, s}});
            std::int64_t& work = any_cost ? work_whatever_the_cost_ : work_;
            if (work <= 0) continue;
            const Wide more =
                (Wide{pairs[s].cost} - (without(row) ? std::int64_t{0} : pair(row).cost)) * Wide{amount(row)};
            if (!any_cost && more + most_saved(pairs[s].column) >= best.change.total) continue;
            for (const Here& here : rows_[pairs[s].column]) {
                const std::uint32_t other = here.row;
                --work;
                if (other == row || (!any_cost && more + here.saved >= best.change.total)) continue;
                const auto of_other = pairs_.of(other);
                for (std::size_t t = 0; t < of_other.size(); ++t) {
                    const Wide then = (Wide{of_other[t].cost} - pair(other).cost) * amount(other);
                    if (!any_cost && more + then >= best.change.total) break;  // the next are dearer
                    work -= 4;
                    if (t != at_[other]) consider(best, std::array{Step{row, s}, Step{other, t}});
                }
                if (small_ && without(row)) consider(best, std::array{Step{row, s}, Step{other, none(other)}});
            }
        }
        return best;
    }
    /// What the total gets less by at most where one row of a column moves on; not above nothing.
    [[nodiscard]] Wide most_saved(std::uint32_t column) {
        Saved& saved = saved_[column];
        if (!saved.known) {
            saved = {true, 0};
            for (const Here& here : rows_[column]) saved.most = std::min(saved.most, here.saved);
        }
        return saved.most;
    }
    void make(const Chain& chain) {
        // Who leaves makes room first.
        for (std::size_t k = chain.count; k-- > 0;) {
            put(chain.steps[k]);
            touched_.push_back(chain.steps[k].row);
        }
    }

    bool improve_touched(const Task& task) {
        bool any = false;
        std::vector<std::uint32_t> rows;
        rows.swap(touched_);
        std::sort(rows.begin(), rows.end());
        rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
        for (const std::uint32_t row : rows) {
            if (amount(row) == 0) continue;
            task.check();
            const Chain chain = best_chain(row);
            if (!chain.change.better()) continue;
            make(chain);
            any = true;
        }
        return any;
    }

    /// Columns that are short of their least get rows, as long as that makes less short in all: each time the one that
    /// costs least for what it brings.
    bool fill(const Task& task) {
        bool any = false;
        for (std::uint32_t column = 0; column < demand_.least.size(); ++column) {
            while (lacking(column) > 0) {
                task.check();
                double best = std::numeric_limits<double>::infinity();
                std::optional<Step> step;
                for (std::uint32_t row = 0; row < pairs_.rows(); ++row) {
                    if (amount(row) == 0 || (!without(row) && pair(row).column == column)) continue;
                    const auto pairs = pairs_.of(row);
                    const auto there =
                        std::find_if(pairs.begin(), pairs.end(), [&](const Pair& p) { return p.column == column; });
                    if (there == pairs.end()) continue;
                    const Step there_step{row, static_cast<std::size_t>(there - pairs.begin())};
                    const auto change = change_by(std::array{there_step});
                    if (!change || change->short_of_least >= 0) continue;
                    const double each =
                        static_cast<double>(change->total) / static_cast<double>(-change->short_of_least);
                    if (each >= best) continue;
                    best = each;
                    step = there_step;
                }
                if (!step) break;
                put(*step);
                touched_.push_back(step->row);
                any = true;
            }
        }
        return any;
    }

    const Pairs& pairs_;
    const Demand& demand_;
    std::vector<std::size_t> at_;
    std::vector<std::int64_t> load_;
    struct Here {
        std::uint32_t row;
        Wide saved;  ///< what the total changes by if it goes to its cheapest column: not above nothing
    };
    std::vector<std::vector<Here>> rows_;  // by column
    struct Saved {
        bool known = false;
        Wide most = 0;
    };
    std::vector<Saved> saved_;             // by column
    std::vector<std::uint32_t> place_in_;  // of each row in its column's
    std::vector<std::uint32_t> touched_;
    std::size_t lacking_columns_ = 0;
    bool small_ = false;
    std::int64_t work_, work_whatever_the_cost_;  ///< for chains of two still to be looked at
};

}  // namespace

Goals goals_of(const Pairs& pairs, const Demand& demand, const std::vector<std::int64_t>& at) {
    Goals out;
    std::vector<std::int64_t> load(demand.room.size(), 0);
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        const auto of_row = pairs.of(row);
        const auto slot = static_cast<std::size_t>(at[row]);
        if (slot == of_row.size()) {
            out.left_over += demand.amounts[row];
            continue;
        }
        load[of_row[slot].column] += demand.amounts[row];
        out.total += Wide{of_row[slot].cost} * demand.amounts[row];
    }
    for (std::size_t c = 0; c < demand.least.size(); ++c)
        out.short_of_least += std::max<std::int64_t>(demand.least[c] - load[c], 0);
    return out;
}

void make_whole(const Pairs& pairs, const Demand& demand, const SplitAnswer& split, const Goals& bound,
                std::vector<std::int64_t>& at, const Task& task) {
    WholeRows flow(pairs, demand);
    flow.from_flow(split, at);
    flow.improve(task);
    at = flow.answer();
    const Goals got = flow.goals();
    const bool as_good = got.left_over == bound.left_over && got.short_of_least == bound.short_of_least;
    if (as_good || (!flow.is_small() && got.short_of_least <= bound.short_of_least)) return;
    WholeRows leasts(pairs, demand);
    leasts.from_leasts();
    leasts.improve(task);
    if (leasts.goals() < got) at = leasts.answer();
}

}  // namespace otoro::optimise
