#pragma once
/// \file
/// One route between two nodes, road by road, and the order of visiting several.
///
/// \par Method
/// Both ends climb the elimination tree; the route's highest node is where their sum is least. Each arc on the way
/// stands for a road of the network, or for two arcs over a lower node, and so on down to roads (Dibbelt, Strasser,
/// Wagner 2016). The best order of up to twelve stops is found exactly, from the orders of ever larger sets of stops
/// (Held, Karp 1962; Bellman 1962).
///
/// \par Cost
/// A route: as many steps as the arcs above its two ends, a few hundred microseconds with all its roads on a county.
/// Orders: n^2 2^n steps for n stops.
#include <optional>
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/customised.h"
#include "routing/nearest_search.h"

namespace otoro::routing {

struct Route {
    ArcWeight weight;           ///< in all; of routes of equal cost, one with the least of the other measure
    std::vector<LinkWay> ways;  ///< roads as travelled, in order; in a turn graph each way that is crossed
};

/// \param graph the one that was customised \param from, to nodes of it; with arcs out of `from` \returns nothing if
/// there is no route
std::optional<Route> route(const Customised& fast, const Graph& graph, std::uint32_t from, std::uint32_t to);
/// From the best of several starts to the best of several ends, each with what it takes to get there.
struct RouteBetween {
    Route route;
    std::size_t start, end;  ///< places in the lists
};
std::optional<RouteBetween> route(const Customised& fast, const Graph& graph, std::span<const Seed> starts,
                                  std::span<const Seed> ends);

/// Legs between stops: `cost(i, j)` from stop i to stop j; `kFar` if there is none.
class Legs {
public:
    explicit Legs(std::size_t stops) : stops_(stops), cost_(stops * stops, kFar) {}
    [[nodiscard]] std::size_t stops() const { return stops_; }
    [[nodiscard]] std::uint32_t at(std::size_t from, std::size_t to) const { return cost_[from * stops_ + to]; }
    void set(std::size_t from, std::size_t to, std::uint32_t cost) { cost_[from * stops_ + to] = cost; }

private:
    std::size_t stops_;
    std::vector<std::uint32_t> cost_;
};

inline constexpr std::size_t kMostStopsInBestOrder = 12;

/// The order of all stops with the least sum of legs that begins with the first and ends with the last. Of equally good
/// orders the one that keeps earlier stops first. \returns nothing if no order reaches them all \throws
/// std::length_error with more than `kMostStopsInBestOrder` stops between the two \throws Stopped
std::optional<std::vector<std::size_t>> best_order(const Legs& legs, const Task& task);

}  // namespace otoro::routing
