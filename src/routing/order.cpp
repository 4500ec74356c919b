#include "routing/order.h"

#include <metis.h>
#include <tbb/parallel_for.h>

#include <array>
#include <numeric>
#include <queue>
#include <tuple>

namespace otoro::routing {
namespace {

/// Ranks by nested dissection.
std::vector<std::uint32_t> dissect(const Neighbours& net) {
    static_assert(sizeof(idx_t) == sizeof(std::int32_t));
    idx_t n = static_cast<idx_t>(net.node_count());
    std::vector<std::uint32_t> position(net.node_count());
    std::iota(position.begin(), position.end(), 0U);
    if (n < 3 || net.heads.empty()) return position;
    constexpr idx_t kUneven = 400;  // halves may differ by 40 %: a shorter cut is worth more than an even one
    std::array<idx_t, METIS_NOPTIONS> options{};
    METIS_SetDefaultOptions(options.data());
    options[METIS_OPTION_SEED] = 1;  // the same order every time
    options[METIS_OPTION_UFACTOR] = kUneven;
    auto first = net.first, heads = net.heads;  // METIS wants them to change
    std::vector<idx_t> perm(position.size()), place(position.size());
    if (METIS_NodeND(&n, first.data(), heads.data(), nullptr, options.data(), perm.data(), place.data()) != METIS_OK)
        return position;  // any order is right, if slow
    std::copy(place.begin(), place.end(), position.begin());
    return position;
}

/// Taking out by least fill inside one part of the network, whose border stays.
class Part {
public:
    /// \param local for each node of the network its number in this part, or kNoIndex; set and cleared again here
    Part(const Neighbours& net, std::span<const std::uint32_t> nodes, std::vector<std::uint32_t>& local)
        : nodes_(nodes), near_(nodes.size()), seen_(nodes.size(), 0), out_(nodes.size(), false) {
        for (std::uint32_t i = 0; i < nodes.size(); ++i) local[nodes[i]] = i;
        std::vector<std::uint32_t> border;
        for (std::uint32_t i = 0; i < nodes.size(); ++i)
            for (const auto head : net.of(nodes[i])) {
                auto& number = local[static_cast<std::uint32_t>(head)];
                if (number == kNoIndex) {
                    number = static_cast<std::uint32_t>(near_.size());
                    near_.emplace_back();
                    border.push_back(static_cast<std::uint32_t>(head));
                }
                near_[i].push_back(number);
                if (number >= nodes.size()) near_[number].push_back(i);
            }
        for (auto& n : near_) std::sort(n.begin(), n.end());
        for (const auto v : nodes) local[v] = kNoIndex;
        for (const auto v : border) local[v] = kNoIndex;
    }

    /// The nodes in the order to take them out.
    std::vector<std::uint32_t> order() {
        for (std::uint32_t i = 0; i < nodes_.size(); ++i) wait(i);
        std::vector<std::uint32_t> result;
        while (!queue_.empty()) {
            const auto [fill, joints, node, version] = queue_.top();
            queue_.pop();
            if (out_[node] || version != seen_[node]) continue;
            take_out(node);
            result.push_back(nodes_[node]);
        }
        return result;
    }

private:
    /// How many pairs of neighbours are not joined yet.
    [[nodiscard]] std::uint32_t fill(std::uint32_t node) const {
        const auto& mine = near_[node];
        std::size_t joined = 0;
        for (std::size_t i = 0; i < mine.size(); ++i) {
            const auto& other = near_[mine[i]];
            auto k = std::lower_bound(other.begin(), other.end(), i + 1 < mine.size() ? mine[i + 1] : kNoIndex);
            for (std::size_t j = i + 1; j < mine.size() && k != other.end(); ++j) {
                while (k != other.end() && *k < mine[j]) ++k;
                joined += k != other.end() && *k == mine[j];
            }
        }
        return static_cast<std::uint32_t>(mine.size() * (mine.size() - (mine.empty() ? 0 : 1)) / 2 - joined);
    }
    void wait(std::uint32_t node) {
        queue_.push({fill(node), static_cast<std::uint32_t>(near_[node].size()), node, ++seen_[node]});
    }

    void take_out(std::uint32_t node) {
        out_[node] = true;
        const auto mine = std::move(near_[node]);
        for (const std::uint32_t w : mine) {
            auto& theirs = near_[w];
            merged_.clear();
            std::set_union(theirs.begin(), theirs.end(), mine.begin(), mine.end(), std::back_inserter(merged_));
            theirs.clear();
            for (const std::uint32_t x : merged_)
                if (x != w && x != node) theirs.push_back(x);
        }
        for (const std::uint32_t w : mine)
            if (w < nodes_.size()) wait(w);
    }

    std::span<const std::uint32_t> nodes_;
    std::vector<std::vector<std::uint32_t>> near_;
    std::vector<std::uint32_t> seen_, merged_;
    std::vector<bool> out_;
    std::priority_queue<std::array<std::uint32_t, 4>, std::vector<std::array<std::uint32_t, 4>>, std::greater<>> queue_;
};

/// How many nodes each subtree of the elimination tree has.
std::vector<std::uint32_t> subtree_sizes(const Chordal& chordal) {
    std::vector<std::uint32_t> size(chordal.node_count(), 1);
    for (std::uint32_t t = 0; t < size.size(); ++t)
        if (const auto parent = chordal.parent(t); parent != kNoIndex) size[parent] += size[t];
    return size;
}

/// The same elimination tree, its subtrees one after another.
std::vector<std::uint32_t> subtree_by_subtree(const Chordal& chordal) {
    const std::uint32_t n = chordal.node_count();
    const auto size = subtree_sizes(chordal);
    // From the root down, every node hands its children their places from the back, the last child next to itself.
    std::vector<std::uint32_t> place(n), free_end(n);
    std::uint32_t end = n;
    for (std::uint32_t t = n; t-- > 0;) {
        const auto parent = chordal.parent(t);
        auto& back = parent == kNoIndex ? end : free_end[parent];
        place[t] = back - 1;
        back -= size[t];
        free_end[t] = place[t];
    }
    return place;
}

/// Takes out small parts anew by least fill; what lies above them stays as it was.
std::vector<std::uint32_t> refine(const Neighbours& net, const std::vector<std::uint32_t>& position,
                                  const Chordal& chordal, const Task& task) {
    constexpr std::uint32_t kPart = 1500;
    const std::uint32_t n = net.node_count();
    std::vector<std::uint32_t> at(n);
    const auto place = subtree_by_subtree(chordal);
    const auto size = subtree_sizes(chordal);
    std::vector<std::uint32_t> placed_position(n);
    for (std::uint32_t t = 0; t < n; ++t) placed_position[place[t]] = t;
    for (std::uint32_t v = 0; v < n; ++v) at[place[position[v]]] = v;
    // Parts: largest subtrees of no more than that many nodes, which are stretches of places.
    struct Stretch {
        std::uint32_t begin, end;
    };
    std::vector<Stretch> parts;
    for (std::uint32_t p = n; p-- > 0;) {
        const std::uint32_t t = placed_position[p];
        if (size[t] > kPart) continue;
        parts.push_back({p + 1 - size[t], p + 1});
        p = p + 1 - size[t];
    }
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, parts.size(), 16), [&](const auto& range) {
        static thread_local std::vector<std::uint32_t> local;
        local.assign(n, kNoIndex);
        for (std::size_t i = range.begin(); i != range.end() && !task.stop_requested(); ++i) {
            const auto [begin, end] = parts[i];
            const std::span nodes(at.data() + begin, end - begin);
            const auto order = Part(net, nodes, local).order();
            std::copy(order.begin(), order.end(), at.begin() + begin);
        }
        local = {};
    });
    task.check();
    std::vector<std::uint32_t> result(n);
    for (std::uint32_t p = 0; p < n; ++p) result[at[p]] = p;
    return result;
}

}  // namespace

Neighbours neighbours_of(const Graph& graph) {
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
    Neighbours out;
    out.first.assign(std::size_t{n} + 1, 0);
    for (std::uint32_t v = 0; v < n; ++v) {
        const auto from = all.begin() + begin[v], to = all.begin() + begin[v + 1];
        std::sort(from, to);
        for (auto i = from; i != to; ++i)
            if (i == from || *i != *(i - 1)) out.heads.push_back(static_cast<std::int32_t>(*i));
        out.first[v + 1] = static_cast<std::int32_t>(out.heads.size());
    }
    return out;
}

Chordal take_out(const Neighbours& net, std::span<const std::uint32_t> position, const Task& task,
                 std::size_t most_arcs) {
    const std::uint32_t n = net.node_count();
    std::vector<std::uint32_t> node(n);
    for (std::uint32_t v = 0; v < n; ++v) node[position[v]] = v;
    // The later neighbours of a node become a clique; handing them to the first of them is enough.
    std::vector<std::vector<std::uint32_t>> later(n);
    Chordal c;
    c.first.assign(std::size_t{n} + 1, 0);
    for (std::uint32_t t = 0; t < n; ++t) {
        if (t % 65'536 == 0) task.check();
        auto& mine = later[t];
        for (const auto head : net.of(node[t]))
            if (const std::uint32_t other = position[static_cast<std::size_t>(head)]; other > t) mine.push_back(other);
        std::sort(mine.begin(), mine.end());
        mine.erase(std::unique(mine.begin(), mine.end()), mine.end());
        if (!mine.empty()) {
            auto& parents = later[mine.front()];
            parents.insert(parents.end(), mine.begin() + 1, mine.end());
        }
        if (c.heads.size() + mine.size() > most_arcs) return {};
        c.heads.insert(c.heads.end(), mine.begin(), mine.end());
        c.first[t + 1] = static_cast<std::uint32_t>(c.heads.size());
        std::vector<std::uint32_t>().swap(mine);
    }
    return c;
}

std::vector<std::uint32_t> good_order(const Neighbours& net, const Task& task) {
    task.at("ordering the network", 0.0);
    auto position = dissect(net);
    task.at("ordering the network", 0.75);
    position = refine(net, position, take_out(net, position, task), task);
    task.at("ordering the network", 0.95);
    const auto place = subtree_by_subtree(take_out(net, position, task));
    for (auto& t : position) t = place[t];
    return position;
}

}  // namespace otoro::routing
