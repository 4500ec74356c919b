#pragma once
/// \file
/// Trees over a whole county at the speed of memory: a contraction hierarchy whose order does not depend on costs.
///
/// \par Problem
/// Everything that compares sites needs many shortest-path trees over one network, under costs that change with profile, hour and closure. A search from a queue takes a tenth of a second for
/// a million nodes; reading the network's arrays takes a few milliseconds.
///
/// \par Method
/// *Order* (once a network): nested dissection by METIS ranks the nodes so that few cut the network apart stand highest. Contracting them in that order, whatever the costs, leaves a chordal graph whose arcs lead
/// from lower to higher rank, and each node's first higher neighbour is its parent in the elimination tree (Dibbelt, Strasser, Wagner 2016, "Customizable contraction hierarchies", JEA 21). *Customise* (once a set of
/// costs): each arc takes the least cost of a way through lower nodes, triangle by triangle; then, from the top, arcs that are no shortest way are left out (their "perfect" customisation). *Sweep* (once a query): labels go up the elimination tree from the sources, then down over all nodes from the highest
/// rank to the lowest in one pass over the arrays (Delling, Goldberg, Nowatzyk, Werneck 2013, "PHAST", JPDC 73).
///
/// \par What is exact
/// Costs, and with them the amount of the other measure along the same route: pairs (cost, other) are added and compared as one number, so of routes of equal cost the one with the least of the other measure is
/// taken, as `nearest_of_many` does. Costs that reach `kFar` are no route. The same on any number of threads.
///
/// \par Cost
/// See docs/engine.md. Memory: 4 bytes an arc of the chordal graph for the order, 12 for each arc that is left in either direction; while customising 32 more an arc of the chordal graph.
///
/// \par Example
/// \code
///   const auto order = Hierarchy::of(graph, Task());
///   const CustomisedHierarchy fast(order, graph, Task());
///   const LabelArray nearest = fast.nearest(seeds);      // as nearest_of_many(graph, seeds, kFar - 1, Task()), without ways
/// \endcode
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/nearest_search.h"

namespace otoro::routing {

/// The order and the chordal graph. Nodes are called by rank here, 0 the lowest. Immutable; shared between threads.
class Hierarchy {
public:
    /// \param graph only which nodes are joined counts, in either direction \throws Stopped
    static std::shared_ptr<const Hierarchy> of(const Graph& graph, const Task& task);

    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(rank_.size()); }
    [[nodiscard]] std::size_t arc_count() const { return heads_.size(); }
    [[nodiscard]] std::uint32_t rank_of(std::uint32_t node) const { return rank_[node]; }
    [[nodiscard]] std::uint32_t node_at(std::uint32_t rank) const { return node_[rank]; }
    /// Where the arcs of a node to higher ranks begin.
    [[nodiscard]] std::span<const std::uint32_t> first() const { return first_; }
    /// The ranks they lead to, ascending for each node.
    [[nodiscard]] std::span<const std::uint32_t> heads() const { return heads_; }
    /// The first higher neighbour, or `kFar` at a root.
    [[nodiscard]] std::uint32_t parent(std::uint32_t rank) const { return first_[rank] == first_[rank + 1] ? kFar : heads_[first_[rank]]; }

private:
    std::vector<std::uint32_t> rank_, node_, first_, heads_;
};

/// Costs of all nodes.
using CostArray = std::vector<std::uint32_t, HugePages<std::uint32_t>>;

/// A hierarchy with the costs of one graph.
class CustomisedHierarchy {
public:
    /// \pre `graph` has the nodes and the joints that the hierarchy was ordered for; it may lack some arcs (a closure) \throws Stopped
    CustomisedHierarchy(std::shared_ptr<const Hierarchy> hierarchy, const Graph& graph, const Task& task);

    [[nodiscard]] const Hierarchy& hierarchy() const { return *hierarchy_; }
    /// For every node its nearest source, as `nearest_of_many` without a limit; ways are left out (`LinkWay::none`).
    [[nodiscard]] LabelArray nearest(std::span<const Seed> seeds) const;
    /// Costs from one node to all (or from all to it, for an inward graph), one a node, by rank.
    [[nodiscard]] CostArray tree(std::uint32_t source) const;
    /// One row of costs a source, as `tree`, sixteen sources a pass. `row` is called for each source in order and must not keep what it is given.
    void trees(std::span<const std::uint32_t> sources, const std::function<void(std::size_t source, std::span<const std::uint32_t> costs_by_rank)>& row) const;
    /// Arcs that are left, upwards and downwards.
    [[nodiscard]] std::size_t arc_count() const { return up_.steps.size() + down_.steps.size(); }

    /// An arc between a node and a higher one.
    struct Step {
        std::uint32_t head = 0;  ///< the higher
        std::uint32_t cost = kFar;
        std::uint32_t other = kFar;
    };

private:
    struct Steps {
        std::vector<std::uint32_t, HugePages<std::uint32_t>> first;
        std::vector<Step, HugePages<Step>> steps;
    };
    std::shared_ptr<const Hierarchy> hierarchy_;
    Steps up_;    ///< from each node to higher ones
    Steps down_;  ///< to each node from higher ones
};

}  // namespace otoro::routing
