#include "optimise/choice_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>
#include <optional>
#include <utility>

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
          fate_(n_, Fate::open),
          planes_(rows.scale()),
          proof_(proof) {
        for (std::uint32_t c = 0; c < n_; ++c)
            if (rules_.never[c] != 0) fate_[c] = Fate::out;
        best_.any = false;
    }

    Chosen run(const Columns& start) {
        std::vector<std::uint32_t> undone;
        bool possible = true;
        for (std::uint32_t c = 0; c < n_ && possible; ++c)
            if (rules_.required[c] != 0 && fate_[c] != Fate::chosen) possible = decide(c, Fate::chosen, undone);
        if (!possible || !follow_up(undone)) {
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
        for (std::uint32_t c = 0; c < n_; ++c) in[c] = fate_[c] != Fate::out ? 1 : 0;
        return rows_.value_of(in);
    }

    // The state of a node.

    /// Decides a column and whatever follows. \returns whether the rules still allow it
    bool decide(std::uint32_t c, Fate fate, Columns& decided) {
        if (fate_[c] == fate) return true;
        if (fate_[c] != Fate::open) return false;
        fate_[c] = fate;
        decided.push_back(c);
        if (fate != Fate::chosen) return true;
        spent_ += rules_.cost[c];
        if (spent_ > rules_.room) return false;
        return std::all_of(rules_.against[c].begin(), rules_.against[c].end(),
                           [&](std::uint32_t other) { return decide(other, Fate::out, decided); });
    }
    void undo(const Columns& decided) {
        for (const std::uint32_t c : decided) {
            if (fate_[c] == Fate::chosen) spent_ -= rules_.cost[c];
            fate_[c] = Fate::open;
        }
    }
    /// What is dear beyond what is left goes out; the last ones of a group come in, and where there is room for those
    /// alone, all others go out. \returns whether that is allowed
    bool follow_up(Columns& decided) {
        for (bool again = true; again;) {
            again = false;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::open && spent_ + rules_.cost[c] > rules_.room) decide(c, Fate::out, decided);
            for (const Group& group : rules_.groups) {
                const Wide wanted = still_wanted(group);
                if (wanted == 0) continue;
                Columns open;
                for (const std::uint32_t c : group.columns)
                    if (fate_[c] == Fate::open) open.push_back(c);
                if (static_cast<Wide>(open.size()) < wanted || (rules_.counting && rules_.room - spent_ < wanted))
                    return false;
                if (static_cast<Wide>(open.size()) == wanted) {
                    for (const std::uint32_t c : open)
                        if (!decide(c, Fate::chosen, decided)) return false;
                    again = true;
                } else if (rules_.counting && rules_.room - spent_ == wanted) {
                    for (std::uint32_t c = 0; c < n_; ++c) {
                        if (fate_[c] != Fate::open || is_of(group, c)) continue;
                        decide(c, Fate::out, decided);
                        again = true;
                    }
                }
            }
        }
        return true;
    }
    [[nodiscard]] Wide still_wanted(const Group& group) const {
        const auto has = std::count_if(group.columns.begin(), group.columns.end(),
                                       [&](std::uint32_t c) { return fate_[c] == Fate::chosen; });
        return std::max<Wide>(0, static_cast<Wide>(group.least) - static_cast<Wide>(has));
    }
    static bool is_of(const Group& group, std::uint32_t c) {
        return std::binary_search(group.columns.begin(), group.columns.end(), c);
    }
    /// The group of which most are still wanted, where columns are counted; null if there is none.
    [[nodiscard]] const Group* leading() const {
        const Group* out = nullptr;
        Wide most = 0;
        if (rules_.counting)
            for (const Group& group : rules_.groups)
                if (const Wide wanted = still_wanted(group); wanted > most) {
                    most = wanted;
                    out = &group;
                }
        return out;
    }
    [[nodiscard]] bool any_open() const { return std::find(fate_.begin(), fate_.end(), Fate::open) != fate_.end(); }
    [[nodiscard]] Columns chosen() const {
        Columns out;
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] == Fate::chosen) out.push_back(c);
        return out;
    }

    // Sets and their values.

    /// Whether `c` may come to a set that keeps to the rules so far.
    [[nodiscard]] bool may_join(std::uint32_t c, const std::vector<std::uint8_t>& in, Wide spent) const {
        if (in[c] != 0 || fate_[c] == Fate::out || spent + rules_.cost[c] > rules_.room) return false;
        if (rules_.counting)  // what a group still wants keeps its room
            for (const Group& group : rules_.groups)
                if (!is_of(group, c) && spent + 1 + RuleBook::wanted(group, in) > rules_.room) return false;
        return std::none_of(rules_.against[c].begin(), rules_.against[c].end(),
                            [&](std::uint32_t other) { return in[other] != 0; });
    }
    /// Whether more is had for what `a` costs than for what `b` does.
    [[nodiscard]] bool dearer(Wide gain_a, std::uint32_t a, Wide gain_b, std::uint32_t b) const {
        if (rules_.counting) return gain_a > gain_b;
        const auto rate = [&](Wide gain, std::uint32_t c) {
            if (rules_.cost[c] == 0) return std::numeric_limits<double>::infinity();
            return static_cast<double>(gain) / static_cast<double>(rules_.cost[c]);
        };
        return rate(gain_a, a) > rate(gain_b, b);
    }

    /// The column that gains most, for what it costs, then the next, beside those that are chosen already. Groups that
    /// want some yet come first.
    [[nodiscard]] Columns greedy(Columns set) {
        std::vector<std::uint8_t> in(n_, 0);
        Wide spent = 0;
        for (const std::uint32_t c : chosen())
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
                if (!best || dearer(exchanges_.gain[c], c, exchanges_.gain[*best], *best)) best = c;
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
                if (in[c] != 0 || fate_[c] == Fate::out) continue;
                for (std::uint32_t k = 0; k < set.size(); ++k) {
                    if (fate_[set[k]] == Fate::chosen) continue;
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

    struct Relaxed {
        Wide exact = 0;  ///< no set of this part is worth more
        Wide bound = 0;  ///< the same, rounded to what values there are
        std::vector<Wide> worth;
        Wide rest = 0;                    ///< of the plane with that worth
        std::vector<std::uint8_t> taken;  ///< of those open: whole, in the relaxed optimum
        /// The last that is taken whole, and the first that is not: between them stands what a unit of room brings.
        std::optional<std::uint32_t> last_in, first_out;
        bool in_part = false;  ///< whether that one is taken in part
        /// Where a group leaves others no more room than is taken: the group, and the last of the others.
        const Group* group = nullptr;
        std::optional<std::uint32_t> last_other;
    };

    /// The most that those open are worth within the room that is left, in part too, and what stands besides.
    [[nodiscard]] Relaxed relax(const GoalRows::Slope& at) const {
        Relaxed out;
        out.worth = at.worth;
        out.rest = at.rest;
        out.taken.assign(n_, 0);
        out.exact = at.rest;
        Columns open;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] == Fate::chosen) out.exact += out.worth[c];
            if (fate_[c] == Fate::open) open.push_back(c);
        }
        std::sort(open.begin(), open.end(), [&](std::uint32_t a, std::uint32_t b) {
            if (dearer(out.worth[a], a, out.worth[b], b)) return true;
            return !dearer(out.worth[b], b, out.worth[a], a) && a < b;
        });
        Wide left = rules_.room - spent_, taken = 0;
        const Group* group = leading();
        const Wide for_others = group != nullptr ? left - still_wanted(*group) : left;
        Wide others = 0;
        for (const std::uint32_t c : open) {
            if (rules_.cost[c] > left) {
                if (!out.first_out) out.first_out = c;
                out.in_part = left > 0;
                break;
            }
            // The best of all that leave the group its room are the best there are: these sets are a laminar matroid.
            const bool other = group != nullptr && !is_of(*group, c);
            if (other && others == for_others) {
                if (!out.first_out) out.first_out = c;
                continue;
            }
            out.taken[c] = 1;
            out.last_in = c;
            if (other) {
                ++others;
                out.last_other = c;
            }
            taken += out.worth[c];
            left -= rules_.cost[c];
        }
        if (group != nullptr && others == for_others) out.group = group;
        out.exact += taken;
        if (!rules_.counting && out.first_out) {
            // Whatever comes after brings no more for a unit of room than this one does, but for rounding.
            const auto part = rate_of(out, *out.first_out) * static_cast<long double>(left);
            out.exact += static_cast<Wide>(part) + 1 + slack(static_cast<long double>(taken) + part);
        }
        out.bound = rounded(out.exact);
        return out;
    }
    /// No value lies between the multiples of the grain.
    [[nodiscard]] Wide rounded(Wide bound) const {
        const Wide grain = rows_.grain(), over = bound % grain;
        return bound - (over < 0 ? over + grain : over);
    }
    [[nodiscard]] long double rate_of(const Relaxed& r, std::uint32_t c) const {
        return static_cast<long double>(r.worth[c]) / static_cast<long double>(rules_.cost[c]);
    }
    /// More than rounding can have done to sums of this size.
    static Wide slack(long double size) { return static_cast<Wide>(size * 1e-15L); }

    /// At least how much the bound falls when a column that is taken goes out, or one that is not comes in.
    [[nodiscard]] Wide loss_of(const Relaxed& r, std::uint32_t c) const {
        const bool in = r.taken[c] != 0;
        const auto next = in || r.in_part ? r.first_out : r.last_in;
        if (rules_.counting) {
            const auto gives_way = in || r.group == nullptr || is_of(*r.group, c) ? next : r.last_other;
            const Wide other = gives_way ? r.worth[*gives_way] : 0;
            return std::max<Wide>(0, in ? r.worth[c] - other : gives_way ? other - r.worth[c] : 0);
        }
        if (rules_.cost[c] == 0)
            return in ? std::max<Wide>(0, r.worth[c] - slack(static_cast<long double>(r.worth[c])) - 1) : 0;
        const long double rate = next && rules_.cost[*next] > 0 ? rate_of(r, *next) : 0;
        const long double for_room = rate * static_cast<long double>(rules_.cost[c]);
        const auto worth = static_cast<long double>(r.worth[c]);
        const long double loss = in ? worth - for_room : for_room - worth;
        return std::max<Wide>(0, static_cast<Wide>(loss) - slack(worth + for_room) - 1);
    }

    /// The nearest shares between nothing and one, those that are settled as they are, that cost what there is room
    /// for, and of which the leading group has what it wants.
    [[nodiscard]] std::vector<double> within(std::vector<double> shares) const {
        Columns open;
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] == Fate::open) open.push_back(c);
        const auto left = static_cast<double>(rules_.room - spent_);
        auto out = cut_to(shares, open, left);
        if (const Group* group = leading()) {
            const auto wanted = static_cast<double>(still_wanted(*group));
            const auto others =
                std::stable_partition(open.begin(), open.end(), [&](auto c) { return is_of(*group, c); });
            const Columns of_group(open.begin(), others), rest(others, open.end());
            double has = 0;
            for (const std::uint32_t c : of_group) has += out[c];
            if (has < wanted) {  // then it has no more than that, and the others what is left
                out = cut_to(std::move(shares), of_group, wanted);
                out = cut_to(std::move(out), rest, left - wanted);
            }
        }
        for (std::uint32_t c = 0; c < n_; ++c)
            if (fate_[c] != Fate::open) out[c] = fate_[c] == Fate::chosen ? 1 : 0;
        return out;
    }
    /// The shares of some columns moved by as much for what they cost, between nothing and one, until they cost so
    /// much.
    [[nodiscard]] std::vector<double> cut_to(std::vector<double> shares, const Columns& columns, double left) const {
        double low = 0, high = 0, all = 0;
        const auto cost = [&](std::uint32_t c) { return static_cast<double>(rules_.cost[c]); };
        for (const std::uint32_t c : columns) {
            all += cost(c);
            low = std::min(low, (shares[c] - 1) / std::max(1.0, cost(c)));
            high = std::max(high, shares[c] / std::max(1.0, cost(c)));
        }
        const auto cut = [&](std::uint32_t c, double by) {
            return rules_.cost[c] == 0 ? 1.0 : std::clamp(shares[c] - by * cost(c), 0.0, 1.0);
        };
        double by = low;
        if (all > left) {
            // What is left falls with the cut, bend by bend: Newton's steps, halving where one leaves the bracket.
            constexpr int kMostSteps = 60;
            by = (low + high) / 2;
            for (int k = 0; k < kMostSteps; ++k) {
                double sum = 0, steepness = 0;
                for (const std::uint32_t c : columns) {
                    const double share = cut(c, by);
                    sum += cost(c) * share;
                    if (share > 0 && share < 1) steepness += cost(c) * cost(c);
                }
                (sum > left ? low : high) = by;
                if (std::abs(sum - left) <= 1e-12 * (left + 1)) break;
                const double step = steepness > 0 ? by + (sum - left) / steepness : low;
                by = step > low && step < high ? step : (low + high) / 2;
            }
        }
        for (const std::uint32_t c : columns) shares[c] = cut(c, by);
        return shares;
    }

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
        Node node{above, within(std::move(shares)), {}};
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
                planes_.peak(node.shares, reach_, [&](const std::vector<double>& x) { return within(x); });
            Relaxed r = relax(planes_.mean());
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
            if (fate_[c] != Fate::open) continue;
            const Wide loss = loss_of(r, c);
            if (loss == 0 || rounded(r.exact - loss) > floor()) continue;
            const bool in = r.taken[c] != 0;
            if (proof_ != nullptr) proof_->settle(c, in, node.best_plane);
            if (!decide(c, in ? Fate::chosen : Fate::out, decided)) return false;
        }
        return true;
    }

    void branch(const Bound& above, std::vector<double> shares, int depth) {
        task_.at("proving that nothing is better", 0);
        depth_ = depth;
        if (++nodes_ % 8 == 0 || task_.leave_off()) ask_whether_enough();
        if (left_off_) return leave(above);
        if (limits_.most_nodes && nodes_ > *limits_.most_nodes) {
            left_off_ = true;
            return leave(above);
        }
        constexpr int kStepsAtFirst = 300, kStepsLater = 12;
        if (!any_open()) {
            if (proof_ != nullptr) proof_->end_by_value();
            return take(chosen());
        }
        const Node node = tighten(above, std::move(shares), depth == 0 ? kStepsAtFirst : kStepsLater);
        if (depth < 2 || !best_.any) offer(greedy_by(node));
        if (depth == 0) ask_at_root(node.bound.value);
        if (left_off_ || good_enough(node.bound.value)) return leave(node.bound);
        Columns decided;
        if (settle(node, decided) && follow_up(decided))
            split(node, depth);
        else
            end_by_rules();
        undo(decided);
    }

    /// The columns with the largest shares, one after another.
    [[nodiscard]] Columns greedy_by(const Node& node) {
        Columns order(n_);
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return node.shares[a] > node.shares[b]; });
        Columns set = chosen();
        std::vector<std::uint8_t> in(n_, 0);
        for (const std::uint32_t c : set) in[c] = 1;
        Wide spent = spent_;
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
            if (fate_[c] != Fate::open) continue;
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
            if (decide(*least_sure, in ? Fate::chosen : Fate::out, decided) && follow_up(decided))
                branch(node.bound, node.shares, depth + 1);
            else
                end_by_rules();
            undo(decided);
        }
    }

    static constexpr double kTrifle = 1e-6;
    static constexpr double kSharp = 0.01;

    const GoalRows& rows_;
    const RuleBook rules_;
    const ChoiceLimits& limits_;
    const Task& task_;
    std::uint32_t n_;
    std::vector<Fate> fate_;
    Wide spent_ = 0;
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
