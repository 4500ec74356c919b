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

SplitLink split_link(const roads::Network& network, const Ground& ground, LinkId link) {
    return {network, ground.crossings[link.value()], link, roads::hindrances_of(ground.hindrances, link)};
}

/// Sites in use by the link they are attached to.
using SitesByLink = std::unordered_map<std::uint32_t, std::vector<std::uint32_t>>;

struct Searched {
    const Ready& ready;
    const Ground& ground;
    const Labels& labels;
    const std::vector<SiteOutcome>& sites;
    const SitesByLink& on_link;

    [[nodiscard]] bool outward() const { return ready.question.towards == Towards::demand; }
    [[nodiscard]] SplitLink split(LinkId link) const { return split_link(*ready.inputs.network, ground, link); }
    [[nodiscard]] const Label& label(LinkWay way) const { return labels.at(*ready.inputs.network, way, outward()); }
};

/// What the off-road leg of an attachment adds.
Part leg_of(const Question& q, const Attachment& a) {
    if (!q.off_road_speed) return {};
    return {static_cast<std::uint32_t>(std::min<std::int64_t>(travel_time(a.off_road, *q.off_road_speed).count(), kFar - 1)), static_cast<std::uint32_t>(a.off_road.count())};
}

/// Held at `kFar`; a stretch of road alone may cost more than that.
std::uint32_t sum(std::uint64_t a, std::uint64_t b) { return static_cast<std::uint32_t>(std::min<std::uint64_t>(a + b, kFar)); }
Part operator+(const Part& a, const Part& b) { return {sum(a.ms, b.ms), sum(a.mm, b.mm)}; }

Offer offer_over(const Label& label, const std::optional<Part>& part, Measure measure, LinkWay way) {
    if (!label.reached() || !part) return {};
    const auto step = part->in(measure);
    const std::uint64_t cost = std::uint64_t{label.cost} + step.cost;
    if (cost >= kFar) return {};
    const std::uint64_t other = std::min<std::uint64_t>(std::uint64_t{label.other} + step.other, kFar);
    return {static_cast<std::uint32_t>(cost), label.source, static_cast<std::uint32_t>(other), way, false};
}

/// The best way to serve something attached at `a`, its own off-road leg apart.
Offer best_offer(const Searched& s, const Attachment& a) {
    const auto& network = *s.ready.inputs.network;
    const SplitLink link = s.split(a.link);
    const bool outward = s.outward();
    const Measure measure = s.ready.question.measure;

    Offer best;
    if (const auto here = s.on_link.find(a.link.value()); here != s.on_link.end()) {
        for (const std::uint32_t site : here->second) {
            const Millimetres at_site = s.sites[site].attachment->offset;
            const Millimetres begin = outward ? at_site : a.offset;
            const Millimetres end = outward ? a.offset : at_site;
            if (const auto part = link.between(begin, end)) {
                const auto step = (*part + leg_of(s.ready.question, *s.sites[site].attachment)).in(measure);
                best = std::min(best, Offer{step.cost, site, step.other, begin <= end ? LinkWay::along(a.link) : LinkWay::against(a.link), true});
            }
        }
    }
    const Millimetres start{0};
    const Millimetres finish = network.length(a.link);
    for (const LinkWay way : {LinkWay::along(a.link), LinkWay::against(a.link)}) {
        const Millimetres way_start = way.is_against() ? finish : start;
        const Millimetres way_end = way.is_against() ? start : finish;
        best = std::min(best, offer_over(s.label(way), outward ? link.between(way_start, a.offset) : link.between(a.offset, way_end), measure, way));
    }
    return best;
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
    Offer offer = best_offer(s, *a);
    if (offer.cost == kFar) return p;
    const auto leg = leg_of(s.ready.question, *a).in(s.ready.question.measure);
    offer.cost = sum(offer.cost, leg.cost);
    offer.other = sum(offer.other, leg.other);
    const bool by_time = s.ready.question.measure == Measure::time;
    p.nearest = SiteIndex(offer.source);
    p.time = Millis(by_time ? offer.cost : offer.other);
    p.distance = Millimetres(by_time ? offer.other : offer.cost);
    p.straight = geo::distance(*position, *s.sites[offer.source].planned.site.position);
    p.status = beyond(p, s.ready.question.limit) ? Status::beyond_limit : Status::served;
    return p;
}

std::vector<SiteOutcome> attach_sites(const Ready& ready, const Plan& plan) {
    const auto& set = *ready.inputs.sites;
    std::vector<SiteOutcome> out;
    for (auto& planned : sites_under(set, plan, ready.question.use)) {
        SiteOutcome site;
        const auto index = static_cast<std::uint32_t>(out.size());
        if (planned.site.position) {
            const bool as_read = index < set.count() && set.sites[index].position == planned.site.position;
            site.attachment = places::attach_one(*ready.inputs.network, *ready.for_sites, *planned.site.position, index, as_read ? set.attaching : places::Attaching{set.attaching.rule, {}, {}},
                                                 ready.question.attach_limit);
        }
        site.planned = std::move(planned);
        out.push_back(std::move(site));
    }
    return out;
}

/// Calls `use(way, step)` for every way that a site's road leaves it by (outward) or comes to it by (inward), with what the stretch between costs, the leg included.
template <class Use>
void each_way_of_site(const Ready& ready, const Ground& ground, const Attachment& a, Use&& use) {
    const auto& network = *ready.inputs.network;
    const bool outward = ready.question.towards == Towards::demand;
    const SplitLink link = split_link(network, ground, a.link);
    for (const LinkWay way : {LinkWay::against(a.link), LinkWay::along(a.link)}) {
        const Millimetres end = outward != way.is_against() ? network.length(a.link) : Millimetres(0);
        if (const auto part = outward ? link.between(a.offset, end) : link.between(end, a.offset)) use(way, *part + leg_of(ready.question, a));
    }
}

std::vector<routing::Seed> seeds_of(const Ready& ready, const Ground& ground, const std::vector<SiteOutcome>& sites) {
    const auto& network = *ready.inputs.network;
    const bool outward = ready.question.towards == Towards::demand;
    const bool of_ways = !ground.turns.free();
    std::vector<routing::Seed> seeds;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        if (!sites[i].planned.in_use || !sites[i].attachment) continue;
        each_way_of_site(ready, ground, *sites[i].attachment, [&](LinkWay way, const Part& part) {
            const NodeId node = outward ? routing::end_of(network, way) : routing::start_of(network, way);
            if (!of_ways) {
                const auto step = part.in(ready.question.measure);
                seeds.push_back({node.value(), step.cost, step.other, i, way});
                return;
            }
            // Onto every way that leaves the junction outward, from every way that comes to it inward.
            for (const LinkWay leaving : ground.ways.from(node)) {
                const LinkWay next = outward ? leaving : routing::reversed(leaving);
                const std::uint32_t turn = outward ? ground.turns.cost(way, next) : ground.turns.cost(next, way);
                if (turn == travel::kShut) continue;
                const auto step = (part + Part{turn, 0}).in(ready.question.measure);
                seeds.push_back({next.bits, step.cost, step.other, i, way});
            }
        });
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
    d.value(static_cast<std::uint8_t>(q.by_weight)).value(static_cast<std::uint8_t>(q.use));
    travel::add(d, q.profile);
    d.value(static_cast<std::uint8_t>(q.towards)).value(static_cast<std::uint8_t>(q.measure)).value(q.attach_limit.count());
    d.value(q.off_road_speed ? q.off_road_speed->mm_per_hour() : 0U);
    add(d, q.limit);
    for (const auto& c : plan.changes) {
        d.value(static_cast<std::uint8_t>(c.change)).text(c.site);
        if (c.position) d.value(c.position->lon).value(c.position->lat);
    }
    for (const auto& c : plan.closures)
        d.value(static_cast<std::uint8_t>(c.shape)).array(c.vertices).value(static_cast<std::uint8_t>(c.effect)).value(c.factor_per_mille).value(c.delay.count());
    return d.hex();
}

/// The shape of one link travelled in a given way.
void append(std::vector<geo::LonLat>& route, std::vector<geo::LonLat> part) {
    if (!route.empty() && !part.empty() && route.back() == part.front()) part.erase(part.begin());
    route.insert(route.end(), part.begin(), part.end());
}

/// From the place's end of the route to the site, link by link; turned round at the end where travel is the other way.
class RouteDrawer {
public:
    RouteDrawer(const Searched& s, const Offer& offer) : s_(s), network_(*s.ready.inputs.network), site_(s.sites[offer.source]), outward_(s.outward()) {}

    std::vector<geo::LonLat> draw(geo::LonLat spot, const Attachment& a, const Offer& offer) {
        const Attachment& b = *site_.attachment;
        route_ = {spot, a.at};
        if (offer.same_link) {
            append(route_, places::shape_between(network_, a.link, a.offset, b.offset));
        } else {
            append(route_, places::shape_between(network_, a.link, a.offset, far_offset(offer.last)));
            follow(offer.last);
        }
        route_.push_back(b.at);
        route_.push_back(*site_.planned.site.position);
        route_.erase(std::unique(route_.begin(), route_.end()), route_.end());
        if (outward_) std::reverse(route_.begin(), route_.end());
        return std::move(route_);
    }

private:
    // Going back from the place: against the way of travel outward, with it inward.
    [[nodiscard]] Millimetres far_offset(LinkWay way) const { return outward_ != way.is_against() ? Millimetres(0) : network_.length(way.link()); }
    [[nodiscard]] Millimetres near_offset(LinkWay way) const { return outward_ != way.is_against() ? network_.length(way.link()) : Millimetres(0); }

    /// The roads beyond the one travelled `current`, up to the site.
    void follow(LinkWay current) {
        const Attachment& b = *site_.attachment;
        while (true) {
            const Label& label = s_.label(current);
            const LinkWay way = label.way;
            const std::uint32_t turn = outward_ ? s_.ground.turns.cost(way, current) : s_.ground.turns.cost(current, way);
            if (way.link() == b.link && starts_here(way, turn, label.cost)) {
                append(route_, places::shape_between(network_, way.link(), near_offset(way), b.offset));
                return;
            }
            const Label& before = s_.label(way);
            const auto whole = s_.split(way.link()).whole();
            const Part step{sum(way.is_against() ? whole.against : whole.along, turn), static_cast<std::uint32_t>(network_.length(way.link()).count())};
            if (before.source != label.source || sum(before.cost, step.in(s_.ready.question.measure).cost) != label.cost) return;
            append(route_, places::shape_between(network_, way.link(), near_offset(way), far_offset(way)));
            current = way;
        }
    }

    /// Whether the route comes straight from the site by this way.
    [[nodiscard]] bool starts_here(LinkWay way, std::uint32_t turn, std::uint32_t cost) const {
        bool found = false;
        each_way_of_site(s_.ready, s_.ground, *site_.attachment, [&](LinkWay w, const Part& part) {
            found = found || (w == way && (part + Part{turn, 0}).in(s_.ready.question.measure).cost == cost);
        });
        return found;
    }

    const Searched& s_;
    const roads::Network& network_;
    const SiteOutcome& site_;
    bool outward_;
    std::vector<geo::LonLat> route_;
};

SpotReading read(const Ready& ready, const Outcome& outcome, const std::optional<geo::LonLat>& spot, std::optional<Attachment> attachment) {
    const SitesByLink on_link = by_link(outcome.sites);
    const Searched searched{ready, *outcome.ground, outcome.labels, outcome.sites, on_link};
    SpotReading r;
    r.attachment = attachment;
    r.outcome = outcome_at(searched, spot, attachment);
    if (!r.outcome.nearest) return r;
    const Offer offer = best_offer(searched, *attachment);
    r.route = RouteDrawer(searched, offer).draw(*spot, *attachment, offer);
    return r;
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
    if (ground.turns.free()) return std::make_shared<const routing::Graph>(make_graph(network, crossings, q.measure, sweep));
    return std::make_shared<const routing::Graph>(make_turn_graph(network, crossings, ground.turns, ground.ways, q.measure, sweep));
}

}  // namespace

std::shared_ptr<const Ready> prepare(const Inputs& inputs, const Question& question, const Ready* earlier, const Task& task) {
    auto ready = std::make_shared<Ready>();
    ready->inputs = inputs;
    ready->question = question;

    const auto& network = *inputs.network;
    const bool same_ground = earlier && earlier->inputs.network == inputs.network && earlier->question.profile == question.profile;
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
        if (!ground->turns.free()) ground->ways = routing::WaysByNode(network);
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
            places::attach_set(network, ready->ground->usable, places::positions(*inputs.demand), inputs.demand->attaching, question.attach_limit, task));
    }
    ready->for_sites = same_ground && earlier->inputs.sites == inputs.sites
                           ? earlier->for_sites
                           : std::make_shared<const std::vector<bool>>(places::attachable(network, ready->ground->usable, inputs.sites->attaching.rule));
    return ready;
}

namespace {

/// The roads under the plan's closures; those of today where it has none.
std::shared_ptr<const Ground> ground_under(const Ready& ready, const Plan& plan) {
    if (plan.closures.empty()) return ready.ground;
    auto ground = std::make_shared<Ground>(*ready.ground);
    ground->hindrances = roads::hindrances(*ready.inputs.network, plan.closures);
    return ground;
}

}  // namespace

Outcome answer(const Ready& ready, const Plan& plan, const Task& task) {
    Outcome o;
    o.question = ready.question;
    o.plan = plan;
    o.digest = digest_of(ready, plan);
    o.sites = attach_sites(ready, plan);
    o.ground = ground_under(ready, plan);
    const auto graph = o.ground == ready.ground ? ready.graph : graph_of(ready, *o.ground);
    o.labels = Labels(nearest_of_many(*graph, seeds_of(ready, *o.ground, o.sites), kFar - 1, task), !o.ground->turns.free());

    const auto& demand = *ready.inputs.demand;
    const SitesByLink on_link = by_link(o.sites);
    const Searched searched{ready, *o.ground, o.labels, o.sites, on_link};
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
