#include "optimise/most_cover.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numeric>
#include <optional>
#include <unordered_map>
#include <utility>

namespace otoro::optimise {
namespace {

/// The rows that are still open, those of one list as one, row by row and column by column.
struct Table {
    std::vector<std::int64_t> amounts;
    std::vector<std::size_t> first_of_row{0}, first_of_column;
    std::vector<std::uint32_t> columns, rows;
    std::int64_t settled = 0;  ///< of rows that kept columns cover

    [[nodiscard]] std::size_t row_count() const { return amounts.size(); }
    [[nodiscard]] std::span<const std::uint32_t> of_row(std::size_t row) const {
        return {columns.data() + first_of_row[row], columns.data() + first_of_row[row + 1]};
    }
    [[nodiscard]] std::span<const std::uint32_t> of_column(std::size_t column) const {
        return {rows.data() + first_of_column[column], rows.data() + first_of_column[column + 1]};
    }
};

Table merged(const CoverAsked& asked) {
    Table t;
    std::vector<std::uint8_t> kept(asked.columns, 0), never(asked.columns, 0);
    for (const std::uint32_t c : asked.kept) kept[c] = 1;
    for (const std::uint32_t c : asked.never) never[c] = 1;
    std::unordered_multimap<std::uint64_t, std::uint32_t> known;
    std::vector<std::uint32_t> list;
    for (std::uint32_t row = 0; row < asked.covers.rows(); ++row) {
        const auto columns = asked.covers.of(row);
        const std::int64_t amount = asked.amounts[row];
        if (std::any_of(columns.begin(), columns.end(), [&](std::uint32_t c) { return kept[c] != 0; })) {
            t.settled += amount;
            continue;
        }
        list.clear();
        for (const std::uint32_t c : columns)
            if (never[c] == 0) list.push_back(c);
        if (list.empty() || amount == 0) continue;
        std::sort(list.begin(), list.end());
        std::uint64_t hash = 1469598103934665603ULL;
        for (const std::uint32_t c : list) hash = (hash ^ c) * 1099511628211ULL;
        const auto [begin, end] = known.equal_range(hash);
        const auto same = std::find_if(begin, end, [&](const auto& k) {
            const auto there = t.of_row(k.second);
            return std::equal(there.begin(), there.end(), list.begin(), list.end());
        });
        if (same != end) {
            t.amounts[same->second] += amount;
            continue;
        }
        known.emplace(hash, static_cast<std::uint32_t>(t.amounts.size()));
        t.amounts.push_back(amount);
        t.columns.insert(t.columns.end(), list.begin(), list.end());
        t.first_of_row.push_back(t.columns.size());
    }
    t.first_of_column.assign(asked.columns + 1, 0);
    for (const std::uint32_t c : t.columns) ++t.first_of_column[c + 1];
    std::partial_sum(t.first_of_column.begin(), t.first_of_column.end(), t.first_of_column.begin());
    t.rows.resize(t.columns.size());
    std::vector<std::size_t> next(t.first_of_column.begin(), t.first_of_column.end() - 1);
    for (std::size_t row = 0; row < t.row_count(); ++row)
        for (const std::uint32_t c : t.of_row(row)) t.rows[next[c]++] = static_cast<std::uint32_t>(row);
    return t;
}

/// Whether a column is still to be decided at a node of the search.
enum class Fate : std::uint8_t { open, chosen, out };

class Cover {
public:
    Cover(const CoverAsked& asked, const CoverLimits& limits, const Task& task)
        : limits_(limits), task_(task), table_(merged(asked)), n_(asked.columns), choose_(asked.choose) {
        fate_.assign(n_, Fate::open);
        for (const std::uint32_t c : asked.kept) fate_[c] = Fate::out;
        for (const std::uint32_t c : asked.never) fate_[c] = Fate::out;
        const auto open = static_cast<std::size_t>(std::count(fate_.begin(), fate_.end(), Fate::open));
        choose_ = static_cast<std::uint32_t>(std::min<std::size_t>(choose_, open));
    }

    Chosen run() {
        const std::int64_t all =
            std::accumulate(table_.amounts.begin(), table_.amounts.end(), std::int64_t{0}) + table_.settled;
        best_.value = -1;
        best_.bound = all;
        offer(greedy({}));
        length_ = 1e-3 / static_cast<double>(std::max<std::int64_t>(1, all / std::max(1U, n_)));
        branch(all, std::vector<double>(n_, 0), 0);
        best_.bound = std::max(best_.value, open_bound_);
        return best_;
    }

private:
    using Set = std::vector<std::uint32_t>;

    // Sets and their values.

    [[nodiscard]] std::int64_t value_of(const Set& set) const {
        std::vector<std::uint8_t> covered(table_.row_count(), 0);
        std::int64_t value = table_.settled;
        for (const std::uint32_t c : set)
            for (const std::uint32_t row : table_.of_column(c))
                if (covered[row]++ == 0) value += table_.amounts[row];
        return value;
    }

    /// The column that gains most, then the next, from those that are chosen already.
    [[nodiscard]] Set greedy(Set set) const {
        std::vector<std::uint8_t> covered(table_.row_count(), 0), taken(n_, 0);
        std::vector<std::int64_t> gain(n_, 0);
        const auto take = [&](std::uint32_t c) {
            taken[c] = 1;
            for (const std::uint32_t row : table_.of_column(c)) {
                if (covered[row] != 0) continue;
                covered[row] = 1;
                for (const std::uint32_t other : table_.of_row(row)) gain[other] -= table_.amounts[row];
            }
        };
        for (std::uint32_t c = 0; c < n_; ++c)
            for (const std::uint32_t row : table_.of_column(c)) gain[c] += table_.amounts[row];
        for (const std::uint32_t c : set) take(c);
        while (set.size() < choose_) {
            std::optional<std::uint32_t> most;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (taken[c] == 0 && fate_[c] != Fate::out && (!most || gain[c] > gain[*most])) most = c;
            if (!most) break;
            set.push_back(*most);
            take(*most);
        }
        return set;
    }

    /// Exchanges one for another as long as that gains, each time the pair that gains most.
    void exchange(Set& set) const {
        std::vector<std::uint8_t> in(n_, 0);
        std::vector<std::uint32_t> times(table_.row_count(), 0), only(table_.row_count(), 0);
        std::vector<std::int64_t> gain, lost(set.size()), shared;
        for (const std::uint32_t c : set) in[c] = 1;
        while (true) {
            task_.check();
            std::fill(times.begin(), times.end(), 0U);
            for (std::uint32_t k = 0; k < set.size(); ++k)
                for (const std::uint32_t row : table_.of_column(set[k])) {
                    ++times[row];
                    only[row] = k;
                }
            gain.assign(n_, 0);
            shared.assign(n_ * set.size(), 0);
            std::fill(lost.begin(), lost.end(), 0);
            for (std::size_t row = 0; row < table_.row_count(); ++row) {
                const std::int64_t amount = table_.amounts[row];
                if (times[row] == 0) {
                    for (const std::uint32_t c : table_.of_row(row)) gain[c] += amount;
                } else if (times[row] == 1) {
                    lost[only[row]] += amount;
                    for (const std::uint32_t c : table_.of_row(row)) shared[c * set.size() + only[row]] += amount;
                }
            }
            std::int64_t most = 0;
            std::optional<std::pair<std::uint32_t, std::uint32_t>> swap;
            for (std::uint32_t c = 0; c < n_; ++c) {
                if (in[c] != 0 || fate_[c] == Fate::out) continue;
                for (std::uint32_t k = 0; k < set.size(); ++k) {
                    if (fate_[set[k]] == Fate::chosen) continue;
                    const std::int64_t by = gain[c] - lost[k] + shared[c * set.size() + k];
                    if (by <= most) continue;
                    most = by;
                    swap = {c, k};
                }
            }
            if (!swap) return;
            in[set[swap->second]] = 0;
            in[swap->first] = 1;
            set[swap->second] = swap->first;
        }
    }

    void offer(Set set) {
        exchange(set);
        std::sort(set.begin(), set.end());
        const std::int64_t value = value_of(set);
        if (value <= best_.value) return;
        best_.value = value;
        best_.columns = std::move(set);
        ask_whether_enough();
    }

    void ask_whether_enough() {
        if (limits_.enough && limits_.enough(best_)) left_off_ = true;
    }

    // Bounds.

    struct Relaxed {
        std::int64_t bound = 0;
        std::vector<std::int64_t> worth;  ///< of each column
        Set taken;                        ///< those chosen for good, then the worthiest
    };

    /// What the multipliers prove: amounts beyond them count whatever is chosen, and the worthiest columns besides.
    [[nodiscard]] Relaxed relax(const std::vector<std::int64_t>& multipliers) const {
        Relaxed out;
        out.worth.assign(n_, 0);
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, n_, 4), [&](const auto& range) {
            for (std::uint32_t c = range.begin(); c != range.end(); ++c) {
                if (fate_[c] == Fate::out) continue;
                std::int64_t sum = 0;
                for (const std::uint32_t row : table_.of_column(c)) sum += multipliers[row];
                out.worth[c] = sum;
            }
        });
        Wide bound = table_.settled;
        for (std::size_t row = 0; row < multipliers.size(); ++row) bound += table_.amounts[row] - multipliers[row];
        Set open;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] == Fate::chosen) {
                out.taken.push_back(c);
                bound += out.worth[c];
            } else if (fate_[c] == Fate::open) {
                open.push_back(c);
            }
        }
        const std::size_t more = std::min<std::size_t>(choose_ - out.taken.size(), open.size());
        const auto worthier = [&](std::uint32_t a, std::uint32_t b) {
            return out.worth[a] != out.worth[b] ? out.worth[a] > out.worth[b] : a < b;
        };
        std::partial_sort(open.begin(), open.begin() + static_cast<std::ptrdiff_t>(more), open.end(), worthier);
        for (std::size_t k = 0; k < more; ++k) {
            out.taken.push_back(open[k]);
            bound += out.worth[open[k]];
        }
        // Multipliers are between nothing and the amount: the sum is no more than twice that of all amounts.
        out.bound = static_cast<std::int64_t>(std::min<Wide>(bound, std::numeric_limits<std::int64_t>::max()));
        return out;
    }

    /// A smooth stand-in for what is covered when columns are chosen in part: a row counts as far as the shares of its
    /// columns go, up to the whole, with the bend at the whole rounded off over a width.
    struct Smooth {
        double value = 0;
        std::vector<std::int64_t> slopes;  ///< of each row, between nothing and its amount: multipliers
    };
    [[nodiscard]] Smooth smooth(const std::vector<double>& shares, double width) const {
        Smooth out;
        out.slopes.resize(table_.row_count());
        std::vector<double> values(table_.row_count());
        tbb::parallel_for(tbb::blocked_range<std::size_t>(0, table_.row_count(), 1024), [&](const auto& range) {
            for (std::size_t row = range.begin(); row != range.end(); ++row) {
                double sum = 0;
                for (const std::uint32_t c : table_.of_row(row)) sum += shares[c];
                const double slope = std::clamp((1 + width / 2 - sum) / width, 0.0, 1.0);
                const auto amount = static_cast<double>(table_.amounts[row]);
                values[row] = amount * (slope == 1 ? sum : 1 - width * slope * slope / 2);
                out.slopes[row] =
                    std::min(table_.amounts[row], static_cast<std::int64_t>(std::llround(amount * slope)));
            }
        });
        out.value = std::accumulate(values.begin(), values.end(), 0.0);
        return out;
    }

    /// The nearest shares between nothing and one, those that are settled as they are, that add up to what is to be
    /// chosen.
    [[nodiscard]] std::vector<double> within(std::vector<double> shares) const {
        double left = choose_, low = 0, high = 0;
        bool any = false;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] == Fate::chosen) --left;
            if (fate_[c] != Fate::open) continue;
            low = any ? std::min(low, shares[c] - 1) : shares[c] - 1;
            high = any ? std::max(high, shares[c]) : shares[c];
            any = true;
        }
        constexpr int kHalvings = 60;
        for (int k = 0; k < kHalvings; ++k) {
            const double middle = (low + high) / 2;
            double sum = 0;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::open) sum += std::clamp(shares[c] - middle, 0.0, 1.0);
            (sum > left ? low : high) = middle;
        }
        for (std::uint32_t c = 0; c < n_; ++c)
            shares[c] = fate_[c] == Fate::chosen ? 1
                        : fate_[c] == Fate::out  ? 0
                                                 : std::clamp(shares[c] - high, 0.0, 1.0);
        return shares;
    }

    struct Node {
        std::int64_t bound;
        std::vector<double> shares;
        Relaxed at_best;  ///< what proves the bound
    };

    /// What a point proves is put into the node.
    Relaxed prove(const Smooth& at, Node& node) const {
        Relaxed r = relax(at.slopes);
        if (node.at_best.worth.empty() || r.bound < node.at_best.bound) node.at_best = r;
        node.bound = std::min(node.bound, r.bound);
        return r;
    }

    /// Climbs the smooth stand-in by accelerated steps, at one width after another. Wherever it stands, the slopes
    /// there are multipliers that prove a bound.
    Node tighten(std::int64_t above, std::vector<double> shares, std::span<const double> widths, int steps) {
        Node node{above, within(std::move(shares)), {}};
        for (const double width : widths) {
            std::vector<double> at = node.shares;
            double momentum = 1;
            int since = 0;
            for (int step = 0; step < steps; ++step) {
                task_.check();
                const Smooth here = smooth(at, width);
                const std::int64_t before = node.bound;
                const Relaxed r = prove(here, node);
                if (node.bound <= best_.value || good_enough(node.bound)) return node;
                since = static_cast<double>(before - node.bound) > 1e-6 * static_cast<double>(before) ? 0 : since + 1;
                constexpr int kLong = 12;
                if (since > kLong) break;
                std::vector<double> next = step_from(at, here, r, width);
                double turned = 0;
                for (std::uint32_t c = 0; c < n_; ++c) turned += (at[c] - next[c]) * (next[c] - node.shares[c]);
                if (turned > 0) momentum = 1;
                const double more = (1 + std::sqrt(1 + 4 * momentum * momentum)) / 2;
                for (std::uint32_t c = 0; c < n_; ++c)
                    at[c] = next[c] + (momentum - 1) / more * (next[c] - node.shares[c]);
                momentum = more;
                node.shares = std::move(next);
            }
        }
        return node;
    }

    /// A step uphill, as long as the slope promises no more than is found.
    std::vector<double> step_from(const std::vector<double>& at, const Smooth& here, const Relaxed& r, double width) {
        constexpr double kLonger = 1.1, kTrifle = 1e-9, kFarthest = 1e6, kShortest = 1e-9;
        // A share goes from nothing to one: longer steps only cost digits, shorter ones lead nowhere.
        const double steepest =
            static_cast<double>(std::max<std::int64_t>(1, *std::max_element(r.worth.begin(), r.worth.end())));
        std::vector<double> next(n_);
        for (length_ = std::min(length_ * kLonger, kFarthest / steepest);; length_ /= 2) {
            for (std::uint32_t c = 0; c < n_; ++c) next[c] = at[c] + length_ * static_cast<double>(r.worth[c]);
            next = within(std::move(next));
            double promised = here.value;
            for (std::uint32_t c = 0; c < n_; ++c) {
                const double by = next[c] - at[c];
                promised += static_cast<double>(r.worth[c]) * by - by * by / (2 * length_);
            }
            if (length_ * steepest < kShortest || smooth(next, width).value >= promised - kTrifle * here.value)
                return next;
        }
    }

    // The search.

    [[nodiscard]] bool good_enough(std::int64_t bound) const {
        if (bound <= best_.value) return true;
        return static_cast<double>(bound - best_.value) <= limits_.gap * static_cast<double>(bound);
    }

    /// Columns that cannot, or must, be in a better set. \returns those settled
    Set settle(const Node& node) {
        Set settled;
        const auto& r = node.at_best;
        Set taken = r.taken;
        std::sort(taken.begin(), taken.end());
        std::int64_t least_taken = std::numeric_limits<std::int64_t>::max(), most_left = 0;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open) continue;
            if (std::binary_search(taken.begin(), taken.end(), c))
                least_taken = std::min(least_taken, r.worth[c]);
            else
                most_left = std::max(most_left, r.worth[c]);
        }
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open) continue;
            const bool in = std::binary_search(taken.begin(), taken.end(), c);
            if (!in && least_taken != std::numeric_limits<std::int64_t>::max() &&
                r.bound - least_taken + r.worth[c] <= best_.value) {
                fate_[c] = Fate::out;
                settled.push_back(c);
            } else if (in && r.bound - r.worth[c] + most_left <= best_.value) {
                fate_[c] = Fate::chosen;
                settled.push_back(c);
            }
        }
        return settled;
    }

    void branch(std::int64_t above, std::vector<double> shares, int depth) {
        task_.at("proving that nothing covers more", 0);
        if (depth > 0 && depth % 8 == 0) ask_whether_enough();
        const auto chosen = static_cast<std::uint32_t>(std::count(fate_.begin(), fate_.end(), Fate::chosen));
        const auto open = static_cast<std::uint32_t>(std::count(fate_.begin(), fate_.end(), Fate::open));
        if (chosen > choose_ || chosen + open < choose_) return;
        static constexpr std::array kAtFirst{0.5, 0.28, 0.15, 0.08};
        static constexpr std::array kLater{0.15};
        constexpr int kStepsAtFirst = 60, kStepsLater = 20;
        Node node = depth == 0 ? tighten(above, std::move(shares), kAtFirst, kStepsAtFirst)
                               : tighten(above, std::move(shares), kLater, kStepsLater);
        if (depth < 2) offer(greedy_by(node));
        if (depth == 0) best_.bound = std::min(best_.bound, node.bound);
        if (left_off_ || good_enough(node.bound)) return leave(node.bound);
        if (chosen == choose_ || open == 0 || chosen + open == choose_) {
            Set set;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::chosen || (fate_[c] == Fate::open && chosen < choose_)) set.push_back(c);
            take_as_is(std::move(set));
            return;
        }
        const Set settled = settle(node);
        split(node, depth);
        for (const std::uint32_t c : settled) fate_[c] = Fate::open;
    }

    /// The columns with the largest shares.
    [[nodiscard]] Set greedy_by(const Node& node) const {
        Set open;
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] != Fate::out) open.push_back(c);
        std::stable_sort(open.begin(), open.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return node.shares[a] > node.shares[b]; });
        open.resize(std::min<std::size_t>(open.size(), choose_));
        return open;
    }

    void take_as_is(Set set) {
        const std::int64_t value = value_of(set);
        if (value <= best_.value) return;
        best_.value = value;
        best_.columns = std::move(set);
        ask_whether_enough();
    }

    /// A node that is not searched: what is open there holds the bound up.
    void leave(std::int64_t bound) {
        if (bound > best_.value) open_bound_ = std::max(open_bound_, bound);
    }

    void split(const Node& node, int depth) {
        // The column that is least sure: neither always taken nor never.
        std::optional<std::uint32_t> least_sure;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open) continue;
            if (!least_sure || std::abs(node.shares[c] - 0.5) < std::abs(node.shares[*least_sure] - 0.5))
                least_sure = c;
        }
        if (!least_sure) return branch(node.bound, node.shares, depth + 1);
        const bool in_first = node.shares[*least_sure] >= 0.5;
        for (const bool in : {in_first, !in_first}) {
            fate_[*least_sure] = in ? Fate::chosen : Fate::out;
            if (left_off_)
                leave(node.bound);
            else
                branch(node.bound, node.shares, depth + 1);
        }
        fate_[*least_sure] = Fate::open;
    }

    const CoverLimits& limits_;
    const Task& task_;
    Table table_;
    std::uint32_t n_, choose_;
    std::vector<Fate> fate_;
    double length_ = 1;  // of a step
    Chosen best_;
    std::int64_t open_bound_ = 0;
    bool left_off_ = false;
};

}  // namespace

Chosen most_cover(const CoverAsked& asked, const CoverLimits& limits, const Task& task) {
    return Cover(asked, limits, task).run();
}

}  // namespace otoro::optimise
