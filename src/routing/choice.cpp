#include "routing/choice.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <vector>

#include "routing/hierarchy.h"

namespace otoro::routing {
namespace {

constexpr double kNode = 0.1;    // a node looked at by a plain search
constexpr double kArc = 0.0015;  // an arc of a pass
constexpr double kClimb = 30;    // from one node to the top
constexpr double kPair = 0.025;  // two climbs joined
constexpr double kAroundAMiddlingArc =
    2;  // nodes within a limit of one median arc; with the square of the limit, as on any plane

double searched_nodes(const Asked& a) {
    if (!a.limit || a.median_arc == 0) return a.nodes;
    const double steps = static_cast<double>(*a.limit) / a.median_arc;
    return std::min<double>(a.nodes, kAroundAMiddlingArc * steps * steps + 1);
}

std::string count(double n) {
    auto digits = std::to_string(static_cast<std::uint64_t>(n));
    for (auto at = static_cast<std::ptrdiff_t>(digits.size()) - 3; at > 0; at -= 3)
        digits.insert(static_cast<std::size_t>(at), ",");
    return digits;
}

}  // namespace

Choice choose(const Asked& a) {
    const auto sources = static_cast<double>(a.sources);
    const double near = searched_nodes(a);
    Choice plain{Manner::plain, sources * near * kNode, {}};
    if (a.hierarchy_arcs == 0) {
        plain.why = a.nodes < kWorthPreparing ? "Searched plainly: with " + count(a.nodes) +
                                                    " junctions there is nothing to gain from preparing."
                                              : "Searched plainly: nothing is prepared.";
        return plain;
    }
    plain.why =
        "Searched plainly: only about " + count(near) + " of " + count(a.nodes) + " junctions lie within the limit.";
    Choice one_to_all{Manner::one_to_all, sources * (kClimb + static_cast<double>(a.hierarchy_arcs) * kArc),
                      "Swept: one pass over " + count(static_cast<double>(a.hierarchy_arcs)) +
                          " prepared arcs gives every junction its answer."};
    Choice best = plain.microseconds < one_to_all.microseconds ? plain : one_to_all;
    if (a.targets > 0) {
        const auto targets = static_cast<double>(a.targets);
        Choice joining{Manner::joining, (sources + targets) * kClimb + sources * targets * kPair,
                       "Joined pair by pair: " + count(sources) + " climbs on one side and " + count(targets) +
                           " on the other meet where their routes are highest."};
        if (joining.microseconds < best.microseconds) best = joining;
    }
    return best;
}

Ordering estimate_ordering(const Graph& graph, const Task& task) {
    constexpr std::uint32_t kPart = 20'000;
    const std::uint32_t count = graph.node_count();
    if (count <= kPart) return {};
    // The part of it around its middle, as one comes to the nodes; where that ends too soon, from the next node on.
    constexpr std::uint32_t kNone = 0xffffffff;
    std::vector<std::uint32_t> number(count, kNone), part;
    for (std::uint32_t start = count / 2; part.size() < kPart; start = start + 1 < count ? start + 1 : 0) {
        if (number[start] != kNone) continue;
        number[start] = static_cast<std::uint32_t>(part.size());
        part.push_back(start);
        for (std::size_t at = part.size() - 1; at < part.size() && part.size() < kPart; ++at)
            for (const Arc& arc : graph.arcs_of(part[at]))
                if (part.size() < kPart && number[arc.head] == kNone) {
                    number[arc.head] = static_cast<std::uint32_t>(part.size());
                    part.push_back(arc.head);
                }
    }
    const Graph sample = make_graph_of_arcs(kPart, graph.measure(), graph.direction(), [&](auto&& use) {
        for (std::uint32_t i = 0; i < kPart; ++i)
            for (Arc arc : graph.arcs_of(part[i])) {
                if (number[arc.head] == kNone) continue;
                arc.head = number[arc.head];
                use(i, arc);
            }
    });
    const auto begin = std::chrono::steady_clock::now();
    const auto order = Hierarchy::of(sample, task);
    const std::chrono::duration<double, std::micro> took = std::chrono::steady_clock::now() - begin;
    // Dissection takes a step for each halving; the arcs of a grid grow with it too.
    const double size = static_cast<double>(count) / kPart,
                 steps = std::log2(static_cast<double>(count)) / std::log2(static_cast<double>(kPart));
    if (!order) return {std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};
    return {took.count() * size * steps, static_cast<double>(order->arc_count()) * size * steps};
}

bool worth_ordering(const Graph& graph, std::size_t searches, const Task& task) {
    constexpr std::size_t kFew = 8;
    if (searches < kFew || graph.node_count() < kWorthPreparing) return false;
    const double plain = static_cast<double>(searches) * graph.node_count() * kNode;
    const Ordering ordering = estimate_ordering(graph, task);
    // Customising costs about as much again as a tenth of ordering; a sweep its arcs.
    constexpr double kCustomising = 1.1;
    return ordering.microseconds * kCustomising + static_cast<double>(searches) * (kClimb + ordering.arcs * kArc) <
           plain;
}

}  // namespace otoro::routing
