#include <algorithm>
#include <array>

#include "geo/straight_line.h"
#include "places/attach.h"
#include "service/access_legs.h"
#include "service/drawn_journey.h"
#include "service/searching.h"

namespace otoro::service {
namespace {

using places::Attachment;
using routing::Label;
using routing::LinkWay;

/// Finds the route from the place's end to the site, stretch by stretch, and writes it as it is travelled.
class RouteDrawer {
public:
    RouteDrawer(const Ready& ready, const std::vector<SiteOutcome>& sites, const Traces& traces, const AccessLeg& leg)
        : ready_(ready),
          traces_(traces),
          network_(*ready.inputs.network),
          site_(sites[leg.source]),
          source_(leg.source),
          outward_(ready.question.towards == Towards::demand) {}

    void draw(geo::LonLat spot, const Attachment& a, const AccessLeg& leg, SpotReading& reading) {
        find(a, leg);
        std::array ends{spot, a.at, site_.attachment->at, *site_.planned.site.position};
        if (outward_) {  // found from the place, travelled from the site
            std::reverse(ends.begin(), ends.end());
            std::reverse(stretches_.begin(), stretches_.end());
            for (auto& s : stretches_) std::swap(s.from, s.to);
        }
        WayWriter writer(network_, reading.route, reading.steps);
        writer.point(ends[0]);
        writer.point(ends[1]);
        for (const auto& s : stretches_) writer.stretch(s.link, s.from, s.to);
        writer.point(ends[2]);
        writer.point(ends[3]);
    }

    /// The roads whose middle is passed, in no order.
    void passed(const Attachment& a, const AccessLeg& leg, std::vector<LinkId>& links) {
        find(a, leg);
        for (const Stretch& s : stretches_) {
            const Millimetres middle(network_.length(s.link).count() / 2);
            if (std::min(s.from, s.to) <= middle && middle <= std::max(s.from, s.to)) links.push_back(s.link);
        }
    }

private:
    void find(const Attachment& a, const AccessLeg& leg) {
        const Attachment& b = *site_.attachment;
        if (leg.same_link && leg.on_junction) {
            stretches_.push_back({b.link, near_offset(leg.last), b.offset});
        } else if (leg.same_link) {
            stretches_.push_back({a.link, a.offset, b.offset});
        } else {
            if (leg.on_junction)
                stretches_.push_back({leg.last.link(), near_offset(leg.last), far_offset(leg.last)});
            else
                stretches_.push_back({a.link, a.offset, far_offset(leg.last)});
            const std::uint32_t state = traces_.labels.state(network_, leg.last, outward_);
            if (traces_.labels.prepared())
                follow_prepared(state);
            else
                follow(leg.last, state);
        }
    }

    // Going back from the place: against the way of travel outward, with it inward.
    [[nodiscard]] Millimetres far_offset(LinkWay way) const {
        return outward_ != way.is_against() ? Millimetres(0) : network_.length(way.link());
    }
    [[nodiscard]] Millimetres near_offset(LinkWay way) const {
        return outward_ != way.is_against() ? network_.length(way.link()) : Millimetres(0);
    }

    /// The roads beyond the one travelled `current`, up to the site, from label to label. \param state the graph's node
    /// of that label
    void follow(LinkWay current, std::uint32_t state) {
        const Attachment& b = *site_.attachment;
        while (true) {
            const Label mine = traces_.labels.at(state);
            const LinkWay way = mine.way;
            if (way.link() == b.link && starts_here(way, current, state, mine.cost)) {
                stretches_.push_back({way.link(), near_offset(way), b.offset});
                return;
            }
            const auto next = next_state(way, current, state, mine);
            if (!next) return;
            stretches_.push_back({way.link(), near_offset(way), far_offset(way)});
            current = way;
            state = *next;
        }
    }

    /// The graph's node from which `state` got its label over `way`; nothing if none fits.
    [[nodiscard]] std::optional<std::uint32_t> next_state(LinkWay way, LinkWay current, std::uint32_t state,
                                                          const Label& mine) const {
        const auto& costed = *traces_.costed;
        const std::uint32_t turn = outward_ ? costed.turns.cost(way, current) : costed.turns.cost(current, way);
        if (turn == routing::kForbidden) return std::nullopt;
        const auto whole = split_link(network_, costed, way.link()).whole();
        const std::uint64_t ms = way.is_against() ? whole.against : whole.along;
        const Part step{sum(ms, turn), static_cast<std::uint32_t>(network_.length(way.link()).count())};
        const auto fits = [&](std::uint32_t s) {
            const Label& before = traces_.labels.at(s);
            return before.source == mine.source &&
                   sum(before.cost, step.in(ready_.question.measure()).cost) == mine.cost;
        };
        if (!traces_.labels.of_ways()) {
            const std::uint32_t node =
                (outward_ ? routing::start_of(network_, way) : routing::end_of(network_, way)).value();
            return fits(node) ? std::optional(node) : std::nullopt;
        }
        if (!outward_) {
            const std::uint32_t after = costed.states->after(state, way);
            return after != routing::MoveStates::kNowhere && fits(after) ? std::optional(after) : std::nullopt;
        }
        std::optional<std::uint32_t> found;
        costed.states->each_of(way, [&](std::uint32_t s) {
            if (!found && costed.states->after(s, current) == state && fits(s)) found = s;
        });
        return found;
    }

    /// The same where labels came from prepared costs, which do not say by which road: the route between the two is
    /// taken apart instead.
    void follow_prepared(std::uint32_t node) {
        const auto& prepared = *traces_.labels.prepared();
        std::vector<routing::Seed> starts;
        add_seeds(ready_, *traces_.costed, *site_.attachment, source_, starts);
        const routing::Seed end{node, 0, 0, 0, {}};
        const auto found = routing::route(*prepared.costs, *prepared.graph, starts, std::span(&end, 1));
        if (!found) return;
        const auto& ways = found->route.ways;
        for (auto way = ways.rbegin(); way != ways.rend(); ++way)
            stretches_.push_back({way->link(), near_offset(*way), far_offset(*way)});
        const LinkWay first = starts[found->start].way;
        stretches_.push_back({first.link(), near_offset(first), site_.attachment->offset});
    }

    /// Whether the route comes straight from the site by this way.
    [[nodiscard]] bool starts_here(LinkWay way, LinkWay current, std::uint32_t state, std::uint32_t cost) const {
        const auto& costed = *traces_.costed;
        const Attachment& b = *site_.attachment;
        const bool on_junction = stands_at_end(network_, b, way, outward_);
        const std::uint32_t turn = on_junction ? 0
                                   : outward_  ? costed.turns.cost(way, current)
                                               : costed.turns.cost(current, way);
        if (turn == routing::kForbidden) return false;
        if (traces_.labels.of_ways() && !on_junction) {
            const bool goes_on = outward_ ? costed.states->after(way.bits, current) == state
                                          : costed.states->after(state, way) != routing::MoveStates::kNowhere;
            if (!goes_on) return false;
        }
        bool found = false;
        each_way_of_site(ready_, costed, b, [&](LinkWay w, const Part& part) {
            found = found || (w == way && (part + Part{turn, 0}).in(ready_.question.measure()).cost == cost);
        });
        return found;
    }

    const Ready& ready_;
    const Traces& traces_;
    const roads::Network& network_;
    const SiteOutcome& site_;
    std::uint32_t source_;
    bool outward_;
    struct Stretch {
        LinkId link;
        Millimetres from, to;
    };
    std::vector<Stretch> stretches_;
};

/// \param traces of a search from the sites that are `on_link`
SpotReading read(const Ready& ready, const Outcome& outcome, const Traces& traces, const SitesByLink& on_link,
                 const std::optional<geo::LonLat>& spot, const std::optional<Attachment>& attachment) {
    const bool outward = ready.question.towards == Towards::demand;
    const Searched searched(ready, *traces.costed, outcome.sites, on_link, one_label([&](LinkWay way) {
                                return traces.labels.at(*ready.inputs.network, way, outward);
                            }));
    SpotReading r;
    r.attachment = attachment;
    r.outcome = searched.outcome_at(spot, attachment);
    if (!r.outcome.site) return r;
    r.straight = straight_line(outcome, spot, r.outcome);
    const AccessLeg leg = searched.best_leg(*attachment);
    RouteDrawer(ready, outcome.sites, traces, leg).draw(*spot, *attachment, leg, r);
    return r;
}

/// From one site alone. \param limit in the question's measure: what is farther need not be found
SpotReading read_from(const Ready& ready, const Outcome& outcome, DemandIndex place, SiteIndex site,
                      std::uint32_t limit) {
    const Searching searching(ready, outcome);
    return SearchFromSite(ready, outcome, searching, site, limit, Task()).read(place);
}

/// The same of a spot that is beyond its nearest site's own limit: by the nearest of those whose limit holds there.
/// A search from those without a limit together, and one from each of the others, as far as it serves.
SpotReading read_within_own_limits(const Ready& ready, const Outcome& outcome, geo::LonLat spot,
                                   SpotReading by_nearest) {
    const Searching searching(ready, outcome);
    const bool by_time = ready.question.measure() == routing::Measure::time;
    std::optional<SpotReading> best;
    std::int64_t least = routing::kFar - 1;
    const auto look = [&](std::span<const std::uint32_t> sites, std::int64_t most) {
        Traces traces{outcome.traces->costed, {}};
        SitesByLink on_link;
        std::vector<routing::Seed> seeds;
        for (const std::uint32_t s : sites) {
            const Attachment& a = *outcome.sites[s].attachment;
            add_seeds(ready, *traces.costed, a, s, seeds);
            on_link[a.link.value()].push_back(s);
        }
        traces.labels = searching.labels_within(
            seeds, static_cast<std::uint32_t>(std::clamp<std::int64_t>(most, 0, routing::kFar - 1)), Task());
        SpotReading r = read(ready, outcome, traces, on_link, spot, by_nearest.attachment);
        if (!r.outcome.site || is_beyond_own_limit(ready.question, outcome.sites, r.outcome)) return;
        const std::int64_t cost = by_time ? r.outcome.time.count() : r.outcome.distance.count();
        if (best && std::tuple(cost, r.outcome.site->value()) >= std::tuple(least, best->outcome.site->value())) return;
        least = cost;
        best = std::move(r);
    };
    std::vector<std::uint32_t> without, with;
    for (std::uint32_t i = 0; i < outcome.sites.size(); ++i) {
        const SiteOutcome& s = outcome.sites[i];
        if (s.planned.in_use && s.attachment) (s.planned.site.limit ? with : without).push_back(i);
    }
    if (!without.empty()) look(without, least);
    for (const std::uint32_t i : with) {
        const Amount& own = *outcome.sites[i].planned.site.limit;
        const std::int64_t farthest = std::visit([](auto v) { return std::int64_t{v.count()}; }, own);
        look(std::array{i}, std::holds_alternative<Millis>(own) == by_time ? std::min(farthest, least) : least);
    }
    if (best) return *best;
    by_nearest.outcome.status = Status::beyond_limit;
    return by_nearest;
}

}  // namespace

SearchFromSite::SearchFromSite(const Ready& ready, const Outcome& outcome, const Searching& searching, SiteIndex site,
                               std::uint32_t limit, const Task& task)
    : ready_(ready), outcome_(outcome), traces_{outcome.traces->costed, {}} {
    std::vector<routing::Seed> seeds;
    if (const auto& a = outcome.sites[site.value()].attachment) {
        const auto number = static_cast<std::uint32_t>(site.value());
        add_seeds(ready, *traces_.costed, *a, number, seeds);
        on_link_[a->link.value()].push_back(number);
    }
    traces_.labels = searching.labels_within(seeds, limit, task);
}

SpotReading SearchFromSite::read(DemandIndex place) const {
    return service::read(ready_, outcome_, traces_, on_link_, ready_.inputs.demand.at(place.value()).position,
                         (*ready_.attached)[place.value()]);
}

void SearchFromSite::middles_passed(DemandIndex place, std::vector<LinkId>& links) const {
    const auto& attachment = (*ready_.attached)[place.value()];
    if (!attachment) return;
    const bool outward = ready_.question.towards == Towards::demand;
    const Searched searched(ready_, *traces_.costed, outcome_.sites, on_link_, one_label([&](LinkWay way) {
                                return traces_.labels.at(*ready_.inputs.network, way, outward);
                            }));
    const AccessLeg leg = searched.best_leg(*attachment);
    if (leg.cost == routing::kFar) return;
    RouteDrawer(ready_, outcome_.sites, traces_, leg).passed(*attachment, leg, links);
}

SpotReading read_spot(const Ready& ready, const Outcome& outcome, geo::LonLat spot) {
    SpotReading r =
        read(ready, outcome, *outcome.traces, by_link(outcome.sites), spot,
             places::attach(*ready.inputs.network, *ready.for_demand.front(), spot, attach_limit_of(ready, 0)));
    if (!r.outcome.site || !is_beyond_own_limit(ready.question, outcome.sites, r.outcome)) return r;
    return read_within_own_limits(ready, outcome, spot, std::move(r));
}

SpotReading read_place(const Ready& ready, const Outcome& outcome, DemandIndex place) {
    const PlaceOutcome& p = outcome.places[place.value()];
    if (outcome.by_nearest && !p.site) {
        SpotReading r;
        r.outcome = p;
        r.attachment = (*ready.attached)[place.value()];
        return r;
    }
    SpotReading r = read(ready, outcome, *outcome.traces, by_link(outcome.sites),
                         ready.inputs.demand.at(place).position, (*ready.attached)[place.value()]);
    if (p.site && r.outcome.site != p.site) {
        const bool by_time = ready.question.measure() == routing::Measure::time;
        const std::int64_t cost = by_time ? p.time.count() : p.distance.count();
        r = read_from(ready, outcome, place, *p.site, static_cast<std::uint32_t>(cost));
    }
    r.outcome = p;
    return r;
}

SpotReading read_journey(const Ready& ready, const Outcome& outcome, DemandIndex place, SiteIndex site) {
    return read_from(ready, outcome, place, site, routing::kFar - 1);
}

Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position, SiteIndex site) {
    const auto& to = outcome.sites[site.value()].planned.site.position;
    return position && to ? geo::straight_line(*position, *to) : Millimetres(0);
}

Millimetres straight_line(const Outcome& outcome, const std::optional<geo::LonLat>& position,
                          const PlaceOutcome& place) {
    return place.site ? straight_line(outcome, position, *place.site) : Millimetres(0);
}

std::optional<double> detour(const Outcome& outcome, const std::optional<geo::LonLat>& position,
                             const PlaceOutcome& place) {
    const auto straight = straight_line(outcome, position, place);
    if (straight.count() == 0) return std::nullopt;
    return place.distance.metres() / straight.metres();
}

}  // namespace otoro::service
