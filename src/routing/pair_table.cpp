/// Tables of pairs: two climbs that meet.
#include <algorithm>
#include <numeric>

#include "routing/one_to_all.h"
#include "routing/vector_passes.h"

namespace otoro::routing {
namespace {

/// What no two climbs come to; both hold (cost, other) as one number.
constexpr std::uint64_t kNowhere = std::uint64_t{kFar} << 32U;

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
    const auto& h = fast.hierarchy();
    // Targets as they follow one another in the elimination tree: what one has in common with a source tells what the
    // next has.
    std::vector<std::uint32_t> sorted(targets.size());
    std::iota(sorted.begin(), sorted.end(), 0U);
    const auto position = [&](std::uint32_t node) { return h.position_of(h.rank_of(node)); };
    std::sort(sorted.begin(), sorted.end(),
              [&](std::uint32_t a, std::uint32_t b) { return position(targets[a]) < position(targets[b]); });
    struct Target {
        std::uint32_t position;
        std::uint32_t with_next = 0;  ///< common depths with the target behind it
        std::vector<std::uint64_t> from_above;
    };
    std::vector<Target> prepared;
    std::uint32_t before = 0;
    for (const std::uint32_t i : sorted) {
        if (prepared.size() % 1024 == 0) task.check();
        const std::uint32_t rank = h.rank_of(targets[i]);
        if (!prepared.empty()) prepared.back().with_next = common(h, before, rank);
        prepared.push_back({h.position_of(rank), 0, climb(fast, rank, other_way(run)).weights});
        before = rank;
    }
    std::vector<std::uint32_t> costs(targets.size()), others(targets.size());
    for (std::size_t s = 0; s < sources.size(); ++s) {
        if (s % 64 == 0) task.at("table", static_cast<double>(s) / static_cast<double>(sources.size()));
        const std::uint32_t source = h.rank_of(sources[s]);
        const auto from = climb(fast, source, run).weights;
        const auto meet = [&](std::size_t i, std::uint32_t depths) {
            const std::uint64_t least = least_sum(from.data(), prepared[i].from_above.data(), depths, kNowhere);
            const auto cost = static_cast<std::uint32_t>(least >> 32U);
            costs[sorted[i]] = std::min(cost, kFar);
            others[sorted[i]] = cost >= kFar ? kFar : std::min(static_cast<std::uint32_t>(least), kFar);
        };
        const std::uint32_t mine = h.position_of(source);
        const auto behind = static_cast<std::size_t>(
            std::lower_bound(prepared.begin(), prepared.end(), mine,
                             [](const Target& t, std::uint32_t value) { return t.position < value; }) -
            prepared.begin());
        const auto common_with = [&](std::size_t i) { return common(h, source, h.rank_of(targets[sorted[i]])); };
        if (behind < prepared.size()) {
            std::uint32_t depths = common_with(behind);
            for (std::size_t i = behind; i < prepared.size(); depths = std::min(depths, prepared[i].with_next), ++i)
                meet(i, depths);
        }
        if (behind > 0) {
            std::uint32_t depths = common_with(behind - 1);
            for (std::size_t i = behind; i-- > 0;) {
                meet(i, depths);
                if (i > 0) depths = std::min(depths, prepared[i - 1].with_next);
            }
        }
        row(s, costs, others);
    }
}

}  // namespace otoro::routing
