#include "routing/hierarchy.h"

#include <metis.h>

#include <algorithm>
#include <array>
#include <numeric>

namespace otoro::routing {
namespace {

constexpr std::uint64_t kNoWay = ~std::uint64_t{0};

std::uint64_t pair_of(std::uint32_t cost, std::uint32_t other) { return (std::uint64_t{cost} << 32U) | other; }
std::uint32_t cost_of(std::uint64_t pair) { return static_cast<std::uint32_t>(pair >> 32U); }
std::uint32_t other_of(std::uint64_t pair) { return static_cast<std::uint32_t>(pair); }

/// Both halves added, each held at its largest.
std::uint64_t plus(std::uint64_t a, std::uint64_t b) {
    const std::uint64_t cost = std::uint64_t{cost_of(a)} + cost_of(b);
    if (cost >= kFar) return kNoWay;
    const std::uint64_t other = std::uint64_t{other_of(a)} + other_of(b);
    return (cost << 32U) | std::min<std::uint64_t>(other, kFar);
}
std::uint32_t plus32(std::uint32_t a, std::uint32_t b) { return a >= kFar - b ? kFar : a + b; }

/// Neighbours in either direction, each once, without loops.
struct Adjacency {
    std::vector<idx_t> first, heads;
};

Adjacency undirected(const Graph& graph) {
    const std::uint32_t n = graph.node_count();
    std::vector<std::uint32_t> begin(std::size_t{n} + 1, 0);
    const auto each = [&](auto&& use) {
        for (std::uint32_t v = 0; v < n; ++v)
            for (const Arc& a : graph.arcs_of(v))
                if (a.head != v) {
                    use(v, a.head);
                    use(a.head, v);
                }
    };
    each([&](std::uint32_t v, std::uint32_t) { ++begin[v + 1]; });
    for (std::size_t i = 1; i < begin.size(); ++i) begin[i] += begin[i - 1];
    std::vector<std::uint32_t> all(begin.back());
    auto next = begin;
    each([&](std::uint32_t v, std::uint32_t w) { all[next[v]++] = w; });
    Adjacency out;
    out.first.assign(std::size_t{n} + 1, 0);
    for (std::uint32_t v = 0; v < n; ++v) {
        const auto from = all.begin() + begin[v], to = all.begin() + begin[v + 1];
        std::sort(from, to);
        for (auto i = from; i != to; ++i)
            if (i == from || *i != *(i - 1)) out.heads.push_back(static_cast<idx_t>(*i));
        out.first[v + 1] = static_cast<idx_t>(out.heads.size());
    }
    return out;
}

/// Ranks by nested dissection.
std::vector<std::uint32_t> dissect(Adjacency& adjacency) {
    auto n = static_cast<idx_t>(adjacency.first.size() - 1);
    std::vector<std::uint32_t> rank(static_cast<std::size_t>(n));
    std::iota(rank.begin(), rank.end(), 0U);
    if (n < 3 || adjacency.heads.empty()) return rank;
    std::array<idx_t, METIS_NOPTIONS> options{};
    METIS_SetDefaultOptions(options.data());
    options[METIS_OPTION_SEED] = 1;  // the same order every time
    std::vector<idx_t> perm(static_cast<std::size_t>(n)), place(static_cast<std::size_t>(n));
    if (METIS_NodeND(&n, adjacency.first.data(), adjacency.heads.data(), nullptr, options.data(), perm.data(), place.data()) != METIS_OK) return rank;  // any order is right, if slow
    for (std::size_t v = 0; v < rank.size(); ++v) rank[v] = static_cast<std::uint32_t>(place[v]);
    return rank;
}

}  // namespace

std::shared_ptr<const Hierarchy> Hierarchy::of(const Graph& graph, const Task& task) {
    task.at("ordering the network", 0.0);
    auto adjacency = undirected(graph);
    auto h = std::make_shared<Hierarchy>();
    h->rank_ = dissect(adjacency);
    task.at("contracting the network", 0.7);
    const std::uint32_t n = h->node_count();
    h->node_.resize(n);
    for (std::uint32_t v = 0; v < n; ++v) h->node_[h->rank_[v]] = v;

    // Contracting a node makes its higher neighbours a clique; handing them to the lowest of them is enough (the chordal graph's elimination game).
    std::vector<std::vector<std::uint32_t>> higher(n);
    std::vector<std::uint32_t> merged;
    h->first_.assign(std::size_t{n} + 1, 0);
    for (std::uint32_t r = 0; r < n; ++r) {
        if (r % 65'536 == 0) task.at("contracting the network", 0.7 + 0.3 * r / n);
        const std::uint32_t v = h->node_[r];
        auto& mine = higher[r];
        for (auto i = adjacency.first[v]; i < adjacency.first[v + 1]; ++i)
            if (const std::uint32_t other = h->rank_[static_cast<std::size_t>(adjacency.heads[static_cast<std::size_t>(i)])]; other > r) mine.push_back(other);
        std::sort(mine.begin(), mine.end());
        mine.erase(std::unique(mine.begin(), mine.end()), mine.end());
        if (!mine.empty()) {
            auto& parents = higher[mine.front()];
            parents.insert(parents.end(), mine.begin() + 1, mine.end());
        }
        h->heads_.insert(h->heads_.end(), mine.begin(), mine.end());
        h->first_[r + 1] = static_cast<std::uint32_t>(h->heads_.size());
        std::vector<std::uint32_t>().swap(mine);
    }
    return h;
}

CustomisedHierarchy::CustomisedHierarchy(std::shared_ptr<const Hierarchy> hierarchy, const Graph& graph, const Task& task) : hierarchy_(std::move(hierarchy)) {
    task.at("customising", 0.0);
    const auto& h = *hierarchy_;
    const auto first = h.first();
    const auto heads = h.heads();
    up_.assign(heads.size(), kNoWay);
    down_.assign(heads.size(), kNoWay);
    const auto arc = [&](std::uint32_t low, std::uint32_t high) {
        return static_cast<std::size_t>(std::lower_bound(heads.begin() + first[low], heads.begin() + first[low + 1], high) - heads.begin());
    };
    for (std::uint32_t v = 0; v < graph.node_count(); ++v)
        for (const Arc& a : graph.arcs_of(v)) {
            if (a.head == v) continue;
            const std::uint32_t from = h.rank_of(v), to = h.rank_of(a.head);
            auto& weight = from < to ? up_[arc(from, to)] : down_[arc(to, from)];
            weight = std::min(weight, pair_of(a.cost, a.other));
        }
    // Every way from one higher neighbour over the node to another, the lowest nodes first.
    for (std::uint32_t r = 0; r < h.node_count(); ++r) {
        if (r % 65'536 == 0) task.at("customising", static_cast<double>(r) / h.node_count());
        for (std::size_t x = first[r]; x < first[r + 1]; ++x) {
            const std::uint32_t u = heads[x];
            std::size_t between = first[u];
            for (std::size_t y = x + 1; y < first[r + 1]; ++y) {
                while (heads[between] != heads[y]) ++between;  // it is there: the graph is chordal
                up_[between] = std::min(up_[between], plus(down_[x], up_[y]));
                down_[between] = std::min(down_[between], plus(down_[y], up_[x]));
            }
        }
    }
    up_cost_.resize(up_.size());
    down_cost_.resize(down_.size());
    for (std::size_t i = 0; i < up_.size(); ++i) {
        up_cost_[i] = cost_of(up_[i]);
        down_cost_[i] = cost_of(down_[i]);
    }
}

LabelArray CustomisedHierarchy::nearest(std::span<const Seed> seeds) const {
    const auto& h = *hierarchy_;
    const auto first = h.first();
    const auto heads = h.heads();
    const std::uint32_t n = h.node_count();
    struct Reached {
        std::uint64_t pair = kNoWay;
        std::uint32_t source = kFar;
    };
    std::vector<Reached, HugePages<Reached>> at(n);
    const auto offer = [](Reached& known, std::uint64_t pair, std::uint32_t source) {
        // Cost, then source, then the other measure.
        const std::uint32_t cost = cost_of(pair), least = cost_of(known.pair);
        if (cost < least || (cost == least && cost != kFar && (source < known.source || (source == known.source && pair < known.pair)))) known = {pair, source};
    };
    std::uint32_t lowest = n;
    for (const Seed& s : seeds) {
        if (s.cost == kFar) continue;
        const std::uint32_t r = h.rank_of(s.node);
        offer(at[r], pair_of(s.cost, s.other), s.source);
        lowest = std::min(lowest, r);
    }
    for (std::uint32_t r = lowest; r < n; ++r) {
        if (at[r].pair == kNoWay) continue;
        for (std::size_t x = first[r]; x < first[r + 1]; ++x)
            if (const auto pair = plus(at[r].pair, up_[x]); pair != kNoWay) offer(at[heads[x]], pair, at[r].source);
    }
    for (std::uint32_t r = n; r-- > 0;) {
        Reached mine = at[r];
        for (std::size_t x = first[r]; x < first[r + 1]; ++x) {
            const Reached& above = at[heads[x]];
            if (const auto pair = plus(above.pair, down_[x]); pair != kNoWay) offer(mine, pair, above.source);
        }
        at[r] = mine;
    }
    LabelArray out(n);
    for (std::uint32_t v = 0; v < n; ++v) {
        const Reached& r = at[h.rank_of(v)];
        if (r.pair != kNoWay) out[v] = {cost_of(r.pair), r.source, other_of(r.pair), LinkWay::none()};
    }
    return out;
}

void CustomisedHierarchy::climb_and_sweep(std::uint32_t source, std::vector<std::uint32_t, HugePages<std::uint32_t>>& cost) const {
    const auto& h = *hierarchy_;
    const auto* first = h.first().data();
    const auto* heads = h.heads().data();
    std::fill(cost.begin(), cost.end(), kFar);
    cost[source] = 0;
    for (std::uint32_t r = source; r != kFar; r = h.parent(r)) {
        if (cost[r] == kFar) continue;
        for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) cost[heads[x]] = std::min(cost[heads[x]], plus32(cost[r], up_cost_[x]));
    }
    for (std::uint32_t r = h.node_count(); r-- > 0;) {
        std::uint32_t mine = cost[r];
        for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) mine = std::min(mine, plus32(cost[heads[x]], down_cost_[x]));
        cost[r] = mine;
    }
}

std::vector<std::uint32_t> CustomisedHierarchy::tree(std::uint32_t source) const {
    std::vector<std::uint32_t, HugePages<std::uint32_t>> cost(hierarchy_->node_count());
    climb_and_sweep(hierarchy_->rank_of(source), cost);
    std::vector<std::uint32_t> out(cost.size());
    for (std::uint32_t v = 0; v < out.size(); ++v) out[v] = cost[hierarchy_->rank_of(v)];
    return out;
}

namespace {

constexpr std::size_t kLanes = 16;
using Lanes = std::array<std::uint32_t, kLanes>;

/// `mine = min(mine, above + step)`, lane by lane, held at `kFar`.
__attribute__((target_clones("avx2", "default"), optimize("O3"))) void sweep_down(std::uint32_t nodes, const std::uint32_t* first, const std::uint32_t* heads, const std::uint32_t* weights, Lanes* cost) {
    for (std::uint32_t r = nodes; r-- > 0;) {
        Lanes mine = cost[r];
        for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) {
            const std::uint32_t step = weights[x];
            if (step == kFar) continue;
            const std::uint32_t most = kFar - step;
            const Lanes& above = cost[heads[x]];
            for (std::size_t k = 0; k < kLanes; ++k) {
                const std::uint32_t held = above[k] < most ? above[k] : most;
                mine[k] = mine[k] < held + step ? mine[k] : held + step;
            }
        }
        cost[r] = mine;
    }
}

}  // namespace

void CustomisedHierarchy::trees(std::span<const std::uint32_t> sources, const std::function<void(std::size_t, std::span<const std::uint32_t>)>& row) const {
    const auto& h = *hierarchy_;
    const auto first = h.first();
    const auto heads = h.heads();
    const std::uint32_t n = h.node_count();
    std::vector<Lanes, HugePages<Lanes>> cost(n);
    std::vector<std::uint32_t> one(n);
    for (std::size_t begin = 0; begin < sources.size(); begin += kLanes) {
        const std::size_t lanes = std::min(kLanes, sources.size() - begin);
        Lanes none;
        none.fill(kFar);
        std::fill(cost.begin(), cost.end(), none);
        for (std::size_t k = 0; k < lanes; ++k) {
            const std::uint32_t source = h.rank_of(sources[begin + k]);
            cost[source][k] = 0;
            for (std::uint32_t r = source; r != kFar; r = h.parent(r)) {
                if (cost[r][k] == kFar) continue;
                for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) cost[heads[x]][k] = std::min(cost[heads[x]][k], plus32(cost[r][k], up_cost_[x]));
            }
        }
        sweep_down(n, first.data(), heads.data(), down_cost_.data(), cost.data());
        for (std::size_t k = 0; k < lanes; ++k) {
            for (std::uint32_t r = 0; r < n; ++r) one[r] = cost[r][k];
            row(begin + k, one);
        }
    }
}

}  // namespace otoro::routing
