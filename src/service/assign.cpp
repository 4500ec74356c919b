#include "service/assign.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <tuple>
#include <unordered_map>

#include "geo/digest.h"
#include "geo/ellipsoid.h"
#include "service/split_link.h"

namespace otoro::service {
namespace {

using places::Attachment;
using routing::kFar;
using routing::Label;
using routing::LinkWay;
using routing::Measure;

/// A way to serve a place: the lexicographically least is taken.
struct Offer {
    std::uint32_t cost = kFar;
    std::uint32_t source = kFar;
    std::uint32_t other = kFar;
    LinkWay last;           ///< how the place's own link is travelled
    bool same_link = false; ///< the site stands on that link too and the route does not leave it

    bool operator<(const Offer& o) const { return std::tie(cost, source, other) < std::tie(o.cost, o.source, o.other); }
};

/// Sites in use by the link they are attached to.
using SitesByLink = std::unordered_map<std::uint32_t, std::vector<std::uint32_t>>;

struct Searched {
    const Ready& ready;
    const std::vector<Label>& labels;
    const std::vector<SiteOutcome>& sites;
    const SitesByLink& on_link;
};

Offer offer_over(const Label& label, const std::optional<Part>& part, Measure measure, LinkWay way) {
    if (!label.reached() || !part) return {};
    const auto step = part->in(measure);
    const std::uint64_t cost = std::uint64_t{label.cost} + step.cost;
    if (cost >= kFar) return {};
    const std::uint64_t other = std::min<std::uint64_t>(std::uint64_t{label.other} + step.other, kFar);
    return {static_cast<std::uint32_t>(cost), label.source, static_cast<std::uint32_t>(other), way, false};
}

/// The best way to serve something attached at `a`.
Offer best_offer(const Searched& s, const Attachment& a) {
    const auto& network = *s.ready.inputs.network;
    const SplitLink link(network, s.ready.ground->crossings[a.link.value()], a.link);
    const auto ends = network.ends(a.link);
    const Label& at_from = s.labels[ends.from.value()];
    const Label& at_to = s.labels[ends.to.value()];
    const bool outward = s.ready.question.towards == Towards::demand;
    const Measure measure = s.ready.question.measure;

    Offer best;
    if (const auto here = s.on_link.find(a.link.value()); here != s.on_link.end()) {
        for (const std::uint32_t site : here->second) {
            const Millimetres at_site = s.sites[site].attachment->offset;
            const Millimetres begin = outward ? at_site : a.offset;
            const Millimetres end = outward ? a.offset : at_site;
            if (const auto part = link.between(begin, end)) {
                const auto step = part->in(measure);
                best = std::min(best, Offer{step.cost, site, step.other, begin <= end ? LinkWay::along(a.link) : LinkWay::against(a.link), true});
            }
        }
    }
    const Millimetres start{0};
    const Millimetres finish = network.length(a.link);
    const Offer by_from = outward ? offer_over(at_from, link.between(start, a.offset), measure, LinkWay::along(a.link))
                                  : offer_over(at_from, link.between(a.offset, start), measure, LinkWay::against(a.link));
    const Offer by_to = outward ? offer_over(at_to, link.between(finish, a.offset), measure, LinkWay::against(a.link))
                                : offer_over(at_to, link.between(a.offset, finish), measure, LinkWay::along(a.link));
    return std::min(std::min(best, by_from), by_to);
}

bool beyond(const PlaceOutcome& p, const std::optional<Amount>& limit) {
    if (!limit) return false;
    return std::holds_alternative<Millis>(*limit) ? p.time > std::get<Millis>(*limit) : p.distance > std::get<Millimetres>(*limit);
}

PlaceOutcome outcome_at(const Searched& s, const std::optional<geo::LonLat>& position, const std::optional<Attachment>& a) {
    PlaceOutcome p;
    if (!position) return p;
    p.status = Status::no_road_near;
    if (!a) return p;
    p.status = Status::cut_off;
    const Offer offer = best_offer(s, *a);
    if (offer.cost == kFar) return p;
    const bool by_time = s.ready.question.measure == Measure::time;
    p.nearest = SiteIndex(offer.source);
    p.time = Millis(by_time ? offer.cost : offer.other);
    p.distance = Millimetres(by_time ? offer.other : offer.cost);
    p.straight = geo::distance(*position, *s.sites[offer.source].planned.site.position);
    p.status = beyond(p, s.ready.question.limit) ? Status::beyond_limit : Status::served;
    return p;
}

std::vector<SiteOutcome> attach_sites(const Ready& ready, const Plan& plan) {
    std::vector<SiteOutcome> out;
    for (auto& planned : sites_under(*ready.inputs.sites, plan, ready.question.use)) {
        SiteOutcome site;
        if (planned.site.position) site.attachment = places::attach(*ready.inputs.network, ready.ground->usable, *planned.site.position, ready.question.attach_limit);
        site.planned = std::move(planned);
        out.push_back(std::move(site));
    }
    return out;
}

std::vector<routing::Seed> seeds_of(const Ready& ready, const std::vector<SiteOutcome>& sites) {
    const auto& network = *ready.inputs.network;
    const bool outward = ready.question.towards == Towards::demand;
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        if (!sites[i].planned.in_use || !sites[i].attachment) continue;
        const Attachment& a = *sites[i].attachment;
        const SplitLink link(network, ready.ground->crossings[a.link.value()], a.link);
        const auto ends = network.ends(a.link);
        const auto add = [&](NodeId node, Millimetres node_offset, LinkWay way) {
            const auto part = outward ? link.between(a.offset, node_offset) : link.between(node_offset, a.offset);
            if (!part) return;
            const auto step = part->in(ready.question.measure);
            seeds.push_back({node.value(), step.cost, step.other, i, way});
        };
        add(ends.from, Millimetres(0), outward ? LinkWay::against(a.link) : LinkWay::along(a.link));
        add(ends.to, network.length(a.link), outward ? LinkWay::along(a.link) : LinkWay::against(a.link));
    }
    return seeds;
}

SitesByLink by_link(const std::vector<SiteOutcome>& sites) {
    SitesByLink out;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.in_use && sites[i].attachment) out[sites[i].attachment->link.value()].push_back(i);
    return out;
}

std::vector<CurvePoint> curve_of(const Outcome& o, Measure measure) {
    std::vector<std::pair<std::int64_t, std::uint32_t>> served;
    for (std::uint32_t i = 0; i < o.places.size(); ++i)
        if (o.places[i].served()) served.emplace_back(measure == Measure::time ? o.places[i].time.count() : o.places[i].distance.count(), i);
    std::sort(served.begin(), served.end());
    std::vector<CurvePoint> curve;
    Tally so_far;
    for (const auto& [value, place] : served) {
        so_far.places += 1;
        so_far.weight += o.weights[place];
        if (curve.empty() || curve.back().value != value) curve.push_back({value, {}, 0});
        curve.back().weight = so_far.weight;
        curve.back().places = so_far.places;
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
    o.time_curve = curve_of(o, Measure::time);
    o.distance_curve = curve_of(o, Measure::distance);
}

void add(Digest& d, const std::optional<Amount>& a) {
    d.value(a ? static_cast<std::int64_t>(a->index()) : std::int64_t{-1}).value(a ? std::visit([](auto v) { return v.count(); }, *a) : std::int64_t{0});
}

std::string digest_of(const Ready& ready, const Plan& plan) {
    const Question& q = ready.question;
    Digest d;
    d.text(ready.inputs.network->digest()).text(ready.inputs.demand->digest()).text(ready.inputs.sites->digest());
    d.value(static_cast<std::uint8_t>(q.by_weight)).value(static_cast<std::uint8_t>(q.use)).value(static_cast<std::uint8_t>(q.profile.mode));
    d.value(q.profile.one_speed ? q.profile.one_speed->mm_per_hour() : 0U).value(static_cast<std::uint8_t>(q.towards));
    d.value(static_cast<std::uint8_t>(q.measure)).value(q.attach_limit.count());
    add(d, q.limit);
    for (const auto& c : plan.changes) {
        d.value(static_cast<std::uint8_t>(c.change)).text(c.site);
        if (c.position) d.value(c.position->lon).value(c.position->lat);
    }
    return d.hex();
}

/// The shape of one link travelled in a given way.
void append(std::vector<geo::LonLat>& route, std::vector<geo::LonLat> part) {
    if (!route.empty() && !part.empty() && route.back() == part.front()) part.erase(part.begin());
    route.insert(route.end(), part.begin(), part.end());
}

/// From the place's end of the route to the site, link by link; turned round at the end where travel is the other way.
std::vector<geo::LonLat> draw_route(const Searched& s, geo::LonLat spot, const Attachment& a, const Offer& offer) {
    const auto& network = *s.ready.inputs.network;
    const bool outward = s.ready.question.towards == Towards::demand;
    const SiteOutcome& site = s.sites[offer.source];
    const Attachment& b = *site.attachment;
    std::vector<geo::LonLat> route{spot, a.at};

    if (offer.same_link) {
        append(route, places::shape_between(network, a.link, a.offset, b.offset));
    } else {
        // Going back from the place: against the way of travel outward, with it inward.
        const auto far_end_is_from = [&](LinkWay way) { return outward != way.is_against(); };
        const auto end_of = [&](LinkWay way) { return far_end_is_from(way) ? network.ends(way.link()).from : network.ends(way.link()).to; };
        const auto offset_of = [&](LinkWay way) { return far_end_is_from(way) ? Millimetres(0) : network.length(way.link()); };
        append(route, places::shape_between(network, a.link, a.offset, offset_of(offer.last)));
        NodeId node = end_of(offer.last);
        const Label* label = &s.labels[node.value()];
        while (true) {
            const LinkWay way = label->way;
            const LinkId link = way.link();
            const Millimetres here = far_end_is_from(way) ? network.length(link) : Millimetres(0);
            const NodeId next = end_of(way);
            const auto whole = s.ready.ground->crossings[link.value()];
            const std::uint32_t ms = way.is_against() ? whole.against : whole.along;
            const std::uint32_t step = s.ready.question.measure == Measure::time ? ms : static_cast<std::uint32_t>(network.length(link).count());
            const Label& before = s.labels[next.value()];
            const bool at_seed = link == b.link && SplitLink(network, whole, link).seed_cost(b.offset, way, outward, s.ready.question.measure) == label->cost;
            if (at_seed) {
                append(route, places::shape_between(network, link, here, b.offset));
                break;
            }
            if (before.source != label->source || before.cost + step != label->cost) break;
            append(route, places::shape_between(network, link, here, offset_of(way)));
            node = next;
            label = &before;
        }
    }
    route.push_back(b.at);
    route.push_back(*site.planned.site.position);
    route.erase(std::unique(route.begin(), route.end()), route.end());
    if (outward) std::reverse(route.begin(), route.end());
    return route;
}

SpotReading read(const Ready& ready, const Outcome& outcome, const std::optional<geo::LonLat>& spot, std::optional<Attachment> attachment) {
    const SitesByLink on_link = by_link(outcome.sites);
    const Searched searched{ready, outcome.labels, outcome.sites, on_link};
    SpotReading r;
    r.attachment = attachment;
    r.outcome = outcome_at(searched, spot, attachment);
    if (r.outcome.nearest) r.route = draw_route(searched, *spot, *attachment, best_offer(searched, *attachment));
    return r;
}

}  // namespace

std::shared_ptr<const Ready> prepare(const Inputs& inputs, const Question& question, const Ready* earlier, const Task& task) {
    auto ready = std::make_shared<Ready>();
    ready->inputs = inputs;
    ready->question = question;

    const bool same_ground = earlier && earlier->inputs.network == inputs.network && earlier->question.profile == question.profile;
    if (same_ground) {
        ready->ground = earlier->ground;
    } else {
        task.at("timing roads", 0.0);
        auto ground = std::make_shared<Ground>();
        ground->profile = question.profile;
        ground->crossings = travel::crossings(*inputs.network, question.profile, task);
        ground->usable.resize(ground->crossings.size());
        for (std::size_t i = 0; i < ground->crossings.size(); ++i) ground->usable[i] = ground->crossings[i].usable();
        ready->ground = ground;
    }

    if (same_ground && earlier->question.measure == question.measure && earlier->question.towards == question.towards) {
        ready->graph = earlier->graph;
    } else {
        task.at("laying out the network", 0.2);
        const auto sweep = question.towards == Towards::demand ? routing::Sweep::outward : routing::Sweep::inward;
        ready->graph = std::make_shared<const routing::Graph>(make_graph(*inputs.network, ready->ground->crossings, question.measure, sweep));
    }

    if (same_ground && earlier->inputs.demand == inputs.demand && earlier->question.attach_limit == question.attach_limit) {
        ready->attached = earlier->attached;
    } else {
        task.at("attaching places to roads", 0.5);
        std::vector<std::optional<geo::LonLat>> positions;
        positions.reserve(inputs.demand->places.size());
        for (const auto& p : inputs.demand->places) positions.push_back(p.position);
        ready->attached = std::make_shared<const std::vector<std::optional<Attachment>>>(
            places::attach_all(*inputs.network, ready->ground->usable, positions, question.attach_limit, task));
    }
    return ready;
}

Outcome answer(const Ready& ready, const Plan& plan, const Task& task) {
    Outcome o;
    o.question = ready.question;
    o.plan = plan;
    o.digest = digest_of(ready, plan);
    o.sites = attach_sites(ready, plan);
    o.labels = nearest_of_many(*ready.graph, seeds_of(ready, o.sites), kFar - 1, task);

    const auto& demand = *ready.inputs.demand;
    const SitesByLink on_link = by_link(o.sites);
    const Searched searched{ready, o.labels, o.sites, on_link};
    o.places.resize(demand.count());
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, demand.count(), 1024), [&](const auto& range) {
        for (std::uint32_t i = range.begin(); i != range.end(); ++i) o.places[i] = outcome_at(searched, demand.places[i].position, (*ready.attached)[i]);
    });
    task.check();

    o.weights.reserve(demand.count());
    for (const auto& p : demand.places) o.weights.push_back(ready.question.by_weight ? p.weight : Weight::one());
    add_up(o);
    return o;
}

SpotReading read_spot(const Ready& ready, const Outcome& outcome, geo::LonLat spot) {
    return read(ready, outcome, spot, places::attach(*ready.inputs.network, ready.ground->usable, spot, ready.question.attach_limit));
}

SpotReading read_place(const Ready& ready, const Outcome& outcome, DemandIndex place) {
    return read(ready, outcome, ready.inputs.demand->at(place).position, (*ready.attached)[place.value()]);
}

}  // namespace otoro::service
