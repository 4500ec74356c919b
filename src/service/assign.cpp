#include "service/assign.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <boost/sort/spreadsort/integer_sort.hpp>
#include <tuple>

#include "geo/digest.h"
#include "places/attach.h"
#include "service/offers.h"

namespace otoro::service {
namespace {

using places::Attachment;
using routing::kFar;
using routing::LinkWay;
using routing::Measure;

Curve curve_of(const Outcome& o, Measure measure) {
    // Value and place as one number: a value is below 2^31.
    std::vector<std::uint64_t, HugePages<std::uint64_t>> served;
    served.reserve(o.places.size());
    for (std::uint32_t i = 0; i < o.places.size(); ++i)
        if (o.places[i].served())
            served.push_back(static_cast<std::uint64_t>(measure == Measure::time ? o.places[i].time.count()
                                                                                 : o.places[i].distance.count())
                                 << 32U |
                             i);
    boost::sort::spreadsort::integer_sort(served.begin(), served.end());
    Curve curve;
    curve.reserve(served.size());
    Tally so_far;
    constexpr std::size_t kAhead = 16;
    for (std::size_t k = 0; k < served.size(); ++k) {
        if (k + kAhead < served.size()) __builtin_prefetch(&o.weights[static_cast<std::uint32_t>(served[k + kAhead])]);
        so_far.places += 1;
        so_far.weight += o.weights[static_cast<std::uint32_t>(served[k])];
        if (k + 1 == served.size() || served[k + 1] >> 32U != served[k] >> 32U)
            curve.push_back({static_cast<std::int64_t>(served[k] >> 32U), so_far.weight, so_far.places});
    }
    return curve;
}

void add_up(Outcome& o) {
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        const PlaceOutcome& p = o.places[i];
        for (Tally* t : {&o.all, &o.by_status[static_cast<std::size_t>(p.status)]}) {
            t->places += 1;
            t->weight += o.weights[i];
        }
        if (!p.served()) continue;
        SiteOutcome& site = o.sites[p.nearest->value()];
        site.places += 1;
        site.load += o.weights[i];
        site.worst_time = std::max(site.worst_time, p.time);
    }
    tbb::parallel_invoke(
        [&] {
            o.time_curve = curve_of(o, Measure::time);
            o.time_statistics = statistics(o.time_curve);
        },
        [&] {
            o.distance_curve = curve_of(o, Measure::distance);
            o.distance_statistics = statistics(o.distance_curve);
        });
}

void add(Digest& d, const std::optional<Amount>& a) {
    d.value(a ? static_cast<std::int64_t>(a->index()) : std::int64_t{-1})
        .value(a ? std::visit([](auto v) { return v.count(); }, *a) : std::int64_t{0});
}

/// Of what a question is asked of. Names of roads count where places or sites are attached by them.
std::string digest_of(const Inputs& inputs) {
    Digest d;
    d.text(inputs.network->digest()).text(inputs.demand->digest()).text(inputs.sites->digest());
    const bool by_name = !inputs.demand->attaching.road_names.empty() || !inputs.sites->attaching.road_names.empty();
    if (by_name)
        for (std::uint32_t i = 0; i < inputs.network->link_count(); ++i) d.text(inputs.network->name(LinkId(i)));
    return d.hex();
}

std::string digest_of(const Ready& ready, const Plan& plan) {
    const Question& q = ready.question;
    Digest d;
    d.text(ready.digest);
    d.value(static_cast<std::uint8_t>(q.by_weight)).value(static_cast<std::uint8_t>(q.use));
    travel::add(d, q.profile);
    d.value(static_cast<std::uint8_t>(q.towards))
        .value(static_cast<std::uint8_t>(q.measure))
        .value(q.attach_limit.count());
    d.value(q.off_road_speed ? q.off_road_speed->mm_per_hour() : 0U);
    add(d, q.limit);
    d.value(static_cast<std::uint64_t>(plan.changes.size())).value(static_cast<std::uint64_t>(plan.closures.size()));
    for (const auto& c : plan.changes) {
        d.value(static_cast<std::uint8_t>(c.change)).text(c.site);
        d.text(c.set).value(static_cast<std::uint8_t>(c.position.has_value()));
        if (c.position) d.value(c.position->lon).value(c.position->lat);
    }
    for (const auto& c : plan.closures) {
        d.value(static_cast<std::uint64_t>(c.more_rings.size()));
        for (const auto& ring : c.more_rings) d.array(ring);
        d.value(static_cast<std::uint8_t>(c.shape))
            .array(c.vertices)
            .value(static_cast<std::uint8_t>(c.effect))
            .value(c.factor_per_mille)
            .value(c.delay.count());
    }
    return d.hex();
}

std::shared_ptr<const routing::Graph> graph_of(const Ready& ready, const Ground& ground) {
    const auto& network = *ready.inputs.network;
    const auto& q = ready.question;
    const auto sweep = q.towards == Towards::demand ? routing::Sweep::outward : routing::Sweep::inward;
    auto crossings = std::span(ground.crossings);
    std::vector<travel::Crossing> hindered;
    if (!ground.hindrances.empty()) {
        hindered.assign(crossings.begin(), crossings.end());
        for (const auto& h : ground.hindrances) hindered[h.link.value()] = split_link(network, ground, h.link).whole();
        crossings = hindered;
    }
    if (ground.turns.free())
        return std::make_shared<const routing::Graph>(make_graph(network, crossings, q.measure, sweep));
    return std::make_shared<const routing::Graph>(
        make_turn_graph(network, crossings, ground.turns, ground.ways, *ground.states, q.measure, sweep));
}

}  // namespace

std::shared_ptr<const Ready> prepare(const Inputs& inputs, const Question& question, const Ready* earlier,
                                     const Task& task) {
    if (!earlier || earlier->inputs.demand != inputs.demand) places::check_weights(*inputs.demand);
    auto ready = std::make_shared<Ready>();
    ready->inputs = inputs;
    ready->question = question;

    const auto& network = *inputs.network;
    const bool same_ground =
        earlier && earlier->inputs.network == inputs.network && earlier->question.profile == question.profile;
    if (same_ground) {
        ready->ground = earlier->ground;
    } else {
        task.at("timing roads", 0.0);
        auto ground = std::make_shared<Ground>();
        ground->profile = question.profile;
        ground->crossings = travel::crossings(network, question.profile, task);
        ground->usable.resize(ground->crossings.size());
        for (std::size_t i = 0; i < ground->crossings.size(); ++i) ground->usable[i] = ground->crossings[i].usable();
        ground->turns = routing::TurnCosts(network, ground->crossings, travel::turning_of(question.profile));
        if (!ground->turns.free()) {
            ground->ways = routing::WaysByNode(network);
            // A traveller who does not obey forbidden turns obeys no forbidden paths.
            ground->states = std::make_shared<const routing::MoveStates>(
                ground->turns.obeys_bans() ? routing::MoveStates(network) : routing::MoveStates::plain(network));
        }
        ready->ground = ground;
    }

    if (same_ground && earlier->question.measure == question.measure && earlier->question.towards == question.towards) {
        ready->graph = earlier->graph;
    } else {
        task.at("laying out the network", 0.2);
        ready->graph = graph_of(*ready, *ready->ground);
    }

    const bool same_limit = same_ground && earlier->question.attach_limit == question.attach_limit;
    if (same_limit && earlier->inputs.demand == inputs.demand) {
        ready->attached = earlier->attached;
    } else {
        task.at("attaching places to roads", 0.5);
        ready->attached = std::make_shared<const std::vector<std::optional<Attachment>>>(
            places::attach_set(network, ready->ground->usable, places::positions(*inputs.demand),
                               inputs.demand->attaching, question.attach_limit, task));
    }
    ready->approaches = earlier && ready->graph == earlier->graph && ready->attached == earlier->attached
                            ? earlier->approaches
                            : std::make_shared<const Approaches>(network, *ready->ground, question, *ready->attached);
    ready->digest = earlier && earlier->inputs == inputs ? earlier->digest : digest_of(inputs);
    ready->for_demand = same_ground && earlier->inputs.demand == inputs.demand
                            ? earlier->for_demand
                            : std::make_shared<const std::vector<bool>>(
                                  places::attachable(network, ready->ground->usable, inputs.demand->attaching.rule));
    ready->for_sites = same_ground && earlier->inputs.sites == inputs.sites
                           ? earlier->for_sites
                           : std::make_shared<const std::vector<bool>>(
                                 places::attachable(network, ready->ground->usable, inputs.sites->attaching.rule));
    if (earlier && ready->graph == earlier->graph) ready->prepared = earlier->prepared;
    return ready;
}

namespace {

/// What is prepared, under the plan's closures: only what they touch is customised anew.
std::optional<Prepared> prepared_under(const Ready& ready, const Ground& ground,
                                       const std::shared_ptr<const routing::Graph>& graph) {
    if (!ready.prepared) return std::nullopt;
    if (graph == ready.graph) return *ready.prepared;
    std::vector<routing::Customised::Joint> touched;
    std::vector<bool> hindered(ground.crossings.size(), false);
    for (const auto& h : ground.hindrances) hindered[h.link.value()] = true;
    for (std::uint32_t node = 0; node < ready.graph->node_count();
         ++node)  // a closure takes arcs away or makes them dearer: all that change are among today's
        for (const auto& arc : ready.graph->arcs_of(node))
            if (hindered[arc.way.link().value()]) touched.push_back({node, arc.head});
    auto costs = std::make_shared<routing::Customised>(*ready.prepared->costs);
    costs->update(*graph, touched);
    return Prepared{costs, graph, ready.prepared->of_ways};
}

}  // namespace

std::shared_ptr<const Ground> ground_under(const Ready& ready, const Plan& plan, const Task& task) {
    if (plan.closures.empty()) return ready.ground;
    auto ground = std::make_shared<Ground>(*ready.ground);
    ground->hindrances = roads::hindrances(*ready.inputs.network, plan.closures, task);
    return ground;
}

std::vector<SiteOutcome> attach_sites(const Ready& ready, const Plan& plan) {
    const auto& set = *ready.inputs.sites;
    std::vector<SiteOutcome> out;
    for (auto& planned : sites_under(set, plan, ready.question.use)) {
        SiteOutcome site;
        const auto index = static_cast<std::uint32_t>(out.size());
        if (planned.site.position) {
            const bool as_read = index < set.count() && set.sites[index].position == planned.site.position;
            site.attachment = places::attach_one(
                *ready.inputs.network, *ready.for_sites, *planned.site.position, index,
                as_read ? set.attaching : places::Attaching{set.attaching.rule, {}, {}}, ready.question.attach_limit);
        }
        site.planned = std::move(planned);
        out.push_back(std::move(site));
    }
    return out;
}

Searching::Searching(const Ready& ready, const std::shared_ptr<const Ground>& ground)
    : graph_(ground == ready.ground ? ready.graph : graph_of(ready, *ground)),
      states_(ground->states),
      of_ways_(!ground->turns.free()) {
    const auto choice = routing::choose(
        {graph_->node_count(), ready.prepared ? ready.prepared->costs->hierarchy().arc_count() : 0, 1, 0, {}, 0});
    why_ = choice.why;
    if (choice.manner == routing::Manner::sweep) prepared_ = prepared_under(ready, *ground, graph_);
}

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

PlaceOutcomes places_of(const Ready& ready, const Ground& ground, const std::vector<SiteOutcome>& sites,
                        const SitesByLink& on_link, const Labels& labels) {
    const auto& demand = *ready.inputs.demand;
    const auto& attached = *ready.attached;
    constexpr std::uint32_t kAhead = 16;
    PlaceOutcomes out;
    out.resize(demand.count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, demand.count(), 4096), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) {
            const auto& ways = ready.approaches->of(i);
            if (!ways[0].attached()) {
                out[i].status = demand.places[i].position ? Status::no_road_near : Status::bad_location;
                continue;
            }
            if (i + kAhead < range.end())
                for (const auto& approach : ready.approaches->of(i + kAhead))
                    if (approach.attached()) labels.soon(approach.node);
            const Offer along = offer_over(labels.at(ways[0].node), {ways[0].cost, ways[0].other}),
                        against = offer_over(labels.at(ways[1].node), {ways[1].cost, ways[1].other});
            ::new (&out[i]) PlaceOutcome(outcome_of(
                ready.question, attached[i],
                std::min(along, against)));  // in place: put together elsewhere and copied, it takes twice as long
        }
    });
    const bool outward = ready.question.towards == Towards::demand;
    const Searched searched(ready, ground, sites, on_link,
                            [&](LinkWay way) { return labels.at(*ready.inputs.network, way, outward); });
    const auto look_closer = [&](LinkId link) {
        for (const std::uint32_t i : ready.approaches->places_on(link))
            out[i] = searched.outcome_at(demand.places[i].position, attached[i]);
    };
    for (const auto& [link, here] : on_link) look_closer(LinkId(link));
    for (const auto& h : ground.hindrances) look_closer(h.link);
    for (const LinkId link : ground.states->links()) look_closer(link);
    for (const std::uint32_t i : ready.approaches->on_junctions())
        out[i] = searched.outcome_at(demand.places[i].position, attached[i]);
    return out;
}

Outcome answer(const Ready& ready, const Plan& plan, const Task& task) {
    Outcome o;
    o.question = ready.question;
    o.plan = plan;
    o.digest = digest_of(ready, plan);
    o.attach_limit = attach_limit_of(ready);
    o.any_road = *ready.for_demand == ready.ground->usable;
    o.sites = attach_sites(ready, plan);
    o.ground = ground_under(ready, plan, task);
    std::tie(o.labels, o.searched) = Searching(ready, o.ground).labels(seeds_of(ready, *o.ground, o.sites), task);
    task.check();

    o.places = places_of(ready, *o.ground, o.sites, by_link(o.sites), o.labels);
    task.check();

    const auto& demand = *ready.inputs.demand;
    o.weights.reserve(demand.count());
    for (const auto& p : demand.places) o.weights.push_back(ready.question.by_weight ? p.weight : Weight::one());
    add_up(o);
    return o;
}

namespace {

std::string order_name(const Ready& ready) {
    const bool of_ways = !ready.ground->turns.free();
    Digest d;
    d.text(ready.inputs.network->digest()).text(of_ways ? "moves" : "junctions");
    if (of_ways) travel::add(d, ready.ground->profile);
    return d.hex();
}

}  // namespace

void keep_order(const Ready& ready, const Prepared& prepared, OrderStore& store) {
    if (!store.find(order_name(ready))) store.keep(order_name(ready), prepared.costs->hierarchy().turns());
}

std::shared_ptr<const Prepared> prepare_searches(const Ready& ready, const Prepared* earlier, OrderStore* store,
                                                 const Task& task, std::uint32_t least_nodes) {
    if (ready.graph->node_count() < least_nodes) return nullptr;
    const bool of_ways = !ready.ground->turns.free();
    std::shared_ptr<const routing::Hierarchy> order;
    if (earlier && !of_ways && !earlier->of_ways &&
        earlier->costs->hierarchy().node_count() == ready.graph->node_count())
        order = earlier->costs->shared_hierarchy();
    if (order)
        return std::make_shared<const Prepared>(
            Prepared{std::make_shared<const routing::Customised>(order, *ready.graph, task), ready.graph, of_ways});

    // The order of junctions is that of the whole network, whoever may use it, so that it serves every traveller; moves
    // from road to road are ordered as they are allowed.
    const auto& network = *ready.inputs.network;
    const std::string name = order_name(ready);
    std::shared_ptr<const routing::Graph> joints = ready.graph;
    if (!of_ways)
        joints = std::make_shared<const routing::Graph>(
            make_graph(network, std::vector<travel::Crossing>(network.link_count(), travel::Crossing{1, 1}),
                       Measure::time, routing::Sweep::outward));
    if (store != nullptr)
        if (const auto turns = store->find(name)) order = routing::Hierarchy::of(*joints, *turns, task);
    if (!order) {
        order = routing::Hierarchy::of(*joints, task);
        if (order && store != nullptr) store->keep(name, order->turns());
    }
    if (!order) return nullptr;
    return std::make_shared<const Prepared>(
        Prepared{std::make_shared<const routing::Customised>(order, *ready.graph, task), ready.graph, of_ways});
}

std::shared_ptr<const routing::Graph> graph_under(const Ready& ready, const Outcome& outcome) {
    if (outcome.labels.prepared()) return outcome.labels.prepared()->graph;
    return outcome.ground == ready.ground ? ready.graph : graph_of(ready, *outcome.ground);
}

std::optional<Attachment> attach_site(const Ready& ready, geo::LonLat spot, std::uint32_t number) {
    return places::attach_one(*ready.inputs.network, *ready.for_sites, spot, number,
                              places::Attaching{ready.inputs.sites->attaching.rule, {}, {}},
                              ready.question.attach_limit);
}

}  // namespace otoro::service
