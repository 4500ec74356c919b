#include "routing/vector_passes.h"

#include <algorithm>

// Each processor that Highway knows of compiles what stands below once more, in a namespace of its own.
// Processors without gathering instructions take the plain loops, whatever else they have.
#undef HWY_DISABLED_TARGETS
#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_SVE | HWY_SVE2 | HWY_SVE_256 | HWY_SVE2_128)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "routing/vector_passes.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "routing/one_to_all.h"

// Nothing here is called from code built for another processor, and GCC 12 takes the deliberately undefined operands
// inside its own intrinsics for forgotten ones.
#ifdef __GNUC__
#pragma GCC diagnostic ignored "-Wpragmas"
#pragma GCC diagnostic ignored "-Wpsabi"
#pragma GCC diagnostic ignored "-Wmaybe-uninitialized"
#endif

HWY_BEFORE_NAMESPACE();
namespace otoro::routing {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// Whether this processor fetches labels from anywhere in one instruction.
/// The widths below are fixed, so vectors of a length that only the machine knows are none.
#if HWY_TARGET == HWY_SCALAR || HWY_TARGET == HWY_EMU128 || HWY_HAVE_SCALABLE
constexpr bool kGathers = false;
#else
constexpr bool kGathers = HWY_MAX_BYTES >= 32;
#endif
/// Whether sixteen costs, or eight packed labels, are one vector.
constexpr bool kWide = kGathers && HWY_MAX_BYTES >= 64;

/// The lesser of both halves of a vector, lane by lane.
template <class D, class V>
HWY_INLINE hn::Vec<D> lesser_half(D d, V both) {
#if HWY_TARGET == HWY_SCALAR  // one lane has no halves
    (void)d;
    return both;
#else
    return hn::Min(hn::LowerHalf(d, both), hn::UpperHalf(d, both));
#endif
}

/// One pass through the stretches of a hierarchy (`hierarchy.h`). A *kernel* says what a label is and how an arc hands
/// it down:
///   - `Label`, `far()`;
///   - `one(slot, arcs, mine)`: the label of one node from its arcs, which lie one after another;
///   - `eight(slot, arcs, mine)`: those of eight nodes whose arcs are interleaved.
/// \param emit called with the first rank and the labels of every stretch, in order
template <class Kernel, class Value, class Emit>
HWY_INLINE void pass(const Hierarchy& h, const Kernel& kernel, std::span<const Given<Value>> given,
                     typename Kernel::Label* at, Emit&& emit) {
    auto next = given.begin();
    const auto last = given.end();
    at[0] = kernel.far();  // what empty slots read
    for (const auto& stretch : h.stretches()) {
        std::uint32_t slot = stretch.first_slot;
        if (!stretch.is_cell()) {
            for (std::uint32_t rank = stretch.begin; rank < stretch.end; ++rank) {
                typename Kernel::Label& mine = at[h.depth(rank)];
                mine = kernel.far();
                for (; next != last && next->rank == rank; ++next) kernel.give(mine, *next);
                const std::uint32_t arcs = h.row(rank).count;
                kernel.one(slot, arcs, mine);
                slot += arcs;
                emit(rank, &mine, 1U);
            }
            continue;
        }
        typename Kernel::Label* mine = at + h.cell_spots();
        const std::uint32_t nodes = stretch.end - stretch.begin;
        std::fill(mine, mine + nodes, kernel.far());
        for (; next != last && next->rank < stretch.end; ++next) kernel.give(mine[next->rank - stretch.begin], *next);
        for (const auto& group : h.groups(stretch)) {
            const std::uint32_t arcs = group.arcs;
            if (group.interleaved) {
                for (std::uint32_t i = 0; i < group.nodes;
                     i += Hierarchy::kTogether, mine += Hierarchy::kTogether, slot += Hierarchy::kTogether * arcs)
                    kernel.eight(slot, arcs, mine);
            } else {
                for (std::uint32_t i = 0; i < group.nodes; ++i, ++mine, slot += arcs) kernel.one(slot, arcs, *mine);
            }
        }
        emit(stretch.begin, at + h.cell_spots(), nodes);
    }
}

/// Costs alone.
struct Costs {
    using Label = std::uint32_t;
    CostArcs arcs;
    const Label* at;

    static HWY_INLINE Label far() { return kFar; }
    static HWY_INLINE void give(Label& mine, const Given<std::uint32_t>& g) { mine = std::min(mine, g.value); }
    HWY_INLINE void one(std::uint32_t slot, std::uint32_t count, Label& mine) const {
        std::uint32_t i = slot;
        Label least = mine;
        if constexpr (kGathers) {
            if constexpr (kWide) i = several<16>(i, slot + count, least);
            i = several<8>(i, slot + count, least);
        }
        for (; i < slot + count; ++i) least = std::min(least, at[arcs.spots[i]] + arcs.costs[i]);
        mine = least;
    }
    HWY_INLINE void eight(std::uint32_t slot, std::uint32_t count, Label* mine) const {
        const std::uint32_t end = slot + 8 * count;
        std::uint32_t i = slot;
        if constexpr (kWide) {
            // Two arcs of each of eight nodes in one step.
            const hn::CappedTag<std::uint32_t, 16> wide;
            const hn::Half<decltype(wide)> d;
            auto least = hn::LoadU(d, mine);
            if (count > 1) {
                auto both = candidates(wide, i);
                for (i += 16; i + 16 <= end; i += 16) both = hn::Min(both, candidates(wide, i));
                least = hn::Min(least, lesser_half(d, both));
            }
            for (; i < end; i += 8) least = hn::Min(least, candidates(d, i));
            hn::StoreU(least, d, mine);
        } else if constexpr (kGathers) {
            const hn::CappedTag<std::uint32_t, 8> d;
            auto least = hn::LoadU(d, mine);
            for (; i < end; i += 8) least = hn::Min(least, candidates(d, i));
            hn::StoreU(least, d, mine);
        } else {
            for (; i < end; i += 8)
                for (std::uint32_t k = 0; k < 8; ++k)
                    mine[k] = std::min(mine[k], at[arcs.spots[i + k]] + arcs.costs[i + k]);
        }
    }

private:
    /// Takes in as many whole vectors of arcs as there are; says where it ended.
    template <std::size_t Width>
    HWY_INLINE std::uint32_t several(std::uint32_t i, std::uint32_t end, Label& least) const {
        if (i + Width > end) return i;
        const hn::CappedTag<std::uint32_t, Width> d;
        auto lanes = hn::Set(d, least);
        for (; i + Width <= end; i += Width) lanes = hn::Min(lanes, candidates(d, i));
        least = hn::GetLane(hn::MinOfLanes(d, lanes));
        return i;
    }
    template <class D>
    HWY_INLINE hn::Vec<D> candidates(D d, std::uint32_t i) const {
        const hn::Rebind<std::uint16_t, D> narrow;
        const hn::RebindToSigned<D> index;
        const auto where = hn::BitCast(index, hn::PromoteTo(d, hn::LoadU(narrow, arcs.spots + i)));
        return hn::Add(hn::GatherIndex(d, at, where), hn::LoadU(d, arcs.costs + i));
    }
};

/// A vector of arcs as packed numbers, and where the labels of their heads are.
template <class D>
HWY_INLINE hn::Vec<D> packed_arcs(D d, const PackedArcs& arcs, std::uint32_t i) {
    const hn::Rebind<std::uint32_t, D> half;
    const auto cost = hn::Min(hn::LoadU(half, arcs.costs + i), hn::Set(half, arcs.most));
    return hn::Add(hn::ShiftLeftSame(hn::PromoteTo(d, cost), static_cast<int>(arcs.shift)),
                   hn::PromoteTo(d, hn::LoadU(half, arcs.others + i)));
}
template <class D>
HWY_INLINE auto packed_heads(D d, const PackedArcs& arcs, std::uint32_t i) {
    const hn::Rebind<std::uint16_t, D> quarter;
    const hn::Rebind<std::uint32_t, D> half;
    return hn::BitCast(hn::RebindToSigned<D>(),
                       hn::PromoteTo(d, hn::PromoteTo(half, hn::LoadU(quarter, arcs.spots + i))));
}

/// Cost, source and the other measure in one number. Compared with a sign, so everything is shifted by half the range
/// (`kHalf`).
struct Packed {
    using Label = std::uint64_t;
    static constexpr std::uint64_t kHalf = std::uint64_t{1} << 63U;
    PackedArcs arcs;
    const Label* at;

    static HWY_INLINE Label far() { return kHalf ^ kHalf; }
    static HWY_INLINE void give(Label& mine, const Given<std::uint64_t>& g) {
        mine = std::min(mine ^ kHalf, g.value) ^ kHalf;
    }
    HWY_INLINE void one(std::uint32_t slot, std::uint32_t count, Label& mine) const {
        auto least = static_cast<std::int64_t>(mine);
        std::uint32_t i = slot;
        if constexpr (kWide) {
            if (count >= 8) {
                const hn::CappedTag<std::int64_t, 8> d;
                auto lanes = hn::Set(d, least);
                for (; i + 8 <= slot + count; i += 8) lanes = hn::Min(lanes, candidates(d, i));
                least = hn::GetLane(hn::MinOfLanes(d, lanes));
            }
        }
        for (; i < slot + count; ++i) least = std::min(least, candidate(i));
        mine = static_cast<Label>(least);
    }
    HWY_INLINE void eight(std::uint32_t slot, std::uint32_t count, Label* mine) const {
        const std::uint32_t end = slot + 8 * count;
        if constexpr (kGathers) {
            const hn::CappedTag<std::int64_t, 8> d;
            auto* const labels = reinterpret_cast<std::int64_t*>(mine);
            if constexpr (kWide) {
                auto least = hn::LoadU(d, labels);
                for (std::uint32_t i = slot; i < end; i += 8) least = hn::Min(least, candidates(d, i));
                hn::StoreU(least, d, labels);
            } else {
                auto low = hn::LoadU(d, labels), high = hn::LoadU(d, labels + 4);
                for (std::uint32_t i = slot; i < end; i += 8) {
                    low = hn::Min(low, candidates(d, i));
                    high = hn::Min(high, candidates(d, i + 4));
                }
                hn::StoreU(low, d, labels);
                hn::StoreU(high, d, labels + 4);
            }
        } else {
            for (std::uint32_t i = slot; i < end; i += 8)
                for (std::uint32_t k = 0; k < 8; ++k)
                    mine[k] = static_cast<Label>(std::min(static_cast<std::int64_t>(mine[k]), candidate(i + k)));
        }
    }

private:
    [[nodiscard]] HWY_INLINE std::int64_t candidate(std::uint32_t i) const {
        return static_cast<std::int64_t>(
            at[arcs.spots[i]] + (std::uint64_t{std::min(arcs.costs[i], arcs.most)} << arcs.shift) + arcs.others[i]);
    }
    template <class D>
    HWY_INLINE hn::Vec<D> candidates(D d, std::uint32_t i) const {
        const hn::RebindToUnsigned<D> bits;
        const auto above = hn::GatherIndex(bits, at, packed_heads(bits, arcs, i));
        return hn::BitCast(d, hn::Add(above, packed_arcs(bits, arcs, i)));
    }
};

/// Costs from sixteen sources.
struct Lanes {
    using Label = LaneLabels;
    CostArcs arcs;
    const Label* at;

    static HWY_INLINE Label far() { return Label{} + kFar; }
    static HWY_INLINE void give(Label& mine, const Given<std::uint32_t>& g) {
        mine[g.lane] = std::min<std::uint32_t>(mine[g.lane], g.value);
    }
    HWY_INLINE void one(std::uint32_t slot, std::uint32_t count, Label& mine) const {
        Label least = mine;
        for (std::uint32_t i = slot; i < slot + count; ++i) take(i, least);
        mine = least;
    }
    HWY_INLINE void eight(std::uint32_t slot, std::uint32_t count, Label* mine) const {
        for (std::uint32_t k = 0; k < 8; ++k) {
            Label least = mine[k];
            for (std::uint32_t i = slot + k; i < slot + 8 * count; i += 8) take(i, least);
            mine[k] = least;
        }
    }

private:
    HWY_INLINE void take(std::uint32_t i, Label& least) const {
        const Label candidate = at[arcs.spots[i]] + arcs.costs[i];
        least = candidate < least ? candidate : least;
    }
};

/// Costs and the other measure from eight sources. The other measure is held at `kFar` in each node, so that a sum of
/// two never reaches the cost.
struct Pairs {
    using Label = PairLabels;
    WeightArcs arcs;
    const Label* at;

    static HWY_INLINE Label far() { return Label{} + (std::uint64_t{kFar} << 32U); }
    static HWY_INLINE void give(Label& mine, const Given<std::uint64_t>& g) {
        mine[g.lane] = std::min<std::uint64_t>(mine[g.lane], g.value);
    }
    HWY_INLINE void one(std::uint32_t slot, std::uint32_t count, Label& mine) const {
        Label least = mine;
        for (std::uint32_t i = slot; i < slot + count; ++i) take(i, least);
        mine = held(least);
    }
    HWY_INLINE void eight(std::uint32_t slot, std::uint32_t count, Label* mine) const {
        for (std::uint32_t k = 0; k < 8; ++k) {
            Label least = mine[k];
            for (std::uint32_t i = slot + k; i < slot + 8 * count; i += 8) take(i, least);
            mine[k] = held(least);
        }
    }

private:
    HWY_INLINE void take(std::uint32_t i, Label& least) const {
        const Label candidate = at[arcs.spots[i]] + ((std::uint64_t{arcs.costs[i]} << 32U) | arcs.others[i]);
        least = candidate < least ? candidate : least;
    }
    static HWY_INLINE Label held(Label label) {
        const Label beyond = label & (Label{} + (std::uint64_t{kFar} + 1));
        return (label & ~beyond) | (beyond - (beyond >> 31U));
    }
};

/// Hands on the labels of a stretch; says whether the other measure came near its end anywhere. \param doubted whether
/// any label so far was none that fits: what comes down from such a one may run over into none at all, so that neither
/// is to be believed any more
template <class Fix>
HWY_INLINE std::uint64_t keep(std::uint64_t guard, std::uint32_t rank, const std::uint64_t* labels, std::uint32_t count,
                              std::uint64_t* out, bool& doubted, const Fix& fix) {
    std::uint64_t near = 0, highest = 0;
    for (std::uint32_t i = 0; i < count; ++i) {
        const std::uint64_t label = labels[i] ^ PackedLayout::kNone;
        out[rank + i] = label;
        near |= label & (label >> 62U != 0 ? 0 : guard);
        highest |= label;
    }
    doubted = doubted || (highest & PackedLayout::kDoubtful) != 0;
    if (doubted && highest >= PackedLayout::kDoubtful)
        for (std::uint32_t i = 0; i < count; ++i)
            if (out[rank + i] >= PackedLayout::kDoubtful) fix(rank + i);
    return near;
}

using Rows = std::array<std::uint32_t*, kLanes>;

/// Lanes of sixteen nodes to a line of sixteen rows each.
HWY_INLINE void turn_block(const LaneLabels* labels, std::uint32_t rank, const Rows& rows) {
    LaneLabels a[kLanes], b[kLanes];
    for (std::uint32_t i = 0; i < kLanes; ++i) a[i] = labels[i];
    // Four rounds of pairing: after each, twice as many neighbouring nodes stand together in a lane's line.
    const auto round = [&](const LaneLabels* from, LaneLabels* to) __attribute__((always_inline)) {
        for (std::uint32_t i = 0; i < kLanes / 2; ++i) {
            to[2 * i] = __builtin_shufflevector(from[i], from[i + kLanes / 2], 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21,
                                                6, 22, 7, 23);
            to[2 * i + 1] = __builtin_shufflevector(from[i], from[i + kLanes / 2], 8, 24, 9, 25, 10, 26, 11, 27, 12, 28,
                                                    13, 29, 14, 30, 15, 31);
        }
    };
    round(a, b);
    round(b, a);
    round(a, b);
    round(b, a);
    for (std::uint32_t k = 0; k < kLanes; ++k) *reinterpret_cast<LaneLabels*>(rows[k] + rank) = a[k];
}

void costs_here(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given,
                std::uint32_t* at, std::uint32_t* out) {
    pass(
        h, Costs{arcs, at}, given,
        at, [&](std::uint32_t rank, const std::uint32_t* labels, std::uint32_t count) __attribute__((always_inline)) {
            std::copy(labels, labels + count, out + rank);
        });
}

std::uint64_t packed_here(const Hierarchy& h, const PackedArcs& arcs, std::uint64_t guard,
                          std::span<const Given<std::uint64_t>> given, std::uint64_t* at, std::uint64_t* out,
                          const std::function<void(std::uint32_t rank)>& fix) {
    std::uint64_t near = 0;
    bool doubted = false;
    pass(
        h, Packed{arcs, at}, given,
        at, [&](std::uint32_t rank, const std::uint64_t* labels, std::uint32_t count) __attribute__((always_inline)) {
            near |= keep(guard, rank, labels, count, out, doubted, fix);
        });
    return near;
}

void lanes_here(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given, LaneLabels* at,
                const Rows& rows) {
    pass(
        h, Lanes{arcs, at}, given,
        at, [&](std::uint32_t rank, const LaneLabels* labels, std::uint32_t count) __attribute__((always_inline)) {
            std::uint32_t i = 0;
            const auto one = [&]() __attribute__((always_inline)) {
                for (std::uint32_t lane = 0; lane < kLanes; ++lane) rows[lane][rank + i] = labels[i][lane];
                ++i;
            };
            while (i < count && (rank + i) % kLanes != 0) one();  // up to a whole line of memory
            for (; i + kLanes <= count; i += kLanes) turn_block(labels + i, rank + i, rows);
            while (i < count) one();
        });
}

void pairs_here(const Hierarchy& h, const WeightArcs& arcs, std::span<const Given<std::uint64_t>> given, PairLabels* at,
                PairLabels* out) {
    pass(
        h, Pairs{arcs, at}, given,
        at, [&](std::uint32_t rank, const PairLabels* labels, std::uint32_t count) __attribute__((always_inline)) {
            std::copy(labels, labels + count, out + rank);
        });
}

/// From labels over a way: none where an amount comes to its end.
template <class D>
HWY_INLINE hn::Vec<D> way_on(D d, const std::uint64_t* labels, std::uint64_t step) {
    const auto sum = hn::Add(hn::LoadU(d, labels), hn::Set(d, step));
    const auto other = hn::And(sum, hn::Set(d, 0xffffffffU));
    return hn::IfThenElse(hn::Lt(other, hn::Set(d, kFar)), sum, hn::Set(d, std::uint64_t{kFar} << 32U));
}

void join_here(const PairLabels* lines, std::span<const TwoWaysOn> ways, const std::uint64_t* bounds, PairLabels* out,
               std::uint8_t* wanted) {
    const hn::CappedTag<std::uint64_t, kPairLanes> d;
    const std::size_t width = hn::Lanes(d);
    constexpr std::size_t kAhead = 8;
    for (std::size_t i = 0; i < ways.size(); ++i) {
        if (i + kAhead < ways.size()) {
            __builtin_prefetch(lines + ways[i + kAhead].line[0]);
            __builtin_prefetch(lines + ways[i + kAhead].line[1]);
        }
        const auto* const a = reinterpret_cast<const std::uint64_t*>(lines + ways[i].line[0]);
        const auto* const b = reinterpret_cast<const std::uint64_t*>(lines + ways[i].line[1]);
        auto* const to = reinterpret_cast<std::uint64_t*>(out + i);
        std::uint32_t bits = 0;
        for (std::size_t lane = 0; lane < kPairLanes; lane += width) {
            const auto least = hn::Min(way_on(d, a + lane, ways[i].step[0]), way_on(d, b + lane, ways[i].step[1]));
            hn::StoreU(least, d, to + lane);
            std::uint8_t some[8] = {0, 0, 0, 0, 0, 0, 0, 0};
            hn::StoreMaskBits(d, hn::Lt(least, hn::Set(d, bounds[i])), some);
            bits |= static_cast<std::uint32_t>(some[0]) << lane;
        }
        wanted[i] = static_cast<std::uint8_t>(bits);
    }
}

void hand_up_here(const PackedArcs& arcs, std::uint32_t slot, std::uint32_t count, std::uint64_t mine,
                  std::uint64_t* at) {
    std::uint32_t i = slot;
    if constexpr (kWide) {
        const hn::CappedTag<std::uint64_t, 8> d;
        const auto here = hn::Set(d, mine);
        for (; i + 8 <= slot + count; i += 8) {  // the heads of one node are eight different ones
            const auto where = packed_heads(d, arcs, i);
            const auto step = hn::Add(here, packed_arcs(d, arcs, i));
            hn::ScatterIndex(hn::Min(hn::GatherIndex(d, at, where), step), d, at, where);
        }
    }
    for (; i < slot + count; ++i) {
        const std::uint64_t arc = (std::uint64_t{std::min(arcs.costs[i], arcs.most)} << arcs.shift) + arcs.others[i];
        at[arcs.spots[i]] = std::min(at[arcs.spots[i]], mine + arc);
    }
}

void offer_sums_here(std::span<const WorkedOut> arcs, ArcPair* triangle) {
    const ArcPair shift = {kArcShift, kArcShift};
    for (std::size_t i = 0; i < arcs.size(); ++i) {
        const std::size_t depth = arcs[i].depth;
        ArcPair* between = triangle + depth * (depth + 1) / 2;
        // From the head down to the node, and from the node up to it.
        const ArcPair here = ArcPair{arcs[i].weights[1], arcs[i].weights[0]} ^ shift;
        for (std::size_t k = i + 1; k < arcs.size(); ++k)
            between[arcs[k].depth] = least(between[arcs[k].depth], here + arcs[k].weights);
    }
}

std::uint64_t least_sum_here(const std::uint64_t* a, const std::uint64_t* b, std::size_t count, std::uint64_t nowhere) {
    std::size_t i = 0;
    std::uint64_t least = nowhere;
    if constexpr (kWide) {
        // Two vectors at once, so that one sum does not wait for the other.
        const hn::CappedTag<std::uint64_t, 8> d;
        auto first = hn::Set(d, nowhere), second = first;
        for (; i + 16 <= count; i += 16) {
            first = hn::Min(first, hn::Add(hn::LoadU(d, a + i), hn::LoadU(d, b + i)));
            second = hn::Min(second, hn::Add(hn::LoadU(d, a + i + 8), hn::LoadU(d, b + i + 8)));
        }
        if (i + 8 <= count) {
            first = hn::Min(first, hn::Add(hn::LoadU(d, a + i), hn::LoadU(d, b + i)));
            i += 8;
        }
        least = hn::GetLane(hn::MinOfLanes(d, hn::Min(first, second)));
    }
    for (; i < count; ++i) least = std::min(least, a[i] + b[i]);
    return least;
}

}  // namespace HWY_NAMESPACE
}  // namespace otoro::routing
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace otoro::routing {

HWY_EXPORT(costs_here);
HWY_EXPORT(packed_here);
HWY_EXPORT(lanes_here);
HWY_EXPORT(pairs_here);
HWY_EXPORT(join_here);
HWY_EXPORT(hand_up_here);
HWY_EXPORT(offer_sums_here);
HWY_EXPORT(least_sum_here);

void pass_costs(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given,
                std::uint32_t* at, std::uint32_t* out) {
    HWY_DYNAMIC_DISPATCH(costs_here)(h, arcs, given, at, out);
}

std::uint64_t pass_packed(const Hierarchy& h, const PackedArcs& arcs, std::uint64_t guard,
                          std::span<const Given<std::uint64_t>> given, std::uint64_t* at, std::uint64_t* out,
                          const std::function<void(std::uint32_t rank)>& fix) {
    return HWY_DYNAMIC_DISPATCH(packed_here)(h, arcs, guard, given, at, out, fix);
}

void pass_lanes(const Hierarchy& h, const CostArcs& arcs, std::span<const Given<std::uint32_t>> given, LaneLabels* at,
                const std::array<std::uint32_t*, kLanes>& rows) {
    HWY_DYNAMIC_DISPATCH(lanes_here)(h, arcs, given, at, rows);
}

void pass_pairs(const Hierarchy& h, const WeightArcs& arcs, std::span<const Given<std::uint64_t>> given, PairLabels* at,
                PairLabels* out) {
    HWY_DYNAMIC_DISPATCH(pairs_here)(h, arcs, given, at, out);
}

void join_pairs(const PairLabels* lines, std::span<const TwoWaysOn> ways, const std::uint64_t* bounds, PairLabels* out,
                std::uint8_t* wanted) {
    HWY_DYNAMIC_DISPATCH(join_here)(lines, ways, bounds, out, wanted);
}

void hand_up(const PackedArcs& arcs, std::uint32_t slot, std::uint32_t count, std::uint64_t mine, std::uint64_t* at) {
    HWY_DYNAMIC_DISPATCH(hand_up_here)(arcs, slot, count, mine, at);
}

void offer_sums(std::span<const WorkedOut> arcs, ArcPair* triangle) {
    HWY_DYNAMIC_DISPATCH(offer_sums_here)(arcs, triangle);
}

std::uint64_t least_sum(const std::uint64_t* a, const std::uint64_t* b, std::size_t count, std::uint64_t nowhere) {
    return HWY_DYNAMIC_DISPATCH(least_sum_here)(a, b, count, nowhere);
}

}  // namespace otoro::routing
#endif
