#pragma once
/// \file
/// What it costs to go from one road onto another where they meet.
///
/// The angle is that between the last segment of the one and the first of the other. Up to 45 degrees either way is
/// straight on, and so is every bend where only two roads meet; beyond that it is left or right; onto the same road, or
/// one that leaves the way one came (`kBackFrom`), is back.
#include <cstdint>
#include <vector>

#include "roads/network.h"
#include "routing/graph.h"
#include "routing/move_states.h"
#include "travel/profile.h"

namespace otoro::routing {

/// A move that is not allowed.
inline constexpr std::uint32_t kForbidden = 0xffffffff;

/// From this angle on, either way, a turn is back: onto the same road, or onto one that lies along it. Rounding decides
/// nothing.
inline constexpr float kBackFrom = 179.5F;

/// Worked out once for a network and a traveller; immutable.
class TurnCosts {
public:
    /// Turning that costs nothing and is allowed everywhere.
    TurnCosts() = default;
    /// Linear in links. \pre one crossing a link
    TurnCosts(const roads::Network& network, std::span<const travel::TraversalTime> crossings,
              const travel::Turning& turning);

    /// Whether every move is free: then nodes, not roads, can be searched.
    [[nodiscard]] bool free() const { return free_; }
    /// Whether moves and paths that the roads forbid are.
    [[nodiscard]] bool obeys_bans() const { return turning_.obeys_bans; }
    /// Milliseconds for the move, or `kForbidden` where it is not allowed. \pre `to` starts where `from` ends
    [[nodiscard]] std::uint32_t cost(LinkWay from, LinkWay to) const;

private:
    bool free_ = true;
    travel::Turning turning_;
    const roads::Network* network_ = nullptr;
    std::vector<float> leaving_;        ///< bearing of each link way where it starts, in degrees
    std::vector<std::uint8_t> degree_;  ///< usable links at each node, up to 3
    std::vector<bool> signal_;          ///< one a node; empty if there are none
};

/// The node that a way starts from and the one it ends at.
inline NodeId start_of(const roads::Network& network, LinkWay way) {
    return way.is_against() ? network.ends(way.link()).to : network.ends(way.link()).from;
}
inline NodeId end_of(const roads::Network& network, LinkWay way) {
    return way.is_against() ? network.ends(way.link()).from : network.ends(way.link()).to;
}
inline LinkWay reversed(LinkWay way) { return {way.bits ^ 1U}; }

/// Ways by the node they start from.
class WaysByNode {
public:
    WaysByNode() = default;
    explicit WaysByNode(const roads::Network& network);
    [[nodiscard]] std::span<const LinkWay> from(NodeId node) const {
        return {ways_.data() + first_[node.value()], ways_.data() + first_[node.value() + 1]};
    }

private:
    std::vector<std::uint32_t> first_;
    std::vector<LinkWay> ways_;
};

/// A graph whose nodes are ways of links (`LinkWay::bits`; and the further states of `MoveStates`), so that every move
/// from road to road has its own cost and is exact.
///
/// Outward, the label of a way is the cost until one starts along it, the turn onto it paid. Inward, it is the cost
/// from where one has travelled it, the turn off it still to be paid. An arc carries the crossing of one way and one
/// turn. About `sum of degree squared` arcs.
Graph make_turn_graph(const roads::Network& network, std::span<const travel::TraversalTime> crossings,
                      const TurnCosts& turns, const WaysByNode& ways, const MoveStates& states, Measure measure,
                      SearchDirection direction);

}  // namespace otoro::routing
