/// Tables of pairs: two climbs that meet.
#include <tbb/parallel_for.h>

#include <algorithm>
#include <numeric>

#include "routing/one_to_all.h"
#include "routing/vector_passes.h"

namespace otoro::routing {
namespace {

/// How many nodes stand above (or at) both.
std::uint32_t common(const Hierarchy& h, std::uint32_t a, std::uint32_t b) {
    // The lower one climbs until they meet; a subtree's positions are a stretch.
    std::uint32_t root = a;
    const std::uint32_t position = h.position_of(b);
    const auto below = [&](std::uint32_t r) {
        return position <= h.position_of(r) && position + h.subtree(h.position_of(r)) > h.position_of(r);
    };
    while (root != kNoIndex && !below(root)) root = h.parent(root);
    return root == kNoIndex ? 0 : h.depth(root) + 1U;
}

}  // namespace

void table(const Customised& fast, std::span<const std::uint32_t> sources, std::span<const std::uint32_t> targets,
           Run run, const TableRow& row, const Task& task) {
    const auto seeds = [](std::span<const std::uint32_t> nodes) {
        std::vector<std::vector<Seed>> out;
        out.reserve(nodes.size());
        for (const std::uint32_t node : nodes) out.push_back({Seed{node, 0, 0, 0, {}}});
        return out;
    };
    table(fast, seeds(sources), seeds(targets), run, row, task);
}

namespace {

/// Seeds with the deepest first.
std::vector<Seed> deepest_first(const Hierarchy& h, std::vector<Seed> seeds) {
    std::stable_sort(seeds.begin(), seeds.end(), [&](const Seed& a, const Seed& b) {
        return h.depth(h.rank_of(a.node)) > h.depth(h.rank_of(b.node));
    });
    return seeds;
}

struct Target {
    std::uint32_t number = 0;
    std::uint32_t rank = 0, position = 0;  ///< of its deepest node
    std::uint32_t with_next = 0;           ///< common depths with the target behind it
    std::vector<std::uint64_t> from_above;
};

/// Targets as they follow one another in the elimination tree: what one has in common with a source tells what the next
/// has. Those without seeds are left out.
std::vector<Target> prepared_targets(const Customised& fast, std::span<const std::vector<Seed>> targets, Run run,
                                     const Task& task) {
    const auto& h = fast.hierarchy();
    std::vector<Target> out;
    for (std::uint32_t i = 0; i < targets.size(); ++i) {
        if (i % 1024 == 0) task.check();
        if (targets[i].empty()) continue;
        const auto seeds = deepest_first(h, targets[i]);
        const std::uint32_t rank = h.rank_of(seeds.front().node);
        out.push_back({i, rank, h.position_of(rank), 0, climb(fast, seeds, other_way(run)).weights});
    }
    std::sort(out.begin(), out.end(), [](const Target& a, const Target& b) {
        return a.position != b.position ? a.position < b.position : a.number < b.number;
    });
    for (std::size_t i = 0; i + 1 < out.size(); ++i) out[i].with_next = common(h, out[i].rank, out[i + 1].rank);
    return out;
}

/// One source's row.
void meet_all(const Customised& fast, const std::vector<Seed>& given, const std::vector<Target>& targets, Run run,
              std::vector<std::uint32_t>& costs, std::vector<std::uint32_t>& others) {
    std::fill(costs.begin(), costs.end(), kFar);
    std::fill(others.begin(), others.end(), kFar);
    if (given.empty()) return;
    const auto& h = fast.hierarchy();
    const auto seeds = deepest_first(h, given);
    const std::uint32_t source = h.rank_of(seeds.front().node);
    const auto from = climb(fast, seeds, run).weights;
    const auto meet = [&](const Target& t, std::uint32_t depths) {
        const std::uint64_t least = least_sum(from.data(), t.from_above.data(), depths, kNoWay);
        const auto cost = static_cast<std::uint32_t>(least >> 32U);
        costs[t.number] = std::min(cost, kFar);
        others[t.number] = cost >= kFar ? kFar : std::min(static_cast<std::uint32_t>(least), kFar);
    };
    const std::uint32_t mine = h.position_of(source);
    const auto behind = static_cast<std::size_t>(
        std::lower_bound(targets.begin(), targets.end(), mine,
                         [](const Target& t, std::uint32_t value) { return t.position < value; }) -
        targets.begin());
    if (behind < targets.size()) {
        std::uint32_t depths = common(h, source, targets[behind].rank);
        for (std::size_t i = behind; i < targets.size(); depths = std::min(depths, targets[i].with_next), ++i)
            meet(targets[i], depths);
    }
    if (behind > 0) {
        std::uint32_t depths = common(h, source, targets[behind - 1].rank);
        for (std::size_t i = behind; i-- > 0;) {
            meet(targets[i], depths);
            if (i > 0) depths = std::min(depths, targets[i - 1].with_next);
        }
    }
}

}  // namespace

void table(const Customised& fast, std::span<const std::vector<Seed>> sources,
           std::span<const std::vector<Seed>> targets, Run run, const TableRow& row, const Task& task) {
    const auto prepared = prepared_targets(fast, targets, run, task);
    // Several rows at once; handed out in order.
    constexpr std::size_t kAtOnce = 32;
    const std::vector<std::uint32_t> empty(targets.size());
    std::vector<std::vector<std::uint32_t>> costs(kAtOnce, empty), others(kAtOnce, empty);
    for (std::size_t begin = 0; begin < sources.size(); begin += kAtOnce) {
        task.at("table", static_cast<double>(begin) / static_cast<double>(sources.size()));
        const std::size_t end = std::min(sources.size(), begin + kAtOnce);
        tbb::parallel_for(begin, end, [&](std::size_t s) {
            meet_all(fast, sources[s], prepared, run, costs[s - begin], others[s - begin]);
        });
        for (std::size_t s = begin; s < end; ++s) row(s, costs[s - begin], others[s - begin]);
    }
}

}  // namespace otoro::routing
