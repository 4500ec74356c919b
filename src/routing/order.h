#pragma once
/// \file
/// In which order the nodes of a network are taken out, so that little is left to do.
///
/// \par Problem
/// Taking a node out of a network, and joining its neighbours to one another in its place, keeps all distances between
/// those that are left. The order decides how many joints come about.
///
/// \par Method
/// From the top: nested dissection by METIS (Karypis, Kumar 1998, "A fast and high quality multilevel scheme for
/// partitioning irregular graphs"), which ranks highest the few nodes that cut the network in two, and so on in each
/// half. Below parts of a thousand nodes or so: of all nodes that one is taken out first whose neighbours miss the
/// fewest joints ("minimum fill", Rose 1972), part by part, in parallel.
///
/// \par Cost
/// O(n log n) and more in METIS; on a county five seconds, a second more for the parts. The same every time, on any
/// number of threads.
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/graph.h"

namespace otoro::routing {

/// Neighbours in either direction, each once, ascending, without loops.
struct Neighbours {
    std::vector<std::int32_t> first, heads;
    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(first.size() - 1); }
    [[nodiscard]] std::span<const std::int32_t> of(std::uint32_t node) const {
        return {heads.data() + first[node], heads.data() + first[node + 1]};
    }
};
Neighbours neighbours_of(const Graph& graph);

/// The graph after taking out: for every node in the order, those neighbours that go later, ascending.
struct Chordal {
    std::vector<std::uint32_t> first, heads;
    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(first.size() - 1); }
    [[nodiscard]] std::span<const std::uint32_t> of(std::uint32_t position) const {
        return {heads.data() + first[position], heads.data() + first[position + 1]};
    }
    /// The first of them, which is the node's parent in the elimination tree, or `kNoIndex`.
    [[nodiscard]] std::uint32_t parent(std::uint32_t position) const {
        return first[position] == first[position + 1] ? kNoIndex : heads[first[position]];
    }
};
/// \param position when each node is taken out, 0 first \param most_arcs gives up, with nothing, when there would be
/// more
Chordal take_out(const Neighbours& neighbours, std::span<const std::uint32_t> position, const Task& task,
                 std::size_t most_arcs = SIZE_MAX);

/// When each node should be taken out, 0 first; nodes of one subtree of the elimination tree follow one another and end
/// with its root. \throws Stopped
std::vector<std::uint32_t> good_order(const Neighbours& neighbours, const Task& task);

}  // namespace otoro::routing
