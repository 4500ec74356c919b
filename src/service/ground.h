#pragma once
/// \file
/// What a search runs on and what it leaves behind.
#include <memory>
#include <optional>
#include <utility>
#include <vector>

#include "roads/closure.h"
#include "routing/sweeps.h"
#include "routing/turn_costs.h"
#include "travel/profile.h"

namespace otoro::service {

/// Roads as one traveller meets them, today or under the closures of a plan.
struct Ground {
    travel::Profile profile;
    std::vector<travel::Crossing> crossings;       ///< whole links, without closures
    std::vector<bool> usable;                      ///< without closures: places stay attached to a road that is shut
    std::vector<roads::Hindrance> hindrances;      ///< what closures do; empty today
    routing::TurnCosts turns;
    routing::WaysByNode ways;                      ///< only where turning is not free
};

/// Costs prepared for sweeping, with the graph they are those of.
struct Prepared {
    std::shared_ptr<const routing::Customised> costs;
    std::shared_ptr<const routing::Graph> graph;
    bool of_ways = false;  ///< whether the graph's nodes are ways of links
};

/// A search's labels: of nodes where turning is free, of ways of links where it is not.
class Labels {
public:
    Labels() = default;
    /// By the graph's node. \param prepared what a sweep ran on; a sweep does not say by which road a route comes
    Labels(routing::LabelArray all, bool of_ways, std::optional<Prepared> prepared = std::nullopt) : all_(std::move(all)), prepared_(std::move(prepared)), of_ways_(of_ways) {}

    /// Outward: what it takes until one may start along `way`. Inward: what it takes from having travelled `way`.
    [[nodiscard]] const routing::Label& at(const roads::Network& network, routing::LinkWay way, bool outward) const {
        return all_[of_ways_ ? way.bits : (outward ? routing::start_of(network, way) : routing::end_of(network, way)).value()];
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
    std::optional<Prepared> prepared_;
    bool of_ways_ = false;
};

}  // namespace otoro::service
