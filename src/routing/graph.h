#pragma once
/// \file
/// A network laid out for searching: for every node, the arcs that leave it, one after another in memory.
///
/// Costs are whole numbers in the unit of the measure that routes are chosen by (milliseconds or millimetres); each arc
/// carries the amount of the other measure too, so that it can be added up along the same route. 16 bytes an arc; a
/// two-way link is two arcs.
#include <algorithm>
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "geo/huge_pages.h"
#include "roads/network.h"
#include "travel/profile.h"

namespace otoro::routing {

/// What routes are chosen by.
enum class Measure : std::uint8_t { time, distance };

/// Which way a search runs. `outward` finds routes from the sources to every node, `inward` from every node to the
/// sources.
enum class SearchDirection : std::uint8_t { outward, inward };

/// A cost larger than any route's. Routes of 2^31-1 ms (24 days) or mm (2 147 km) or more are treated as no route. Two
/// costs added never wrap.
inline constexpr std::uint32_t kFar = std::numeric_limits<std::int32_t>::max();
/// (cost, other) as one number where there is no way.
inline constexpr std::uint64_t kNoWay = std::uint64_t{kFar} << 32U;

/// No node, position, slot or place in a list.
inline constexpr std::uint32_t kNoIndex = std::numeric_limits<std::int32_t>::max();

/// Two amounts, each at most `kFar`, added and held there.
inline std::uint32_t sum(std::uint32_t a, std::uint32_t b) { return std::min(a + b, kFar); }

/// One link, one way.
struct LinkWay {
    std::uint32_t bits = 0xffffffff;  ///< twice the link number, plus one if against the drawn direction
    static LinkWay along(LinkId l) { return {l.value() * 2}; }
    static LinkWay against(LinkId l) { return {l.value() * 2 + 1}; }
    static constexpr LinkWay none() { return {}; }
    [[nodiscard]] bool is_none() const { return bits == 0xffffffff; }
    [[nodiscard]] LinkId link() const { return LinkId(bits / 2); }
    [[nodiscard]] bool is_against() const { return bits & 1U; }
    bool operator==(const LinkWay&) const = default;
};

struct Arc {
    std::uint32_t head = 0;   ///< the node at the far end
    std::uint32_t cost = 0;   ///< in the search's measure
    std::uint32_t other = 0;  ///< in the other measure
    LinkWay way;              ///< which road, travelled which way (as travelled, also in an inward graph)
};

/// Compressed adjacency ("forward star").
class Graph {
public:
    [[nodiscard]] std::uint32_t node_count() const { return static_cast<std::uint32_t>(first_.size()) - 1; }
    [[nodiscard]] std::size_t arc_count() const { return arcs_.size(); }
    [[nodiscard]] std::span<const Arc> arcs_of(std::uint32_t node) const {
        return {arcs_.data() + first_[node], arcs_.data() + first_[node + 1]};
    }
    [[nodiscard]] SearchDirection direction() const { return direction_; }
    [[nodiscard]] Measure measure() const { return measure_; }
    /// The arrays themselves, for measuring how long memory takes to read.
    [[nodiscard]] std::span<const Arc> all_arcs() const { return arcs_; }
    [[nodiscard]] std::span<const std::uint32_t> all_offsets() const { return first_; }

private:
    template <class EachArc>
    friend Graph make_graph_of_arcs(std::uint32_t nodes, Measure measure, SearchDirection direction,
                                    EachArc&& each_arc);
    std::vector<std::uint32_t, HugePages<std::uint32_t>> first_{0};
    std::vector<Arc, HugePages<Arc>> arcs_;
    Measure measure_ = Measure::time;
    SearchDirection direction_ = SearchDirection::outward;
};

/// \param each_arc calls what it is given with (tail, arc) for every arc; called twice, in the same order both times.
/// Arcs that cost `kFar` or more lead nowhere and are left out
template <class EachArc>
Graph make_graph_of_arcs(std::uint32_t nodes, Measure measure, SearchDirection direction, EachArc&& each_arc) {
    Graph g;
    g.measure_ = measure;
    g.direction_ = direction;
    g.first_.assign(std::size_t{nodes} + 1, 0);
    each_arc([&](std::uint32_t tail, const Arc& arc) { g.first_[tail + 1] += arc.cost < kFar ? 1 : 0; });
    for (std::size_t n = 1; n < g.first_.size(); ++n) g.first_[n] += g.first_[n - 1];
    g.arcs_.resize(g.first_.back());
    std::vector<std::uint32_t> next(g.first_.begin(), g.first_.end() - 1);
    each_arc([&](std::uint32_t tail, const Arc& arc) {
        if (arc.cost >= kFar) return;
        Arc& laid = g.arcs_[next[tail]++];
        laid = arc;
        laid.other = std::min(arc.other, kFar);
    });
    return g;
}

/// Arcs for every way that a crossing allows. Two passes over the links; arcs of a node stand in link order.
/// \pre one crossing a link; fewer than 2^31 links
Graph make_graph(const roads::Network& network, std::span<const travel::TraversalTime> crossings, Measure measure,
                 SearchDirection direction);

}  // namespace otoro::routing
