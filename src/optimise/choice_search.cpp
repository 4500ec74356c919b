#include "optimise/choice_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>
#include <optional>
#include <utility>

#include "optimise/choice_bounds.h"
#include "optimise/choice_fates.h"
#include "optimise/planes.h"
#include "optimise/proof.h"
#include "optimise/rule_book.h"

namespace otoro::optimise {

namespace {

class Search {
public:
    Search(const GoalRows& rows, const ChoiceRules& asked, const ChoiceLimits& limits, const Task& task, Proof* proof)
        : rows_(rows),
          rules_(asked),
          limits_(limits),
          task_(task),
          n_(asked.columns),
          fates_(rules_),
          bounds_(fates_, rows),
          planes_(rows.scale()),
          proof_(proof) {
        best_.any = false;
    }

    Chosen run(const Columns& start) {
        std::vector<std::uint32_t> undone;
        bool possible = true;
        for (std::uint32_t c = 0; c < n_ && possible; ++c)
            if (rules_.required[c] != 0 && fates_[c] != Fate::chosen) possible = fates_.decide(c, Fate::chosen, undone);
        if (!possible || !fates_.follow_up(undone)) {
            end_by_rules();
            return best_;
        }
        best_.bound = most();
        if (!start.empty()) offer(start);
        offer(greedy({}));
        branch({most(), std::nullopt}, std::vector<double>(n_, 0), 0);
        if (best_.any) best_.bound = open_bound_ ? std::max(floor(), *open_bound_) : floor();
        best_.left_off = left_off_;
        return best_;
    }

private:
    /// As good as it gets: everything is chosen.
    [[nodiscard]] Wide most() const {
        std::vector<std::uint8_t> in(n_, 0);
        for (std::uint32_t c = 0; c < n_; ++c) in[c] = fates_[c] != Fate::out ? 1 : 0;
        return rows_.value_of(in);
    }

    // Sets and their values.

    /// Whether `c` may come to a set that keeps to the rules so far.
    [[nodiscard]] bool may_join(std::uint32_t c, const std::vector<std::uint8_t>& in, Wide spent) const {
        if (in[c] != 0 || fates_[c] == Fate::out || spent + rules_.cost[c] > rules_.room) return false;
        if (rules_.counting)  // what a group still wants keeps its room
            for (const Group& group : rules_.groups)
                if (!RuleBook::is_of(group, c) && spent + 1 + RuleBook::wanted(group, in) > rules_.room) return false;
        return std::none_of(rules_.against[c].begin(), rules_.against[c].end(),
                            [&](std::uint32_t other) { return in[other] != 0; });
    }
    /// The column that gains most, for what it costs, then the next, beside those that are chosen already. Groups that
    /// want some yet come first.
    [[nodiscard]] Columns greedy(Columns set) {
        std::vector<std::uint8_t> in(n_, 0);
        Wide spent = 0;
        for (const std::uint32_t c : fates_.chosen())
            if (std::find(set.begin(), set.end(), c) == set.end()) set.push_back(c);
        for (const std::uint32_t c : set) {
            in[c] = 1;
            spent += rules_.cost[c];
        }
        while (!best_.any || !task_.leave_off()) {
            task_.check();
            std::vector<std::uint8_t> wanted;
            for (const Group& group : rules_.groups) {
                if (RuleBook::wanted(group, in) == 0) continue;
                wanted.assign(n_, 0);
                for (const std::uint32_t c : group.columns) wanted[c] = 1;
                break;
            }
            rows_.exchanges(set, exchanges_);
            std::optional<std::uint32_t> best;
            for (std::uint32_t c = 0; c < n_; ++c) {
                if (!may_join(c, in, spent) || (!wanted.empty() && wanted[c] == 0)) continue;
                if (!best || rules_.dearer(exchanges_.gain[c], c, exchanges_.gain[*best], *best)) best = c;
            }
            // Money is not spent for nothing.
            if (!best || (!rules_.counting && wanted.empty() && exchanges_.gain[*best] == 0)) return set;
            in[*best] = 1;
            spent += rules_.cost[*best];
            set.push_back(*best);
        }
        return set;
    }

    /// Whether the rules hold when `c` takes the place of a member.
    [[nodiscard]] bool may_replace(std::uint32_t c, std::uint32_t member, const std::vector<std::uint8_t>& in,
                                   Wide spent) const {
        if (spent - rules_.cost[member] + rules_.cost[c] > rules_.room) return false;
        for (const std::uint32_t other : rules_.against[c])
            if (in[other] != 0 && other != member) return false;
        return std::all_of(rules_.groups.begin(), rules_.groups.end(), [&](const Group& group) {
            const auto left = std::count_if(group.columns.begin(), group.columns.end(),
                                            [&](std::uint32_t g) { return g == c || (in[g] != 0 && g != member); });
            return static_cast<std::uint32_t>(left) >= group.least;
        });
    }

    /// Exchanges one for another as long as that gains, each time the pair that gains most.
    void exchange(Columns& set) {
        std::vector<std::uint8_t> in(n_, 0);
        Wide spent = 0;
        for (const std::uint32_t c : set) {
            in[c] = 1;
            spent += rules_.cost[c];
        }
        const bool plain = rules_.plain() && rules_.counting;
        while (!task_.leave_off()) {
            task_.check();
            rows_.exchanges(set, exchanges_);
            Wide most = 0;
            std::optional<std::pair<std::uint32_t, std::uint32_t>> swap;
            for (std::uint32_t c = 0; c < n_; ++c) {
                if (in[c] != 0 || fates_[c] == Fate::out) continue;
                for (std::uint32_t k = 0; k < set.size(); ++k) {
                    if (fates_[set[k]] == Fate::chosen) continue;
                    const Wide by = exchanges_.gain[c] - exchanges_.lost[k] + exchanges_.shared[c * set.size() + k];
                    if (by <= most || !(plain || may_replace(c, set[k], in, spent))) continue;
                    most = by;
                    swap = {c, k};
                }
            }
            if (!swap) return;
            const auto [comes, place] = *swap;
            spent += rules_.cost[comes] - rules_.cost[set[place]];
            in[set[place]] = 0;
            in[comes] = 1;
            set[place] = comes;
        }
    }

    void offer(Columns set) {
        if (!rules_.allow(set)) return;
        exchange(set);
        take(greedy(std::move(set)));  // exchanging may have made room
    }
    void take(Columns set) {
        if (!rules_.allow(set)) return;
        std::sort(set.begin(), set.end());
        std::vector<std::uint8_t> in(n_, 0);
        for (const std::uint32_t c : set) in[c] = 1;
        const Wide value = rows_.value_of(in);
        if (best_.any && value <= best_.value) return;
        best_.any = true;
        best_.value = value;
        best_.columns = std::move(set);
        ask_whether_enough();
    }
    void ask_whether_enough() {
        if (task_.leave_off() || (best_.any && limits_.enough && limits_.enough(best_))) left_off_ = true;
    }

    // Bounds.

    /// What no set of a part is worth more than, and the plane that shows it; none: there is no more to choose from.
    struct Bound {
        Wide value;
        std::optional<std::size_t> plane;
    };
    struct Node {
        Bound bound;
        std::vector<double> shares;
        Relaxed at_best;             ///< the plane that proves most
        std::size_t best_plane = 0;  ///< its number in the proof
    };

    /// Adds the plane that touches the goal there.
    void touch(const std::vector<double>& x) {
        rows_.slope(x, width_, slope_);
        planes_.add(slope_);
    }

    /// Brings the bound down: planes that touch the goal near the best point known, and their means (a proximal bundle,
    /// Lemarechal 1975; Kiwiel 1990). Planes hold everywhere, so that nodes share them.
    Node tighten(const Bound& above, std::vector<double> shares, int steps) {
        Node node{above, bounds_.within(std::move(shares)), {}};
        lower(node, steps);
        if (proof_ != nullptr) node.best_plane = proof_->add_plane({node.at_best.worth, node.at_best.rest});
        if (node.at_best.bound <= above.value) node.bound.plane = node.best_plane;
        return node;
    }
    void lower(Node& node, int steps) {
        if (depth_ > 0) reach_ = reach_at_root_;
        touch(node.shares);
        int since = 0, in_vain = 0;
        for (int step = 0; step < steps; ++step) {
            task_.check();
            if (task_.leave_off()) left_off_ = true;
            const Planes::Peak top =
                planes_.peak(node.shares, reach_, [&](const std::vector<double>& x) { return bounds_.within(x); });
            Relaxed r = bounds_.relax(planes_.mean());
            const Wide before = node.bound.value;
            if (node.at_best.worth.empty() || r.bound < node.at_best.bound) node.at_best = std::move(r);
            node.bound.value = std::min(before, node.at_best.bound);
            const double height = planes_.under(node.shares);
            if (good_enough(node.bound.value)) return;
            const double by = static_cast<double>(before - node.bound.value);
            since = by > kTrifle * std::abs(static_cast<double>(before)) ? 0 : since + 1;
            constexpr int kLong = 30;
            if (since > kLong) break;
            if (depth_ == 0 && step % 8 == 0) ask_at_root(node.bound.value);
            if (depth_ == 0 && step >= 8 && (step & (step - 1)) == 0) offer(greedy_by(node));
            if (left_off_ || good_enough(node.bound.value)) return;
            touch(top.at);
            const double found = planes_.under(top.at);
            const double promised = top.height - height;
            if (found >= height + 0.1 * promised) {
                if (found >= height + 0.5 * promised) reach_ *= 1.5;
                node.shares = top.at;
                in_vain = 0;
            } else if (++in_vain % 4 == 0) {
                reach_ *= 0.7;
            }
            if (promised <= 1e-6 * std::abs(height) && width_ > kSharp) width_ /= 2;
        }
        if (depth_ == 0) reach_at_root_ = reach_;
    }

    // The search.

    /// Nothing that is no better than this is looked for.
    [[nodiscard]] Wide floor() const {
        return limits_.wanted ? std::max<Wide>(best_.value, *limits_.wanted - 1) : best_.value;
    }
    [[nodiscard]] bool good_enough(Wide bound) const {
        if (!best_.any) return false;
        if (bound <= floor()) return true;
        return static_cast<double>(bound - best_.value) <= limits_.gap * std::abs(static_cast<double>(best_.value));
    }
    void ask_at_root(Wide bound) {
        best_.bound = best_.any ? std::max(best_.value, bound) : bound;
        ask_whether_enough();
    }

    /// Columns that cannot, or must, be in a better set.
    bool settle(const Node& node, Columns& decided) {
        if (!best_.any) return true;
        const Relaxed& r = node.at_best;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fates_[c] != Fate::open) continue;
            const Wide loss = bounds_.loss_of(r, c);
            if (loss == 0 || bounds_.rounded(r.exact - loss) > floor()) continue;
            const bool in = r.taken[c] != 0;
            if (proof_ != nullptr) proof_->settle(c, in, node.best_plane);
            if (!fates_.decide(c, in ? Fate::chosen : Fate::out, decided)) return false;
        }
        return true;
    }

    void branch(const Bound& above, std::vector<double> shares, int depth) {
        task_.at("proving that nothing is better", 0);
        depth_ = depth;
        if (++nodes_ % 8 == 0 || task_.leave_off()) ask_whether_enough();
        if (left_off_ && depth > 0) return leave(above);  // one step at the root says much more than none
        if (limits_.most_nodes && nodes_ > *limits_.most_nodes) {
            left_off_ = true;
            return leave(above);
        }
        constexpr int kStepsAtFirst = 300, kStepsLater = 12;
        if (!fates_.any_open()) {
            if (proof_ != nullptr) proof_->end_by_value();
            return take(fates_.chosen());
        }
        const Node node = tighten(above, std::move(shares), depth == 0 ? kStepsAtFirst : kStepsLater);
        if (depth < 2 || !best_.any) offer(greedy_by(node));
        if (depth == 0) ask_at_root(node.bound.value);
        if (left_off_ || good_enough(node.bound.value)) return leave(node.bound);
        Columns decided;
        if (settle(node, decided) && fates_.follow_up(decided))
            split(node, depth);
        else
            end_by_rules();
        fates_.undo(decided);
    }

    /// The columns with the largest shares, one after another.
    [[nodiscard]] Columns greedy_by(const Node& node) {
        Columns order(n_);
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return node.shares[a] > node.shares[b]; });
        Columns set = fates_.chosen();
        std::vector<std::uint8_t> in(n_, 0);
        for (const std::uint32_t c : set) in[c] = 1;
        Wide spent = fates_.spent();
        for (const std::uint32_t c : order) {
            if (node.shares[c] <= 0 || !may_join(c, in, spent)) continue;
            in[c] = 1;
            spent += rules_.cost[c];
            set.push_back(c);
        }
        return greedy(std::move(set));
    }

    /// A node that is not searched: what is open there holds the bound up.
    void leave(const Bound& bound) {
        if (proof_ != nullptr) bound.plane ? proof_->end_by_plane(*bound.plane) : proof_->end_by_value();
        if (best_.any && bound.value <= floor()) return;
        open_bound_ = open_bound_ ? std::max(*open_bound_, bound.value) : bound.value;
    }
    void end_by_rules() {
        if (proof_ != nullptr) proof_->end_by_rules();
    }

    void split(const Node& node, int depth) {
        // The column that is least sure: neither always taken nor never.
        std::optional<std::uint32_t> least_sure;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fates_[c] != Fate::open) continue;
            if (!least_sure || std::abs(node.shares[c] - 0.5) < std::abs(node.shares[*least_sure] - 0.5))
                least_sure = c;
        }
        if (!least_sure) return branch(node.bound, node.shares, depth + 1);
        const bool in_first = node.shares[*least_sure] >= 0.5;
        if (proof_ != nullptr) proof_->divide(*least_sure, in_first);
        for (const bool in : {in_first, !in_first}) {
            if (left_off_) {
                leave(node.bound);
                continue;
            }
            Columns decided;
            if (fates_.decide(*least_sure, in ? Fate::chosen : Fate::out, decided) && fates_.follow_up(decided))
                branch(node.bound, node.shares, depth + 1);
            else
                end_by_rules();
            fates_.undo(decided);
        }
    }

    static constexpr double kTrifle = 1e-6;
    static constexpr double kSharp = 0.01;

    const GoalRows& rows_;
    const RuleBook rules_;
    const ChoiceLimits& limits_;
    const Task& task_;
    std::uint32_t n_;
    ChoiceFates fates_;
    const ChoiceBounds bounds_;
    double width_ = 0.1;
    double reach_at_root_ = 0;
    double reach_ = 100;  // how far from its centre a peak is looked for
    Planes planes_;
    Proof* proof_;
    Chosen best_;
    std::optional<Wide> open_bound_;
    GoalRows::Exchanges exchanges_;
    GoalRows::Slope slope_;
    int depth_ = 0;
    std::uint64_t nodes_ = 0;
    bool left_off_ = false;
};

}  // namespace

Chosen best_choice(const GoalRows& rows, const ChoiceRules& rules, const Columns& start, const ChoiceLimits& limits,
                   const Task& task) {
    const ChoiceRules followed = with_what_follows(rules);
    Proof proof;
    Chosen best = Search(rows, followed, limits, task, limits.check_proof ? &proof : nullptr).run(start);
    if (limits.check_proof && best.any) check(proof, {followed, best.bound, rows.grain(), best.columns, &rows});
    return best;
}

}  // namespace otoro::optimise
