#pragma once
/// \file
/// Searches on a customised hierarchy: trees to every node, nearest of many, k nearest, and tables.
///
/// \par Method
/// Labels climb the elimination tree from the sources; then one pass over all arcs, from the highest rank down, hands them to every node (PHAST: Delling, Goldberg, Nowatzyk, Werneck 2013). Sixteen sources share a pass, each in a lane of the processor's widest registers.
///
/// \par Exact
/// Costs, sources and the other measure are those of `nearest_of_many`, to the unit, on one thread or many.
///
/// \par Results
/// By rank: `result[hierarchy.rank_of(node)]`. Where there is no route the cost is `kFar`.
///
/// \par Cost
/// One pass reads 6 bytes an arc (10 with the other measure) and writes a row. See docs/engine.md.
#include <functional>
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/customised.h"
#include "routing/nearest_search.h"

namespace otoro::routing {

/// Costs to the nodes above one, by depth; those of the node itself last.
struct Climb {
    std::vector<std::uint32_t> rank;
    std::vector<std::uint64_t> tolls;  ///< cost and the other measure as one number, the cost above 32 bits
    [[nodiscard]] Toll at(std::size_t depth) const { return {static_cast<std::uint32_t>(tolls[depth] >> 32U), static_cast<std::uint32_t>(tolls[depth])}; }
};
/// From a node up (`Run::with`), or from above down to it (`against`). As many steps as the nodes above have arcs. \param given what the node itself starts with
Climb climb(const Customised& fast, std::uint32_t rank, Run run, Toll given = {0, 0});

/// Costs from (or to) one node, by rank.
Amounts tree(const Customised& fast, std::uint32_t source, Run run);

/// What each node's nearest source is, by rank.
struct NearestByRank {
    Amounts cost, source, other;
    [[nodiscard]] std::size_t size() const { return cost.size(); }
    [[nodiscard]] Label at(std::uint32_t rank) const { return cost[rank] >= kFar ? Label{} : Label{cost[rank], source[rank], other[rank], LinkWay::none()}; }
};
NearestByRank nearest(const Customised& fast, std::span<const Seed> seeds, Run run);
/// The same into memory that is there already.
void nearest(const Customised& fast, std::span<const Seed> seeds, Run run, NearestByRank& out);

/// The `k` nearest sources of every node, nearest first: `k` labels a rank, those behind the last found unreached. A source counts once, however many seeds it has. About k times the cost of `nearest` and more.
std::vector<Label> nearest_k(const Customised& fast, std::span<const Seed> seeds, std::size_t k, Run run);

/// Called with each source's number and its costs by rank; must not keep what it is given. \returns whether to go on
using Row = std::function<void(std::size_t source, std::span<const std::uint32_t> costs)>;
/// One row of costs a source, in the sources' order. Sixteen sources a pass, whose rows are held at once: 64 bytes a node. \throws Stopped
void trees(const Customised& fast, std::span<const std::uint32_t> sources, Run run, const Row& row, const Task& task);

/// Called with each source's number, its costs and its amounts of the other measure to each target; must not keep what it is given.
using TableRow = std::function<void(std::size_t source, std::span<const std::uint32_t> costs, std::span<const std::uint32_t> others)>;
/// From each source to each target (`Run::with`) or from each target to each source (`against`), row by row in the sources' order, so that a table larger than memory can be written out.
///
/// Source and target meet at a node above both: all of these are on one path of the elimination tree, so that a pair takes as many steps as it has common depths, sixteen in one instruction. 8 bytes a target and depth. \throws Stopped
void table(const Customised& fast, std::span<const std::uint32_t> sources, std::span<const std::uint32_t> targets, Run run, const TableRow& row, const Task& task);

}  // namespace otoro::routing
