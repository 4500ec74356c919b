#include "routing/sweeps.h"

#include <array>
#include <bit>
#include <numeric>
#include <tuple>

#include "routing/sweep_kernels.h"

namespace otoro::routing {

using kernels::Given;

Climb climb(const Customised& fast, std::uint32_t rank, Run run, Toll given) {
    const auto& h = fast.hierarchy();
    const std::uint32_t depth = h.depth(rank);
    Climb c;
    c.rank.resize(depth + 1);
    c.cost.assign(depth + 1, kFar);
    c.other.assign(depth + 1, 0);
    c.cost[depth] = given.cost;
    c.other[depth] = given.other;
    const auto& costs = fast.down_costs(other_way(run));
    const auto& others = fast.down_others(other_way(run));
    std::uint32_t at = rank;
    for (std::uint32_t d = depth;; --d) {
        c.rank[d] = at;
        if (c.cost[d] < kFar) {
            const auto row = h.row(at);
            for (std::uint32_t i = 0; i < row.count; ++i) {
                const std::uint32_t slot = row.slot(i), above = h.depth(h.head(slot));
                const std::uint32_t cost = c.cost[d] + costs[slot];
                if (cost > c.cost[above] || cost >= kFar) continue;
                const std::uint32_t other = sum(c.other[d], others[slot]);
                if (cost < c.cost[above] || other < c.other[above]) {
                    c.cost[above] = cost;
                    c.other[above] = other;
                }
            }
        }
        if (d == 0) break;
        at = h.parent(at);
    }
    return c;
}

namespace {

__attribute__((target("avx2"))) void costs_avx2(const Hierarchy& h, const kernels::Costs& k, std::span<const Given<std::uint32_t>> given, std::uint32_t* at, std::uint32_t* out) {
    kernels::pass(h, kernels::CostsAvx2{k}, given, at, [&](std::uint32_t rank, const std::uint32_t* labels, std::uint32_t count) { std::copy(labels, labels + count, out + rank); });
}
void costs_anywhere(const Hierarchy& h, const kernels::Costs& k, std::span<const Given<std::uint32_t>> given, std::uint32_t* at, std::uint32_t* out) {
    kernels::pass(h, k, given, at, [&](std::uint32_t rank, const std::uint32_t* labels, std::uint32_t count) { std::copy(labels, labels + count, out + rank); });
}

bool has_avx2() {
    static const bool has = __builtin_cpu_supports("avx2") != 0;
    return has;
}
bool has_avx512() {
    static const bool has = __builtin_cpu_supports("avx512f") != 0 && __builtin_cpu_supports("avx512vl") != 0;
    return has;
}

/// What the nodes above a source start with, by ascending rank.
void give(const Climb& c, std::uint32_t lane, std::vector<Given<std::uint32_t>>& given) {
    for (std::size_t d = 0; d < c.rank.size(); ++d)
        if (c.cost[d] < kFar) given.push_back({c.rank[d], lane, c.cost[d]});
}

}  // namespace

Amounts tree(const Customised& fast, std::uint32_t source, Run run) {
    const auto& h = fast.hierarchy();
    std::vector<Given<std::uint32_t>> given;
    give(climb(fast, h.rank_of(source), run), 0, given);
    Amounts out(h.node_count());
    std::vector<std::uint32_t> at(h.spot_count());
    const kernels::Costs k{h.spots().data(), fast.down_costs(run).data(), at.data()};
    (has_avx2() ? costs_avx2 : costs_anywhere)(h, k, given, at.data(), out.data());
    return out;
}

namespace {

/// Cost, source, other: the least is wanted.
struct Reached {
    std::uint32_t cost = kFar, source = kFar, other = kFar;
    bool operator<(const Reached& o) const { return std::tie(cost, source, other) < std::tie(o.cost, o.source, o.other); }
};
Reached over(const Reached& from, const Toll& t) {
    const std::uint32_t cost = sum(from.cost, t.cost);
    return cost == kFar ? Reached{} : Reached{cost, from.source, sum(from.other, t.other)};
}

/// The ranks at and above some seeds, the lowest node first, with what was found for each.
template <class Labels>
struct Above {
    std::vector<std::uint32_t> ranks;  ///< descending
    std::vector<Labels> labels;        ///< as `ranks`

    /// \param start puts a seed into labels \param hand hands labels up an arc
    template <class Start, class Hand>
    Above(const Customised& fast, std::span<const Seed> seeds, Run run, Start&& start, Hand&& hand) {
        const auto& h = fast.hierarchy();
        const std::uint32_t n = h.node_count();
        std::vector<std::uint64_t> marked(n / 64 + 1, 0);
        for (const Seed& s : seeds) {
            if (s.cost >= kFar) continue;
            for (std::uint32_t r = h.rank_of(s.node); r != kFar; r = h.parent(r)) {
                std::uint64_t& word = marked[r / 64];
                const std::uint64_t bit = std::uint64_t{1} << (r % 64);
                if ((word & bit) != 0) break;
                word |= bit;
            }
        }
        std::vector<std::uint32_t> before(marked.size() + 1, 0);  // how many are marked in earlier words
        for (std::size_t w = 0; w < marked.size(); ++w) before[w + 1] = before[w] + static_cast<std::uint32_t>(std::popcount(marked[w]));
        const std::uint32_t count = before.back();
        ranks.resize(count);
        labels.resize(count);
        const auto index = [&](std::uint32_t r) { return count - 1 - before[r / 64] - static_cast<std::uint32_t>(std::popcount(marked[r / 64] & ((std::uint64_t{1} << (r % 64)) - 1))); };
        std::uint32_t next = count;
        for (std::size_t w = 0; w < marked.size(); ++w)
            for (std::uint64_t bits = marked[w]; bits != 0; bits &= bits - 1) ranks[--next] = static_cast<std::uint32_t>(w * 64 + static_cast<std::size_t>(std::countr_zero(bits)));
        for (const Seed& s : seeds)
            if (s.cost < kFar) start(labels[index(h.rank_of(s.node))], s);
        for (std::uint32_t i = 0; i < count; ++i) {
            const auto row = h.row(ranks[i]);
            for (std::uint32_t k = 0; k < row.count; ++k) {
                const std::uint32_t slot = row.slot(k);
                hand(labels[i], fast.up(slot, run), labels[index(h.head(slot))]);
            }
        }
    }
};

/// How a packed label is divided.
struct Division {
    std::uint32_t other_bits, source_bits;
    [[nodiscard]] std::uint32_t shift() const { return other_bits + source_bits; }
    [[nodiscard]] std::uint32_t cost_bits() const { return 62 - shift(); }
    [[nodiscard]] std::uint64_t pack(const Reached& r) const { return (std::uint64_t{r.cost} << shift()) | (std::uint64_t{r.source} << other_bits) | r.other; }
    [[nodiscard]] std::uint64_t guard() const { return std::uint64_t{1} << (other_bits - 1); }
    /// Half the range of the other measure stays free, so that a sum of two never runs over.
    [[nodiscard]] bool holds(const Reached& r) const { return r.cost < (std::uint64_t{1} << cost_bits()) && r.other < guard() && r.source < (std::uint64_t{1} << source_bits); }
};

/// Unpacks the labels of a stretch; says whether the other measure came near its end anywhere.
template <class Fix>
__attribute__((always_inline)) inline std::uint64_t unpack(const Division& division, std::uint32_t rank, const std::uint64_t* labels, std::uint32_t count, NearestByRank& out, Fix&& fix) {
    constexpr std::uint64_t kHalf = kernels::Packed::kHalf, kDoubtful = kernels::Packed::kDoubtful;
    const std::uint32_t shift = division.shift(), other_bits = division.other_bits;
    const std::uint64_t others = (std::uint64_t{1} << other_bits) - 1, sources = (std::uint64_t{1} << division.source_bits) - 1, guard = division.guard();
    std::uint64_t near = 0, doubtful = 0;
    for (std::uint32_t i = 0; i < count; ++i) {
        const std::uint64_t label = labels[i] ^ kHalf;
        out.cost[rank + i] = static_cast<std::uint32_t>(label >> shift);
        out.source[rank + i] = static_cast<std::uint32_t>((label >> other_bits) & sources);
        out.other[rank + i] = static_cast<std::uint32_t>(label & others);
        const bool doubt = label >= kDoubtful;
        near |= doubt ? 0 : label & guard;
        doubtful |= doubt ? 1 : 0;
    }
    if (doubtful != 0)
        for (std::uint32_t i = 0; i < count; ++i)
            if ((labels[i] ^ kHalf) >= kDoubtful) fix(rank + i);
    return near;
}

template <class Kernel, class Fix>
__attribute__((always_inline)) inline std::uint64_t packed_pass(const Hierarchy& h, const Kernel& k, const Division& division, std::span<const Given<std::uint64_t>> given, std::uint64_t* at, NearestByRank& out, const Fix& fix) {
    std::uint64_t near = 0;
    kernels::pass(h, k, given, at, [&](std::uint32_t rank, const std::uint64_t* labels, std::uint32_t count) { near |= unpack(division, rank, labels, count, out, fix); });
    return near;
}

using Fix = std::function<void(std::uint32_t rank)>;
__attribute__((target("avx512f,avx512vl,avx2"))) std::uint64_t packed_avx512(const Hierarchy& h, const kernels::Packed& k, const Division& division, std::span<const Given<std::uint64_t>> given, std::uint64_t* at, NearestByRank& out, const Fix& fix) {
    return packed_pass(h, kernels::PackedAvx512{k}, division, given, at, out, fix);
}
__attribute__((target("avx2"))) std::uint64_t packed_avx2(const Hierarchy& h, const kernels::Packed& k, const Division& division, std::span<const Given<std::uint64_t>> given, std::uint64_t* at, NearestByRank& out, const Fix& fix) {
    return packed_pass(h, kernels::PackedAvx2{k}, division, given, at, out, fix);
}
std::uint64_t packed_anywhere(const Hierarchy& h, const kernels::Packed& k, const Division& division, std::span<const Given<std::uint64_t>> given, std::uint64_t* at, NearestByRank& out, const Fix& fix) {
    return packed_pass(h, k, division, given, at, out, fix);
}

}  // namespace

NearestByRank nearest(const Customised& fast, std::span<const Seed> seeds, Run run) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    const Above<Reached> above(
        fast, seeds, run, [](Reached& known, const Seed& s) { known = std::min(known, Reached{s.cost, s.source, std::min(s.other, kFar)}); },
        [](const Reached& from, const Toll& t, Reached& to) { to = std::min(to, over(from, t)); });
    NearestByRank out;
    out.cost.resize(n);
    out.source.resize(n);
    out.other.resize(n);

    // One node's label from those above it, without packing. \pre those above it are done
    const auto label_from_above = [&](std::uint32_t rank) {
        Reached least;
        const auto given = std::lower_bound(above.ranks.begin(), above.ranks.end(), rank, std::greater<>());
        if (given != above.ranks.end() && *given == rank) least = above.labels[static_cast<std::size_t>(given - above.ranks.begin())];
        const auto row = h.row(rank);
        for (std::uint32_t i = 0; i < row.count; ++i) {
            const std::uint32_t slot = row.slot(i), head = h.head(slot);
            if (out.cost[head] < kFar) least = std::min(least, over({out.cost[head], out.source[head], out.other[head]}, fast.down(slot, run)));
        }
        out.cost[rank] = least.cost;
        out.source[rank] = least.source;
        out.other[rank] = least.other;
    };

    std::uint32_t largest_source = 0;
    for (const Seed& s : seeds) largest_source = std::max(largest_source, s.source);
    constexpr std::uint32_t kMillimetreBits = 30, kMillisecondBits = 26;  // half of that: 537 km, 9 hours
    constexpr std::uint32_t kLeastCostBits = 20, kMostCostBits = 30;  // so that an arc that leads nowhere is more than a cost can be
    const auto source_bits = static_cast<std::uint32_t>(std::bit_width(largest_source));
    const std::uint32_t spare = 62 - kMostCostBits - std::min(source_bits, 62 - kMostCostBits);
    const Division division{std::max(fast.measure() == Measure::time ? kMillimetreBits : kMillisecondBits, spare), source_bits};
    bool fits = division.shift() + kLeastCostBits <= 62 && fast.largest_other() < division.guard();
    std::vector<Given<std::uint64_t>> given(above.ranks.size());
    for (std::size_t i = 0; i < given.size() && fits; ++i) {
        const Reached& r = above.labels[i];
        fits = r.cost == kFar || division.holds(r);
        given[given.size() - 1 - i] = {above.ranks[i], 0, r.cost == kFar ? kernels::Packed::kHalf : division.pack(r)};
    }
    if (fits) {
        std::vector<std::uint64_t> at(h.spot_count());
        const std::uint32_t most = std::uint32_t{1} << division.cost_bits();
        const kernels::Packed k{h.spots().data(), fast.down_costs(run).data(), fast.down_others(run).data(), at.data(), division.shift(), most};
        const auto pass = has_avx512() ? packed_avx512 : has_avx2() ? packed_avx2 : packed_anywhere;
        if (pass(h, k, division, given, at.data(), out, label_from_above) == 0) return out;
    }
    for (std::uint32_t rank = 0; rank < n; ++rank) label_from_above(rank);
    return out;
}

namespace {

/// Up to `k` sources, nearest first, each once.
class NearestFew {
public:
    explicit NearestFew(std::span<Label> few) : few_(few) {}
    void offer(const Reached& r) {
        if (r.cost >= kFar) return;
        const auto better = [](const Reached& a, const Label& b) { return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other); };
        std::size_t hole = few_.size();  // where the same source stands, or the end
        for (std::size_t i = 0; i < few_.size() && few_[i].reached(); ++i)
            if (few_[i].source == r.source) {
                if (!better(r, few_[i])) return;
                hole = i;
                break;
            }
        if (hole == few_.size()) {
            hole = few_.size() - 1;
            if (few_[hole].reached() && !better(r, few_[hole])) return;
        }
        for (; hole > 0 && (!few_[hole - 1].reached() || better(r, few_[hole - 1])); --hole) few_[hole] = few_[hole - 1];
        few_[hole] = {r.cost, r.source, r.other, LinkWay::none()};
    }
    void offer_all(std::span<const Label> from, const Toll& t) {
        for (const Label& l : from) {
            if (!l.reached()) break;
            offer(over({l.cost, l.source, l.other}, t));
        }
    }

private:
    std::span<Label> few_;
};

}  // namespace

std::vector<Label> nearest_k(const Customised& fast, std::span<const Seed> seeds, std::size_t k, Run run) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    std::vector<Label> out(n * k);
    if (k == 0) return out;
    const Above<std::vector<Label>> above(
        fast, seeds, run,
        [&](std::vector<Label>& known, const Seed& s) {
            known.resize(k);
            NearestFew(known).offer({s.cost, s.source, std::min(s.other, kFar)});
        },
        [&](const std::vector<Label>& from, const Toll& t, std::vector<Label>& to) {
            if (from.empty() || t.cost >= kFar) return;
            to.resize(k);
            NearestFew(to).offer_all(from, t);
        });
    auto given = above.ranks.size();
    for (std::uint32_t rank = 0; rank < n; ++rank) {
        const std::span mine(out.data() + rank * k, k);
        NearestFew few(mine);
        if (given > 0 && above.ranks[given - 1] == rank) few.offer_all(above.labels[--given], {0, 0});
        const auto row = h.row(rank);
        for (std::uint32_t i = 0; i < row.count; ++i) {
            const std::uint32_t slot = row.slot(i);
            if (const Toll t = fast.down(slot, run); t.cost < kFar) few.offer_all({out.data() + h.head(slot) * k, k}, t);
        }
    }
    return out;
}

namespace {

using kernels::Lanes;
using Rows = std::array<std::uint32_t*, Lanes::kLanes>;
constexpr std::uint32_t kBlock = Lanes::kLanes;

/// Lanes of sixteen nodes to a line of sixteen rows each.
__attribute__((always_inline)) inline void turn_block(const Lanes::Label* labels, std::uint32_t rank, const Rows& rows) {
    using Label = Lanes::Label;
    Label a[kBlock], b[kBlock];
    for (std::uint32_t i = 0; i < kBlock; ++i) a[i] = labels[i];
    // Four rounds of pairing: after each, twice as many neighbouring nodes stand together in a lane's line.
    const Label low = {0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23}, high = {8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31};
    const auto round = [&](const Label* from, Label* to) __attribute__((always_inline)) {
        for (std::uint32_t i = 0; i < kBlock / 2; ++i) {
            to[2 * i] = __builtin_shuffle(from[i], from[i + kBlock / 2], low);
            to[2 * i + 1] = __builtin_shuffle(from[i], from[i + kBlock / 2], high);
        }
    };
    round(a, b);
    round(b, a);
    round(a, b);
    round(b, a);
    for (std::uint32_t k = 0; k < kBlock; ++k) *reinterpret_cast<Label*>(rows[k] + rank) = a[k];
}

__attribute__((target_clones("avx512f", "avx2", "default"), optimize("O3"))) void lanes_pass(const Hierarchy& h, const Lanes& k, std::span<const Given<std::uint32_t>> given, Lanes::Label* at, const Rows& rows) {
    kernels::pass(h, k, given, at, [&](std::uint32_t rank, const Lanes::Label* labels, std::uint32_t count) __attribute__((always_inline)) {
        std::uint32_t i = 0;
        const auto one = [&] {
            for (std::uint32_t lane = 0; lane < Lanes::kLanes; ++lane) rows[lane][rank + i] = labels[i][lane];
            ++i;
        };
        while (i < count && (rank + i) % kBlock != 0) one();  // up to a whole line of memory
        for (; i + kBlock <= count; i += kBlock) turn_block(labels + i, rank + i, rows);
        while (i < count) one();
    });
}

}  // namespace

void trees(const Customised& fast, std::span<const std::uint32_t> sources, Run run, const Row& row, const Task& task) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    const std::size_t line = (std::size_t{n} / kBlock + 1) * kBlock;
    std::vector<Lanes::Label, HugePages<Lanes::Label>> memory(line), at(h.spot_count());
    Rows rows;
    for (std::size_t lane = 0; lane < Lanes::kLanes; ++lane) rows[lane] = reinterpret_cast<std::uint32_t*>(memory.data()) + lane * line;
    const Lanes k{h.spots().data(), fast.down_costs(run).data(), at.data()};
    std::vector<Given<std::uint32_t>> given;
    for (std::size_t begin = 0; begin < sources.size(); begin += Lanes::kLanes) {
        task.at("trees", static_cast<double>(begin) / static_cast<double>(sources.size()));
        given.clear();
        const auto lanes = static_cast<std::uint32_t>(std::min<std::size_t>(Lanes::kLanes, sources.size() - begin));
        for (std::uint32_t lane = 0; lane < lanes; ++lane) give(climb(fast, h.rank_of(sources[begin + lane]), run), lane, given);
        std::sort(given.begin(), given.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
        lanes_pass(h, k, given, at.data(), rows);
        for (std::uint32_t lane = 0; lane < lanes; ++lane) row(begin + lane, {rows[lane], n});
    }
}

namespace {

/// The least sum of two climbs over the depths they have in common, as a pair. Both arrays hold (cost, other) as one number.
__attribute__((target_clones("avx512f", "avx2", "default"), optimize("O3"))) std::uint64_t least_sum(const std::uint64_t* a, const std::uint64_t* b, std::size_t depths) {
    std::uint64_t least = std::uint64_t{kFar} << 32U;
    for (std::size_t d = 0; d < depths; ++d) least = std::min(least, a[d] + b[d]);
    return least;
}

std::vector<std::uint64_t> pairs_of(const Climb& c) {
    std::vector<std::uint64_t> out(c.cost.size());
    for (std::size_t d = 0; d < out.size(); ++d) out[d] = (std::uint64_t{c.cost[d]} << 32U) | c.other[d];
    return out;
}

/// How many nodes stand above (or at) both.
std::uint32_t common(const Hierarchy& h, std::uint32_t a, std::uint32_t b) {
    // The lower one climbs until they meet; a subtree's turns are a stretch.
    std::uint32_t root = a;
    const std::uint32_t turn = h.turn_of(b);
    const auto below = [&](std::uint32_t r) { return turn <= h.turn_of(r) && turn + h.subtree(h.turn_of(r)) > h.turn_of(r); };
    while (root != kFar && !below(root)) root = h.parent(root);
    return root == kFar ? 0 : h.depth(root) + 1U;
}

}  // namespace

void table(const Customised& fast, std::span<const std::uint32_t> sources, std::span<const std::uint32_t> targets, Run run, const TableRow& row, const Task& task) {
    const auto& h = fast.hierarchy();
    // Targets as they follow one another in the elimination tree: what one has in common with a source tells what the next has.
    std::vector<std::uint32_t> sorted(targets.size());
    std::iota(sorted.begin(), sorted.end(), 0U);
    const auto turn = [&](std::uint32_t node) { return h.turn_of(h.rank_of(node)); };
    std::sort(sorted.begin(), sorted.end(), [&](std::uint32_t a, std::uint32_t b) { return turn(targets[a]) < turn(targets[b]); });
    struct Target {
        std::uint32_t turn;
        std::uint32_t with_next = 0;  ///< common depths with the target behind it
        std::vector<std::uint64_t> from_above;
    };
    std::vector<Target> prepared;
    std::uint32_t before = 0;
    for (const std::uint32_t i : sorted) {
        if (prepared.size() % 1024 == 0) task.check();
        const std::uint32_t rank = h.rank_of(targets[i]);
        if (!prepared.empty()) prepared.back().with_next = common(h, before, rank);
        prepared.push_back({h.turn_of(rank), 0, pairs_of(climb(fast, rank, other_way(run)))});
        before = rank;
    }
    std::vector<std::uint32_t> costs(targets.size()), others(targets.size());
    for (std::size_t s = 0; s < sources.size(); ++s) {
        if (s % 64 == 0) task.at("table", static_cast<double>(s) / static_cast<double>(sources.size()));
        const std::uint32_t source = h.rank_of(sources[s]);
        const auto from = pairs_of(climb(fast, source, run));
        const auto meet = [&](std::size_t i, std::uint32_t depths) {
            const std::uint64_t least = least_sum(from.data(), prepared[i].from_above.data(), depths);
            const auto cost = static_cast<std::uint32_t>(least >> 32U);
            costs[sorted[i]] = std::min(cost, kFar);
            others[sorted[i]] = cost >= kFar ? kFar : std::min(static_cast<std::uint32_t>(least), kFar);
        };
        const std::uint32_t mine = h.turn_of(source);
        const auto behind = static_cast<std::size_t>(std::lower_bound(prepared.begin(), prepared.end(), mine, [](const Target& t, std::uint32_t value) { return t.turn < value; }) - prepared.begin());
        const auto common_with = [&](std::size_t i) { return common(h, source, h.rank_of(targets[sorted[i]])); };
        if (behind < prepared.size()) {
            std::uint32_t depths = common_with(behind);
            for (std::size_t i = behind; i < prepared.size(); depths = std::min(depths, prepared[i].with_next), ++i) meet(i, depths);
        }
        if (behind > 0) {
            std::uint32_t depths = common_with(behind - 1);
            for (std::size_t i = behind; i-- > 0;) {
                meet(i, depths);
                if (i > 0) depths = std::min(depths, prepared[i - 1].with_next);
            }
        }
        row(s, costs, others);
    }
}

}  // namespace otoro::routing
