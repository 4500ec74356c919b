#pragma once
/// \file
/// What a search runs on and what it leaves behind.
#include <memory>
#include <optional>
#include <tuple>
#include <utility>
#include <vector>

#include "roads/closure.h"
#include "routing/one_to_all.h"
#include "routing/turn_costs.h"
#include "travel/profile.h"

namespace otoro::service {

/// Roads as one traveller meets them, today or under the closures of a plan.
struct CostedNetwork {
    travel::Profile profile;
    std::vector<travel::TraversalTime> traversal_times;  ///< whole links, without closures
    std::vector<bool> usable;  ///< without closures: places stay attached to a road that is shut
    std::vector<roads::LinkRestriction> restrictions;  ///< what closures do; empty today
    routing::TurnCosts turns;
    routing::WaysByNode ways;  ///< only where turning is not free
    std::shared_ptr<const routing::MoveStates> states = std::make_shared<const routing::MoveStates>();  ///< the same
};

/// Costs prepared for sweeping, with the graph they are those of.
struct Prepared {
    std::shared_ptr<const routing::Customised> costs;
    std::shared_ptr<const routing::Graph> graph;
    std::shared_ptr<const roads::Network> network;  ///< whose order it is: what may be taken over is told by it
    bool of_ways = false;                           ///< whether the graph's nodes are ways of links
};

/// The state of a way whose label is least; the plain one of equals.
template <class LabelAt>
std::uint32_t least_state(const routing::MoveStates& states, routing::LinkWay way, LabelAt&& label) {
    std::uint32_t best = way.bits;
    for (const std::uint32_t s : states.further(way)) {
        const routing::Label &a = label(s), &b = label(best);
        if (std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other)) best = s;
    }
    return best;
}

/// A search's labels: of nodes where turning is free, of ways of links where it is not.
class Labels {
public:
    Labels() = default;
    /// By the graph's node. \param prepared what a sweep ran on; a sweep does not say by which road a route comes
    Labels(routing::LabelArray all, bool of_ways, std::shared_ptr<const routing::MoveStates> states,
           std::optional<Prepared> prepared = std::nullopt)
        : all_(std::move(all)), states_(std::move(states)), prepared_(std::move(prepared)), of_ways_(of_ways) {}

    /// Outward: what it takes until one may start along `way`, however one came there. Inward: what it takes from
    /// having travelled `way` and nothing before it.
    [[nodiscard]] routing::Label at(const roads::Network& network, routing::LinkWay way, bool outward) const {
        return all_[state(network, way, outward)];
    }
    /// The graph's node that this label is of.
    [[nodiscard]] std::uint32_t state(const roads::Network& network, routing::LinkWay way, bool outward) const {
        if (!of_ways_) return (outward ? routing::start_of(network, way) : routing::end_of(network, way)).value();
        return outward
                   ? least_state(*states_, way, [this](std::uint32_t s) -> const routing::Label& { return all_[s]; })
                   : way.bits;
    }
    /// The same by the graph's node.
    [[nodiscard]] const routing::Label& at(std::uint32_t node) const { return all_[node]; }
    /// Asks memory for a label that will be looked at soon.
    void soon(std::uint32_t node) const { __builtin_prefetch(&all_[node]); }
    [[nodiscard]] bool of_ways() const { return of_ways_; }
    /// What a sweep ran on; nothing after a plain search.
    [[nodiscard]] const std::optional<Prepared>& prepared() const { return prepared_; }

private:
    routing::LabelArray all_;
    std::shared_ptr<const routing::MoveStates> states_;
    std::optional<Prepared> prepared_;
    bool of_ways_ = false;
};

}  // namespace otoro::service
