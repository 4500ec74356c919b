#pragma once
/// \file
/// Which kind of search is cheapest for what is asked, and why.
///
/// Every kind gives the same numbers; this only saves time. Estimates are in microseconds on an ordinary desktop, from
/// the figures in docs/engine.md: a plain search looks at a node in about a tenth of a microsecond, a sweep goes
/// through all arcs of the hierarchy, a table takes a climb for each end and a look for each pair.
#include <cstdint>
#include <optional>
#include <string>

#include "geo/task.h"
#include "routing/graph.h"

namespace otoro::routing {

enum class Manner : std::uint8_t {
    plain,       ///< searching outwards from the sources, nothing prepared
    one_to_all,  ///< one pass over the whole hierarchy
    joining,     ///< climbs from both ends, joined pair by pair
};

/// What is asked.
struct Asked {
    std::uint32_t nodes = 0;
    std::size_t hierarchy_arcs = 0;      ///< 0: nothing is prepared
    std::size_t sources = 1;             ///< of a table; 1 for nearest of many, however many sites there are
    std::size_t targets = 0;             ///< 0: every node
    std::optional<std::uint32_t> limit;  ///< costs beyond need not be known
    std::uint32_t median_arc = 0;        ///< the median cost of an arc, to tell how far the limit reaches
};

struct Choice {
    Manner manner = Manner::plain;
    double microseconds = 0;  ///< estimate
    std::string why;          ///< in a sentence
};

/// The cheapest manner. O(1).
Choice choose(const Asked& asked);

/// What ordering a graph would take, and what a sweep over it would go through then.
struct Ordering {
    double microseconds = 0;
    double arcs = 0;
};
/// Found out by ordering a part of it: chains, towns and grids of one size differ a hundredfold. Takes a tenth of a
/// second or so; nothing for what is smaller than the part. \throws Stopped
Ordering estimate_ordering(const Graph& graph, const Task& task);

/// Whether so many searches of the whole graph, one after another, are worth ordering it first. \throws Stopped
bool worth_ordering(const Graph& graph, std::size_t searches, const Task& task);

/// Networks of fewer nodes are never prepared: a plain search of the whole takes no longer than an eye needs to see a
/// change.
inline constexpr std::uint32_t kWorthPreparing = 30'000;

}  // namespace otoro::routing
