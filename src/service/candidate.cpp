#include "service/candidate.h"

#include <algorithm>
#include <queue>
#include <unordered_map>

#include "service/offers.h"

namespace otoro::service {

using places::Attachment;
using routing::kFar;
using routing::Label;
using routing::LinkWay;

struct Candidates::State {
    std::shared_ptr<const Ready> ready;
    std::shared_ptr<const Outcome> base;
    std::shared_ptr<const routing::Graph> graph;
    std::vector<LinkId> hindered;                   // links that a closure touches
    SitesByLink on_link;

    // What the last search found, by node.
    std::unordered_map<std::uint32_t, Label> better;
    std::vector<bool> link_seen;

    [[nodiscard]] const roads::Network& network() const { return *ready->inputs.network; }
    [[nodiscard]] std::uint32_t node_of(LinkWay way) const { return service::node_of(network(), *base->ground, ready->question.towards, way); }

    /// Labels the catchment of the seeds, which all have one source.
    void search(std::span<const routing::Seed> seeds, std::uint32_t limit) {
        better.clear();
        const auto is_better = [](const Label& a, const Label& b) { return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other); };
        struct Waiting {
            std::uint32_t cost, other, node;
            bool operator>(const Waiting& o) const { return std::tie(cost, other, node) > std::tie(o.cost, o.other, o.node); }
        };
        std::priority_queue<Waiting, std::vector<Waiting>, std::greater<>> queue;
        const auto reach = [&](std::uint32_t node, const Label& label) {
            if (label.cost > limit || label.cost >= kFar) return;
            const auto [known, is_new] = better.try_emplace(node);
            if (is_new) known->second = base->labels.at(node);
            if (!is_better(label, known->second)) return;
            known->second = label;
            queue.push({label.cost, label.other, node});
        };
        for (const auto& s : seeds) reach(s.node, {s.cost, s.source, s.other, s.way});
        while (!queue.empty()) {
            const Waiting w = queue.top();
            queue.pop();
            const Label mine = better.at(w.node);
            if (mine.cost != w.cost || mine.other != w.other) continue;
            for (const auto& arc : graph->arcs_of(w.node)) reach(arc.head, {routing::sum(mine.cost, arc.cost), mine.source, routing::sum(mine.other, arc.other), arc.way});
        }
    }

    /// Places on roads that the search touched, and on the site's own.
    [[nodiscard]] std::vector<std::uint32_t> places_touched(LinkId own, std::uint32_t source) {
        std::vector<std::uint32_t> links, found;
        const auto touch = [&](LinkId link) {
            if (link_seen[link.value()]) return;
            link_seen[link.value()] = true;
            links.push_back(link.value());
        };
        touch(own);
        for (const auto& [node, label] : better) {
            if (label.source != source) continue;  // only looked at
            if (base->labels.of_ways()) touch(LinkWay{node}.link());
            else
                for (const auto& arc : graph->arcs_of(node)) touch(arc.way.link());
        }
        const auto improved = [&](LinkWay way) {
            const auto at = better.find(node_of(way));
            return at != better.end() && at->second.source == source;
        };
        for (const LinkId link : hindered)  // shut somewhere along, such a link may have no arc and still be entered
            if (improved(LinkWay::along(link)) || improved(LinkWay::against(link))) touch(link);
        for (const std::uint32_t link : links) {
            link_seen[link] = false;
            const auto there = ready->approaches->places_on(LinkId(link));
            found.insert(found.end(), there.begin(), there.end());
        }
        std::sort(found.begin(), found.end());
        return found;
    }

    Effect add(const SiteOutcome& site, std::uint32_t number, const std::optional<Amount>& limit) {
        Effect effect;
        effect.attachment = site.attachment;
        if (!site.attachment) return effect;
        const Question& q = ready->question;
        std::vector<routing::Seed> seeds;
        add_seeds(*ready, *base->ground, *site.attachment, number, seeds);
        std::uint32_t most = kFar - 1;
        if (limit && std::holds_alternative<Millis>(*limit) == (q.measure == routing::Measure::time))
            most = static_cast<std::uint32_t>(std::clamp<std::int64_t>(std::visit([](auto v) { return v.count(); }, *limit), 0, kFar - 1));
        search(seeds, most);

        auto sites = base->sites;
        if (number == sites.size()) sites.push_back(site);
        auto on = on_link;
        on[site.attachment->link.value()].push_back(number);
        const Searched searched(*ready, *base->ground, sites, on, [&](LinkWay way) {
            const std::uint32_t node = node_of(way);
            const auto at = better.find(node);
            return at != better.end() ? at->second : base->labels.at(node);
        });
        for (const std::uint32_t i : places_touched(site.attachment->link, number)) {
            const PlaceOutcome now = searched.outcome_at(ready->inputs.demand->places[i].position, (*ready->attached)[i]);
            if (now.nearest == SiteIndex(number)) effect.changed.push_back({DemandIndex(i), now});
        }
        return effect;
    }
};

Candidates::Candidates(std::shared_ptr<const Ready> ready, std::shared_ptr<const Outcome> base) : state_(std::make_unique<State>()) {
    State& s = *state_;
    s.ready = std::move(ready);
    s.base = std::move(base);
    s.graph = graph_under(*s.ready, *s.base);
    s.link_seen.assign(s.network().link_count(), false);
    for (const auto& h : s.base->ground->hindrances)
        if (s.hindered.empty() || s.hindered.back() != h.link) s.hindered.push_back(h.link);
    s.on_link = by_link(s.base->sites);
}
Candidates::~Candidates() = default;
Candidates::Candidates(Candidates&&) noexcept = default;
Candidates& Candidates::operator=(Candidates&&) noexcept = default;

Candidates::Effect Candidates::add(geo::LonLat spot, const std::optional<Amount>& limit) {
    SiteOutcome site;
    const auto number = static_cast<std::uint32_t>(state_->base->sites.size());
    site.planned.site.position = spot;
    site.planned.in_use = true;
    site.attachment = attach_site(*state_->ready, spot, number);
    return state_->add(site, number, limit);
}

Candidates::Effect Candidates::add(SiteIndex site, const std::optional<Amount>& limit) {
    return state_->add(state_->base->sites[site.value()], static_cast<std::uint32_t>(site.value()), limit);
}

Tally Candidates::tally(const Effect& effect) const {
    Tally t;
    for (const Changed& c : effect.changed) t = {t.places + 1, t.weight + state_->base->weights[c.place.value()]};
    return t;
}

Verdict Candidates::judge(const Effect& effect, const Standard& standard) const {
    const Outcome& base = *state_->base;
    Tally inside = within(base, standard.limit);
    for (const Changed& c : effect.changed) {
        // A nearer site by time may be farther by distance, so a place can also fall out.
        const Weight weight = base.weights[c.place.value()];
        const bool was = is_within(base.places[c.place.value()], standard.limit), is = is_within(c.outcome, standard.limit);
        if (is && !was) inside = {inside.places + 1, inside.weight + weight};
        if (was && !is) inside = {inside.places - 1, inside.weight - weight};
    }
    return service::judge(inside, base.all, standard);
}

}  // namespace otoro::service
