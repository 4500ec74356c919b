#include "routing/turn_costs.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "geo/error.h"
#include "geo/local_frame.h"

namespace otoro::routing {
namespace {

constexpr float kStraight = 45;
constexpr float kBack = 180;

/// Degrees clockwise from north in which a line leaves its first point: towards the first vertex that is elsewhere.
/// Not a number for a line that is all at one point and has no direction.
template <class Vertices>
float bearing(Vertices begin, Vertices end) {
    const geo::LocalFrame frame(*begin);
    for (auto v = begin + 1; v != end; ++v) {
        const geo::Flat d = frame.flat(*v);
        if (d.x != 0 || d.y != 0) return static_cast<float>(std::atan2(d.x, d.y) * 180 / std::numbers::pi);
    }
    return std::numeric_limits<float>::quiet_NaN();
}

/// Into (-180, 180]; positive is to the right.
float turned(float degrees) {
    while (degrees > kBack) degrees -= 2 * kBack;
    while (degrees <= -kBack) degrees += 2 * kBack;
    return degrees;
}

/// A position to the tenth of a microdegree or so, in which signals and nodes agree.
std::uint64_t key(geo::LonLat p) {
    constexpr double kFine = 1e7;
    return (static_cast<std::uint64_t>(std::llround((p.lon + 180) * kFine)) << 32U) ^
           static_cast<std::uint64_t>(std::llround((p.lat + 90) * kFine));
}

}  // namespace

TurnCosts::TurnCosts(const roads::Network& network, std::span<const travel::TraversalTime> crossings,
                     const travel::Turning& turning)
    : turning_(turning), network_(&network) {
    const auto& lines = network.lines();
    if (!turning.obeys_bans || (lines.bans.empty() && lines.banned_paths.empty())) turning_.obeys_bans = false;
    if (lines.traffic_signals.empty()) turning_.signal = {};
    free_ = turning_.is_free() && !turning_.obeys_bans;
    if (free_) return;
    leaving_.resize(std::size_t{2} * network.link_count());
    degree_.assign(network.node_count(), 0);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        const LinkId link(i);
        const auto shape = network.shape(link);
        leaving_[LinkWay::along(link).bits] = bearing(shape.begin(), shape.end());
        leaving_[LinkWay::against(link).bits] = bearing(shape.rbegin(), shape.rend());
        if (!crossings[i].usable()) continue;
        for (const NodeId n : {network.ends(link).from, network.ends(link).to})
            degree_[n.value()] = static_cast<std::uint8_t>(std::min(3, degree_[n.value()] + 1));
    }
    if (turning_.signal.count() == 0) return;
    std::vector<std::uint64_t> keys;
    for (const auto& p : lines.traffic_signals) keys.push_back(key(p));
    std::sort(keys.begin(), keys.end());
    signal_.resize(network.node_count());
    for (std::uint32_t n = 0; n < network.node_count(); ++n)
        signal_[n] = std::binary_search(keys.begin(), keys.end(), key(network.position(NodeId(n))));
}

std::uint32_t TurnCosts::cost(LinkWay from, LinkWay to) const {
    if (free_) return 0;
    const NodeId node = end_of(*network_, from);
    const std::uint8_t degree = degree_[node.value()];
    const float angle = turned(leaving_[to.bits] - leaving_[reversed(from).bits] - kBack);
    const bool back = to == reversed(from) || std::abs(angle) >= kBackFrom;
    if (back && (turning_.where_back == travel::TurningBack::never ||
                 (turning_.where_back == travel::TurningBack::dead_ends && degree > 1)))
        return kForbidden;
    const auto& bans = network_->lines().bans;
    if (turning_.obeys_bans && std::binary_search(bans.begin(), bans.end(), roads::TurnBan{{from.bits}, {to.bits}}))
        return kForbidden;
    std::int64_t ms = !signal_.empty() && signal_[node.value()] ? turning_.signal.count() : 0;
    if (back) {
        ms += turning_.back.count();
    } else {
        // From or onto a road without a direction nobody turns.
        if (degree <= 2 || std::isnan(angle) || std::abs(angle) <= kStraight)
            ms += turning_.straight.count();
        else
            ms += angle > 0 ? turning_.right.count() : turning_.left.count();
    }
    return static_cast<std::uint32_t>(std::min<std::int64_t>(ms, kForbidden - 1));
}

WaysByNode::WaysByNode(const roads::Network& network) : first_(std::size_t{network.node_count()} + 1, 0) {
    const std::uint32_t ways = 2 * network.link_count();
    for (std::uint32_t w = 0; w < ways; ++w) ++first_[start_of(network, {w}).value() + 1];
    for (std::size_t n = 1; n < first_.size(); ++n) first_[n] += first_[n - 1];
    ways_.resize(ways);
    auto next = first_;
    for (std::uint32_t w = 0; w < ways; ++w) ways_[next[start_of(network, {w}).value()]++] = {w};
}

Graph make_turn_graph(const roads::Network& network, std::span<const travel::TraversalTime> crossings,
                      const TurnCosts& turns, const WaysByNode& ways, const MoveStates& states, Measure measure,
                      SearchDirection direction) {
    const auto crossing_of = [&](LinkWay w) {
        return w.is_against() ? crossings[w.link().value()].against : crossings[w.link().value()].along;
    };
    const auto length_of = [&](LinkWay w) { return static_cast<std::uint32_t>(network.length(w.link()).count()); };
    const bool outward = direction == SearchDirection::outward;
    // Every move from `w` onto `n`. The one that is travelled must be allowed; at the very end of the other one may
    // stand though it is shut.
    const auto each_move = [&](auto&& use) {
        for (std::uint32_t state = 0; state < states.count(); ++state) {
            const LinkWay w = states.way_of(state);
            if (outward && crossing_of(w) == travel::kNotAllowed) continue;
            for (const LinkWay n : ways.from(end_of(network, w))) {
                if (!outward && crossing_of(n) == travel::kNotAllowed) continue;
                const std::uint32_t turn = turns.cost(w, n);
                const std::uint32_t next = turn == kForbidden ? MoveStates::kNowhere : states.after(state, n);
                if (next != MoveStates::kNowhere) use(state, next, turn);
            }
        }
    };
    // Every road onto every other: at a junction of thousands that is more than memory holds, and no junction at all.
    constexpr std::uint64_t kMostMoves = 400'000'000;
    std::uint64_t moves = 0;
    std::uint32_t widest = 0;
    for (std::uint32_t n = 0; n < network.node_count(); ++n) {
        const std::uint64_t degree = ways.from(NodeId(n)).size();
        moves += degree * degree;
        if (degree > ways.from(NodeId(widest)).size()) widest = n;
    }
    if (moves > kMostMoves) {
        const auto at = network.position(NodeId(widest));
        throw InputError(
            {"", std::nullopt,
             fmt::format("turning from each road onto each other makes {} moves, more than fit into memory; at {:.5f}, "
                         "{:.5f} alone {} road ends meet",
                         moves, at.lon, at.lat, ways.from(NodeId(widest)).size()),
             "Check the roads there, or travel by a profile in which turning costs nothing"});
    }
    const bool by_time = measure == Measure::time;
    return make_graph_of_arcs(states.count(), measure, direction, [&](auto&& use) {
        each_move([&](std::uint32_t state, std::uint32_t next, std::uint32_t turn) {
            const LinkWay crossed = states.way_of(outward ? state : next);
            const auto ms = static_cast<std::uint32_t>(
                std::min<std::uint64_t>(std::min<std::uint64_t>(crossing_of(crossed), kFar) + turn, kFar));
            const std::uint32_t mm = length_of(crossed);
            use(outward ? state : next, Arc{outward ? next : state, by_time ? ms : mm, by_time ? mm : ms, crossed});
        });
    });
}

}  // namespace otoro::routing
