#pragma once
/// \file
/// One search from many sources: for every node, the nearest source and the route to it.
///
/// \par Problem
/// Given sources that start with a cost of their own, find for every node the least total cost, which source it comes
/// from, and the amount of the other measure along that route.
///
/// \par Method
/// Label correcting from all sources at once, with the waiting nodes in buckets of cost (Dial 1969; Denardo and Fox
/// 1979) about as wide as a median arc, so that a node is seldom looked at twice. What is minimised is the triple
/// (cost, source number, other amount) in that order. An arc adds to it without changing the order, so the least
/// triples are unique and do not depend on the order of looking: ties in cost go to the source with the smaller number,
/// and ties in both to the route that is shorter in the other measure.
///
/// \par Cost
/// Close to linear in nodes and arcs on roads; 16 bytes a node for labels. Exact. Where all arcs fall into one bucket
/// it is Bellman and Ford's method: n m at worst.
///
/// \par Example
/// \code
///   const auto tree = nearest_of_many(graph, std::array{Seed{node, 0, 0, 0}}, kFar, Task());
///   tree[other_node].cost;    // kFar if there is no route
/// \endcode
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/graph.h"

namespace otoro::routing {

/// A source reaching the network at a node, having spent `cost` (and `other`) to get there. Sources are numbered below
/// 2^31.
struct Seed {
    std::uint32_t node = 0;
    std::uint32_t cost = 0;
    std::uint32_t other = 0;
    std::uint32_t source = 0;
    LinkWay way;  ///< the road it comes by, for drawing routes; may be none
};

/// What is known of one node.
struct Label {
    std::uint32_t cost = kFar;  ///< kFar: no route within the limit
    std::uint32_t source = kFar;
    std::uint32_t other = kFar;
    LinkWay way;  ///< the road by which the route comes (outward) or goes on (inward); the seed's at a source
    [[nodiscard]] bool reached() const { return cost != kFar; }
};

/// One label a node.
using LabelArray = std::vector<Label, HugePages<Label>>;

/// \param limit nodes that cost more than this are left unreached
/// \throws Stopped
LabelArray nearest_of_many(const Graph& graph, std::span<const Seed> seeds, std::uint32_t limit, const Task& task);

}  // namespace otoro::routing
