#include "service/candidate.h"

#include <algorithm>
#include <functional>
#include <map>

#include "service/access_legs.h"
#include "service/site_blocks.h"
#include "service/step_curves.h"

namespace otoro::service {

using places::Attachment;
using routing::kFar;
using routing::Label;
using routing::LinkWay;

struct Candidates::State {
    std::shared_ptr<const Ready> ready;
    std::shared_ptr<const Outcome> base;
    std::shared_ptr<const routing::Graph> graph;
    std::vector<LinkId> restricted;  // links that a closure touches
    routing::WaysByNode ways;
    std::vector<bool> place_at;  // nodes at which a place stands exactly
    std::vector<bool> special;   // places that more than the labels at their road's ends decide about
    SitesByLink on_link;

    // What the last search found. A node was looked at in it if it bears its number; nothing is cleared between two.
    std::vector<std::uint32_t> seen;
    std::vector<Label> labels;
    std::vector<std::uint32_t> looked_at;
    std::uint32_t search_number = 0;
    std::vector<bool> link_seen;
    struct Waiting {
        std::uint32_t cost, other, node;
        bool operator>(const Waiting& o) const {
            return std::tie(cost, other, node) > std::tie(o.cost, o.other, o.node);
        }
    };
    std::vector<Waiting> heap;
    std::vector<SiteOutcome> sites;  // those of the base, and room for one more
    std::map<std::string, std::vector<bool>> parts;

    [[nodiscard]] const roads::Network& network() const { return *ready->inputs.network; }
    /// The graph's node whose label counts for a way: of several states the one that is come to for least.
    [[nodiscard]] std::uint32_t node_of(LinkWay way) const {
        const bool by_state = base->traces->labels.of_ways() && ready->question.towards == Towards::demand;
        if (by_state)
            return least_state(*base->traces->costed->states, way,
                               [this](std::uint32_t s) -> const Label& { return label_of(s); });
        return service::node_of(network(), *base->traces->costed, ready->question.towards, way);
    }

    /// What the last search knows of a node; the base's label where it never was.
    [[nodiscard]] const Label& label_of(std::uint32_t node) const {
        return seen[node] == search_number ? labels[node] : base->traces->labels.at(node);
    }

    /// Labels the catchment of the seeds, which all have one source.
    void search(std::span<const routing::Seed> seeds, std::uint32_t limit) {
        if (++search_number == 0) {
            std::fill(seen.begin(), seen.end(), 0);
            search_number = 1;
        }
        looked_at.clear();
        heap.clear();
        const auto is_better = [](const Label& a, const Label& b) {
            return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other);
        };
        const auto reach = [&](std::uint32_t node, const Label& label) {
            if (label.cost > limit || label.cost >= kFar || !is_better(label, label_of(node))) return;
            if (seen[node] != search_number) {
                seen[node] = search_number;
                looked_at.push_back(node);
            }
            labels[node] = label;
            heap.push_back({label.cost, label.other, node});
            std::push_heap(heap.begin(), heap.end(), std::greater<>());
        };
        for (const auto& s : seeds) reach(s.node, {s.cost, s.source, s.other, s.way});
        while (!heap.empty()) {
            std::pop_heap(heap.begin(), heap.end(), std::greater<>());
            const Waiting w = heap.back();
            heap.pop_back();
            const Label mine = labels[w.node];
            if (mine.cost != w.cost || mine.other != w.other) continue;
            for (const auto& arc : graph->arcs_of(w.node))
                reach(arc.head,
                      {routing::sum(mine.cost, arc.cost), mine.source, routing::sum(mine.other, arc.other), arc.way});
        }
    }

    /// Places on roads that the search touched, and on the site's own.
    [[nodiscard]] std::vector<std::uint32_t> places_touched(LinkId own) {
        std::vector<std::uint32_t> links, found;
        const auto touch = [&](LinkId link) {
            if (link_seen[link.value()]) return;
            link_seen[link.value()] = true;
            links.push_back(link.value());
        };
        // Places at the very end of a road count for the junction there, also where their road cannot be entered from
        // it.
        const auto touch_ends_at = [&](NodeId node) {
            if (!place_at[node.value()]) return;
            for (const LinkWay leaving : ways.from(node)) touch(leaving.link());
        };
        touch(own);
        touch_ends_at(network().ends(own).from);
        touch_ends_at(network().ends(own).to);
        for (const std::uint32_t node : looked_at) {
            if (base->traces->labels.of_ways()) {
                const LinkWay way = base->traces->costed->states->way_of(node);
                touch(way.link());
                touch_ends_at(network().ends(way.link()).from);
                touch_ends_at(network().ends(way.link()).to);
            } else {
                for (const auto& arc : graph->arcs_of(node)) touch(arc.way.link());
                touch_ends_at(NodeId(node));
            }
        }
        const auto improved = [&](LinkWay way) {
            return seen[service::node_of(network(), *base->traces->costed, ready->question.towards, way)] ==
                   search_number;
        };
        for (const LinkId link : restricted)  // shut somewhere along, such a link may have no arc and still be entered
            if (improved(LinkWay::along(link)) || improved(LinkWay::against(link))) touch(link);
        for (const std::uint32_t link : links) {
            link_seen[link] = false;
            const auto there = ready->access->places_on(LinkId(link));
            found.insert(found.end(), there.begin(), there.end());
        }
        std::sort(found.begin(), found.end());
        return found;
    }

    /// One a place: whether it is in that zone or group.
    const std::vector<bool>& places_in_part(const std::string& part) {
        auto& in = parts[part];
        if (in.empty()) in = in_part(*ready, part).value_or(std::vector<bool>(base->places.size(), false));
        return in;
    }

    Effect add(const SiteOutcome& site, std::uint32_t number, const std::optional<Amount>& limit) {
        Effect effect;
        effect.attachment = site.attachment;
        if (!site.attachment) return effect;
        const Question& q = ready->question;
        std::vector<routing::Seed> seeds;
        add_seeds(*ready, *base->traces->costed, *site.attachment, number, seeds);
        std::uint32_t most = kFar - 1;
        if (limit && std::holds_alternative<Millis>(*limit) == (q.measure() == routing::Measure::time))
            most = static_cast<std::uint32_t>(
                std::clamp<std::int64_t>(std::visit([](auto v) { return v.count(); }, *limit), 0, kFar - 1));
        search(seeds, most);

        // The one more site stands in the lists while it is asked about.
        const bool is_new = number == base->sites.size();
        if (is_new) sites.push_back(site);
        auto& here = on_link[site.attachment->link.value()];
        here.push_back(number);
        {
            const Searched searched(*ready, *base->traces->costed, sites, on_link,
                                    one_label([&](LinkWay way) { return label_of(node_of(way)); }));
            for (const std::uint32_t i : places_touched(site.attachment->link)) {
                const auto& attached = (*ready->attached)[i];
                if (!attached) continue;
                const bool closer = special[i] || attached->link == site.attachment->link;
                AccessLeg leg;
                bool comes_from_it = closer;
                if (!closer)
                    for (const auto& end : ready->access->of(i)) {
                        const Label& label = label_of(end.node);
                        comes_from_it = comes_from_it || label.source == number;
                        leg = std::min(leg, leg_over(label, {end.cost, end.other}));
                    }
                if (!comes_from_it) continue;
                const PlaceOutcome now = closer ? searched.outcome_at(ready->inputs.demand.at(i).position, attached)
                                                : outcome_of(q, attached, leg);
                if (now.site == SiteIndex(number)) effect.changed.push_back({DemandIndex(i), now});
            }
        }
        here.pop_back();
        if (here.empty()) on_link.erase(site.attachment->link.value());
        if (is_new) sites.pop_back();
        return effect;
    }
};

Candidates::Candidates(std::shared_ptr<const Ready> ready, std::shared_ptr<const Outcome> base)
    : state_(std::make_unique<State>()) {
    State& s = *state_;
    s.ready = std::move(ready);
    s.base = std::move(base);
    s.graph = graph_under(*s.ready, *s.base);
    s.link_seen.assign(s.network().link_count(), false);
    s.seen.assign(s.graph->node_count(), 0);
    s.labels.resize(s.graph->node_count());
    s.sites = s.base->sites;
    for (const auto& h : s.base->traces->costed->restrictions)
        if (s.restricted.empty() || s.restricted.back() != h.link) s.restricted.push_back(h.link);
    s.on_link = by_link(s.base->sites);
    s.special = special_places(*s.ready, *s.base->traces->costed);
    for (const auto& [link, here] : s.on_link)
        for (const std::uint32_t i : s.ready->access->places_on(LinkId(link))) s.special[i] = true;
    s.ways = routing::WaysByNode(s.network());
    s.place_at.assign(s.network().node_count(), false);
    for (const auto& a : *s.ready->attached) {
        if (!a) continue;
        const auto ends = s.network().ends(a->link);
        if (a->offset.count() == 0) s.place_at[ends.from.value()] = true;
        if (a->offset == s.network().length(a->link)) s.place_at[ends.to.value()] = true;
    }
}
Candidates::~Candidates() = default;
Candidates::Candidates(Candidates&&) noexcept = default;
Candidates& Candidates::operator=(Candidates&&) noexcept = default;

Candidates::Effect Candidates::add(geo::LonLat spot, const std::optional<Amount>& limit, std::size_t part) {
    SiteOutcome site;
    const auto number = static_cast<std::uint32_t>(state_->base->sites.size());
    site.planned.site.position = spot;
    site.planned.in_use = true;
    site.planned.part = part;
    site.attachment = attach_site(*state_->ready, spot, number, part);
    return state_->add(site, number, limit);
}

Candidates::Effect Candidates::add(SiteIndex site, const std::optional<Amount>& limit) {
    return state_->add(state_->base->sites[site.value()], static_cast<std::uint32_t>(site.value()), limit);
}

Plan plan_with(const Outcome& base, SiteIndex site) {
    Plan plan = base.plan;
    plan.changes.push_back(change_of(base.sites[site.value()].planned, Change::open));
    return plan;
}

Plan plan_with(const Outcome& base, geo::LonLat spot) {
    Plan plan = base.plan;
    std::string id = "new";
    const auto taken = [&] {
        return std::any_of(base.sites.begin(), base.sites.end(),
                           [&](const SiteOutcome& s) { return s.planned.site.id == id; });
    };
    for (int n = 2; taken(); ++n) id = "new " + std::to_string(n);
    plan.changes.push_back({Change::add, id, spot});
    return plan;
}

Tally Candidates::tally(const Effect& effect) const {
    Tally t;
    for (const Changed& c : effect.changed) t = {t.places + 1, t.weight + state_->base->weights[c.place.value()]};
    return t;
}

Verdict Candidates::judge(const Effect& effect, const Standard& standard) const {
    const Outcome& base = *state_->base;
    Verdict before = service::judge(base, standard);
    for (StepVerdict& v : before.steps) {
        if (!v.known) continue;
        if (v.step.scope.needed > 1) {
            v.known = v.met = false;
            continue;
        }
        const std::vector<bool>* in = v.step.scope.part.empty() ? nullptr : &state_->places_in_part(v.step.scope.part);
        Tally inside = v.inside;
        for (const Changed& c : effect.changed) {
            const std::uint32_t place = c.place.value();
            if (in != nullptr && !(*in)[place]) continue;
            // A nearer site by time may be farther by distance, so a place can also fall out.
            const Weight weight = base.weights[place];
            const bool was = is_within(base.places[place], v.step.limit), is = is_within(c.outcome, v.step.limit);
            if (is && !was) inside = {inside.places + 1, inside.weight + weight};
            if (was && !is) inside = {inside.places - 1, inside.weight - weight};
        }
        v = judge_step(v.step, inside, v.all);
    }
    return judge_by(standard, std::move(before.steps));
}

}  // namespace otoro::service
