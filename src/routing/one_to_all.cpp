#include "routing/one_to_all.h"

#include <tbb/parallel_for.h>

#include <array>
#include <bit>
#include <numeric>
#include <tuple>
#include <utility>

#include "routing/vector_passes.h"

namespace otoro::routing {

namespace {

/// Sums of two are held where amounts end.
std::uint64_t held(std::uint64_t weight) {
    if (weight >= kNoWay) return kNoWay;
    return static_cast<std::uint32_t>(weight) > kFar ? (weight & kNoWay) | kFar : weight;
}

/// Hands one label up all arcs of a node; `at` by depth.
void hand_up(const Hierarchy& h, const PackedArcs& arcs, std::uint32_t rank, std::uint64_t mine, std::uint64_t* at) {
    const auto row = h.row(rank);
    if (h.above_cells(rank)) return routing::hand_up(arcs, row.first, row.count, mine, at);
    for (std::uint32_t i = 0; i < row.count; ++i) {
        const std::uint32_t slot = row.slot(i);
        const std::uint64_t arc =
            (std::uint64_t{std::min(arcs.costs[slot], arcs.most)} << arcs.shift) + arcs.others[slot];
        std::uint64_t& above = at[h.depth(h.head(slot))];
        above = std::min(above, mine + arc);
    }
}
PackedArcs arcs_up(const Customised& fast, Run run, std::uint32_t shift, std::uint32_t most) {
    return {fast.hierarchy().spots().data(), fast.down_costs(other_way(run)).data(),
            fast.down_others(other_way(run)).data(), shift, most};
}

std::uint64_t as_one(const ArcWeight& t) { return t.cost >= kFar ? kNoWay : (std::uint64_t{t.cost} << 32U) | t.other; }

}  // namespace

namespace {

/// \param give called with the weights by depth, to put in what nodes start with
template <class Give>
Climb climb_from(const Customised& fast, std::uint32_t rank, Run run, Give&& give) {
    const auto& h = fast.hierarchy();
    const std::uint32_t depth = h.depth(rank);
    Climb c;
    c.rank.resize(depth + 1);
    c.weights.assign(depth + 1, kNoWay);
    give(c.weights);
    const auto arcs = arcs_up(fast, run, 32, kFar);
    std::uint32_t at = rank;
    for (std::uint32_t d = depth;; --d) {
        c.rank[d] = at;
        const std::uint64_t mine = c.weights[d] = held(c.weights[d]);
        if (mine < kNoWay) hand_up(h, arcs, at, mine, c.weights.data());
        if (d == 0) break;
        at = h.parent(at);
    }
    return c;
}

}  // namespace

Climb climb(const Customised& fast, std::uint32_t rank, Run run, ArcWeight given) {
    return climb_from(fast, rank, run, [&](std::vector<std::uint64_t>& weights) { weights.back() = as_one(given); });
}

Climb climb(const Customised& fast, std::span<const Seed> seeds, Run run) {
    const auto& h = fast.hierarchy();
    return climb_from(fast, h.rank_of(seeds.front().node), run, [&](std::vector<std::uint64_t>& weights) {
        for (const Seed& s : seeds) {
            std::uint64_t& at = weights[h.depth(h.rank_of(s.node))];
            at = std::min(at, as_one({std::min(s.cost, kFar), std::min(s.other, kFar)}));
        }
    });
}

namespace {

/// What the nodes above a source start with, by ascending rank.
void give(const Climb& c, std::uint32_t lane, std::vector<Given<std::uint32_t>>& given) {
    for (std::size_t d = 0; d < c.rank.size(); ++d)
        if (const ArcWeight t = c.at(d); t.cost < kFar) given.push_back({c.rank[d], lane, t.cost});
}

}  // namespace

Amounts tree(const Customised& fast, std::uint32_t source, Run run) {
    Amounts out;
    tree(fast, source, run, out);
    return out;
}

void tree(const Customised& fast, std::uint32_t source, Run run, Amounts& out) {
    const auto& h = fast.hierarchy();
    std::vector<Given<std::uint32_t>> given;
    give(climb(fast, h.rank_of(source), run), 0, given);
    out.resize(h.node_count());
    std::vector<std::uint32_t> at(h.spot_count());
    pass_costs(h, {h.spots().data(), fast.down_costs(run).data()}, given, at.data(), out.data());
}

namespace {

Reached over(const Reached& from, const ArcWeight& t) {
    const std::uint32_t cost = sum(from.cost, t.cost);
    return cost == kFar ? Reached{} : Reached{cost, from.source, sum(from.other, t.other)};
}

/// All nodes at and above some seeds, each subtree before its root.
class AtAndAbove {
public:
    AtAndAbove(const Hierarchy& h, std::span<const Seed> seeds)
        : h_(h), seeds_(seeds), marked_(h.node_count() / 64 + 1, 0) {
        for (std::uint32_t i = 0; i < seeds.size(); ++i) {
            if (seeds[i].cost >= kFar) continue;
            const std::uint32_t start = h.position_of(h.rank_of(seeds[i].node));
            starts_.emplace_back(start, i);
            for (std::uint32_t position = start; position != kNoIndex; position = h.parent_position(position)) {
                const std::uint64_t bit = std::uint64_t{1} << (position % 64);
                if ((marked_[position / 64] & bit) != 0) break;
                marked_[position / 64] |= bit;
            }
        }
        std::sort(starts_.begin(), starts_.end());
    }

    /// Calls `start(rank, seed)` for the seeds at a node, then `use(rank)` for the node.
    template <class Start, class Use>
    void each(Start&& start, Use&& use) const {
        auto next = starts_.begin();
        for (std::size_t w = 0; w < marked_.size(); ++w)
            for (std::uint64_t bits = marked_[w]; bits != 0; bits &= bits - 1) {
                const auto position =
                    static_cast<std::uint32_t>(w * 64 + static_cast<std::size_t>(std::countr_zero(bits)));
                const std::uint32_t rank = h_.by_position()[position];
                for (; next != starts_.end() && next->first == position; ++next) start(rank, seeds_[next->second]);
                use(rank);
            }
    }

private:
    const Hierarchy& h_;
    std::span<const Seed> seeds_;
    std::vector<std::uint64_t> marked_;                            // by position
    std::vector<std::pair<std::uint32_t, std::uint32_t>> starts_;  // position, seed
};

/// What climbs from the seeds, label by label. A subtree is done before its root, so one place a depth is enough.
/// \param use called with each node's rank and labels
template <class Labels, class Start, class Hand, class Use>
void climb_from_all(const Customised& fast, const AtAndAbove& nodes, Run run, Start&& start, Hand&& hand, Use&& use) {
    const auto& h = fast.hierarchy();
    std::vector<Labels> waiting(h.height());
    nodes.each([&](std::uint32_t rank, const Seed& s) { start(waiting[h.depth(rank)], s); },
               [&](std::uint32_t rank) {
                   Labels& mine = waiting[h.depth(rank)];
                   const auto row = h.row(rank);
                   for (std::uint32_t k = 0; k < row.count; ++k) {
                       const std::uint32_t slot = row.slot(k);
                       hand(mine, fast.up(slot, run), waiting[h.depth(h.head(slot))]);
                   }
                   use(rank, mine);
                   mine = Labels{};
               });
}

/// The label of one node: the least of `least` and of what comes down its arcs.
Reached least_from_above(const Customised& fast, std::uint32_t rank, Run run, Reached least,
                         const NearestByRank& known) {
    const auto& h = fast.hierarchy();
    const auto row = h.row(rank);
    for (std::uint32_t i = 0; i < row.count; ++i) {
        const std::uint32_t slot = row.slot(i);
        if (const Reached above = known.reached(h.head(slot)); above.cost < kFar)
            least = std::min(least, over(above, fast.down(slot, run)));
    }
    return least;
}

}  // namespace

void NearestByRank::put_apart(std::uint32_t rank, const Reached& r) {
    packed_[rank] = r.cost < kFar ? PackedLayout::kDoubtful : PackedLayout::kNone;
    if (r.cost < kFar) apart_.emplace_back(rank, r);
}

Reached NearestByRank::apart(std::uint32_t rank) const {
    return std::lower_bound(apart_.begin(), apart_.end(), rank,
                            [](const auto& a, std::uint32_t r) { return a.first < r; })
        ->second;
}

/// Labels by packing them; false if they do not fit.
class PackedSearch {
public:
    PackedSearch(const Customised& fast, std::span<const Seed> seeds, Run run)
        : fast_(fast), seeds_(seeds.begin(), seeds.end()), run_(run) {
        // Sources are numbered anew, in their order, so that few bits tell them apart.
        for (const Seed& s : seeds) sources_.push_back(s.source);
        std::sort(sources_.begin(), sources_.end());
        sources_.erase(std::unique(sources_.begin(), sources_.end()), sources_.end());
        for (Seed& s : seeds_)
            s.source = static_cast<std::uint32_t>(std::lower_bound(sources_.begin(), sources_.end(), s.source) -
                                                  sources_.begin());
        layout_ = divide(fast, sources_.size());
    }

    [[nodiscard]] bool into(NearestByRank& out) {
        constexpr std::uint32_t kLeastCostBits = 20;
        if (layout_.shift() + kLeastCostBits > 62 || fast_.largest_other() >= layout_.guard() || !climb()) return false;
        const auto& h = fast_.hierarchy();
        std::vector<std::uint64_t> at(h.spot_count());
        const PackedArcs arcs{h.spots().data(), fast_.down_costs(run_).data(), fast_.down_others(run_).data(),
                              layout_.shift(), most()};
        out.layout_ = layout_;
        out.sources_ = sources_;
        return pass_packed(h, arcs, layout_.guard(), starts_, at.data(), out.packed_.data(),
                           [&](std::uint32_t rank) { work_out(rank, out); }) == 0;
    }

private:
    static PackedLayout divide(const Customised& fast, std::size_t sources) {
        constexpr std::uint32_t kMillimetreBits = 30, kMillisecondBits = 26;  // half of that: 537 km, 9 hours
        constexpr std::uint32_t kMostCostBits =
            29;  // so that twice that is less than what an arc costs that leads nowhere
        const auto source_bits = static_cast<std::uint32_t>(std::bit_width(sources == 0 ? 0 : sources - 1));
        const std::uint32_t spare = 62 - kMostCostBits - std::min(source_bits, 62 - kMostCostBits);
        std::uint32_t other_bits =
            std::max(fast.measure() == Measure::time ? kMillimetreBits : kMillisecondBits, spare);
        // Where the dearest arc would not fit then, the other measure gives up what no arc needs of it.
        const auto least = static_cast<std::uint32_t>(std::bit_width(fast.largest_other())) + 1;
        const auto cost_bits = std::min(kMostCostBits, static_cast<std::uint32_t>(std::bit_width(fast.largest_cost())));
        while (other_bits > least && 62 - std::min(62U, other_bits + source_bits) < cost_bits) --other_bits;
        return {other_bits, source_bits};
    }
    [[nodiscard]] std::uint32_t most() const { return std::uint32_t{1} << layout_.cost_bits(); }

    bool climb() {
        const auto& h = fast_.hierarchy();
        if (fast_.largest_cost() >= most()) return false;
        // An arc that leads nowhere makes any label one that is not there; a sum too large to hold stays below that.
        const auto arcs = arcs_up(fast_, run_, layout_.shift(), 2 * most());
        constexpr std::uint64_t kNone = PackedLayout::kNone;
        std::vector<std::uint64_t> waiting(h.height(), kNone);
        bool fits = true;
        AtAndAbove(h, seeds_).each(
            [&](std::uint32_t rank, const Seed& s) {
                const Reached r{s.cost, s.source, s.other};
                fits = fits && layout_.holds(r);
                waiting[h.depth(rank)] = std::min(waiting[h.depth(rank)], layout_.pack(r));
            },
            [&](std::uint32_t rank) {
                const std::uint64_t mine = std::exchange(waiting[h.depth(rank)], kNone);
                if (mine >= PackedLayout::kDoubtful) {
                    fits = fits && mine >= kNone;
                    return;
                }
                fits = fits && (mine & layout_.guard()) == 0;
                starts_.push_back({rank, 0, mine});
                hand_up(h, arcs, rank, mine, waiting.data());
            });
        std::reverse(starts_.begin(), starts_.end());
        return fits;
    }

    /// One node's label from those above it, without packing. \pre those above it are done
    void work_out(std::uint32_t rank, NearestByRank& out) {
        if (starts_by_rank_.empty()) {
            starts_by_rank_ = starts_;
            std::sort(starts_by_rank_.begin(), starts_by_rank_.end(),
                      [](const auto& a, const auto& b) { return a.rank < b.rank; });
        }
        Reached least;
        const auto start = std::lower_bound(starts_by_rank_.begin(), starts_by_rank_.end(), rank,
                                            [](const auto& s, std::uint32_t r) { return s.rank < r; });
        if (start != starts_by_rank_.end() && start->rank == rank) {
            least = layout_.unpack(start->value);
            least.source = sources_[least.source];
        }
        out.put_apart(rank, least_from_above(fast_, rank, run_, least, out));
    }

    const Customised& fast_;
    std::vector<Seed> seeds_;
    std::vector<std::uint32_t> sources_;
    Run run_;
    PackedLayout layout_;
    std::vector<Given<std::uint64_t>> starts_, starts_by_rank_;
};

void nearest(const Customised& fast, std::span<const Seed> seeds, Run run, NearestByRank& out) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    out.packed_.resize(n);
    out.apart_.clear();
    out.plain_.clear();
    if (PackedSearch(fast, seeds, run).into(out)) return;
    out.packed_.clear();
    out.apart_.clear();
    std::vector<Reached, HugePages<Reached>> starts(n, Reached{});
    climb_from_all<Reached>(
        fast, AtAndAbove(h, seeds), run,
        [](Reached& known, const Seed& s) {
            known = std::min(known, Reached{s.cost, s.source, std::min(s.other, kFar)});
        },
        [](const Reached& from, const ArcWeight& t, Reached& to) { to = std::min(to, over(from, t)); },
        [&](std::uint32_t rank, const Reached& r) { starts[rank] = r; });
    out.plain_ = std::move(starts);
    for (std::uint32_t rank = 0; rank < n; ++rank)
        out.plain_[rank] = least_from_above(fast, rank, run, out.plain_[rank], out);
}

NearestByRank nearest(const Customised& fast, std::span<const Seed> seeds, Run run) {
    NearestByRank out;
    nearest(fast, seeds, run, out);
    return out;
}

namespace {

/// Up to `k` sources, nearest first, each once.
class NearestFew {
public:
    explicit NearestFew(std::span<Label> few) : few_(few) {}
    void offer(const Reached& r) {
        if (r.cost >= kFar) return;
        const auto better = [](const Reached& a, const Label& b) {
            return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other);
        };
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
        for (; hole > 0 && (!few_[hole - 1].reached() || better(r, few_[hole - 1])); --hole)
            few_[hole] = few_[hole - 1];
        few_[hole] = {r.cost, r.source, r.other, LinkWay::none()};
    }
    void offer_all(std::span<const Label> from, const ArcWeight& t) {
        for (const Label& l : from) {
            // Those behind are farther still; of the same source there is a nearer one here already.
            if (!l.reached() || (few_.back().reached() && sum(l.cost, t.cost) > few_.back().cost)) break;
            offer(over({l.cost, l.source, l.other}, t));
        }
    }

private:
    std::span<Label> few_;
};

}  // namespace

LabelArray nearest_k(const Customised& fast, std::span<const Seed> seeds, std::size_t k, Run run) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    LabelArray out(std::size_t{n} * k);
    if (k == 0) return out;
    climb_from_all<std::vector<Label>>(
        fast, AtAndAbove(h, seeds), run,
        [&](std::vector<Label>& known, const Seed& s) {
            known.resize(k);
            NearestFew(known).offer({s.cost, s.source, std::min(s.other, kFar)});
        },
        [&](const std::vector<Label>& from, const ArcWeight& t, std::vector<Label>& to) {
            if (from.empty() || t.cost >= kFar) return;
            to.resize(k);
            NearestFew(to).offer_all(from, t);
        },
        [&](std::uint32_t rank, const std::vector<Label>& found) {
            std::copy(found.begin(), found.end(), out.begin() + static_cast<std::ptrdiff_t>(rank * k));
        });
    const auto hand_down = [&](std::uint32_t begin, std::uint32_t end) {
        for (std::uint32_t rank = begin; rank < end; ++rank) {
            NearestFew few({out.data() + rank * k, k});
            const auto row = h.row(rank);
            for (std::uint32_t i = 0; i < row.count; ++i) {
                const std::uint32_t slot = row.slot(i);
                if (const ArcWeight t = fast.down(slot, run); t.cost < kFar)
                    few.offer_all({out.data() + h.head(slot) * k, k}, t);
            }
        }
    };
    // First what is above the cells; each cell is a subtree then, and needs none of the others.
    std::vector<std::pair<std::uint32_t, std::uint32_t>> cells;
    for (const auto& stretch : h.stretches()) {
        if (stretch.is_cell())
            cells.emplace_back(stretch.begin, stretch.end);
        else
            hand_down(stretch.begin, stretch.end);
    }
    tbb::parallel_for(std::size_t{0}, cells.size(), [&](std::size_t c) { hand_down(cells[c].first, cells[c].second); });
    return out;
}

void FewToAll::run(const Customised& fast, std::span<const std::vector<Seed>> sources, Run run) {
    const auto& h = fast.hierarchy();
    std::vector<Given<std::uint64_t>> given;
    for (std::uint32_t lane = 0; lane < sources.size(); ++lane)
        for (const Seed& seed : sources[lane]) {
            const Climb c = climb(fast, h.rank_of(seed.node), run, {seed.cost, std::min(seed.other, kFar)});
            for (std::size_t d = 0; d < c.rank.size(); ++d)
                if (c.weights[d] < kNoWay) given.push_back({c.rank[d], lane, c.weights[d]});
        }
    std::sort(given.begin(), given.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    static_assert(sizeof(Line) == sizeof(PairLabels) && kMost == kPairLanes);
    lines_.resize(h.node_count());
    at_.resize(h.spot_count());
    pass_pairs(h, {h.spots().data(), fast.down_costs(run).data(), fast.down_others(run).data()}, given,
               reinterpret_cast<PairLabels*>(at_.data()), reinterpret_cast<PairLabels*>(lines_.data()));
}

void FewToAll::run(const Graph& graph, std::span<const std::vector<Seed>> sources, const Task& task) {
    Line nowhere;
    nowhere.lanes.fill(kNoWay);
    lines_.assign(graph.node_count(), nowhere);
    for (std::size_t lane = 0; lane < sources.size(); ++lane) {
        if (sources[lane].empty()) continue;
        const LabelArray labels = nearest_of_many(graph, sources[lane], kFar - 1, task);
        for (std::size_t node = 0; node < labels.size(); ++node)
            if (labels[node].reached()) lines_[node].lanes[lane] = as_one({labels[node].cost, labels[node].other});
    }
}

void FewToAll::join(std::span<const TwoWaysOn> ways, const std::uint64_t* bounds, Line* out,
                    std::uint8_t* wanted) const {
    join_pairs(reinterpret_cast<const PairLabels*>(lines_.data()), ways, bounds, reinterpret_cast<PairLabels*>(out),
               wanted);
}

void trees(const Customised& fast, std::span<const std::uint32_t> sources, Run run, const Row& row, const Task& task) {
    const auto& h = fast.hierarchy();
    const std::uint32_t n = h.node_count();
    const std::size_t line = (std::size_t{n} / kLanes + 1) * kLanes;
    std::vector<LaneLabels, HugePages<LaneLabels>> memory(line), at(h.spot_count());
    std::array<std::uint32_t*, kLanes> rows;
    for (std::size_t lane = 0; lane < kLanes; ++lane)
        rows[lane] = reinterpret_cast<std::uint32_t*>(memory.data()) + lane * line;
    const CostArcs arcs{h.spots().data(), fast.down_costs(run).data()};
    std::vector<Given<std::uint32_t>> given;
    for (std::size_t begin = 0; begin < sources.size(); begin += kLanes) {
        task.at("trees", static_cast<double>(begin) / static_cast<double>(sources.size()));
        given.clear();
        const auto lanes = static_cast<std::uint32_t>(std::min<std::size_t>(kLanes, sources.size() - begin));
        for (std::uint32_t lane = 0; lane < lanes; ++lane)
            give(climb(fast, h.rank_of(sources[begin + lane]), run), lane, given);
        std::sort(given.begin(), given.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
        pass_lanes(h, arcs, given, at.data(), rows);
        for (std::uint32_t lane = 0; lane < lanes; ++lane) row(begin + lane, {rows[lane], n});
    }
}

}  // namespace otoro::routing
