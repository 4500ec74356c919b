#include "routing/hierarchy.h"

#include <numeric>
#include <tuple>

#include "routing/order.h"

namespace otoro::routing {
namespace {

constexpr std::uint32_t kDeepest = 65'536 - Hierarchy::kCell;
constexpr std::size_t kTooMany = 500;  // arcs a node that no good order of a road network comes near

bool is_order(std::span<const std::uint32_t> positions, std::uint32_t nodes) {
    if (positions.size() != nodes) return false;
    std::vector<bool> seen(nodes, false);
    for (const auto t : positions) {
        if (t >= nodes || seen[t]) return false;
        seen[t] = true;
    }
    return true;
}

}  // namespace

std::shared_ptr<const Hierarchy> Hierarchy::of(const Graph& graph, const Task& task) {
    return of(graph, good_order(neighbours_of(graph), task), task);
}

std::shared_ptr<const Hierarchy> Hierarchy::of(const Graph& graph, std::span<const std::uint32_t> positions,
                                               const Task& task) {
    const std::uint32_t n = graph.node_count();
    if (!is_order(positions, n)) return nullptr;
    const Chordal chordal = take_out(neighbours_of(graph), positions, task, kTooMany * n);
    if (chordal.first.empty()) return nullptr;
    auto h = std::make_shared<Hierarchy>();

    // Depths from the root down, levels from the leaves up, subtrees.
    std::vector<std::uint32_t> depth(n, 0), level(n, 0);
    h->subtree_.assign(n, 1);
    for (std::uint32_t t = n; t-- > 0;) {
        if (const auto parent = chordal.parent(t); parent != kNoIndex) depth[t] = depth[parent] + 1;
        h->height_ = std::max(h->height_, depth[t] + 1);
    }
    if (h->height_ > kDeepest) return nullptr;
    for (std::uint32_t t = 0; t < n; ++t) {
        for (const auto head : chordal.of(t)) level[head] = std::max(level[head], level[t] + 1);
        if (const auto parent = chordal.parent(t); parent != kNoIndex) h->subtree_[parent] += h->subtree_[t];
    }
    for (std::uint32_t t = 0; t + 1 < n; ++t)  // subtrees must follow one another: a node that is not the last child of
                                               // the next begins a subtree of its own
        if (const auto parent = chordal.parent(t);
            parent != kNoIndex && parent != t + 1 && t + 1 - h->subtree_[t] < parent + 1 - h->subtree_[parent])
            return nullptr;

    // Ranks: from the last position to the first, each cell sorted in itself.
    h->by_position_.resize(n);
    std::vector<std::uint32_t> position_at(n);
    std::vector<std::uint32_t> cell_begin(n, kNoIndex);  // by rank
    const auto arcs_of = [&](std::uint32_t t) { return chordal.first[t + 1] - chordal.first[t]; };
    std::uint32_t slots = 0;
    // Nodes one by one, or eight with room for as many arcs as the last of them has.
    std::uint32_t cell_group = 0;
    const auto add_nodes = [&](std::uint32_t nodes, std::uint32_t arcs) {
        const bool interleaved = nodes == kTogether;
        if (h->groups_.size() > cell_group && h->groups_.back().arcs == arcs &&
            h->groups_.back().interleaved == interleaved)
            h->groups_.back().nodes += nodes;
        else
            h->groups_.push_back({nodes, static_cast<std::uint16_t>(arcs), interleaved});
        slots += nodes * arcs;
    };
    // Eight of one level stand together if that leaves no more than a fifth of their room empty.
    const auto worthwhile = [&](std::uint32_t r, std::uint32_t end) {
        if (r + kTogether > end || level[position_at[r]] != level[position_at[r + kTogether - 1]]) return 1U;
        std::uint32_t arcs = 0;
        for (std::uint32_t i = r; i < r + kTogether; ++i) arcs += arcs_of(position_at[i]);
        return 4 * kTogether * arcs_of(position_at[r + kTogether - 1]) <= 5 * arcs ? kTogether : 1U;
    };
    for (std::uint32_t rank = 0; rank < n;) {
        const std::uint32_t t = n - 1 - rank;
        const auto group = static_cast<std::uint32_t>(h->groups_.size());
        if (h->subtree_[t] > kCell) {
            if (h->stretches_.empty() || h->stretches_.back().is_cell())
                h->stretches_.push_back({rank, rank, group, group, slots});
            h->stretches_.back().end = rank + 1;
            position_at[rank++] = t;
            slots += arcs_of(t);
            continue;
        }
        const std::uint32_t end = rank + h->subtree_[t];
        const Stretch cell{rank, end, group, group, slots};
        cell_group = group;
        for (std::uint32_t r = rank; r < end; ++r) {
            position_at[r] = n - 1 - r;
            cell_begin[r] = rank;
        }
        const auto kind = [&](std::uint32_t position) { return std::tuple(n - level[position], arcs_of(position)); };
        std::stable_sort(position_at.begin() + rank, position_at.begin() + end,
                         [&](std::uint32_t x, std::uint32_t y) { return kind(x) < kind(y); });
        for (std::uint32_t r = rank; r < end;) {
            const std::uint32_t together = worthwhile(r, end);
            add_nodes(together, arcs_of(position_at[r + together - 1]));
            r += together;
        }
        h->stretches_.push_back(cell);
        h->stretches_.back().end_group = static_cast<std::uint32_t>(h->groups_.size());
        h->widest_cell_ = std::max(h->widest_cell_, (end - rank + 15) / 16 * 16);
        rank = end;
    }
    for (std::uint32_t r = 0; r < n; ++r) h->by_position_[position_at[r]] = r;
    h->position_ = std::move(position_at);

    h->rank_.resize(n);
    h->node_.resize(n);
    for (std::uint32_t v = 0; v < n; ++v) {
        h->rank_[v] = h->by_position_[positions[v]];
        h->node_[h->rank_[v]] = v;
    }

    // Rows, heads and spots.
    h->rows_.resize(n);
    h->depth_.resize(n);
    h->heads_.assign(slots, 0);
    h->spots_.assign(slots + 2 * kTogether, 0);  // a little may be read behind the last
    const auto lay = [&](std::uint32_t rank, std::uint32_t first, std::uint16_t stride) {
        const std::uint32_t t = h->position_[rank];
        h->depth_[rank] = static_cast<std::uint16_t>(depth[t]);
        h->rows_[rank] = {first, static_cast<std::uint16_t>(arcs_of(t)), stride};
        std::uint32_t i = 0;
        for (const auto head_position : chordal.of(t)) {
            const std::uint32_t slot = h->rows_[rank].slot(i++), head = h->by_position_[head_position];
            h->heads_[slot] = head;
            const bool inside = cell_begin[rank] != kNoIndex && head >= cell_begin[rank];
            h->spots_[slot] =
                static_cast<std::uint16_t>(inside ? h->height_ + head - cell_begin[rank] : depth[head_position]);
        }
    };
    for (const Stretch& s : h->stretches_) {
        std::uint32_t slot = s.first_slot, rank = s.begin;
        if (!s.is_cell())
            for (; rank < s.end; ++rank) {
                lay(rank, slot, 1);
                slot += h->rows_[rank].count;
            }
        for (const Group& g : h->groups(s)) {
            const std::uint32_t together = g.interleaved ? kTogether : 1;
            for (std::uint32_t i = 0; i < g.nodes; ++i, ++rank)
                lay(rank, slot + i / together * together * g.arcs + i % together, static_cast<std::uint16_t>(together));
            slot += g.nodes * g.arcs;
        }
    }
    return h;
}

std::uint32_t Hierarchy::slot_of(std::uint32_t rank, std::uint32_t head) const {
    // Heads stand above one another, so their ranks descend.
    const Row row = rows_[rank];
    std::uint32_t low = 0, high = row.count;
    while (low < high) {
        const std::uint32_t middle = (low + high) / 2;
        if (heads_[row.slot(middle)] > head)
            low = middle + 1;
        else
            high = middle;
    }
    return low < row.count && heads_[row.slot(low)] == head ? row.slot(low) : kNoIndex;
}

std::vector<std::uint32_t> Hierarchy::positions() const {
    std::vector<std::uint32_t> out(node_count());
    for (std::uint32_t v = 0; v < out.size(); ++v) out[v] = position_[rank_[v]];
    return out;
}

std::size_t Hierarchy::bytes() const {
    return (rank_.size() + node_.size() + by_position_.size() + position_.size() + subtree_.size() + heads_.size()) *
               sizeof(std::uint32_t) +
           rows_.size() * sizeof(Row) + (spots_.size() + depth_.size()) * sizeof(std::uint16_t) +
           groups_.size() * sizeof(Group) + stretches_.size() * sizeof(Stretch);
}

}  // namespace otoro::routing
