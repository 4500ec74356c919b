#pragma once
/// \file
/// The innermost loops of searches over a hierarchy, each compiled for several generations of processors by Highway
/// (`vector_passes.cpp`); the best that the machine has is chosen at run time. All give the same numbers: they are sums
/// and minima of integers.
#include <array>
#include <cstdint>
#include <functional>
#include <span>

#include "routing/hierarchy.h"
#include "routing/one_to_all.h"

namespace otoro::routing {

/// A label that a node has before a pass.
template <class Value>
struct Given {
    std::uint32_t rank;
    std::uint32_t lane;
    Value value;
};

/// Sixteen labels side by side, for as many sources at once.
inline constexpr std::uint32_t kLanes = 16;
typedef std::uint32_t LaneLabels __attribute__((vector_size(4 * kLanes)));

/// Arcs of a hierarchy by slot: where the label of each one's head is found, and its cost.
struct CostArcs {
    const std::uint16_t* spots;
    const std::uint32_t* costs;
};

/// Arcs as one number: the cost (held at `most`) above `shift` bits, the other measure below.
struct PackedArcs {
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const std::uint32_t* others;
    std::uint32_t shift;
    std::uint32_t most;  ///< costs from here on count as this: the sum is doubtful then
};

/// Eight labels side by side, for as many sources at once: cost and other measure as one number, the cost above 32
/// bits.
inline constexpr std::uint32_t kPairLanes = 8;
typedef std::uint64_t PairLabels __attribute__((vector_size(8 * kPairLanes)));

/// Arcs of a hierarchy by slot: where the label of each one's head is found, its cost, and the other measure.
struct WeightArcs {
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const std::uint32_t* others;
};

/// Weights of one arc, up and down, each (cost, other measure) as one number that is compared with a sign: the order of
/// pairs, shifted by half the range.
typedef std::uint64_t ArcPair __attribute__((vector_size(16)));
inline constexpr std::uint64_t kArcShift = std::uint64_t{1} << 63U;
inline ArcPair least(ArcPair a, ArcPair b) {
    typedef std::int64_t Signed __attribute__((vector_size(16)));
    return reinterpret_cast<Signed>(a) < reinterpret_cast<Signed>(b) ? a : b;
}

/// An arc of a node that is being taken out, and the depth of its head.
struct WorkedOut {
    ArcPair weights;
    std::uint32_t depth;
};

/// Costs from one source to every node, from the highest rank down. O(nodes + arcs).
/// \param given those of a cell together, cells and nodes above them by ascending rank
/// \param at room for `h.spot_count()` labels
/// \param out by rank
void pass_costs(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given,
                std::uint32_t* at, std::uint32_t* out);

/// The same for labels of cost, source and other measure in one number (`PackedLayout`, one_to_all.h).
/// \param fix called with the rank of each label that does not fit, or that follows from one
/// \return bits of `guard` that were reached anywhere: none if every amount of the other measure fitted
std::uint64_t pass_packed(const Hierarchy& h, const PackedArcs& arcs, std::uint64_t guard,
                          std::span<const Given<std::uint64_t>> given, std::uint64_t* at, std::uint64_t* out,
                          const std::function<void(std::uint32_t rank)>& fix);

/// Costs from sixteen sources at once. \param rows one a source, by rank
void pass_lanes(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given, LaneLabels* at,
                const std::array<std::uint32_t*, kLanes>& rows);

/// Costs and the other measure from eight sources at once; where there is no route the cost is `kFar`.
/// \param out by rank
void pass_pairs(const Hierarchy& h, const WeightArcs& arcs, std::span<const Given<std::uint64_t>> given, PairLabels* at,
                PairLabels* out);

/// For each of `ways` the lesser of both, source by source, with `kFar` as the cost where there is none.
/// \param bounds one a way: only labels less than this are wanted
/// \param out one line a way \param wanted bits of the lanes that are
void join_pairs(const PairLabels* lines, std::span<const TwoWaysOn> ways, const std::uint64_t* bounds, PairLabels* out,
                std::uint8_t* wanted);

/// Hands one label up the arcs of a node above the cells: `at[spot] = min(at[spot], mine + arc)`.
void hand_up(const PackedArcs& arcs, std::uint32_t slot, std::uint32_t count, std::uint64_t mine, std::uint64_t* at);

/// Every pair of a node's arcs offers its sum to the arc between their heads.
/// \param arcs by falling depth of their heads
/// \param triangle weights between nodes by their depths: row `d` begins at `d (d + 1) / 2`
void offer_sums(std::span<const WorkedOut> arcs, ArcPair* triangle);

/// The least of `nowhere` and the sums `a[i] + b[i]`.
std::uint64_t least_sum(const std::uint64_t* a, const std::uint64_t* b, std::size_t count, std::uint64_t nowhere);

}  // namespace otoro::routing
