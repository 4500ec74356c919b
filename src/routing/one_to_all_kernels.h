#pragma once
/// \file
/// The innermost loops of sweeping, for each generation of processors. What runs is chosen at run time; all give the
/// same numbers.
///
/// A pass goes through the stretches of a hierarchy (`hierarchy.h`); a *kernel* says what a label is and how an arc
/// hands it down:
///   - `Label`, `far()`;
///   - `one(slot, arcs, mine)`: the label of one node from its arcs, which lie one after another;
///   - `eight(slot, arcs, mine)`: those of eight nodes whose arcs are interleaved.
#include <immintrin.h>

#include <algorithm>
#include <cstdint>
#include <span>

#include "routing/hierarchy.h"

// Nothing here is called from code built for another processor, and GCC 12 takes the deliberately undefined operands
// inside its own intrinsics for forgotten ones.
#pragma GCC diagnostic ignored "-Wpsabi"
#pragma GCC diagnostic ignored "-Wmaybe-uninitialized"

namespace otoro::routing::kernels {

/// A label that a node has before the pass.
template <class Value>
struct Given {
    std::uint32_t rank;
    std::uint32_t lane;
    Value value;
};

/// One pass. \param given those of a cell together, cells and nodes above them by ascending rank \param at room for
/// `h.spot_count()` labels \param emit called with the first rank and the labels of every stretch, in order
template <class Kernel, class Value, class Emit>
__attribute__((always_inline)) inline void pass(const Hierarchy& h, const Kernel& kernel,
                                                std::span<const Given<Value>> given, typename Kernel::Label* at,
                                                Emit&& emit) {
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
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const Label* at;

    static Label far() { return kFar; }
    static void give(Label& mine, const Given<std::uint32_t>& g) { mine = std::min(mine, g.value); }
    void one(std::uint32_t slot, std::uint32_t arcs, Label& mine) const {
        Label least = mine;
        for (std::uint32_t i = slot; i < slot + arcs; ++i) least = std::min(least, at[spots[i]] + costs[i]);
        mine = least;
    }
    void eight(std::uint32_t slot, std::uint32_t arcs, Label* mine) const {
        for (std::uint32_t i = slot; i < slot + 8 * arcs; i += 8)
            for (std::uint32_t k = 0; k < 8; ++k) mine[k] = std::min(mine[k], at[spots[i + k]] + costs[i + k]);
    }
};

struct CostsAvx2 : Costs {
    __attribute__((target("avx2"))) void one(std::uint32_t slot, std::uint32_t arcs, Label& mine) const {
        if (arcs < 8) return Costs::one(slot, arcs, mine);
        __m256i least = _mm256_set1_epi32(static_cast<int>(mine));
        std::uint32_t i = slot;
        for (; i + 8 <= slot + arcs; i += 8) least = _mm256_min_epu32(least, candidates(i));
        const __m128i half = _mm_min_epu32(_mm256_castsi256_si128(least), _mm256_extracti128_si256(least, 1));
        const __m128i two = _mm_min_epu32(half, _mm_shuffle_epi32(half, 0x4e));
        mine = static_cast<Label>(_mm_cvtsi128_si32(_mm_min_epu32(two, _mm_shuffle_epi32(two, 0xb1))));
        Costs::one(i, slot + arcs - i, mine);
    }
    __attribute__((target("avx2"))) void eight(std::uint32_t slot, std::uint32_t arcs, Label* mine) const {
        auto* const eight = reinterpret_cast<__m256i*>(mine);
        __m256i least = _mm256_loadu_si256(eight);
        for (std::uint32_t i = slot; i < slot + 8 * arcs; i += 8) least = _mm256_min_epu32(least, candidates(i));
        _mm256_storeu_si256(eight, least);
    }

private:
    __attribute__((always_inline, target("avx2"))) inline __m256i candidates(std::uint32_t i) const {
        const __m256i where = _mm256_cvtepu16_epi32(_mm_loadu_si128(reinterpret_cast<const __m128i*>(spots + i)));
        const __m256i above = _mm256_i32gather_epi32(reinterpret_cast<const int*>(at), where, 4);
        return _mm256_add_epi32(above, _mm256_loadu_si256(reinterpret_cast<const __m256i*>(costs + i)));
    }
};

/// Sixteen arcs in one step: two of each of eight nodes.
struct CostsAvx512 : CostsAvx2 {
    __attribute__((target("avx512f,avx512vl,avx2"))) void one(std::uint32_t slot, std::uint32_t arcs,
                                                              Label& mine) const {
        if (arcs < 16) return CostsAvx2::one(slot, arcs, mine);
        __m512i least = _mm512_set1_epi32(static_cast<int>(mine));
        std::uint32_t i = slot;
        for (; i + 16 <= slot + arcs; i += 16) least = _mm512_min_epu32(least, candidates(i));
        mine = static_cast<Label>(_mm512_reduce_min_epu32(least));
        if (i < slot + arcs) CostsAvx2::one(i, slot + arcs - i, mine);
    }
    __attribute__((target("avx512f,avx512vl,avx2"))) void eight(std::uint32_t slot, std::uint32_t arcs,
                                                                Label* mine) const {
        if (arcs == 1) return CostsAvx2::eight(slot, 1, mine);
        __m512i both = candidates(slot);
        std::uint32_t i = slot + 16;
        for (; i + 16 <= slot + 8 * arcs; i += 16) both = _mm512_min_epu32(both, candidates(i));
        const __m256i least = _mm256_min_epu32(_mm512_castsi512_si256(both), _mm512_extracti64x4_epi64(both, 1));
        _mm256_storeu_si256(reinterpret_cast<__m256i*>(mine),
                            _mm256_min_epu32(least, _mm256_loadu_si256(reinterpret_cast<const __m256i*>(mine))));
        if (i < slot + 8 * arcs) CostsAvx2::eight(i, 1, mine);
    }

private:
    __attribute__((always_inline, target("avx512f,avx512vl,avx2"))) inline __m512i candidates(std::uint32_t i) const {
        const __m512i where = _mm512_cvtepu16_epi32(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(spots + i)));
        return _mm512_add_epi32(_mm512_i32gather_epi32(where, at, 4), _mm512_loadu_si512(costs + i));
    }
};

/// Cost, source and the other measure in one number (`PackedLayout`, one_to_all.h). Compared with a sign, so everything
/// is shifted by half the range (`kHalf`).
struct Packed {
    using Label = std::uint64_t;
    static constexpr std::uint64_t kHalf = std::uint64_t{1} << 63U;
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const std::uint32_t* others;
    const Label* at;
    std::uint32_t shift;
    std::uint32_t most;  ///< costs from here on count as this: the sum is doubtful then

    static Label far() { return kHalf ^ kHalf; }
    static void give(Label& mine, const Given<std::uint64_t>& g) { mine = std::min(mine ^ kHalf, g.value) ^ kHalf; }
    void one(std::uint32_t slot, std::uint32_t arcs, Label& mine) const {
        auto least = static_cast<std::int64_t>(mine);
        for (std::uint32_t i = slot; i < slot + arcs; ++i) least = std::min(least, candidate(i));
        mine = static_cast<Label>(least);
    }
    void eight(std::uint32_t slot, std::uint32_t arcs, Label* mine) const {
        for (std::uint32_t i = slot; i < slot + 8 * arcs; i += 8)
            for (std::uint32_t k = 0; k < 8; ++k)
                mine[k] = static_cast<Label>(std::min(static_cast<std::int64_t>(mine[k]), candidate(i + k)));
    }

private:
    [[nodiscard]] std::int64_t candidate(std::uint32_t i) const {
        return static_cast<std::int64_t>(at[spots[i]] + (std::uint64_t{std::min(costs[i], most)} << shift) + others[i]);
    }
};

struct PackedAvx2 : Packed {
    __attribute__((target("avx2"))) void eight(std::uint32_t slot, std::uint32_t arcs, Label* mine) const {
        auto* const low = reinterpret_cast<__m256i*>(mine);
        auto* const high = reinterpret_cast<__m256i*>(mine + 4);
        __m256i a = _mm256_loadu_si256(low), b = _mm256_loadu_si256(high);
        for (std::uint32_t i = slot; i < slot + 8 * arcs; i += 8) {
            a = least(a, candidates(i));
            b = least(b, candidates(i + 4));
        }
        _mm256_storeu_si256(low, a);
        _mm256_storeu_si256(high, b);
    }

private:
    __attribute__((always_inline, target("avx2"))) static inline __m256i least(__m256i a, __m256i b) {
        return _mm256_blendv_epi8(a, b, _mm256_cmpgt_epi64(a, b));
    }
    __attribute__((always_inline, target("avx2"))) inline __m256i candidates(std::uint32_t i) const {
        const __m128i where = _mm_cvtepu16_epi32(_mm_loadl_epi64(reinterpret_cast<const __m128i*>(spots + i)));
        const __m256i above = _mm256_i32gather_epi64(reinterpret_cast<const long long*>(at), where, 8);
        const __m128i cost = _mm_min_epu32(_mm_loadu_si128(reinterpret_cast<const __m128i*>(costs + i)),
                                           _mm_set1_epi32(static_cast<int>(most)));
        const __m256i step =
            _mm256_add_epi64(_mm256_sll_epi64(_mm256_cvtepu32_epi64(cost), _mm_cvtsi32_si128(static_cast<int>(shift))),
                             _mm256_cvtepu32_epi64(_mm_loadu_si128(reinterpret_cast<const __m128i*>(others + i))));
        return _mm256_add_epi64(above, step);
    }
};

struct PackedAvx512 : Packed {
    __attribute__((target("avx512f,avx512vl,avx2"))) void one(std::uint32_t slot, std::uint32_t arcs,
                                                              Label& mine) const {
        if (arcs < 8) return Packed::one(slot, arcs, mine);
        __m512i least = _mm512_set1_epi64(static_cast<long long>(mine));
        std::uint32_t i = slot;
        for (; i + 8 <= slot + arcs; i += 8) least = _mm512_min_epi64(least, candidates(i));
        mine = static_cast<Label>(_mm512_reduce_min_epi64(least));
        Packed::one(i, slot + arcs - i, mine);
    }
    __attribute__((target("avx512f,avx512vl,avx2"))) void eight(std::uint32_t slot, std::uint32_t arcs,
                                                                Label* mine) const {
        __m512i least = _mm512_loadu_si512(mine);
        for (std::uint32_t i = slot; i < slot + 8 * arcs; i += 8) least = _mm512_min_epi64(least, candidates(i));
        _mm512_storeu_si512(mine, least);
    }

private:
    __attribute__((always_inline, target("avx512f,avx512vl,avx2"))) inline __m512i candidates(std::uint32_t i) const {
        const __m256i where = _mm256_cvtepu16_epi32(_mm_loadu_si128(reinterpret_cast<const __m128i*>(spots + i)));
        const __m512i above = _mm512_i32gather_epi64(where, at, 8);
        const __m256i cost = _mm256_min_epu32(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(costs + i)),
                                              _mm256_set1_epi32(static_cast<int>(most)));
        const __m512i step =
            _mm512_add_epi64(_mm512_sll_epi64(_mm512_cvtepu32_epi64(cost), _mm_cvtsi32_si128(static_cast<int>(shift))),
                             _mm512_cvtepu32_epi64(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(others + i))));
        return _mm512_add_epi64(above, step);
    }
};

/// Hands one label up the arcs of a node above the cells: `at[spot] = min(at[spot], mine + arc)`, where an arc is its
/// cost (held at `most`) above `shift` bits and the other measure below.
struct HandUp {
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const std::uint32_t* others;
    std::uint32_t shift, most;

    [[nodiscard]] std::uint64_t arc(std::uint32_t slot) const {
        return (std::uint64_t{std::min(costs[slot], most)} << shift) + others[slot];
    }
    void anywhere(std::uint32_t slot, std::uint32_t arcs, std::uint64_t mine, std::uint64_t* at) const {
        for (std::uint32_t i = slot; i < slot + arcs; ++i) at[spots[i]] = std::min(at[spots[i]], mine + arc(i));
    }
    __attribute__((target("avx512f,avx512vl,avx2"))) void avx512(std::uint32_t slot, std::uint32_t arcs,
                                                                 std::uint64_t mine, std::uint64_t* at) const {
        const __m512i here = _mm512_set1_epi64(static_cast<long long>(mine));
        const __m256i held = _mm256_set1_epi32(static_cast<int>(most));
        const __m128i by = _mm_cvtsi32_si128(static_cast<int>(shift));
        std::uint32_t i = slot;
        for (; i + 8 <= slot + arcs; i += 8) {  // the heads of one node are eight different ones
            const __m256i where = _mm256_cvtepu16_epi32(_mm_loadu_si128(reinterpret_cast<const __m128i*>(spots + i)));
            const __m256i cost =
                _mm256_min_epu32(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(costs + i)), held);
            const __m512i step = _mm512_add_epi64(
                _mm512_sll_epi64(_mm512_cvtepu32_epi64(cost), by),
                _mm512_cvtepu32_epi64(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(others + i))));
            _mm512_i32scatter_epi64(
                at, where, _mm512_min_epu64(_mm512_i32gather_epi64(where, at, 8), _mm512_add_epi64(here, step)), 8);
        }
        anywhere(i, slot + arcs - i, mine, at);
    }
};

/// Costs from sixteen sources.
struct Lanes {
    static constexpr std::uint32_t kLanes = 16;
    typedef std::uint32_t Label __attribute__((vector_size(4 * kLanes)));
    const std::uint16_t* spots;
    const std::uint32_t* costs;
    const Label* at;

    __attribute__((always_inline)) static inline Label far() { return Label{} + kFar; }
    static void give(Label& mine, const Given<std::uint32_t>& g) {
        mine[g.lane] = std::min<std::uint32_t>(mine[g.lane], g.value);
    }
    __attribute__((always_inline)) void one(std::uint32_t slot, std::uint32_t arcs, Label& mine) const {
        Label least = mine;
        for (std::uint32_t i = slot; i < slot + arcs; ++i) take(i, least);
        mine = least;
    }
    __attribute__((always_inline)) void eight(std::uint32_t slot, std::uint32_t arcs, Label* mine) const {
        for (std::uint32_t k = 0; k < 8; ++k) {
            Label least = mine[k];
            for (std::uint32_t i = slot + k; i < slot + 8 * arcs; i += 8) take(i, least);
            mine[k] = least;
        }
    }

private:
    __attribute__((always_inline)) void take(std::uint32_t i, Label& least) const {
        const Label candidate = at[spots[i]] + costs[i];
        least = candidate < least ? candidate : least;
    }
};

}  // namespace otoro::routing::kernels
