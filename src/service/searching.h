#pragma once
/// \file
/// Searches over the roads of one plan, by whatever is cheapest.
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>

#include "routing/one_to_all.h"
#include "service/assign.h"

namespace otoro::service {

/// The graph that a question searches: roads as the traveller meets them, closures included.
std::shared_ptr<const routing::Graph> graph_of(const Ready& ready, const CostedNetwork& costed);

/// The roads under the plan's closures; those of today where it has none. \throws Stopped
std::shared_ptr<const CostedNetwork> costed_under(const Ready& ready, const Plan& plan, const Task& task);

/// The few nearest sites of every node of a graph.
class FewLabels {
public:
    /// \param hierarchy by whose ranks the labels stand; null: by node
    FewLabels(routing::LabelArray all, std::size_t k, std::shared_ptr<const routing::Hierarchy> hierarchy,
              std::shared_ptr<const routing::MoveStates> states, bool of_ways)
        : all_(std::move(all)),
          k_(k),
          hierarchy_(std::move(hierarchy)),
          states_(std::move(states)),
          of_ways_(of_ways) {}

    /// Those of a node, nearest first; those behind the last found are unreached.
    [[nodiscard]] std::span<const routing::Label> at(std::uint32_t node) const {
        return {all_.data() + std::size_t{hierarchy_ ? hierarchy_->rank_of(node) : node} * k_, k_};
    }
    /// Calls `use` with each label that counts for a way, as `Labels::at` chooses the best of them.
    template <class Use>
    void each(const roads::Network& network, routing::LinkWay way, bool outward, Use&& use) const {
        const auto all = [&](std::uint32_t node) {
            for (const routing::Label& label : at(node))
                if (label.reached()) use(label);
        };
        if (!of_ways_) return all((outward ? routing::start_of(network, way) : routing::end_of(network, way)).value());
        all(way.bits);
        if (outward)
            for (const std::uint32_t s : states_->further(way)) all(s);
    }

private:
    routing::LabelArray all_;
    std::size_t k_;
    std::shared_ptr<const routing::Hierarchy> hierarchy_;
    std::shared_ptr<const routing::MoveStates> states_;
    bool of_ways_;
};

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
    /// The `k` nearest sites of every node. \throws Stopped
    [[nodiscard]] FewLabels few_labels(std::span<const routing::Seed> seeds, std::size_t k, const Task& task) const;
    /// Labels of a few sites at once; that of a node stands at `label_of(node)`. \throws Stopped
    void run(routing::FewToAll& labels, std::span<const std::vector<routing::Seed>> seeds, const Task& task) const;
    [[nodiscard]] std::uint32_t label_of(std::uint32_t node) const {
        return prepared_ ? prepared_->costs->hierarchy().rank_of(node) : node;
    }
    [[nodiscard]] const Prepared* prepared() const { return prepared_ ? &*prepared_ : nullptr; }
    [[nodiscard]] const routing::Graph& graph() const { return *graph_; }

private:
    std::shared_ptr<const routing::Graph> graph_;
    std::optional<Prepared> prepared_;
    std::shared_ptr<const routing::MoveStates> states_;
    bool of_ways_;
    std::string why_;
};

}  // namespace otoro::service
