#pragma once
/// \file
/// A network laid out by the order of taking out, ready to take the costs of any traveller: a customisable contraction
/// hierarchy.
///
/// \par Problem
/// Everything that compares sites needs many shortest-path trees over one network, under costs that change with
/// profile, hour and closure. A search from a queue takes a tenth of a second for a million nodes; reading the
/// network's arrays takes a few milliseconds.
///
/// \par Method
/// Nodes are taken out of the network one after another in a good order (`order.h`), whatever the costs, and their
/// neighbours joined. The graph that this leaves is chordal: a node's neighbours that go later are joined to one
/// another, and the first of them is its parent in the elimination tree (Dibbelt, Strasser, Wagner 2016, "Customizable
/// contraction hierarchies", JEA 21). A shortest way climbs this tree and comes down again, so that costs to all nodes
/// come from one climb and one pass downwards over all arcs (Delling, Goldberg, Nowatzyk, Werneck 2013, "PHAST", JPDC
/// 73).
///
/// \par Ranks
/// Nodes are called by rank here: 0 is taken out last and stands highest; every arc leads from a node to one of smaller
/// rank, its *head*. So going down is going through memory forwards.
///
/// \par How memory is laid out
/// Subtrees of up to four thousand nodes are *cells*, each a stretch of ranks; above them stand the few nodes that cut
/// the network apart. Inside a cell, nodes stand by level, and those of equally many arcs next to one another, eight by
/// eight with their arcs interleaved: eight nodes take one instruction a step, and little has to be guessed about how
/// many steps there are (where one of the eight has fewer arcs, slots stay empty: their cost is always `kFar`). While
/// sweeping, labels lie in a small array that stays in the fastest memory: those of the nodes above the cell by their
/// depth in the tree, those of the cell behind them. `spot` says where in 16 bits.
///
/// \par Cost
/// Ordering: see `order.h`. Memory: 6 bytes an arc, 27 a node. See docs/engine.md for figures.
#include <memory>
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/graph.h"

namespace otoro::routing {

/// Immutable; shared between threads.
class Hierarchy {
public:
    /// Orders the network and lays it out. \param graph only which nodes are joined counts, in either direction
    /// \returns nothing for a network whose order is so deep (61 thousand nodes one above another) that it is better
    /// searched plainly \throws Stopped
    static std::shared_ptr<const Hierarchy> of(const Graph& graph, const Task& task);
    /// The same in an order found earlier. \returns nothing also if `positions` is no order of these nodes, or one so
    /// bad that it would fill memory
    static std::shared_ptr<const Hierarchy> of(const Graph& graph, std::span<const std::uint32_t> positions,
                                               const Task& task);

    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(rank_.size()); }
    /// Slots, the few empty ones too.
    [[nodiscard]] std::size_t arc_count() const { return heads_.size(); }
    [[nodiscard]] std::uint32_t rank_of(std::uint32_t node) const { return rank_[node]; }
    [[nodiscard]] std::uint32_t node_at(std::uint32_t rank) const { return node_[rank]; }

    /// Where the arcs of a node lie: `count` slots from `first` on, `stride` apart, the parent's first, the highest
    /// head last.
    struct Row {
        std::uint32_t first = 0;
        std::uint16_t count = 0;
        std::uint16_t stride = 1;
        [[nodiscard]] std::uint32_t slot(std::uint32_t i) const { return first + i * stride; }
    };
    [[nodiscard]] Row row(std::uint32_t rank) const { return rows_[rank]; }
    [[nodiscard]] std::uint32_t head(std::uint32_t slot) const { return heads_[slot]; }
    /// The slot of the arc from a node to a higher one, or `kNoIndex` if there is none.
    [[nodiscard]] std::uint32_t slot_of(std::uint32_t rank, std::uint32_t head) const;
    /// The node above in the elimination tree, or `kNoIndex` at a root.
    [[nodiscard]] std::uint32_t parent(std::uint32_t rank) const {
        return rows_[rank].count == 0 ? kNoIndex : heads_[rows_[rank].first];
    }
    /// How many nodes stand above it in the elimination tree.
    [[nodiscard]] std::uint16_t depth(std::uint32_t rank) const { return depth_[rank]; }
    /// Whether the node stands above the cells; then `spots()` of its arcs are the depths of their heads.
    [[nodiscard]] bool above_cells(std::uint32_t rank) const { return subtree_[position_[rank]] > kCell; }
    /// One more than the greatest depth.
    [[nodiscard]] std::uint32_t height() const { return height_; }

    /// Ranks in the order of taking out: subtrees one after another, each ending with its root.
    [[nodiscard]] std::span<const std::uint32_t> by_position() const { return by_position_; }
    /// The place of a rank in `by_position()`.
    [[nodiscard]] std::uint32_t position_of(std::uint32_t rank) const { return position_[rank]; }
    /// How many nodes the subtree has whose root has this place in `by_position()`.
    [[nodiscard]] std::uint32_t subtree(std::uint32_t position) const { return subtree_[position]; }
    /// The position of the node above, or `kNoIndex` at a root. Mostly it is the next one, so that a climb by positions
    /// walks through memory.
    [[nodiscard]] std::uint32_t parent_position(std::uint32_t position) const {
        if (position + 1 < subtree_.size() && subtree_[position + 1] > 1)
            return position + 1;  // the root of a subtree comes right behind the last of its children
        const std::uint32_t above = parent(by_position_[position]);
        return above == kNoIndex ? kNoIndex : position_[above];
    }
    /// Calls `use(rank)` for every child in the elimination tree.
    template <class Use>
    void each_child(std::uint32_t rank, Use&& use) const {
        const std::uint32_t position = position_[rank];
        const std::uint32_t begin = position + 1 - subtree_[position];
        for (std::uint32_t child = position; child-- > begin; child -= subtree_[child] - 1) use(by_position_[child]);
    }
    /// Calls `use(lower, slot)` for every node below that has an arc to this one, with the arc's slot, until `use`
    /// returns false.
    template <class Use>
    void each_below(std::uint32_t rank, Use&& use) const {
        // They hang together: where one is not joined to `rank`, none below it is.
        std::vector<std::uint32_t> waiting;
        const auto put = [&](std::uint32_t child) { waiting.push_back(child); };
        each_child(rank, put);
        while (!waiting.empty()) {
            const std::uint32_t lower = waiting.back();
            waiting.pop_back();
            const std::uint32_t slot = slot_of(lower, rank);
            if (slot == kNoIndex) continue;
            if (!use(lower, slot)) return;
            each_child(lower, put);
        }
    }
    /// The order as `of` takes it again: for each node its place in `by_position()`.
    [[nodiscard]] std::vector<std::uint32_t> positions() const;

    /// Nodes of one level with equally many arcs.
    struct Group {
        std::uint32_t nodes;
        std::uint16_t arcs;  ///< slots of each
        bool interleaved;    ///< eight nodes by eight
    };
    /// A run of ranks: a cell, or nodes above the cells (which have no groups).
    struct Stretch {
        std::uint32_t begin, end;
        std::uint32_t first_group, end_group;
        std::uint32_t first_slot;
        [[nodiscard]] bool is_cell() const { return first_group != end_group; }
    };
    [[nodiscard]] std::span<const Stretch> stretches() const { return stretches_; }
    [[nodiscard]] std::span<const Group> groups(const Stretch& s) const {
        return {groups_.data() + s.first_group, groups_.data() + s.end_group};
    }
    [[nodiscard]] std::span<const std::uint16_t> spots() const { return spots_; }
    /// Where labels of a cell begin while sweeping, and how many there are in all.
    [[nodiscard]] std::uint32_t cell_spots() const { return height_; }
    [[nodiscard]] std::uint32_t spot_count() const { return height_ + widest_cell_; }
    /// Bytes it takes.
    [[nodiscard]] std::size_t bytes() const;

    static constexpr std::uint32_t kTogether = 8;  ///< nodes interleaved
    static constexpr std::uint32_t kCell = 4096;   ///< most nodes of a cell

private:
    std::vector<std::uint32_t> rank_, node_, by_position_, position_, subtree_;
    std::vector<Row> rows_;
    std::vector<std::uint32_t> heads_;
    std::vector<std::uint16_t, HugePages<std::uint16_t>> spots_;
    std::vector<std::uint16_t> depth_;
    std::vector<Group> groups_;
    std::vector<Stretch> stretches_;
    std::uint32_t height_ = 0, widest_cell_ = 0;
};

}  // namespace otoro::routing
