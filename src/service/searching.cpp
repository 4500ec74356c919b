#include "service/searching.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "geo/digest.h"
#include "routing/nearest_few.h"
#include "service/access_legs.h"

namespace otoro::service {

using routing::kFar;
using routing::Measure;

std::shared_ptr<const routing::Graph> graph_of(const Ready& ready, const CostedNetwork& costed) {
    const auto& network = *ready.inputs.network;
    const auto& q = ready.question;
    const auto direction =
        q.towards == Towards::demand ? routing::SearchDirection::outward : routing::SearchDirection::inward;
    auto crossings = std::span(costed.traversal_times);
    std::vector<travel::TraversalTime> restricted;
    if (!costed.restrictions.empty()) {
        restricted.assign(crossings.begin(), crossings.end());
        for (const auto& h : costed.restrictions)
            restricted[h.link.value()] = split_link(network, costed, h.link).whole();
        crossings = restricted;
    }
    if (costed.turns.free())
        return std::make_shared<const routing::Graph>(make_graph(network, crossings, q.measure(), direction));
    return std::make_shared<const routing::Graph>(
        make_turn_graph(network, crossings, costed.turns, costed.ways, *costed.states, q.measure(), direction));
}

std::shared_ptr<const CostedNetwork> costed_under(const Ready& ready, const Plan& plan, const Task& task) {
    if (plan.closures.empty()) return ready.costed;
    auto costed = std::make_shared<CostedNetwork>(*ready.costed);
    costed->restrictions = roads::restrictions(*ready.inputs.network, plan.closures, task);
    return costed;
}

namespace {

/// What is prepared, under the plan's closures: only what they touch is customised anew.
std::optional<Prepared> prepared_under(const Ready& ready, const CostedNetwork& costed,
                                       const std::shared_ptr<const routing::Graph>& graph) {
    if (!ready.prepared) return std::nullopt;
    if (graph == ready.graph) return *ready.prepared;
    std::vector<routing::Customised::Joint> touched;
    std::vector<bool> restricted(costed.traversal_times.size(), false);
    for (const auto& h : costed.restrictions) restricted[h.link.value()] = true;
    for (std::uint32_t node = 0; node < ready.graph->node_count();
         ++node)  // a closure takes arcs away or makes them dearer: all that change are among today's
        for (const auto& arc : ready.graph->arcs_of(node))
            if (restricted[arc.way.link().value()]) touched.push_back({node, arc.head});
    auto costs = std::make_shared<routing::Customised>(*ready.prepared->costs);
    costs->update(*graph, touched);
    return Prepared{costs, graph, ready.prepared->network, ready.prepared->of_ways};
}

}  // namespace

Searching::Searching(const Ready& ready, const std::shared_ptr<const CostedNetwork>& costed)
    : graph_(costed == ready.costed ? ready.graph : graph_of(ready, *costed)),
      states_(costed->states),
      of_ways_(!costed->turns.free()) {
    const auto choice = routing::choose(
        {graph_->node_count(), ready.prepared ? ready.prepared->costs->hierarchy().arc_count() : 0, 1, 0, {}, 0});
    why_ = choice.why;
    if (choice.manner == routing::Manner::one_to_all) prepared_ = prepared_under(ready, *costed, graph_);
}

Searching::Searching(const Ready& ready, const Outcome& outcome)
    : graph_(graph_under(ready, outcome)),
      prepared_(outcome.traces->labels.prepared()),
      states_(outcome.traces->costed->states),
      of_ways_(!outcome.traces->costed->turns.free()) {}

std::pair<Labels, std::string> Searching::labels(std::span<const routing::Seed> seeds, const Task& task) const {
    task.at("finding the nearest site", 0.0);
    if (prepared_) {
        const auto by_rank = routing::nearest(*prepared_->costs, seeds, routing::Run::with);
        const auto& h = prepared_->costs->hierarchy();
        // Places look labels up here and there: one touch of memory each, instead of four.
        routing::LabelArray labels;
        labels.resize(h.node_count());
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, h.node_count(), 16'384), [&](const auto& range) {
            for (std::uint32_t node = range.begin(); node != range.end(); ++node)
                labels[node] = by_rank.at(h.rank_of(node));
        });
        return {Labels(std::move(labels), of_ways_, states_, *prepared_), why_};
    }
    return {Labels(nearest_of_many(*graph_, seeds, kFar - 1, task), of_ways_, states_), why_};
}

Labels Searching::labels_within(std::span<const routing::Seed> seeds, std::uint32_t limit, const Task& task) const {
    return {nearest_of_many(*graph_, seeds, std::min(limit, kFar - 1), task), of_ways_, states_};
}

FewLabels Searching::few_labels(std::span<const routing::Seed> seeds, std::size_t k, const Task& task) const {
    task.at("finding the nearest sites", 0.0);
    if (prepared_)
        return {routing::nearest_k(*prepared_->costs, seeds, k, routing::Run::with), k,
                prepared_->costs->shared_hierarchy(), states_, of_ways_};
    return {routing::nearest_few(*graph_, seeds, k, task), k, nullptr, states_, of_ways_};
}

void Searching::run(routing::FewToAll& labels, std::span<const std::vector<routing::Seed>> seeds,
                    const Task& task) const {
    if (prepared_)
        labels.run(*prepared_->costs, seeds, routing::Run::with);
    else
        labels.run(*graph_, seeds, task);
}

namespace {

std::string order_name(const Ready& ready) {
    const bool of_ways = !ready.costed->turns.free();
    Digest d;
    d.text(ready.inputs.network->digest()).text(of_ways ? "moves" : "junctions");
    if (of_ways) travel::add(d, ready.costed->profile);
    return d.hex();
}

}  // namespace

void keep_order(const Ready& ready, const Prepared& prepared, OrderStore& store) {
    if (!store.find(order_name(ready))) store.keep(order_name(ready), prepared.costs->hierarchy().positions());
}

std::shared_ptr<const Prepared> prepare_searches(const Ready& ready, const Prepared* earlier, OrderStore* store,
                                                 const Task& task, std::uint32_t least_nodes) {
    if (ready.graph->node_count() < least_nodes) return nullptr;
    const bool of_ways = !ready.costed->turns.free();
    std::shared_ptr<const routing::Hierarchy> order;
    if (earlier && !of_ways && !earlier->of_ways && earlier->network == ready.inputs.network)
        order = earlier->costs->shared_hierarchy();
    if (order)
        return std::make_shared<const Prepared>(
            Prepared{std::make_shared<const routing::Customised>(order, *ready.graph, task), ready.graph,
                     ready.inputs.network, of_ways});

    // The order of junctions is that of the whole network, whoever may use it, so that it serves every traveller; moves
    // from road to road are ordered as they are allowed.
    const auto& network = *ready.inputs.network;
    const std::string name = order_name(ready);
    std::shared_ptr<const routing::Graph> joints = ready.graph;
    if (!of_ways)
        joints = std::make_shared<const routing::Graph>(
            make_graph(network, std::vector<travel::TraversalTime>(network.link_count(), travel::TraversalTime{1, 1}),
                       Measure::time, routing::SearchDirection::outward));
    if (store != nullptr)
        if (const auto positions = store->find(name)) order = routing::Hierarchy::of(*joints, *positions, task);
    if (!order) {
        order = routing::Hierarchy::of(*joints, task);
        if (order && store != nullptr) store->keep(name, order->positions());
    }
    if (!order) return nullptr;
    return std::make_shared<const Prepared>(
        Prepared{std::make_shared<const routing::Customised>(order, *ready.graph, task), ready.graph,
                 ready.inputs.network, of_ways});
}

std::shared_ptr<const routing::Graph> graph_under(const Ready& ready, const Outcome& outcome) {
    if (outcome.traces->labels.prepared()) return outcome.traces->labels.prepared()->graph;
    return outcome.traces->costed == ready.costed ? ready.graph : graph_of(ready, *outcome.traces->costed);
}

}  // namespace otoro::service
