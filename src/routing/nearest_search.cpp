#include "routing/nearest_search.h"

#include <cstddef>

namespace otoro::routing {
namespace {

/// A node waiting to be settled. Ordered by (cost, source, other).
struct Waiting {
    std::uint64_t cost_source = 0;
    std::uint64_t other_node = 0;

    Waiting() = default;
    Waiting(std::uint32_t cost, std::uint32_t source, std::uint32_t other, std::uint32_t node)
        : cost_source((std::uint64_t{cost} << 32U) | source), other_node((std::uint64_t{other} << 32U) | node) {}
    [[nodiscard]] std::uint32_t cost() const { return static_cast<std::uint32_t>(cost_source >> 32U); }
    [[nodiscard]] std::uint32_t source() const { return static_cast<std::uint32_t>(cost_source); }
    [[nodiscard]] std::uint32_t other() const { return static_cast<std::uint32_t>(other_node >> 32U); }
    [[nodiscard]] std::uint32_t node() const { return static_cast<std::uint32_t>(other_node); }
    bool operator<(const Waiting& o) const { return cost_source != o.cost_source ? cost_source < o.cost_source : other_node < o.other_node; }
};

class FourAryHeap {
public:
    [[nodiscard]] bool empty() const { return items_.empty(); }

    void push(Waiting w) {
        std::size_t hole = items_.size();
        items_.push_back(w);
        while (hole > 0) {
            const std::size_t parent = (hole - 1) / 4;
            if (!(w < items_[parent])) break;
            items_[hole] = items_[parent];
            hole = parent;
        }
        items_[hole] = w;
    }

    Waiting pop() {
        const Waiting least = items_.front();
        const Waiting last = items_.back();
        items_.pop_back();
        const std::size_t count = items_.size();
        if (count == 0) return least;
        std::size_t hole = 0;
        while (true) {
            const std::size_t child = hole * 4 + 1;
            if (child >= count) break;
            const std::size_t end = child + 4 < count ? child + 4 : count;
            std::size_t smallest = child;
            for (std::size_t c = child + 1; c < end; ++c)
                if (items_[c] < items_[smallest]) smallest = c;
            if (!(items_[smallest] < last)) break;
            items_[hole] = items_[smallest];
            hole = smallest;
        }
        items_[hole] = last;
        return least;
    }

private:
    std::vector<Waiting> items_;
};

bool better(std::uint32_t cost, std::uint32_t source, std::uint32_t other, const Label& than) {
    if (cost != than.cost) return cost < than.cost;
    if (source != than.source) return source < than.source;
    return other < than.other;
}

/// Sum, or kFar where it would not fit.
std::uint32_t sum(std::uint32_t a, std::uint32_t b) { return a > kFar - b ? kFar : a + b; }

}  // namespace

std::vector<Label> nearest_of_many(const Graph& graph, std::span<const Seed> seeds, std::uint32_t limit, const Task& task) {
    constexpr std::uint32_t kAskEvery = 1U << 14U;
    std::vector<Label> labels(graph.node_count());
    FourAryHeap heap;
    for (const Seed& s : seeds) {
        if (s.cost > limit || !better(s.cost, s.source, s.other, labels[s.node])) continue;
        labels[s.node] = {s.cost, s.source, s.other, s.way};
        heap.push({s.cost, s.source, s.other, s.node});
    }

    std::uint32_t settled = 0;
    while (!heap.empty()) {
        const Waiting w = heap.pop();
        const Label& here = labels[w.node()];
        if (w.cost() != here.cost || w.source() != here.source || w.other() != here.other) continue;
        if (++settled % kAskEvery == 0) task.at("finding the nearest site", static_cast<double>(settled) / graph.node_count());
        for (const Arc& arc : graph.arcs_of(w.node())) {
            const std::uint32_t cost = sum(w.cost(), arc.cost);
            if (cost > limit || cost == kFar) continue;
            Label& there = labels[arc.head];
            if (cost > there.cost) continue;
            const std::uint32_t other = sum(w.other(), arc.other);
            if (!better(cost, w.source(), other, there)) continue;
            there = {cost, w.source(), other, arc.way};
            heap.push({cost, w.source(), other, arc.head});
        }
    }
    return labels;
}

}  // namespace otoro::routing
