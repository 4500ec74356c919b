#include "routing/route.h"

#include <algorithm>
#include <stdexcept>

#include "routing/one_to_all.h"

namespace otoro::routing {
namespace {

ArcWeight sum_of(const ArcWeight& a, const ArcWeight& b) {
    const std::uint32_t cost = sum(a.cost, b.cost);
    return cost == kFar ? ArcWeight{} : ArcWeight{cost, sum(a.other, b.other)};
}

/// Takes arcs of the hierarchy apart into roads.
class Unpacker {
public:
    Unpacker(const Customised& fast, const Graph& graph) : fast_(fast), h_(fast.hierarchy()), graph_(graph) {}

    /// The roads of one arc, `rises` from the lower node to the higher or down again.
    void add(std::uint32_t slot, std::uint32_t rank, bool rises, std::vector<LinkWay>& ways) const {
        const std::uint32_t head = h_.head(slot);
        const ArcWeight weight = rises ? fast_.up(slot, Run::with) : fast_.down(slot, Run::with);
        const std::uint32_t tail_node = h_.node_at(rises ? rank : head), head_node = h_.node_at(rises ? head : rank);
        for (const Arc& a : graph_.arcs_of(tail_node))
            if (a.head == head_node && ArcWeight{a.cost, a.other} == weight) {
                ways.push_back(a.way);
                return;
            }
        std::uint32_t over = kNoIndex, to_rank = kNoIndex, to_head = kNoIndex;
        h_.each_below(rank, [&](std::uint32_t lower, std::uint32_t slot_to_rank) {
            const std::uint32_t slot_to_head = h_.slot_of(lower, head);
            if (slot_to_head == kNoIndex) return true;
            const ArcWeight there =
                rises ? sum_of(fast_.down(slot_to_rank, Run::with), fast_.up(slot_to_head, Run::with))
                      : sum_of(fast_.down(slot_to_head, Run::with), fast_.up(slot_to_rank, Run::with));
            if (there != weight) return true;
            over = lower;
            to_rank = slot_to_rank;
            to_head = slot_to_head;
            return false;
        });
        if (over == kNoIndex) throw std::logic_error("an arc of the hierarchy that no roads make up");
        add(rises ? to_rank : to_head, over, false, ways);
        add(rises ? to_head : to_rank, over, true, ways);
    }

    /// The arcs of a climb from its foot up to a depth, lowest first: slots and the ranks they belong to.
    [[nodiscard]] std::vector<std::pair<std::uint32_t, std::uint32_t>> arcs(const Climb& c, std::size_t depth,
                                                                            Run run) const {
        std::vector<std::pair<std::uint32_t, std::uint32_t>> out;
        const std::size_t foot = c.rank.size() - 1;
        while (depth != foot) {
            std::size_t below = depth + 1;
            for (;; ++below) {
                const std::uint32_t slot = h_.slot_of(c.rank[below], c.rank[depth]);
                if (slot == kNoIndex || sum_of(c.at(below), fast_.up(slot, run)) != c.at(depth)) continue;
                out.emplace_back(slot, c.rank[below]);
                break;
            }
            depth = below;
        }
        std::reverse(out.begin(), out.end());
        return out;
    }

private:
    const Customised& fast_;
    const Hierarchy& h_;
    const Graph& graph_;
};

}  // namespace

std::optional<RouteBetween> route(const Customised& fast, const Graph& graph, std::span<const Seed> starts,
                                  std::span<const Seed> ends) {
    const auto& h = fast.hierarchy();
    const auto climbs = [&](std::span<const Seed> seeds, Run run) {
        std::vector<Climb> out;
        for (const Seed& s : seeds)
            out.push_back(climb(fast, h.rank_of(s.node), run, {std::min(s.cost, kFar), std::min(s.other, kFar)}));
        return out;
    };
    const auto upward = climbs(starts, Run::with), downward = climbs(ends, Run::against);
    ArcWeight least;
    std::size_t start = 0, end = 0, top = 0;
    for (std::size_t a = 0; a < upward.size(); ++a)
        for (std::size_t b = 0; b < downward.size(); ++b)
            for (std::size_t d = 0; d < std::min(upward[a].rank.size(), downward[b].rank.size()) &&
                                    upward[a].rank[d] == downward[b].rank[d];
                 ++d) {
                const ArcWeight t = sum_of(upward[a].at(d), downward[b].at(d));
                if (t.cost < least.cost || (t.cost == least.cost && t.cost < kFar && t.other < least.other)) {
                    least = t;
                    start = a;
                    end = b;
                    top = d;
                }
            }
    if (least.cost == kFar) return std::nullopt;
    RouteBetween out{{least, {}}, start, end};
    const Unpacker unpacker(fast, graph);
    for (const auto& [slot, rank] : unpacker.arcs(upward[start], top, Run::with))
        unpacker.add(slot, rank, true, out.route.ways);
    auto down = unpacker.arcs(downward[end], top, Run::against);
    std::reverse(down.begin(), down.end());
    for (const auto& [slot, rank] : down) unpacker.add(slot, rank, false, out.route.ways);
    return out;
}

std::optional<Route> route(const Customised& fast, const Graph& graph, std::uint32_t from, std::uint32_t to) {
    const Seed start{from, 0, 0, 0, {}}, end{to, 0, 0, 0, {}};
    auto found = route(fast, graph, std::span(&start, 1), std::span(&end, 1));
    if (!found) return std::nullopt;
    return std::move(found->route);
}

std::optional<std::vector<std::size_t>> best_order(const Legs& legs, const Task& task) {
    const std::size_t stops = legs.stops();
    if (stops <= 2) {
        std::vector<std::size_t> order(stops);
        for (std::size_t i = 0; i < stops; ++i) order[i] = i;
        if (stops == 2 && legs.at(0, 1) >= kFar) return std::nullopt;
        return order;
    }
    const std::size_t between = stops - 2, last = stops - 1;
    if (between > kMostStopsInBestOrder) throw std::length_error("too many stops for an exact best order");
    // least[set][i]: the least way from stop i + 1 through all others of `set` to the last; filled for ever larger
    // sets.
    constexpr std::uint64_t kNone = ~std::uint64_t{0} / 4;
    const std::size_t sets = std::size_t{1} << between;
    std::vector<std::uint64_t> least(sets * between, kNone);
    const auto leg = [&](std::size_t a, std::size_t b) {
        return legs.at(a, b) >= kFar ? kNone : std::uint64_t{legs.at(a, b)};
    };
    for (std::size_t set = 1; set < sets; ++set) {
        if (set % 1024 == 0) task.check();
        for (std::size_t i = 0; i < between; ++i) {
            if ((set >> i & 1U) == 0) continue;
            const std::size_t rest = set & ~(std::size_t{1} << i);
            std::uint64_t& mine = least[set * between + i];
            if (rest == 0) mine = leg(i + 1, last);
            for (std::size_t k = 0; k < between; ++k)
                if ((rest >> k & 1U) != 0)
                    mine = std::min({mine, kNone, leg(i + 1, k + 1) + least[rest * between + k]});
        }
    }
    // From the front, each time the earliest stop that keeps the sum least.
    std::vector<std::size_t> order{0};
    std::size_t set = sets - 1;
    while (set != 0) {
        std::uint64_t best = kNone;
        std::size_t next = 0;
        for (std::size_t k = 0; k < between; ++k)
            if ((set >> k & 1U) != 0 && leg(order.back(), k + 1) + least[set * between + k] < best) {
                best = leg(order.back(), k + 1) + least[set * between + k];
                next = k;
            }
        if (best == kNone) return std::nullopt;
        order.push_back(next + 1);
        set &= ~(std::size_t{1} << next);
    }
    order.push_back(last);
    return order;
}

}  // namespace otoro::routing
