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
    /// Labels from these seeds, and in a sentence how they were found. \throws Stopped
    [[nodiscard]] std::pair<Labels, std::string> labels(std::span<const routing::Seed> seeds, const Task& task) const;

private:
    std::shared_ptr<const routing::Graph> graph_;
    std::optional<Prepared> prepared_;
    std::shared_ptr<const routing::MoveStates> states_;
    bool of_ways_;
    std::string why_;
};

}  // namespace otoro::service
