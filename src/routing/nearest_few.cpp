#include "routing/nearest_few.h"

#include <algorithm>
#include <functional>
#include <queue>
#include <tuple>

namespace otoro::routing {
namespace {

struct Waiting {
    std::uint32_t cost, source, other, node;
    bool operator>(const Waiting& o) const {
        return std::tie(cost, source, other, node) > std::tie(o.cost, o.source, o.other, o.node);
    }
};

}  // namespace

LabelArray nearest_few(const Graph& graph, std::span<const Seed> seeds, std::size_t k, const Task& task) {
    LabelArray out(std::size_t{graph.node_count()} * k);
    if (k == 0) return out;
    /// The first free label of a node; nothing if it is full or knows the source.
    const auto place_for = [&](std::uint32_t node, std::uint32_t source) -> Label* {
        const std::span<Label> mine(out.data() + std::size_t{node} * k, k);
        for (Label& l : mine) {
            if (!l.reached()) return &l;
            if (l.source == source) return nullptr;
        }
        return nullptr;
    };
    std::priority_queue<Waiting, std::vector<Waiting>, std::greater<>> queue;
    for (const Seed& s : seeds)
        if (s.cost < kFar && s.other < kFar) queue.push({s.cost, s.source, s.other, s.node});
    constexpr std::uint32_t kSeldom = 1U << 16U;
    const double all = static_cast<double>(std::max<std::size_t>(1, out.size()));
    for (std::size_t settled = 0; !queue.empty();) {
        const Waiting w = queue.top();
        queue.pop();
        Label* const label = place_for(w.node, w.source);
        if (label == nullptr) continue;
        *label = {w.cost, w.source, w.other, LinkWay::none()};
        if (++settled % kSeldom == 0) task.at("finding the nearest sites", static_cast<double>(settled) / all);
        for (const Arc& arc : graph.arcs_of(w.node)) {
            const std::uint32_t cost = sum(w.cost, arc.cost), other = sum(w.other, arc.other);
            if (cost < kFar && other < kFar && place_for(arc.head, w.source) != nullptr)
                queue.push({cost, w.source, other, arc.head});
        }
    }
    return out;
}

}  // namespace otoro::routing
