#include "optimise/fewest.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>
#include <optional>
#include <set>
#include <unordered_set>

#include "optimise/choice_search.h"
#include "optimise/fewest_part.h"
#include "optimise/proof.h"
#include "optimise/rule_book.h"

namespace otoro::optimise {
namespace {

/// A set of small numbers.
using Bits = std::vector<std::uint64_t>;
constexpr std::uint32_t kBits = 64;

bool has(const Bits& bits, std::uint32_t k) { return (bits[k / kBits] >> (k % kBits) & 1U) != 0; }
void put(Bits& bits, std::uint32_t k) { bits[k / kBits] |= std::uint64_t{1} << (k % kBits); }
std::size_t count(const Bits& bits) {
    std::size_t out = 0;
    for (const std::uint64_t w : bits) out += static_cast<std::size_t>(std::popcount(w));
    return out;
}
bool within(const Bits& a, const Bits& b) {
    for (std::size_t w = 0; w < a.size(); ++w)
        if ((a[w] & ~b[w]) != 0) return false;
    return true;
}
template <class Use>
void each(const Bits& bits, Use&& use) {
    for (std::size_t w = 0; w < bits.size(); ++w)
        for (std::uint64_t left = bits[w]; left != 0; left &= left - 1)
            use(static_cast<std::uint32_t>(w * kBits) + static_cast<std::uint32_t>(std::countr_zero(left)));
}

/// Rows without those that contain another: whoever covers that one covers them.
std::vector<Bits> smallest(std::vector<Bits> rows, std::uint32_t columns, const Task& task) {
    std::sort(rows.begin(), rows.end(), [](const Bits& a, const Bits& b) {
        const std::size_t na = count(a), nb = count(b);
        return na != nb ? na < nb : a < b;
    });
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    std::vector<std::uint32_t> frequency(columns, 0);
    for (const Bits& row : rows) each(row, [&](std::uint32_t c) { ++frequency[c]; });
    std::vector<Bits> out;
    std::vector<std::vector<std::uint32_t>> by_rarest(columns);  // of those kept
    std::size_t looked = 0;
    for (const Bits& row : rows) {
        if (++looked % 1024 == 0) task.check();
        bool contains = false;
        std::optional<std::uint32_t> rarest;
        each(row, [&](std::uint32_t c) {
            if (!rarest || frequency[c] < frequency[*rarest]) rarest = c;
            contains = contains || std::any_of(by_rarest[c].begin(), by_rarest[c].end(),
                                               [&](std::uint32_t k) { return within(out[k], row); });
        });
        if (contains || !rarest) continue;
        by_rarest[*rarest].push_back(static_cast<std::uint32_t>(out.size()));
        out.push_back(row);
    }
    return out;
}

class SetCover {
public:
    SetCover(const Covers& covers, const ChoiceRules& rules, const FewestLimits& limits, const Task& task)
        : limits_(limits), task_(task), n_(rules.columns), words_((n_ + kBits - 1) / kBits), fate_(n_, Fate::open) {
        cost_.assign(rules.costs.begin(), rules.costs.end());
        if (cost_.empty()) cost_.assign(n_, 1);
        against_.resize(n_);
        bound_by_rules_.assign(n_, 0);
        Bits kept(words_, 0), never(words_, 0);
        for (const std::uint32_t c : rules.kept) put(kept, c);
        for (const std::uint32_t c : rules.never) put(never, c);
        for (const auto& [a, b] : rules.apart) {
            if (has(kept, a) && has(kept, b)) continue;
            against_[a].push_back(b);
            against_[b].push_back(a);
            bound_by_rules_[a] = bound_by_rules_[b] = 1;
        }
        for (std::uint32_t c = 0; c < n_; ++c)
            if (has(kept, c) || has(never, c)) fate_[c] = Fate::out;
        gather(covers, kept, never);
        for (const Group& group : RuleBook(rules).groups) {
            Bits row(words_, 0);
            for (const std::uint32_t c : group.columns)
                if (fate_[c] != Fate::out) put(row, c);
            if (count(row) == 0) possible_ = false;
            rows_.push_back(row);
        }
        for (const std::uint32_t c : rules.required)
            if (!has(kept, c)) possible_ = possible_ && choose(c);
    }

    Fewest run() {
        best_.any = false;
        best_.bound = kNone;
        if (!possible_ || !reduce()) return best_;
        best_.bound = 0;  // nothing better is known until the first relaxation
        std::vector<double> prices(rows_.size());
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            double least = 1e300;
            each(rows_[i], [&](std::uint32_t c) {
                least = std::min(least, static_cast<double>(cost_[c]) / static_cast<double>(of_column_[c].size()));
            });
            prices[i] = least;
        }
        if (limits_.check_proof) proof_.emplace();
        const std::size_t nothing = write_down(std::vector<double>(rows_.size(), 0), rows_covered());
        branch(std::move(prices), {0, nothing}, 0);
        best_.left_off = left_off_;
        std::sort(best_.columns.begin(), best_.columns.end());
        const auto least = ceiling();
        best_.bound = least.value_or(kNone);
        if (open_bound_) best_.bound = least ? std::min(*least, *open_bound_) : *open_bound_;
        if (best_.any) best_.bound = std::min(best_.bound, best_.value);
        if (best_.any && proof_) check_what_is_proven();
        return best_;
    }

private:
    /// What no set of a part costs less than, and the number of the plane that shows it.
    struct Bound {
        std::int64_t value;
        std::size_t plane;
    };
    /// Prices as a plane of the proof, in whole numbers: what sets cost counts below nothing.
    std::size_t write_down(const std::vector<double>& prices, const std::vector<std::uint8_t>& covered) {
        if (!proof_) return 0;
        GoalRows::Slope plane;
        plane.worth.resize(n_);
        for (std::uint32_t c = 0; c < n_; ++c) plane.worth[c] = -static_cast<Wide>(cost_[c]) * kFine;
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (covered[i] != 0) continue;
            const Wide price = static_cast<Wide>(prices[i] * static_cast<double>(kFine));
            plane.rest -= price;
            each(rows_[i], [&](std::uint32_t c) { plane.worth[c] += price; });
        }
        return proof_->add_plane(plane);
    }
    void end_by_plane(std::size_t plane) {
        if (proof_) proof_->end_by_plane(plane);
    }
    void end_by_rules() {
        if (proof_) proof_->end_by_rules();
    }
    void check_what_is_proven() const {
        ChoiceRules rules;
        rules.columns = rules.choose = n_;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] == Fate::out) rules.never.push_back(c);
            if (fate_[c] == Fate::chosen) rules.required.push_back(c);
            for (const std::uint32_t other : against_[c])
                if (c < other) rules.apart.emplace_back(c, other);
        }
        for (const Bits& row : rows_) {
            rules.groups.emplace_back();
            each(row, [&](std::uint32_t c) { rules.groups.back().columns.push_back(c); });
        }
        check(*proof_, {rules, -static_cast<Wide>(best_.bound) * kFine, kFine, std::nullopt});
    }

    void gather(const Covers& covers, const Bits& kept, const Bits& never) {
        Bits row(words_, 0);
        std::set<Bits> seen;
        for (std::uint32_t i = 0; i < covers.rows(); ++i) {
            if (i % 4096 == 0) task_.check();
            std::fill(row.begin(), row.end(), 0);
            bool covered = false;
            for (const std::uint32_t c : covers.of(i)) {
                covered = covered || has(kept, c);
                if (!has(never, c)) put(row, c);
            }
            if (covered || count(row) == 0) continue;
            if (seen.insert(row).second) rows_.push_back(row);
        }
    }

    // Choosing, and what follows.

    bool choose(std::uint32_t c) {
        if (fate_[c] == Fate::chosen) return true;
        if (fate_[c] == Fate::out) return false;
        fate_[c] = Fate::chosen;
        changed_.push_back(c);
        spent_ += cost_[c];
        for (const std::uint32_t other : against_[c]) {
            if (fate_[other] == Fate::chosen) return false;
            leave_out(other);
        }
        return true;
    }
    void leave_out(std::uint32_t c) {
        if (fate_[c] != Fate::open) return;
        fate_[c] = Fate::out;
        changed_.push_back(c);
    }
    void back_to(std::size_t before) {
        while (changed_.size() > before) {
            const std::uint32_t c = changed_.back();
            changed_.pop_back();
            if (fate_[c] == Fate::chosen) spent_ -= cost_[c];
            fate_[c] = Fate::open;
        }
    }

    /// Before the search: rows that contain another go, columns that are contained, rows of one column are settled.
    bool reduce() {
        while (true) {
            task_.at("looking for what can be left out", 0);
            std::vector<Bits> left;
            for (const Bits& row : rows_) {
                bool covered = false;
                Bits open(words_, 0);
                each(row, [&](std::uint32_t c) {
                    covered = covered || fate_[c] == Fate::chosen;
                    if (fate_[c] == Fate::open) put(open, c);
                });
                if (covered) continue;
                if (count(open) == 0) return false;
                left.push_back(std::move(open));
            }
            rows_ = smallest(std::move(left), n_, task_);
            index();
            bool more = false;
            for (const Bits& row : rows_) {
                if (count(row) != 1) continue;
                std::uint32_t only = 0;
                each(row, [&](std::uint32_t c) { only = c; });
                if (!choose(only)) return false;
                more = true;
            }
            if (more) continue;
            if (!drop_contained()) break;
        }
        changed_.clear();  // for good
        return true;
    }
    void index() {
        of_column_.assign(n_, {});
        for (std::uint32_t i = 0; i < rows_.size(); ++i)
            each(rows_[i], [&](std::uint32_t c) { of_column_[c].push_back(i); });
    }
    /// Columns that cover nothing more than another that is no dearer.
    bool drop_contained() {
        bool any = false;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open || bound_by_rules_[c] != 0) continue;
            const auto& mine = of_column_[c];
            if (mine.empty()) {
                fate_[c] = Fate::out;
                continue;
            }
            bool contained = false;
            each(rows_[mine.front()], [&](std::uint32_t other) {
                if (contained || other == c || fate_[other] != Fate::open || bound_by_rules_[other] != 0) return;
                const auto& theirs = of_column_[other];
                if (cost_[other] > cost_[c] || theirs.size() < mine.size()) return;
                // Of two alike the first stays.
                if (theirs.size() == mine.size() && cost_[other] == cost_[c] && other > c) return;
                contained = std::includes(theirs.begin(), theirs.end(), mine.begin(), mine.end());
            });
            if (!contained) continue;
            fate_[c] = Fate::out;
            any = true;
        }
        return any;
    }

    // Bounds.

    struct Relaxed {
        double bound = -1;
        std::vector<double> prices, reduced;
    };
    [[nodiscard]] std::vector<std::uint8_t> rows_covered() const {
        std::vector<std::uint8_t> out(rows_.size(), 0);
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] == Fate::chosen)
                for (const std::uint32_t i : of_column_[c]) out[i] = 1;
        return out;
    }
    /// What is spent already, and what the rest costs at least.
    Relaxed relax(std::vector<double> prices, int steps) {
        const auto covered = rows_covered();
        Relaxed best;
        double factor = 1;
        int since = 0;
        std::vector<double> reduced(n_), short_of(rows_.size());
        for (int step = 0; step < steps; ++step) {
            task_.check();
            if (task_.leave_off()) left_off_ = true;
            if (left_off_ && step > 0) break;
            for (std::uint32_t c = 0; c < n_; ++c) reduced[c] = static_cast<double>(cost_[c]);
            double bound = static_cast<double>(spent_);
            for (std::size_t i = 0; i < rows_.size(); ++i) {
                if (covered[i] != 0) continue;
                bound += prices[i];
                each(rows_[i], [&](std::uint32_t c) { reduced[c] -= prices[i]; });
            }
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::open && reduced[c] < 0) bound += reduced[c];
            if (step % 10 == 0) try_by(reduced);
            if (bound > best.bound + kTrifle) {
                best = {bound, prices, reduced};
                since = 0;
            } else if (++since % 10 == 0) {
                factor /= 2;
            }
            if (good_enough(at_least(best.bound))) break;
            double size = 0;
            for (std::size_t i = 0; i < rows_.size(); ++i) {
                short_of[i] = 0;
                if (covered[i] != 0) continue;
                short_of[i] = 1;
                each(rows_[i], [&](std::uint32_t c) {
                    if (fate_[c] == Fate::open && reduced[c] < 0) short_of[i] -= 1;
                });
                if (prices[i] <= 0 && short_of[i] < 0) short_of[i] = 0;
                size += short_of[i] * short_of[i];
            }
            if (size == 0) break;
            const auto least = ceiling();
            const double target = least ? static_cast<double>(*least) : 2 * bound + 1;
            const double length = factor * std::max(target - bound, 1e-3) / size;
            for (std::size_t i = 0; i < rows_.size(); ++i) prices[i] = std::max(0.0, prices[i] + length * short_of[i]);
        }
        return best;
    }
    /// A bound as a whole number, rounded far beyond what adding up can have done.
    static std::int64_t at_least(double bound) {
        constexpr double kPart = 1e-10, kLeast = 1e-7;
        return static_cast<std::int64_t>(std::ceil(bound * (1 - kPart) - kLeast));
    }

    /// A set by reduced costs: what covers most for what it costs, then the next, and nothing that is not needed.
    void try_by(const std::vector<double>& reduced) {
        auto covered = rows_covered();
        std::vector<Fate> fate = fate_;
        std::vector<std::uint32_t> times(rows_.size(), 0);
        Columns set;
        std::size_t left = static_cast<std::size_t>(std::count(covered.begin(), covered.end(), 0));
        while (left > 0) {
            std::optional<std::uint32_t> best;
            double best_rate = 0;
            for (std::uint32_t c = 0; c < n_; ++c) {
                if (fate[c] != Fate::open) continue;
                const auto fresh = std::count_if(of_column_[c].begin(), of_column_[c].end(),
                                                 [&](std::uint32_t i) { return covered[i] == 0; });
                if (fresh == 0) continue;
                const double cost = std::max(reduced[c], 1e-6 * static_cast<double>(cost_[c] + 1));
                const double rate = static_cast<double>(fresh) / cost;
                if (best && rate <= best_rate) continue;
                best = c;
                best_rate = rate;
            }
            if (!best) return;
            fate[*best] = Fate::chosen;
            set.push_back(*best);
            for (const std::uint32_t other : against_[*best])
                if (fate[other] == Fate::open) fate[other] = Fate::out;
            for (const std::uint32_t i : of_column_[*best]) {
                if (covered[i] == 0) --left;
                covered[i] = 1;
                ++times[i];
            }
        }
        const auto before = rows_covered();
        for (std::size_t k = set.size(); k-- > 0;) {
            const auto& rows = of_column_[set[k]];
            if (!std::all_of(rows.begin(), rows.end(), [&](std::uint32_t i) { return times[i] > 1 || before[i] != 0; }))
                continue;
            for (const std::uint32_t i : rows) --times[i];
            set.erase(set.begin() + static_cast<std::ptrdiff_t>(k));
        }
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] == Fate::chosen) set.push_back(c);
        take(std::move(set));
    }
    void take(Columns set) {
        std::int64_t value = 0;
        for (const std::uint32_t c : set) value += cost_[c];
        if (best_.any && value >= best_.value) return;
        best_.any = true;
        best_.value = value;
        best_.columns = std::move(set);
        ask_whether_enough();
    }
    void ask_whether_enough() {
        if (task_.leave_off() || (limits_.enough && limits_.enough(best_))) left_off_ = true;
    }

    // The search.

    /// Nothing that costs this or more is looked for.
    [[nodiscard]] std::optional<std::int64_t> ceiling() const {
        std::optional<std::int64_t> out;
        if (best_.any) out = best_.value;
        if (limits_.most) out = std::min(out.value_or(*limits_.most + 1), *limits_.most + 1);
        return out;
    }
    [[nodiscard]] bool good_enough(std::int64_t bound) const {
        const auto least = ceiling();
        if (least && bound >= *least) return true;
        return best_.any && static_cast<double>(best_.value - bound) <= limits_.gap * static_cast<double>(best_.value);
    }
    void leave(const Bound& bound) {
        end_by_plane(bound.plane);
        if (const auto least = ceiling(); least && bound.value >= *least) return;
        open_bound_ = open_bound_ ? std::min(*open_bound_, bound.value) : bound.value;
    }

    void branch(std::vector<double> prices, const Bound& above, int depth) {
        task_.at("proving that nothing is better", 0);
        if (++nodes_ % 16 == 0 || task_.leave_off()) ask_whether_enough();
        if (limits_.most_nodes && nodes_ > *limits_.most_nodes) left_off_ = true;
        const auto covered = rows_covered();
        if (std::find(covered.begin(), covered.end(), 0) == covered.end()) {
            Columns set;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::chosen) set.push_back(c);
            end_by_plane(write_down({}, covered));
            return take(std::move(set));
        }
        if (!any_row_is_possible(covered)) return end_by_rules();
        if (left_off_) return leave(above);
        constexpr int kAtFirst = 400, kLater = 40;
        const Relaxed r = relax(std::move(prices), depth == 0 ? kAtFirst : kLater);
        const Bound bound{at_least(r.bound), write_down(r.prices, covered)};
        if (depth == 0) {
            best_.bound = best_.any ? std::min(best_.value, bound.value) : bound.value;
            ask_whether_enough();
        }
        if (left_off_ || good_enough(bound.value)) return leave(bound);
        const std::size_t before = changed_.size();
        if (settle(r, bound.plane))
            split(r, bound, depth);
        else
            end_by_rules();
        back_to(before);
    }
    [[nodiscard]] bool any_row_is_possible(const std::vector<std::uint8_t>& covered) const {
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (covered[i] != 0) continue;
            bool open = false;
            each(rows_[i], [&](std::uint32_t c) { open = open || fate_[c] == Fate::open; });
            if (!open) return false;
        }
        return true;
    }
    /// Columns that no better set can have, or do without.
    bool settle(const Relaxed& r, std::size_t plane) {
        const auto least = ceiling();
        if (!least) return true;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open) continue;
            if (at_least(r.bound + std::abs(r.reduced[c])) < *least) continue;
            if (proof_) proof_->settle(c, r.reduced[c] <= 0, plane);
            if (r.reduced[c] > 0)
                leave_out(c);
            else if (!choose(c))
                return false;
        }
        return true;
    }
    void split(const Relaxed& r, const Bound& bound, int depth) {
        const auto covered = rows_covered();
        std::optional<std::size_t> narrowest;
        std::size_t fewest = 0;
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (covered[i] != 0) continue;
            std::size_t open = 0;
            each(rows_[i], [&](std::uint32_t c) { open += fate_[c] == Fate::open ? 1 : 0; });
            if (narrowest && open >= fewest) continue;
            narrowest = i;
            fewest = open;
        }
        if (!narrowest) return branch(r.prices, bound, depth + 1);
        Columns columns;
        each(rows_[*narrowest], [&](std::uint32_t c) {
            if (fate_[c] == Fate::open) columns.push_back(c);
        });
        std::stable_sort(columns.begin(), columns.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return r.reduced[a] < r.reduced[b]; });
        for (const std::uint32_t c : columns) {
            if (left_off_) return leave(bound);
            if (proof_) proof_->divide(c, true);
            const std::size_t before = changed_.size();
            if (choose(c))
                branch(r.prices, bound, depth + 1);
            else
                end_by_rules();
            back_to(before);
            leave_out(c);  // undone by who called
        }
        end_by_rules();  // nobody is left who covers that row
    }

    static constexpr double kTrifle = 1e-9;
    static constexpr Wide kFine = Wide{1} << 50U;  // parts of a unit of cost that prices are counted in
    static constexpr std::int64_t kNone = std::numeric_limits<std::int64_t>::max();

    const FewestLimits& limits_;
    const Task& task_;
    std::uint32_t n_;
    std::size_t words_;
    std::vector<Fate> fate_;
    std::vector<std::int64_t> cost_;
    std::vector<Columns> against_;
    std::vector<std::uint8_t> bound_by_rules_;
    std::vector<Bits> rows_;
    std::vector<std::vector<std::uint32_t>> of_column_;
    Columns changed_;
    std::int64_t spent_ = 0;
    bool possible_ = true, left_off_ = false;
    Fewest best_;
    std::optional<std::int64_t> open_bound_;
    std::optional<Proof> proof_;
    std::uint64_t nodes_ = 0;
};

}  // namespace

Fewest fewest_for_all(const Covers& covers, const ChoiceRules& rules, const FewestLimits& limits, const Task& task) {
    if (wants_several(rules)) return fewest_with_several(covers, rules, limits, task);
    return SetCover(covers, with_what_follows(rules), limits, task).run();
}

}  // namespace otoro::optimise
