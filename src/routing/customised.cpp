#include "routing/customised.h"

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <mutex>
#include <queue>
#include <tuple>

#include "routing/vector_passes.h"

namespace otoro::routing {
namespace {

/// A pair (cost, other) as one number that is compared with a sign: the order of pairs, shifted by half the range.
constexpr std::uint64_t kShift = kArcShift;
using Pair = std::uint64_t;
Pair pair_of(std::uint32_t cost, std::uint32_t other) { return ((Pair{cost} << 32U) | other) ^ kShift; }
std::uint32_t cost_of(Pair p) { return static_cast<std::uint32_t>((p ^ kShift) >> 32U); }
std::uint32_t other_of(Pair p) { return static_cast<std::uint32_t>(p); }
const Pair kNoPair = pair_of(kFar, 0);

/// Costs between the nodes above the one being taken out, by their depths: a triangle.
class Above {
public:
    explicit Above(std::uint32_t height) : at_(std::size_t{height} * (height + 1) / 2, ArcPair{kNoPair, kNoPair}) {}
    [[nodiscard]] ArcPair* triangle() { return at_.data(); }
    [[nodiscard]] ArcPair* row(std::uint32_t depth) {
        return at_.data() + std::size_t{depth} * (std::size_t{depth} + 1) / 2;
    }

private:
    std::vector<ArcPair, HugePages<ArcPair>> at_;
};

/// Works out all arcs of a hierarchy whose own arcs have been put in.
class Contraction {
public:
    Contraction(const Hierarchy& h, std::array<Amounts*, 4> amounts)
        : h_(h), up_cost_(*amounts[0]), up_other_(*amounts[1]), down_cost_(*amounts[2]), down_other_(*amounts[3]) {}

    /// The largest cost, and the largest amount of the other measure, of arcs that lead anywhere.
    [[nodiscard]] ArcWeight largest() const { return largest_; }

    void run(const Task& task) {
        const std::uint32_t n = h_.node_count();
        const std::uint32_t most = std::max(5'000U, n / 16);
        // Subtrees of moderate size, and the nodes above them.
        std::vector<std::uint32_t> roots, tops;
        for (std::uint32_t t = n; t-- > 0;) {
            if (h_.subtree(t) > most) {
                tops.push_back(t);
                continue;
            }
            roots.push_back(t);
            t = t + 1 - h_.subtree(t);
        }
        tbb::enumerable_thread_specific<Local> locals([&] { return Local{Above(h_.height()), {}, {0, 0}}; });
        std::mutex handing_up;
        tbb::parallel_for(
            tbb::blocked_range<std::size_t>(0, roots.size(), 1),
            [&](const auto& range) {
                auto& mine = locals.local();
                for (std::size_t i = range.begin(); i != range.end() && !task.stop_requested(); ++i) {
                    const std::uint32_t root = roots[i];
                    for (std::uint32_t t = root + 1 - h_.subtree(root); t <= root; ++t)
                        take_out(h_.by_position()[t], mine);
                    hand_up(h_.by_position()[root], mine.above, handing_up);
                }
            },
            tbb::simple_partitioner());
        task.check();
        auto& mine = locals.local();
        for (auto t = tops.rbegin(); t != tops.rend(); ++t) {
            if (t != tops.rbegin() && *t != *(t - 1) + 1) task.check();
            take_out(h_.by_position()[*t], mine);
        }
        for (const Local& l : locals)
            largest_ = {std::max(largest_.cost, l.largest.cost), std::max(largest_.other, l.largest.other)};
    }

private:
    /// What a thread works with.
    struct Local {
        Above above;
        std::vector<WorkedOut> arcs;
        ArcWeight largest;
    };

    [[nodiscard]] ArcPair at(std::uint32_t slot) const {
        return ArcPair{pair_of(up_cost_[slot], up_other_[slot]), pair_of(down_cost_[slot], down_other_[slot])};
    }
    void put(std::uint32_t slot, ArcPair p) {
        up_cost_[slot] = cost_of(p[0]);
        up_other_[slot] = other_of(p[0]);
        down_cost_[slot] = cost_of(p[1]);
        down_other_[slot] = other_of(p[1]);
    }
    /// Held where the program's amounts end.
    static Pair held(Pair p) {
        if (cost_of(p) >= kFar) return kNoPair;
        return other_of(p) > kFar ? pair_of(cost_of(p), kFar) : p;
    }

    void take_out(std::uint32_t rank, Local& mine) {
        const auto row = h_.row(rank);
        auto& arcs = mine.arcs;
        arcs.resize(row.count);
        ArcPair* waiting = mine.above.row(h_.depth(rank));
        for (std::uint32_t i = 0; i < row.count; ++i) {
            const std::uint32_t slot = row.slot(i), depth = h_.depth(h_.head(slot));
            ArcPair p = least(at(slot), waiting[depth]);
            p = ArcPair{held(p[0]), held(p[1])};
            waiting[depth] = ArcPair{kNoPair, kNoPair};
            put(slot, p);
            arcs[i] = {p, depth};
            for (const Pair one : {p[0], p[1]})
                if (one != kNoPair)
                    mine.largest = {std::max(mine.largest.cost, cost_of(one)),
                                    std::max(mine.largest.other, other_of(one))};
        }
        offer_sums({arcs.data(), row.count}, mine.above.triangle());
    }

    /// What waits above a subtree goes to the arcs it is meant for.
    void hand_up(std::uint32_t root, Above& above, std::mutex& one_at_a_time) {
        const std::lock_guard lock(one_at_a_time);
        const auto row = h_.row(root);
        for (std::uint32_t i = 0; i < row.count; ++i) {
            const std::uint32_t rank = h_.head(row.slot(i));
            ArcPair* waiting = above.row(h_.depth(rank));
            const auto higher = h_.row(rank);
            for (std::uint32_t k = 0; k < higher.count; ++k) {
                const std::uint32_t slot = higher.slot(k);
                auto& w = waiting[h_.depth(h_.head(slot))];
                const ArcPair p = least(at(slot), w);
                put(slot, ArcPair{held(p[0]), held(p[1])});
                w = ArcPair{kNoPair, kNoPair};
            }
        }
    }

    const Hierarchy& h_;
    ArcWeight largest_{0, 0};
    Amounts &up_cost_, &up_other_, &down_cost_, &down_other_;
};

}  // namespace

Customised::Customised(std::shared_ptr<const Hierarchy> hierarchy, const Graph& graph, const Task& task)
    : hierarchy_(std::move(hierarchy)), measure_(graph.measure()) {
    task.at("customising", 0.0);
    const auto& h = *hierarchy_;
    const std::size_t arcs =
        h.arc_count() + 2 * std::size_t{Hierarchy::kTogether};  // a little may be read behind the last
    tbb::parallel_invoke([&] { up_cost_.assign(arcs, kFar); }, [&] { up_other_.assign(arcs, 0); },
                         [&] { down_cost_.assign(arcs, kFar); }, [&] { down_other_.assign(arcs, 0); });
    // An arc's two directions are put by its two ends, so that no two threads meet.
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, h.node_count(), 4096), [&](const auto& range) {
        // Nodes come in another order than the graph's: memory is asked for ahead, where the arcs are, then the arcs.
        constexpr std::uint32_t kSoon = 8, kLater = 16;
        for (std::uint32_t rank = range.begin(); rank != range.end(); ++rank) {
            if (rank + kLater < h.node_count()) __builtin_prefetch(&graph.all_offsets()[h.node_at(rank + kLater)]);
            if (rank + kSoon < h.node_count()) __builtin_prefetch(graph.arcs_of(h.node_at(rank + kSoon)).data());
            for (const Arc& a : graph.arcs_of(h.node_at(rank))) {
                const std::uint32_t to = h.rank_of(a.head);
                if (to == rank) continue;
                const bool rises = to < rank;
                const std::uint32_t slot = rises ? h.slot_of(rank, to) : h.slot_of(to, rank);
                auto& cost = (rises ? up_cost_ : down_cost_)[slot];
                auto& other = (rises ? up_other_ : down_other_)[slot];
                if (a.cost < cost || (a.cost == cost && a.other < other)) {
                    cost = a.cost;
                    other = a.other;
                }
            }
        }
    });
    task.at("customising", 0.3);
    Contraction contraction(h, {&up_cost_, &up_other_, &down_cost_, &down_other_});
    contraction.run(task);
    largest_cost_ = contraction.largest().cost;
    largest_other_ = contraction.largest().other;
}

void Customised::put(std::uint32_t slot, const ArcWeight& up, const ArcWeight& down) {
    up_cost_[slot] = up.cost;
    up_other_[slot] = up.other;
    down_cost_[slot] = down.cost;
    down_other_[slot] = down.other;
    for (const ArcWeight& t : {up, down}) {
        if (t.cost < kFar) largest_cost_ = std::max(largest_cost_, t.cost);
        largest_other_ = std::max(largest_other_, t.other);
    }
}

namespace {

void take_less(ArcWeight& known, const ArcWeight& a, const ArcWeight& b) {
    const std::uint32_t cost = sum(a.cost, b.cost);
    if (cost == kFar || cost > known.cost) return;
    const std::uint32_t other = sum(a.other, b.other);
    if (cost < known.cost || other < known.other) known = {cost, other};
}

}  // namespace

std::vector<Customised::Earlier> Customised::update(const Graph& graph, std::span<const Joint> touched) {
    const auto& h = *hierarchy_;
    // Arcs to work out anew, those of the lowest nodes first: what is below an arc is done before it.
    std::priority_queue<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::pair<std::uint32_t, std::uint32_t>>,
                        std::greater<>>
        queue;  // turn of the lower end, slot
    std::vector<bool> waits(h.arc_count(), false);
    const auto wait = [&](std::uint32_t rank, std::uint32_t slot) {
        if (waits[slot]) return;
        waits[slot] = true;
        queue.emplace(h.position_of(rank), slot);
    };
    for (const Joint& j : touched) {
        const std::uint32_t a = h.rank_of(j.tail), b = h.rank_of(j.head);
        if (a != b) wait(std::max(a, b), h.slot_of(std::max(a, b), std::min(a, b)));
    }
    std::vector<Earlier> earlier;
    struct Anew {
        std::uint32_t slot, head;
        ArcWeight up, down;
    };
    struct Side {
        std::uint32_t head;
        ArcWeight was_up, was_down, up, down;
        bool changed;
    };
    std::vector<Side> sides;
    const auto sum_of = [](const ArcWeight& a, const ArcWeight& b) {
        return ArcWeight{sum(a.cost, b.cost), sum(a.other, b.other)};
    };
    const auto matters = [](const ArcWeight& was, const ArcWeight& is, const ArcWeight& known) {
        return (was.cost < kFar && was == known) ||
               (is.cost < kFar && (is.cost < known.cost || (is.cost == known.cost && is.other < known.other)));
    };
    std::vector<Anew> anew;                                  // arcs of one node
    std::vector<std::uint32_t> asked(h.height(), kNoIndex);  // by depth of the head, its place in `anew`
    while (!queue.empty()) {
        // All arcs of one node together, so that what is below it is gone through once.
        const std::uint32_t position = queue.top().first, rank = h.by_position()[position];
        anew.clear();
        for (; !queue.empty() && queue.top().first == position; queue.pop()) {
            const std::uint32_t slot = queue.top().second;
            asked[h.depth(h.head(slot))] = static_cast<std::uint32_t>(anew.size());
            anew.push_back({slot, h.head(slot), {}, {}});
        }
        const std::uint32_t low = h.node_at(rank);
        for (const Arc& a : graph.arcs_of(low))
            for (Anew& n : anew)
                if (h.node_at(n.head) == a.head) take_less(n.up, {a.cost, a.other}, {0, 0});
        for (Anew& n : anew)
            for (const Arc& a : graph.arcs_of(h.node_at(n.head)))
                if (a.head == low) take_less(n.down, {a.cost, a.other}, {0, 0});
        h.each_below(rank, [&](std::uint32_t lower, std::uint32_t slot) {
            const ArcWeight falls = down(slot, Run::with), rises = up(slot, Run::with);
            const auto row = h.row(lower);
            for (std::uint32_t i = (slot - row.first) / row.stride + 1; i < row.count; ++i) {
                const std::uint32_t side = row.slot(i), place = asked[h.depth(h.head(side))];
                if (place == kNoIndex) continue;
                take_less(anew[place].up, falls, up(side, Run::with));
                take_less(anew[place].down, down(side, Run::with), rises);
            }
            return true;
        });
        for (const Anew& n : anew) asked[h.depth(n.head)] = kNoIndex;

        // Arcs of the node as they were and as they are.
        const auto row = h.row(rank);
        std::uint32_t last_changed = 0;
        bool any = false;
        sides.clear();
        for (std::uint32_t i = 0; i < row.count; ++i) {
            const ArcWeight rises = up(row.slot(i), Run::with), falls = down(row.slot(i), Run::with);
            sides.push_back({h.head(row.slot(i)), rises, falls, rises, falls, false});
        }
        for (const Anew& n : anew) {
            const std::uint32_t i = (n.slot - row.first) / row.stride;
            Side& side = sides[i];
            if (n.up == side.was_up && n.down == side.was_down) continue;
            earlier.push_back({n.slot, side.was_up, side.was_down});
            put(n.slot, n.up, n.down);
            side.up = n.up;
            side.down = n.down;
            side.changed = any = true;
            last_changed = std::max(last_changed, i);
        }
        if (!any) continue;
        // The arc between two heads changes if the sum over this node was the least, or is now.
        for (std::uint32_t i = 0; i <= last_changed && i + 1 < row.count; ++i) {
            const Side& lower = sides[i];
            const auto between = h.row(lower.head);
            std::uint32_t at = 0;
            for (std::uint32_t k = i + 1; k < row.count; ++k) {
                const Side& higher = sides[k];
                while (h.head(between.slot(at)) != higher.head) ++at;
                if (!lower.changed && !higher.changed) continue;
                const std::uint32_t slot = between.slot(at);
                if (waits[slot]) continue;
                if (matters(sum_of(lower.was_down, higher.was_up), sum_of(lower.down, higher.up),
                            up(slot, Run::with)) ||
                    matters(sum_of(higher.was_down, lower.was_up), sum_of(higher.down, lower.up),
                            down(slot, Run::with)))
                    wait(lower.head, slot);
            }
        }
    }
    return earlier;
}

void Customised::restore(std::span<const Earlier> earlier) {
    for (auto e = earlier.rbegin(); e != earlier.rend(); ++e) put(e->slot, e->up, e->down);
}

}  // namespace otoro::routing
