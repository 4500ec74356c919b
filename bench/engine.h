#pragma once
/// The search engine against one tree by Boost on the same graph.
#include <span>
#include <vector>

#include "routing/nearest_search.h"

namespace otoro::bench {

/// One tree by Boost from one node, on the same arcs with the same numbering: seconds. \param distance costs to all
/// nodes
double boost_tree(const routing::Graph& g, std::uint32_t source, std::vector<std::uint32_t>& distance);

/// Ordering, customising and every kind of query. \param nearest what the plain search finds from `seeds` \param
/// building seconds for reading and building the network
void run_engine(const routing::Graph& graph, std::span<const routing::Seed> seeds, const routing::LabelArray& nearest,
                double boost_time, double building);

/// How time grows with the network, and what a grid costs beside a network with rivers, dead ends and fast roads.
void run_growth();

}  // namespace otoro::bench
