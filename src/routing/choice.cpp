#include "routing/choice.h"

#include <algorithm>

namespace otoro::routing {
namespace {

constexpr double kNode = 0.1;        // a node looked at by a plain search
constexpr double kArc = 0.0015;      // an arc of a pass
constexpr double kClimb = 30;        // from one node to the top
constexpr double kPair = 0.025;      // two climbs joined
constexpr double kAroundAMiddlingArc = 2;  // nodes within a limit of one middling arc; with the square of the limit, as on any plane

double searched_nodes(const Asked& a) {
    if (!a.limit || a.middling_arc == 0) return a.nodes;
    const double steps = static_cast<double>(*a.limit) / a.middling_arc;
    return std::min<double>(a.nodes, kAroundAMiddlingArc * steps * steps + 1);
}

std::string count(double n) {
    auto digits = std::to_string(static_cast<std::uint64_t>(n));
    for (auto at = static_cast<std::ptrdiff_t>(digits.size()) - 3; at > 0; at -= 3) digits.insert(static_cast<std::size_t>(at), ",");
    return digits;
}

}  // namespace

Choice choose(const Asked& a) {
    const auto sources = static_cast<double>(a.sources);
    const double near = searched_nodes(a);
    Choice plain{Manner::plain, sources * near * kNode, {}};
    if (a.hierarchy_arcs == 0) {
        plain.why = a.nodes < kWorthPreparing ? "Searched plainly: with " + count(a.nodes) + " junctions there is nothing to gain from preparing." : "Searched plainly: nothing is prepared.";
        return plain;
    }
    plain.why = "Searched plainly: only about " + count(near) + " of " + count(a.nodes) + " junctions lie within the limit.";
    Choice sweep{Manner::sweep, sources * (kClimb + static_cast<double>(a.hierarchy_arcs) * kArc), "Swept: one pass over " + count(static_cast<double>(a.hierarchy_arcs)) + " prepared arcs gives every junction its answer."};
    Choice best = plain.microseconds < sweep.microseconds ? plain : sweep;
    if (a.targets > 0) {
        const auto targets = static_cast<double>(a.targets);
        Choice joining{Manner::joining, (sources + targets) * kClimb + sources * targets * kPair, "Joined pair by pair: " + count(sources) + " climbs on one side and " + count(targets) + " on the other meet where their routes are highest."};
        if (joining.microseconds < best.microseconds) best = joining;
    }
    return best;
}

}  // namespace otoro::routing
