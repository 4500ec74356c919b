#include "routing/nearest_search.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstddef>
#include <utility>

namespace otoro::routing {
namespace {

/// Nodes waiting to be looked at, in buckets of equal width of cost (Dial 1969; Denardo, Fox 1979). A window of buckets
/// moves up with the search; what costs more than the window reaches waits beside it. Inside a bucket nodes come in the
/// order they were put there, and come again if their label gets better meanwhile.
class Buckets {
public:
    explicit Buckets(std::uint32_t width_bits) : bits_(width_bits), buckets_(kBuckets) {}

    [[nodiscard]] std::uint32_t bucket_of(std::uint32_t cost) const { return cost >> bits_; }

    void put(std::uint32_t node, std::uint32_t cost) {
        const std::uint32_t b = bucket_of(cost);
        if (b - base_ < kBuckets)
            buckets_[b - base_].push_back(node);
        else
            beyond_.push_back({node, cost});
    }

    /// Calls `look(node, bucket)` for all that waits, cheapest bucket first; `look` may put more, at no lower cost than
    /// the bucket's. What will be looked at a little later is told to `ahead` with how soon (0, 1, then 2), so that
    /// memory can be asked for it in time.
    template <class Look, class Ahead>
    void run(Look&& look, Ahead&& ahead) {
        constexpr std::array<std::size_t, 3> kSteps{24, 14, 6};
        while (true) {
            for (std::uint32_t i = 0; i < kBuckets; ++i) {
                auto& bucket = buckets_[i];
                for (std::size_t k = 0; k < bucket.size(); ++k) {
                    for (std::size_t soon = 0; soon < kSteps.size(); ++soon)
                        if (k + kSteps[soon] < bucket.size()) ahead(bucket[k + kSteps[soon]], soon);
                    look(bucket[k], base_ + i);
                }
                bucket.clear();
            }
            if (beyond_.empty()) return;
            move_window();
        }
    }

private:
    static constexpr std::uint32_t kBuckets = 1U << 13U;
    struct Later {
        std::uint32_t node, cost;
    };

    void move_window() {
        std::uint32_t least = kFar;
        for (const Later& l : beyond_) least = std::min(least, l.cost);
        base_ = bucket_of(least);
        const std::vector<Later> all = std::exchange(beyond_, {});
        for (const Later& l : all) put(l.node, l.cost);
    }

    std::uint32_t bits_;
    std::uint32_t base_ = 0;
    std::vector<std::vector<std::uint32_t>> buckets_;
    std::vector<Later> beyond_;
};

/// Width of a bucket, as a power of two: about the median cost of an arc, from a sample. Any width gives the same
/// answer.
std::uint32_t width_bits(const Graph& graph) {
    constexpr std::size_t kSample = 1000;
    const auto arcs = graph.all_arcs();
    if (arcs.empty()) return 0;
    std::vector<std::uint32_t> costs;
    for (std::size_t i = 0; i < kSample; ++i) costs.push_back(arcs[i * arcs.size() / kSample].cost);
    std::nth_element(costs.begin(), costs.begin() + kSample / 2, costs.end());
    constexpr std::uint32_t kWidest = 31;
    return std::min(kWidest, static_cast<std::uint32_t>(std::bit_width(costs[kSample / 2])));
}

/// A node that waits to be looked at is marked in its label's source; sources are fewer than 2^31.
constexpr std::uint32_t kWaits = 1U << 31U;

bool better(std::uint32_t cost, std::uint32_t source, std::uint32_t other, const Label& than) {
    if (cost != than.cost) return cost < than.cost;
    if (source != (than.source & ~kWaits)) return source < (than.source & ~kWaits);
    return other < than.other;
}

}  // namespace

LabelArray nearest_of_many(const Graph& graph, std::span<const Seed> seeds, std::uint32_t limit, const Task& task) {
    constexpr std::uint32_t kAskEvery = 1U << 14U;
    LabelArray labels(graph.node_count());
    Buckets buckets(width_bits(graph));

    const auto improve = [&](std::uint32_t node, const Label& label) {
        Label& known = labels[node];
        const bool in_place = known.reached() && (known.source & kWaits) != 0 &&
                              buckets.bucket_of(known.cost) == buckets.bucket_of(label.cost);
        known = label;
        known.source |= kWaits;
        if (!in_place) buckets.put(node, label.cost);
    };
    for (const Seed& s : seeds)
        if (s.cost <= limit && s.cost < kFar && better(s.cost, s.source, s.other, labels[s.node]))
            improve(s.node, {s.cost, s.source, s.other, s.way});

    std::uint32_t looked_at = 0;
    const auto look = [&](std::uint32_t node, std::uint32_t bucket) {
        Label& mine = labels[node];
        if ((mine.source & kWaits) == 0 || buckets.bucket_of(mine.cost) != bucket) return;
        mine.source &= ~kWaits;
        const Label here = mine;
        if (++looked_at % kAskEvery == 0)
            task.at("finding the nearest site", std::min(1.0, static_cast<double>(looked_at) / graph.node_count()));
        for (const Arc& arc : graph.arcs_of(node)) {
            const std::uint32_t cost = sum(here.cost, arc.cost);
            if (cost > limit || cost == kFar || cost > labels[arc.head].cost) continue;
            const std::uint32_t other = sum(here.other, arc.other);
            if (better(cost, here.source, other, labels[arc.head]))
                improve(arc.head, {cost, here.source, other, arc.way});
        }
    };
    // Where its arcs are, then the arcs, then the labels at their heads: each needs the one before.
    const auto ahead = [&](std::uint32_t node, std::size_t soon) {
        if (soon == 0) {
            __builtin_prefetch(&graph.all_offsets()[node]);
            __builtin_prefetch(&labels[node]);
        } else if (soon == 1) {
            const auto arcs = graph.arcs_of(node);
            __builtin_prefetch(arcs.data());
            __builtin_prefetch(arcs.data() + arcs.size());
        } else {
            for (const Arc& arc : graph.arcs_of(node)) __builtin_prefetch(&labels[arc.head]);
        }
    };
    buckets.run(look, ahead);
    return labels;
}

}  // namespace otoro::routing
