#pragma once
/// \file
/// Searches over the roads of one plan, by whatever is cheapest.
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>

#include "service/assign.h"

namespace otoro::service {

/// The graph that a question searches: roads as the traveller meets them, closures included.
std::shared_ptr<const routing::Graph> graph_of(const Ready& ready, const CostedNetwork& costed);

/// The roads under the plan's closures; those of today where it has none. \throws Stopped
std::shared_ptr<const CostedNetwork> costed_under(const Ready& ready, const Plan& plan, const Task& task);

class Searching {
public:
    Searching(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed);
    /// On what an answer was searched on, so that nothing is laid out again. \pre it has its traces
    Searching(const Ready& ready, const Outcome& outcome);
    /// Labels from these seeds, and in a sentence how they were found. \throws Stopped
    [[nodiscard]] std::pair<Labels, std::string> labels(std::span<const routing::Seed> seeds, const Task& task) const;
    /// Labels up to a cost in the question's measure, by a plain search: what is farther has none. \throws Stopped
    [[nodiscard]] Labels labels_within(std::span<const routing::Seed> seeds, std::uint32_t limit,
                                       const Task& task) const;
    [[nodiscard]] const routing::Graph& graph() const { return *graph_; }

private:
    std::shared_ptr<const routing::Graph> graph_;
    std::optional<Prepared> prepared_;
    std::shared_ptr<const routing::MoveStates> states_;
    bool of_ways_;
    std::string why_;
};

}  // namespace otoro::service
