#pragma once
/// \file
/// The few nearest sources of every node, by a plain search.
///
/// \par Method
/// Dijkstra's, in which a node is settled once for each of its first `k` sources. What is minimised is the triple
/// (cost, source, other) as in `nearest_search.h`; a source counts once a node, by the least of its triples.
///
/// \par Cost
/// k times that of a search with a heap. On prepared costs `nearest_k` (one_to_all.h) gives the same.
#include <span>
#include <vector>

#include "geo/task.h"
#include "routing/nearest_search.h"

namespace otoro::routing {

/// `k` labels a node, nearest first; those behind the last found are unreached. \throws Stopped
LabelArray nearest_few(const Graph& graph, std::span<const Seed> seeds, std::size_t k, const Task& task);

}  // namespace otoro::routing
