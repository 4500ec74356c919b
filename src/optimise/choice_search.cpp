#include "optimise/choice_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>
#include <optional>
#include <utility>

namespace otoro::optimise {

double Chosen::gap() const {
    if (value == bound) return 0;
    const auto apart = static_cast<double>(value > bound ? value - bound : bound - value);
    return value == 0 ? 1 : apart / std::abs(static_cast<double>(value));
}

namespace {

/// Whether a column is still to be decided at a node of the search.
enum class Fate : std::uint8_t { open, chosen, out };

/// The rules, put so that they can be looked up.
struct Rules {
    std::uint32_t n;
    std::vector<std::int64_t> cost;  ///< one each where they only count
    Wide room;                       ///< for costs
    bool counting;                   ///< whether every column costs one
    std::vector<Columns> against;    ///< by column: those that it excludes
    std::vector<Columns> groups;     ///< that no kept column is of
    std::vector<std::uint8_t> never, required;

    explicit Rules(const ChoiceRules& asked)
        : n(asked.columns),
          cost(asked.costs.begin(), asked.costs.end()),
          room(asked.costs.empty() ? asked.choose : asked.budget),
          counting(asked.costs.empty()),
          against(asked.columns),
          never(asked.columns, 0),
          required(asked.columns, 0) {
        if (counting) cost.assign(n, 1);
        std::vector<std::uint8_t> kept(n, 0);
        for (const std::uint32_t c : asked.kept) kept[c] = never[c] = 1;
        for (const std::uint32_t c : asked.never) never[c] = 1;
        for (const std::uint32_t c : asked.required)
            if (kept[c] == 0) required[c] = 1;
        for (const auto& [a, b] : asked.apart) {
            if (kept[a] != 0 && kept[b] != 0) continue;
            against[a].push_back(b);
            against[b].push_back(a);
        }
        for (const Columns& group : asked.one_of)
            if (std::none_of(group.begin(), group.end(), [&](std::uint32_t c) { return kept[c] != 0; }))
                groups.push_back(group);
    }
    [[nodiscard]] bool plain() const {
        return groups.empty() &&
               std::all_of(against.begin(), against.end(), [](const Columns& c) { return c.empty(); });
    }
    [[nodiscard]] bool allow(const Columns& set) const {
        std::vector<std::uint8_t> in(n, 0);
        Wide sum = 0;
        for (const std::uint32_t c : set) {
            if (never[c] != 0 || in[c] != 0) return false;
            in[c] = 1;
            sum += cost[c];
        }
        if (sum > room) return false;
        for (std::uint32_t c = 0; c < n; ++c)
            if (required[c] != 0 && in[c] == 0) return false;
        for (const std::uint32_t c : set)
            for (const std::uint32_t other : against[c])
                if (in[other] != 0) return false;
        return std::all_of(groups.begin(), groups.end(), [&](const Columns& group) {
            return std::any_of(group.begin(), group.end(), [&](std::uint32_t c) { return in[c] != 0; });
        });
    }
};

class Search {
public:
    Search(const GoalRows& rows, const ChoiceRules& asked, const ChoiceLimits& limits, const Task& task)
        : rows_(rows), rules_(asked), limits_(limits), task_(task), n_(asked.columns), fate_(n_, Fate::open) {
        for (std::uint32_t c = 0; c < n_; ++c)
            if (rules_.never[c] != 0) fate_[c] = Fate::out;
        best_.any = false;
    }

    Chosen run(const Columns& start) {
        std::vector<std::uint32_t> undone;
        bool possible = true;
        for (std::uint32_t c = 0; c < n_ && possible; ++c)
            if (rules_.required[c] != 0 && fate_[c] != Fate::chosen) possible = decide(c, Fate::chosen, undone);
        if (!possible || !follow_up(undone)) return best_;
        best_.bound = most();
        if (!start.empty()) offer(start);
        offer(greedy({}));
        unit_ = std::max(1.0, rows_.scale());
        branch(most(), std::vector<double>(n_, 0), 0);
        if (best_.any) best_.bound = open_bound_ ? std::max(floor(), *open_bound_) : floor();
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
    /// What is dear beyond what is left goes out; the last one of a group comes in. \returns whether that is allowed
    bool follow_up(Columns& decided) {
        for (bool again = true; again;) {
            again = false;
            for (std::uint32_t c = 0; c < n_; ++c)
                if (fate_[c] == Fate::open && spent_ + rules_.cost[c] > rules_.room) decide(c, Fate::out, decided);
            for (const Columns& group : rules_.groups) {
                std::optional<std::uint32_t> last;
                std::size_t open = 0;
                bool has = false;
                for (const std::uint32_t c : group) {
                    has = has || fate_[c] == Fate::chosen;
                    if (fate_[c] != Fate::open || last == c) continue;
                    ++open;
                    last = c;
                }
                if (has || open > 1) continue;
                if (open == 0 || !decide(*last, Fate::chosen, decided)) return false;
                again = true;
            }
        }
        return true;
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
    /// have none yet come first.
    [[nodiscard]] Columns greedy(Columns set) {
        std::vector<std::uint8_t> in(n_, 0);
        Wide spent = 0;
        for (const std::uint32_t c : chosen())
            if (std::find(set.begin(), set.end(), c) == set.end()) set.push_back(c);
        for (const std::uint32_t c : set) {
            in[c] = 1;
            spent += rules_.cost[c];
        }
        while (true) {
            task_.check();
            std::vector<std::uint8_t> wanted;
            for (const Columns& group : rules_.groups) {
                if (std::any_of(group.begin(), group.end(), [&](std::uint32_t c) { return in[c] != 0; })) continue;
                wanted.assign(n_, 0);
                for (const std::uint32_t c : group) wanted[c] = 1;
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
    }

    /// Whether the rules hold when `c` takes the place of a member.
    [[nodiscard]] bool may_replace(std::uint32_t c, std::uint32_t member, const std::vector<std::uint8_t>& in,
                                   Wide spent) const {
        if (spent - rules_.cost[member] + rules_.cost[c] > rules_.room) return false;
        for (const std::uint32_t other : rules_.against[c])
            if (in[other] != 0 && other != member) return false;
        return std::all_of(rules_.groups.begin(), rules_.groups.end(), [&](const Columns& group) {
            return std::any_of(group.begin(), group.end(),
                               [&](std::uint32_t g) { return g == c || (in[g] != 0 && g != member); });
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
        while (true) {
            task_.check();
            rows_.exchanges(set, exchanges_);
            Wide most = 0;
            std::optional<std::pair<std::uint32_t, std::uint32_t>> swap;
            for (std::uint32_t c = 0; c < n_; ++c) {
                if (in[c] != 0 || fate_[c] == Fate::out) continue;
                for (std::uint32_t k = 0; k < set.size(); ++k) {
                    if (fate_[set[k]] == Fate::chosen) continue;
                    const Wide by =
                        exchanges_.gain[c] - exchanges_.lost[k] + exchanges_.shared[c * set.size() + k];
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
        if (best_.any && limits_.enough && limits_.enough(best_)) left_off_ = true;
    }

    // Bounds.

    struct Relaxed {
        Wide bound = 0;
        std::vector<Wide> worth;
        std::vector<std::uint8_t> taken;  ///< of those open: whole, in the relaxed optimum
        /// The last that is taken whole, and the first that is not: between them stands what a unit of room brings.
        std::optional<std::uint32_t> last_in, first_out;
        bool in_part = false;  ///< whether that one is taken in part
    };

    /// The most that those open are worth within the room that is left, in part too, and what stands besides.
    [[nodiscard]] Relaxed relax(const GoalRows::Slope& at) const {
        Relaxed out;
        out.worth = at.worth;
        out.taken.assign(n_, 0);
        out.bound = at.rest;
        Columns open;
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] == Fate::chosen) out.bound += out.worth[c];
            if (fate_[c] == Fate::open) open.push_back(c);
        }
        std::sort(open.begin(), open.end(), [&](std::uint32_t a, std::uint32_t b) {
            if (dearer(out.worth[a], a, out.worth[b], b)) return true;
            return !dearer(out.worth[b], b, out.worth[a], a) && a < b;
        });
        Wide left = rules_.room - spent_, taken = 0;
        for (const std::uint32_t c : open) {
            if (rules_.cost[c] > left) {
                out.first_out = c;
                out.in_part = left > 0;
                break;
            }
            out.taken[c] = 1;
            out.last_in = c;
            taken += out.worth[c];
            left -= rules_.cost[c];
        }
        out.bound += taken;
        if (rules_.counting || !out.first_out) return rounded(std::move(out));
        // Whatever comes after brings no more for a unit of room than this one does, but for rounding.
        const auto part = rate_of(out, *out.first_out) * static_cast<long double>(left);
        out.bound += static_cast<Wide>(part) + 1 + slack(static_cast<long double>(taken) + part);
        return rounded(std::move(out));
    }
    /// No value lies between the multiples of the grain.
    [[nodiscard]] Relaxed rounded(Relaxed r) const {
        const Wide grain = rows_.grain(), over = r.bound % grain;
        r.bound -= over < 0 ? over + grain : over;
        return r;
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
            const Wide other = next ? r.worth[*next] : 0;
            return std::max<Wide>(0, in ? r.worth[c] - other : next ? other - r.worth[c] : 0);
        }
        if (rules_.cost[c] == 0) return in ? std::max<Wide>(0, r.worth[c] - slack(static_cast<long double>(r.worth[c])) - 1) : 0;
        const long double rate = next && rules_.cost[*next] > 0 ? rate_of(r, *next) : 0;
        const long double for_room = rate * static_cast<long double>(rules_.cost[c]);
        const auto worth = static_cast<long double>(r.worth[c]);
        const long double loss = in ? worth - for_room : for_room - worth;
        return std::max<Wide>(0, static_cast<Wide>(loss) - slack(worth + for_room) - 1);
    }

    /// The nearest shares between nothing and one, those that are settled as they are, that cost what there is room for.
    [[nodiscard]] std::vector<double> within(std::vector<double> shares) const {
        const auto left = static_cast<double>(rules_.room - spent_);
        double low = 0, high = 0, all = 0;
        const auto cost = [&](std::uint32_t c) { return static_cast<double>(rules_.cost[c]); };
        for (std::uint32_t c = 0; c < n_; ++c) {
            if (fate_[c] != Fate::open) continue;
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
                for (std::uint32_t c = 0; c < n_; ++c) {
                    if (fate_[c] != Fate::open) continue;
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
        for (std::uint32_t c = 0; c < n_; ++c)
            shares[c] = fate_[c] == Fate::chosen ? 1 : fate_[c] == Fate::out ? 0 : cut(c, by);
        return shares;
    }

    struct Node {
        Wide bound;
        std::vector<double> shares;
        Relaxed at_best;  ///< what proves the bound
    };

    /// A bound of the goal that is linear in the columns, found at one point; it holds everywhere.
    struct Plane {
        Wide rest;
        std::vector<Wide> worth;
        double height;              ///< the same, scaled
        std::vector<double> slope;  ///< likewise
        double part = 0;            ///< of the mean that proved most last
        int idle = 0;               ///< how often it had no part in it
    };
    [[nodiscard]] double height_at(const Plane& plane, const std::vector<double>& x) const {
        return std::inner_product(x.begin(), x.end(), plane.slope.begin(), plane.height);
    }

    [[nodiscard]] double under_planes(const std::vector<double>& x) const {
        double least = std::numeric_limits<double>::infinity();
        for (const Plane& plane : planes_) least = std::min(least, height_at(plane, x));
        return least;
    }

    /// Looks at the goal at a point, and keeps the plane that touches it there. \returns the goal's value, scaled
    double touch(const std::vector<double>& x, double width) {
        rows_.slope(x, width, slope_);
        if (planes_.size() >= kMostPlanes)
            planes_.erase(std::max_element(planes_.begin(), planes_.end(),
                                           [](const Plane& a, const Plane& b) { return a.idle < b.idle; }));
        Plane plane{slope_.rest, slope_.worth, static_cast<double>(slope_.rest) / unit_, std::vector<double>(n_)};
        for (std::uint32_t c = 0; c < n_; ++c) plane.slope[c] = static_cast<double>(slope_.worth[c]) / unit_;
        planes_.push_back(std::move(plane));
        return slope_.value / unit_;
    }

    /// The highest point under all planes, not far from a centre; and the mean of planes that proves it.
    struct Peak {
        std::vector<double> at;
        double height;
    };
    [[nodiscard]] Peak peak(const std::vector<double>& centre, double reach) {
        const std::size_t count = planes_.size();
        std::vector<double> parts(count), before(count), ahead(count), lean(n_), moved(n_), at, rises(count);
        double sum = 0;
        for (std::size_t k = 0; k < count; ++k) sum += parts[k] = planes_[k].part;
        if (sum <= 0) parts.back() = sum = 1;
        for (double& part : parts) part /= sum;
        // The dual: of all means of planes the one whose highest point, drawn to the centre, is lowest.
        const auto highest = [&](const std::vector<double>& of) {
            std::fill(lean.begin(), lean.end(), 0.0);
            double height = 0;
            for (std::size_t k = 0; k < count; ++k) {
                if (of[k] == 0) continue;
                height += of[k] * planes_[k].height;
                for (std::uint32_t c = 0; c < n_; ++c) lean[c] += of[k] * planes_[k].slope[c];
            }
            for (std::uint32_t c = 0; c < n_; ++c) moved[c] = centre[c] + reach * lean[c];
            at = within(moved);
            for (std::uint32_t c = 0; c < n_; ++c) {
                const double by = at[c] - centre[c];
                height += lean[c] * at[c] - by * by / (2 * reach);
            }
            return height;
        };
        before = ahead = parts;
        double momentum = 1, length = 1;
        constexpr int kRounds = 120;
        for (int round = 0; round < kRounds; ++round) {
            const double here = highest(ahead);
            for (std::size_t k = 0; k < count; ++k) rises[k] = height_at(planes_[k], at);
            const double most = std::inner_product(rises.begin(), rises.end(), ahead.begin(), 0.0);
            const double least = *std::min_element(rises.begin(), rises.end());
            if (most - least <= 1e-9 * (std::abs(most) + 1e-3)) break;
            for (length *= 1.2;; length /= 2) {
                std::vector<double> next(count);
                for (std::size_t k = 0; k < count; ++k) next[k] = ahead[k] - length * rises[k];
                on_simplex(next);
                double promised = here;
                for (std::size_t k = 0; k < count; ++k) {
                    const double by = next[k] - ahead[k];
                    promised += rises[k] * by + by * by / (2 * length);
                }
                parts = std::move(next);
                if (length < 1e-12 || highest(parts) <= promised + 1e-13 * std::abs(here)) break;
            }
            double turned = 0;
            for (std::size_t k = 0; k < count; ++k) turned += (ahead[k] - parts[k]) * (parts[k] - before[k]);
            if (turned > 0) momentum = 1;
            const double more = (1 + std::sqrt(1 + 4 * momentum * momentum)) / 2;
            for (std::size_t k = 0; k < count; ++k)
                ahead[k] = parts[k] + (momentum - 1) / more * (parts[k] - before[k]);
            on_simplex(ahead);
            momentum = more;
            before = parts;
        }
        highest(before);
        Peak out{at, std::numeric_limits<double>::infinity()};
        for (std::size_t k = 0; k < count; ++k) {
            planes_[k].part = before[k];
            planes_[k].idle = before[k] > 1e-9 ? 0 : planes_[k].idle + 1;
            out.height = std::min(out.height, height_at(planes_[k], at));
        }
        return out;
    }
    /// The nearest parts, none below nothing, that add up to one.
    static void on_simplex(std::vector<double>& parts) {
        std::vector<double> sorted = parts;
        std::sort(sorted.begin(), sorted.end(), std::greater<>());
        double sum = 0, cut = 0;
        for (std::size_t k = 0; k < sorted.size(); ++k) {
            sum += sorted[k];
            const double at = (sum - 1) / static_cast<double>(k + 1);
            if (sorted[k] > at) cut = at;
        }
        for (double& part : parts) part = std::max(0.0, part - cut);
    }

    /// What the mean of planes proves, in whole numbers.
    [[nodiscard]] Relaxed proven_by_mean() const {
        constexpr double kWhole = 1 << 20;
        GoalRows::Slope mean;
        mean.worth.assign(n_, 0);
        Wide all = 0;
        for (const Plane& plane : planes_) {
            const auto part = static_cast<Wide>(plane.part * kWhole);
            if (part == 0) continue;
            all += part;
            mean.rest += part * plane.rest;
            for (std::uint32_t c = 0; c < n_; ++c) mean.worth[c] += part * plane.worth[c];
        }
        if (all == 0) return relax(GoalRows::Slope{0, planes_.back().worth, planes_.back().rest});
        const auto up = [&](Wide v) { return v >= 0 ? (v + all - 1) / all : -(-v / all); };
        mean.rest = up(mean.rest);
        for (Wide& w : mean.worth) w = up(w);
        return relax(mean);
    }

    /// Brings the bound down: planes that touch the goal near the best point known, and their means (a proximal bundle,
    /// Lemarechal 1975; Kiwiel 1990). Planes hold everywhere, so that nodes share them.
    Node tighten(Wide above, std::vector<double> shares, int steps) {
        Node node{above, within(std::move(shares)), {}};
        touch(node.shares, width_);
        int since = 0, in_vain = 0;
        for (int step = 0; step < steps; ++step) {
            task_.check();
            const Peak top = peak(node.shares, reach_);
            Relaxed r = proven_by_mean();
            const Wide before = node.bound;
            if (node.at_best.worth.empty() || r.bound < node.at_best.bound) node.at_best = std::move(r);
            node.bound = std::min(node.bound, node.at_best.bound);
            const double height = under_planes(node.shares);
            if (good_enough(node.bound)) return node;
            const double by = static_cast<double>(before - node.bound);
            since = by > kTrifle * std::abs(static_cast<double>(before)) ? 0 : since + 1;
            constexpr int kLong = 30;
            if (since > kLong) break;
            if (depth_ == 0 && step % 8 == 0) ask_at_root(node.bound);
            if (depth_ == 0 && step >= 8 && (step & (step - 1)) == 0) offer(greedy_by(node));
            if (left_off_ || good_enough(node.bound)) return node;
            touch(top.at, width_);
            const double found = under_planes(top.at);
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
        if (depth_ > 0) reach_ = reach_at_root_;
        else reach_at_root_ = reach_;
        return node;
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
            if (loss == 0 || r.bound - loss > floor()) continue;
            if (!decide(c, r.taken[c] != 0 ? Fate::chosen : Fate::out, decided)) return false;
        }
        return true;
    }

    void branch(Wide above, std::vector<double> shares, int depth) {
        task_.at("proving that nothing is better", 0);
        depth_ = depth;
        if (++nodes_ % 8 == 0) ask_whether_enough();
        if (limits_.most_nodes && nodes_ > *limits_.most_nodes) {
            left_off_ = true;
            return leave(above);
        }
        constexpr int kStepsAtFirst = 300, kStepsLater = 12;
        if (!any_open()) return take(chosen());
        Node node = tighten(above, std::move(shares), depth == 0 ? kStepsAtFirst : kStepsLater);
        if (depth < 2 || !best_.any) offer(greedy_by(node));
        if (depth == 0) ask_at_root(node.bound);
        if (left_off_ || good_enough(node.bound)) return leave(node.bound);
        Columns decided;
        if (settle(node, decided) && follow_up(decided)) split(node, depth);
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
    void leave(Wide bound) {
        if (best_.any && bound <= floor()) return;
        open_bound_ = open_bound_ ? std::max(*open_bound_, bound) : bound;
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
            if (left_off_) {
                leave(node.bound);
                continue;
            }
            Columns decided;
            if (decide(*least_sure, in ? Fate::chosen : Fate::out, decided) && follow_up(decided))
                branch(node.bound, node.shares, depth + 1);
            undo(decided);
        }
    }

    static constexpr double kTrifle = 1e-6;
    static constexpr double kSharp = 0.01;
    static constexpr std::size_t kMostPlanes = 80;

    const GoalRows& rows_;
    const Rules rules_;
    const ChoiceLimits& limits_;
    const Task& task_;
    std::uint32_t n_;
    std::vector<Fate> fate_;
    Wide spent_ = 0;
    double unit_ = 1;   // of scaled heights
    double width_ = 0.1;
    double reach_at_root_ = 0;
    double reach_ = 100;  // how far from its centre a peak is looked for
    std::vector<Plane> planes_;
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
    return Search(rows, with_what_follows(rules), limits, task).run(start);
}

bool keeps_to(const ChoiceRules& rules, const Columns& set) { return Rules(with_what_follows(rules)).allow(set); }

ChoiceRules with_what_follows(ChoiceRules rules) {
    std::vector<std::uint8_t> kept(rules.columns, 0);
    for (const std::uint32_t c : rules.kept) kept[c] = 1;
    for (const auto& [a, b] : rules.apart) {
        if (kept[a] != 0 && kept[b] == 0) rules.never.push_back(b);
        if (kept[b] != 0 && kept[a] == 0) rules.never.push_back(a);
    }
    std::erase_if(rules.never, [&](std::uint32_t c) { return kept[c] != 0; });
    return rules;
}

}  // namespace otoro::optimise
