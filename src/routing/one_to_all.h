#pragma once
/// \file
/// Searches on a customised hierarchy: trees to every node, nearest of many, k nearest, and tables.
///
/// \par Method
/// Labels climb the elimination tree from the sources; then one pass over all arcs, from the highest rank down, hands
/// them to every node (PHAST: Delling, Goldberg, Nowatzyk, Werneck 2013). Sixteen sources share a pass, each in a lane
/// of the processor's widest registers.
///
/// \par Exact
/// Costs, sources and the other measure are those of `nearest_of_many`, to the unit, on one thread or many.
///
/// \par Results
/// By rank: `result[hierarchy.rank_of(node)]`. Where there is no route the cost is `kFar`.
///
/// \par Cost
/// One pass reads 6 bytes an arc (10 with the other measure) and writes a row. See docs/engine.md.
#include <array>
#include <functional>
#include <span>
#include <utility>
#include <vector>

#include "geo/task.h"
#include "routing/customised.h"
#include "routing/nearest_search.h"

namespace otoro::routing {

/// Costs to the nodes above one, by depth; those of the node itself last.
struct Climb {
    std::vector<std::uint32_t> rank;
    std::vector<std::uint64_t> weights;  ///< cost and the other measure as one number, the cost above 32 bits
    [[nodiscard]] ArcWeight at(std::size_t depth) const {
        return {static_cast<std::uint32_t>(weights[depth] >> 32U), static_cast<std::uint32_t>(weights[depth])};
    }
};
/// From a node up (`Run::with`), or from above down to it (`against`). As many steps as the nodes above have arcs.
/// \param given what the node itself starts with
Climb climb(const Customised& fast, std::uint32_t rank, Run run, ArcWeight given = {0, 0});

/// Costs from (or to) one node, by rank.
Amounts tree(const Customised& fast, std::uint32_t source, Run run);
/// The same into memory that is there already.
void tree(const Customised& fast, std::uint32_t source, Run run, Amounts& out);

/// Cost, source, other: the least is wanted.
struct Reached {
    std::uint32_t cost = kFar, source = kFar, other = kFar;
    bool operator<(const Reached& o) const {
        return cost != o.cost ? cost < o.cost : source != o.source ? source < o.source : other < o.other;
    }
};

/// How a label is packed into one number: the cost above, then the source, then the other measure. From `kDoubtful` on
/// it is none that fits; `kNone` is none at all.
struct PackedLayout {
    static constexpr std::uint64_t kDoubtful = std::uint64_t{1} << 62U, kNone = std::uint64_t{1} << 63U;
    std::uint32_t other_bits = 0, source_bits = 0;
    [[nodiscard]] std::uint32_t shift() const { return other_bits + source_bits; }
    [[nodiscard]] std::uint32_t cost_bits() const { return 62 - shift(); }
    [[nodiscard]] std::uint64_t pack(const Reached& r) const {
        return (std::uint64_t{r.cost} << shift()) | (std::uint64_t{r.source} << other_bits) | r.other;
    }
    [[nodiscard]] Reached unpack(std::uint64_t label) const {
        return {static_cast<std::uint32_t>(label >> shift()),
                static_cast<std::uint32_t>((label >> other_bits) & ((std::uint64_t{1} << source_bits) - 1)),
                static_cast<std::uint32_t>(label & ((std::uint64_t{1} << other_bits) - 1))};
    }
    [[nodiscard]] std::uint64_t guard() const { return std::uint64_t{1} << (other_bits - 1); }
    /// Half the range of the other measure stays free, so that a sum of two never runs over.
    [[nodiscard]] bool holds(const Reached& r) const {
        return r.cost < (std::uint64_t{1} << cost_bits()) && r.other < guard() &&
               r.source < (std::uint64_t{1} << source_bits);
    }
};

/// What each node's nearest source is, by rank: 8 bytes a node, as they are found. The few that do not fit stand apart;
/// where none can be packed, all stand plainly, 12 bytes each.
class NearestByRank {
public:
    [[nodiscard]] std::size_t size() const { return packed_.size() + plain_.size(); }
    [[nodiscard]] Reached reached(std::uint32_t rank) const {
        if (!plain_.empty()) return plain_[rank];
        const std::uint64_t label = packed_[rank];
        if (label < PackedLayout::kDoubtful) {
            Reached r = layout_.unpack(label);
            r.source = sources_[r.source];
            return r;
        }
        return label == PackedLayout::kNone ? Reached{} : apart(rank);
    }
    [[nodiscard]] Label at(std::uint32_t rank) const {
        const Reached r = reached(rank);
        return r.cost >= kFar ? Label{} : Label{r.cost, r.source, r.other, LinkWay::none()};
    }

private:
    friend class PackedSearch;
    friend void nearest(const Customised& fast, std::span<const Seed> seeds, Run run, NearestByRank& out);
    void put_apart(std::uint32_t rank, const Reached& r);
    [[nodiscard]] Reached apart(std::uint32_t rank) const;

    std::vector<std::uint64_t, HugePages<std::uint64_t>> packed_;
    PackedLayout layout_;
    std::vector<std::uint32_t> sources_;                    // by the number that is packed
    std::vector<std::pair<std::uint32_t, Reached>> apart_;  // by rank
    std::vector<Reached, HugePages<Reached>> plain_;        // by rank
};
NearestByRank nearest(const Customised& fast, std::span<const Seed> seeds, Run run);
/// The same into memory that is there already.
void nearest(const Customised& fast, std::span<const Seed> seeds, Run run, NearestByRank& out);

/// The `k` nearest sources of every node, nearest first: `k` labels a rank, those behind the last found unreached. A
/// source counts once, however many seeds it has. About k times the cost of `nearest` and more.
LabelArray nearest_k(const Customised& fast, std::span<const Seed> seeds, std::size_t k, Run run);

/// A way on from either of two nodes: where their lines stand, and what the way from each costs, as a label.
struct TwoWaysOn {
    std::uint32_t line[2] = {0, 0};
    std::uint64_t step[2] = {0, 0};
};

/// Costs and the other measure of up to eight sources, side by side: what a node has from all of them is one line of
/// memory. A source may have several seeds. About three passes of `tree`, and 64 bytes a node.
class FewToAll {
public:
    static constexpr std::size_t kMost = 8;
    /// From (or to) `sources[lane]`; lanes without a source reach nothing. \pre at most `kMost`
    void run(const Customised& fast, std::span<const std::vector<Seed>> sources, Run run);
    /// The same plainly, by node instead of by rank. \throws Stopped
    void run(const Graph& graph, std::span<const std::vector<Seed>> sources, const Task& task);
    /// What a node has: `kMost` numbers, each the cost above 32 bits and the other measure below.
    [[nodiscard]] const std::uint64_t* line(std::uint32_t rank) const { return lines_[rank].lanes.data(); }

    /// What each source has to (or from) something in the middle of a road.
    struct alignas(64) Line {
        std::array<std::uint64_t, kMost> lanes;
    };
    /// The lesser of both ways on, source by source; where there is no route the cost is `kFar`.
    /// \param bounds one a way: labels that are not less are not wanted
    /// \param out one a way \param wanted bits of the lanes that are
    void join(std::span<const TwoWaysOn> ways, const std::uint64_t* bounds, Line* out, std::uint8_t* wanted) const;

private:
    std::vector<Line, HugePages<Line>> lines_, at_;
};

/// Called with each source's number and its costs by rank; must not keep what it is given. \returns whether to go on
using Row = std::function<void(std::size_t source, std::span<const std::uint32_t> costs)>;
/// One row of costs a source, in the sources' order. Sixteen sources a pass, whose rows are held at once: 64 bytes a
/// node. \throws Stopped
void trees(const Customised& fast, std::span<const std::uint32_t> sources, Run run, const Row& row, const Task& task);

/// Called with each source's number, its costs and its amounts of the other measure to each target; must not keep what
/// it is given.
using TableRow = std::function<void(std::size_t source, std::span<const std::uint32_t> costs,
                                    std::span<const std::uint32_t> others)>;
/// From each source to each target (`Run::with`) or from each target to each source (`against`), row by row in the
/// sources' order, so that a table larger than memory can be written out.
///
/// Source and target meet at a node above both: all of these are on one path of the elimination tree, so that a pair
/// takes as many steps as it has common depths, sixteen in one instruction. 8 bytes a target and depth. \throws Stopped
void table(const Customised& fast, std::span<const std::uint32_t> sources, std::span<const std::uint32_t> targets,
           Run run, const TableRow& row, const Task& task);

/// The same between things in the middle of a road, each with a seed at one end of it or at both. Those without seeds
/// reach nothing. \pre the seeds of each stand above one another in the elimination tree,
/// as the two ends of a road do
void table(const Customised& fast, std::span<const std::vector<Seed>> sources,
           std::span<const std::vector<Seed>> targets, Run run, const TableRow& row, const Task& task);
/// From several nodes on one path up, each with what it starts with. \pre there is one, and the deepest is the first
Climb climb(const Customised& fast, std::span<const Seed> seeds, Run run);

}  // namespace otoro::routing
