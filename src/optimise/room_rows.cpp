#include "optimise/room_rows.h"

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <map>
#include <numeric>

#include "optimise/choice_search.h"

namespace otoro::optimise {

/// A flow from rows to columns, which goes on when a column opens.
class RoomFlow {
public:
    explicit RoomFlow(const RoomRows& rows)
        : rows_(&rows),
          row_left_(rows.amounts_),
          column_left_(rows.n_, 0),
          flow_(rows.columns_.size(), 0),
          most_(rows.columns_.size(), 0),
          level_row_(rows.amounts_.size(), 0),
          level_column_(rows.n_, 0),
          next_row_(rows.amounts_.size(), 0),
          next_column_(rows.n_, 0) {
        for (std::size_t row = 0; row + 1 < rows.first_.size(); ++row)
            for (std::size_t e = rows.first_[row]; e < rows.first_[row + 1]; ++e) most_[e] = rows.amounts_[row];
    }
    /// A column takes as much as it has room for.
    void open(std::uint32_t column) { column_left_[column] = rows_->room_[column]; }
    /// It takes a part of that, and of each row no more than that part.
    void open_in_part(std::uint32_t column, double share) {
        column_left_[column] = static_cast<std::int64_t>(static_cast<double>(rows_->room_[column]) * share);
        for (std::size_t k = rows_->column_first_[column]; k < rows_->column_first_[column + 1]; ++k) {
            const std::uint32_t e = rows_->column_entries_[k];
            most_[e] = static_cast<std::int64_t>(static_cast<double>(rows_->amounts_[rows_->row_of_entry_[e]]) * share);
        }
    }
    /// Lets as much flow as can. \returns how much more that is than before
    Wide go_on() {
        Wide more = 0;
        while (layer()) {
            rows_->task_.check();
            std::fill(next_row_.begin(), next_row_.end(), 0);
            std::fill(next_column_.begin(), next_column_.end(), 0);
            for (std::uint32_t row = 0; row < row_left_.size(); ++row)
                while (row_left_[row] > 0) {
                    const std::int64_t pushed = from_row(row, row_left_[row]);
                    if (pushed == 0) break;
                    row_left_[row] -= pushed;
                    more += pushed;
                }
        }
        return more;
    }
    /// Whether a row stands where more could still come from, after nothing more flows.
    [[nodiscard]] bool before_the_cut(std::uint32_t row) const { return level_row_[row] != kFar; }

private:
    static constexpr std::uint32_t kFar = 0xFFFF'FFFFU;

    /// How many steps each row and column is from what is left. \returns whether any room is reached
    bool layer() {
        const RoomRows& r = *rows_;
        std::fill(level_row_.begin(), level_row_.end(), kFar);
        std::fill(level_column_.begin(), level_column_.end(), kFar);
        std::vector<std::uint32_t> rows, columns;
        for (std::uint32_t row = 0; row < row_left_.size(); ++row)
            if (row_left_[row] > 0) {
                level_row_[row] = 0;
                rows.push_back(row);
            }
        bool reached = false;
        // All of them, also beyond the first room: where nothing more flows this is the cut.
        for (std::uint32_t step = 1; !rows.empty(); step += 2) {
            columns.clear();
            for (const std::uint32_t row : rows)
                for (std::size_t e = r.first_[row]; e < r.first_[row + 1]; ++e) {
                    const std::uint32_t c = r.columns_[e];
                    if (level_column_[c] != kFar || flow_[e] >= most_[e]) continue;
                    level_column_[c] = step;
                    columns.push_back(c);
                    reached = reached || column_left_[c] > 0;
                }
            rows.clear();
            for (const std::uint32_t c : columns)
                for (std::size_t k = r.column_first_[c]; k < r.column_first_[c + 1]; ++k) {
                    const std::uint32_t e = r.column_entries_[k], row = r.row_of_entry_[e];
                    if (level_row_[row] != kFar || flow_[e] == 0) continue;
                    level_row_[row] = step + 1;
                    rows.push_back(row);
                }
        }
        return reached;
    }
    std::int64_t from_row(std::uint32_t row, std::int64_t amount) {
        const RoomRows& r = *rows_;
        for (auto& k = next_row_[row]; r.first_[row] + k < r.first_[row + 1]; ++k) {
            const std::size_t e = r.first_[row] + k;
            const std::uint32_t c = r.columns_[e];
            if (level_column_[c] != level_row_[row] + 1 || flow_[e] >= most_[e]) continue;
            if (const std::int64_t pushed = from_column(c, std::min(amount, most_[e] - flow_[e])); pushed > 0) {
                flow_[e] += pushed;
                return pushed;
            }
        }
        return 0;
    }
    std::int64_t from_column(std::uint32_t c, std::int64_t amount) {
        const RoomRows& r = *rows_;
        if (column_left_[c] > 0) {
            const std::int64_t pushed = std::min(amount, column_left_[c]);
            column_left_[c] -= pushed;
            return pushed;
        }
        for (auto& k = next_column_[c]; r.column_first_[c] + k < r.column_first_[c + 1]; ++k) {
            const std::uint32_t e = r.column_entries_[r.column_first_[c] + k], row = r.row_of_entry_[e];
            if (level_row_[row] != level_column_[c] + 1 || flow_[e] == 0) continue;
            if (const std::int64_t pushed = from_row(row, std::min(amount, flow_[e])); pushed > 0) {
                flow_[e] -= pushed;
                return pushed;
            }
        }
        return 0;
    }

    const RoomRows* rows_;
    std::vector<std::int64_t> row_left_, column_left_, flow_, most_;
    std::vector<std::uint32_t> level_row_, level_column_;
    std::vector<std::size_t> next_row_, next_column_;
};

RoomRows::RoomRows(std::span<const std::int64_t> amounts, const Covers& covers, std::span<const std::int64_t> room,
                   const ChoiceRules& rules, const Task& task)
    : task_(task), n_(rules.columns), room_(room.begin(), room.end()), kept_(rules.columns, 0) {
    std::vector<std::uint8_t> never(n_, 0);
    for (const std::uint32_t c : rules.kept) kept_[c] = 1;
    for (const std::uint32_t c : rules.never) never[c] = 1;
    std::map<Columns, std::int64_t> merged;
    Columns list;
    std::int64_t of_all = 0;
    for (std::uint32_t row = 0; row < covers.rows(); ++row) {
        if (amounts[row] == 0) continue;
        list.clear();
        for (const std::uint32_t c : covers.of(row))
            if (kept_[c] != 0 || never[c] == 0) list.push_back(c);
        if (list.empty()) continue;
        std::sort(list.begin(), list.end());
        merged[list] += amounts[row];
    }
    std::vector<std::size_t> count(n_ + 1, 0);
    for (const auto& [columns, amount] : merged) {
        for (const std::uint32_t c : columns) {
            row_of_entry_.push_back(static_cast<std::uint32_t>(amounts_.size()));
            ++count[c + 1];
        }
        columns_.insert(columns_.end(), columns.begin(), columns.end());
        first_.push_back(columns_.size());
        amounts_.push_back(amount);
        all_ += amount;
        of_all = std::gcd(of_all, amount);
    }
    column_first_.assign(n_ + 1, 0);
    std::partial_sum(count.begin(), count.end(), column_first_.begin());
    column_entries_.resize(columns_.size());
    auto at = column_first_;
    for (std::uint32_t e = 0; e < columns_.size(); ++e) column_entries_[at[columns_[e]]++] = e;
    // More room than all there is is no more than that.
    for (std::int64_t& r : room_) r = std::min(r, static_cast<std::int64_t>(all_));
    for (const std::int64_t r : room_) of_all = std::gcd(of_all, r);
    grain_ = std::max<Wide>(1, of_all);
}

Wide RoomRows::value_of(const std::vector<std::uint8_t>& in) const {
    RoomFlow flow(*this);
    for (std::uint32_t c = 0; c < n_; ++c)
        if (in[c] != 0 || kept_[c] != 0) flow.open(c);
    return flow.go_on();
}

void RoomRows::exchanges(std::span<const std::uint32_t> set, Exchanges& out) const {
    const std::size_t members = set.size();
    out = Exchanges(n_, members);
    std::vector<std::uint8_t> in(n_, 0);
    for (const std::uint32_t c : set) in[c] = 1;
    const auto flow_of = [&](std::uint32_t without) {
        RoomFlow flow(*this);
        for (std::uint32_t c = 0; c < n_; ++c)
            if ((in[c] != 0 && c != without) || kept_[c] != 0) flow.open(c);
        Wide value = flow.go_on();
        return std::pair{std::move(flow), value};
    };
    // What each column adds to a flow, which goes on from where it is.
    const auto gains = [&](const RoomFlow& from, auto&& use) {
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, n_), [&](const auto& range) {
            for (std::uint32_t c = range.begin(); c != range.end(); ++c) {
                if (in[c] != 0 || kept_[c] != 0 || task_.leave_off()) continue;
                RoomFlow with = from;
                with.open(c);
                use(c, with.go_on());
            }
        });
    };
    constexpr std::uint32_t kNobody = 0xFFFF'FFFFU;
    const auto whole = flow_of(kNobody);
    gains(whole.first, [&](std::uint32_t c, Wide more) { out.gain[c] = more; });
    for (std::size_t k = 0; k < members && !task_.leave_off(); ++k) {
        const auto less = flow_of(set[k]);
        out.lost[k] = whole.second - less.second;
        gains(less.first, [&](std::uint32_t c, Wide more) {
            out.shared[c * members + k] = less.second + more - whole.second - out.gain[c] + out.lost[k];
        });
    }
}

void RoomRows::slope(const std::vector<double>& shares, double /*width*/, Slope& out) const {
    RoomFlow flow(*this);
    for (std::uint32_t c = 0; c < n_; ++c) {
        if (kept_[c] != 0)
            flow.open(c);
        else
            flow.open_in_part(c, shares[c]);
    }
    (void)flow.go_on();
    out.worth.assign(n_, 0);
    out.rest = 0;
    for (std::uint32_t row = 0; row < amounts_.size(); ++row) {
        if (!flow.before_the_cut(row)) {
            out.rest += amounts_[row];
            continue;
        }
        for (std::size_t e = first_[row]; e < first_[row + 1]; ++e) out.worth[columns_[e]] += amounts_[row];
    }
    for (std::uint32_t c = 0; c < n_; ++c) {
        out.worth[c] = std::min<Wide>(out.worth[c], room_[c]);
        if (kept_[c] == 0) continue;
        out.rest += out.worth[c];
        out.worth[c] = 0;
    }
}

Chosen most_cover_with_room(std::span<const std::int64_t> amounts, const Covers& covers,
                            std::span<const std::int64_t> room, const ChoiceRules& rules, const Columns& start,
                            const ChoiceLimits& limits, const Task& task) {
    const ChoiceRules with = with_what_follows(rules);
    const RoomRows rows(amounts, covers, room, with, task);
    return best_choice(rows, with, start, limits, task);
}

}  // namespace otoro::optimise
