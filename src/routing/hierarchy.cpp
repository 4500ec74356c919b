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

namespace {

/// Costs along each arc of the chordal graph and back, while they are worked out.
class Customiser {
public:
    Customiser(const Hierarchy& h, const Graph& graph) : h_(h), first_(h.first()), heads_(h.heads()), up_(heads_.size(), kNoWay), down_(heads_.size(), kNoWay) {
        for (std::uint32_t v = 0; v < graph.node_count(); ++v)
            for (const Arc& a : graph.arcs_of(v)) {
                if (a.head == v) continue;
                const std::uint32_t from = h.rank_of(v), to = h.rank_of(a.head);
                auto& weight = from < to ? up_[arc(from, to)] : down_[arc(to, from)];
                weight = std::min(weight, pair_of(a.cost, a.other));
            }
    }

    /// Every way from one higher neighbour over the node to another, the lowest nodes first.
    void contract(const Task& task) {
        for (std::uint32_t r = 0; r < h_.node_count(); ++r) {
            if (r % 65'536 == 0) task.at("customising", 0.6 * r / h_.node_count());
            each_triangle(r, [&](std::size_t x, std::size_t y, std::size_t between) {
                up_[between] = std::min(up_[between], plus(down_[x], up_[y]));
                down_[between] = std::min(down_[between], plus(down_[y], up_[x]));
            });
        }
        least_up_ = up_;
        least_down_ = down_;
    }

    /// From the top: a shortest way from a node to a higher one goes up one arc and on from there, so what is shortest between higher nodes tells what is shortest from here.
    void perfect(const Task& task) {
        for (std::uint32_t r = h_.node_count(); r-- > 0;) {
            if (r % 65'536 == 0) task.at("customising", 1.0 - 0.4 * r / h_.node_count());
            each_triangle(r, [&](std::size_t x, std::size_t y, std::size_t between) {
                least_up_[y] = std::min(least_up_[y], plus(up_[x], least_up_[between]));
                least_up_[x] = std::min(least_up_[x], plus(up_[y], least_down_[between]));
                least_down_[y] = std::min(least_down_[y], plus(least_down_[between], down_[x]));
                least_down_[x] = std::min(least_down_[x], plus(least_up_[between], down_[y]));
            });
        }
    }

    /// The arcs that are a shortest way.
    template <class Steps>
    void keep(bool up, Steps& out) const {
        const auto& weight = up ? up_ : down_;
        const auto& least = up ? least_up_ : least_down_;
        out.first.assign(std::size_t{h_.node_count()} + 1, 0);
        for (std::uint32_t r = 0; r < h_.node_count(); ++r) {
            for (std::size_t x = first_[r]; x < first_[r + 1]; ++x)
                if (weight[x] != kNoWay && weight[x] == least[x]) out.steps.push_back({heads_[x], cost_of(weight[x]), other_of(weight[x])});
            out.first[r + 1] = static_cast<std::uint32_t>(out.steps.size());
        }
        out.steps.shrink_to_fit();
    }

private:
    [[nodiscard]] std::size_t arc(std::uint32_t low, std::uint32_t high) const {
        return static_cast<std::size_t>(std::lower_bound(heads_.begin() + first_[low], heads_.begin() + first_[low + 1], high) - heads_.begin());
    }
    /// Two arcs of a node and the arc across, which is there: the graph is chordal.
    template <class Use>
    void each_triangle(std::uint32_t r, Use&& use) const {
        for (std::size_t x = first_[r]; x < first_[r + 1]; ++x) {
            std::size_t between = first_[heads_[x]];
            for (std::size_t y = x + 1; y < first_[r + 1]; ++y) {
                while (heads_[between] != heads_[y]) ++between;
                use(x, y, between);
            }
        }
    }

    const Hierarchy& h_;
    std::span<const std::uint32_t> first_, heads_;
    std::vector<std::uint64_t, HugePages<std::uint64_t>> up_, down_, least_up_, least_down_;
};

}  // namespace

CustomisedHierarchy::CustomisedHierarchy(std::shared_ptr<const Hierarchy> hierarchy, const Graph& graph, const Task& task) : hierarchy_(std::move(hierarchy)) {
    task.at("customising", 0.0);
    Customiser c(*hierarchy_, graph);
    c.contract(task);
    c.perfect(task);
    c.keep(true, up_);
    c.keep(false, down_);
}

LabelArray CustomisedHierarchy::nearest(std::span<const Seed> seeds) const {
    const auto& h = *hierarchy_;
    const std::uint32_t n = h.node_count();
    struct Reached {
        std::uint32_t cost = kFar, source = kFar, other = kFar;
    };
    std::vector<Reached, HugePages<Reached>> at(n);
    // Cost, then source, then the other measure.
    const auto offer = [](Reached& known, std::uint32_t cost, std::uint32_t source, std::uint32_t other) {
        if (cost > known.cost || cost == kFar) return;
        if (cost < known.cost || source < known.source || (source == known.source && other < known.other)) known = {cost, source, other};
    };
    std::uint32_t lowest = n;
    for (const Seed& s : seeds) {
        if (s.cost == kFar) continue;
        const std::uint32_t r = h.rank_of(s.node);
        offer(at[r], s.cost, s.source, s.other);
        lowest = std::min(lowest, r);
    }
    for (std::uint32_t r = lowest; r < n; ++r) {
        const Reached mine = at[r];
        if (mine.cost == kFar) continue;
        for (std::uint32_t x = up_.first[r]; x < up_.first[r + 1]; ++x) {
            const Step& s = up_.steps[x];
            offer(at[s.head], plus32(mine.cost, s.cost), mine.source, plus32(mine.other, s.other));
        }
    }
    for (std::uint32_t r = n; r-- > 0;) {
        Reached mine = at[r];
        for (std::uint32_t x = down_.first[r]; x < down_.first[r + 1]; ++x) {
            const Step& s = down_.steps[x];
            const Reached& above = at[s.head];
            offer(mine, plus32(above.cost, s.cost), above.source, plus32(above.other, s.other));
        }
        at[r] = mine;
    }
    LabelArray out(n);
    for (std::uint32_t v = 0; v < n; ++v) {
        const Reached& r = at[h.rank_of(v)];
        if (r.cost != kFar) out[v] = {r.cost, r.source, r.other, LinkWay::none()};
    }
    return out;
}

CostArray CustomisedHierarchy::tree(std::uint32_t node) const {
    const auto& h = *hierarchy_;
    CostArray cost(h.node_count(), kFar);
    const std::uint32_t source = h.rank_of(node);
    cost[source] = 0;
    for (std::uint32_t r = source; r != kFar; r = h.parent(r)) {
        if (cost[r] == kFar) continue;
        for (std::uint32_t x = up_.first[r]; x < up_.first[r + 1]; ++x) {
            const Step& s = up_.steps[x];
            cost[s.head] = std::min(cost[s.head], plus32(cost[r], s.cost));
        }
    }
    const std::uint32_t* first = down_.first.data();
    const Step* steps = down_.steps.data();
    for (std::uint32_t r = h.node_count(); r-- > 0;) {
        std::uint32_t mine = cost[r];
        for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) mine = std::min(mine, plus32(cost[steps[x].head], steps[x].cost));
        cost[r] = mine;
    }
    return cost;
}

namespace {

constexpr std::size_t kLanes = 16;
using Lanes = std::array<std::uint32_t, kLanes>;

/// `mine = min(mine, above + step)`, lane by lane, held at `kFar`.
__attribute__((target_clones("avx2", "default"), optimize("O3"))) void sweep_down(std::uint32_t nodes, const std::uint32_t* first, const CustomisedHierarchy::Step* steps, Lanes* cost) {
    for (std::uint32_t r = nodes; r-- > 0;) {
        Lanes mine = cost[r];
        for (std::uint32_t x = first[r]; x < first[r + 1]; ++x) {
            const std::uint32_t step = steps[x].cost;
            const std::uint32_t most = kFar - step;
            const Lanes& above = cost[steps[x].head];
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
    const std::uint32_t n = h.node_count();
    std::vector<Lanes, HugePages<Lanes>> cost(n);
    std::array<CostArray, kLanes> rows;
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
                for (std::uint32_t x = up_.first[r]; x < up_.first[r + 1]; ++x) {
                    auto& known = cost[up_.steps[x].head][k];
                    known = std::min(known, plus32(cost[r][k], up_.steps[x].cost));
                }
            }
        }
        sweep_down(n, down_.first.data(), down_.steps.data(), cost.data());
        // From lanes to rows, all rows at once, so that memory is read and written in order.
        for (std::size_t k = 0; k < lanes; ++k) rows[k].resize(n);
        for (std::uint32_t r = 0; r < n; ++r)
            for (std::size_t k = 0; k < lanes; ++k) rows[k][r] = cost[r][k];
        for (std::size_t k = 0; k < lanes; ++k) row(begin + k, rows[k]);
    }
}

}  // namespace otoro::routing
