#pragma once
/// \file
/// Ways to serve a place: what the labels of a search mean for something that stands in the middle of a road.
#include <tuple>
#include <unordered_map>
#include <vector>

#include "routing/route.h"
#include "service/assign.h"
#include "service/split_link.h"

namespace otoro::service {

/// A way to serve a place: the lexicographically least is taken.
struct AccessLeg {
    std::uint32_t cost = routing::kFar;
    std::uint32_t source = routing::kFar;
    std::uint32_t other = routing::kFar;
    routing::LinkWay last;     ///< how the place's own link is travelled
    bool same_link = false;    ///< the site stands on that link too and the route does not leave it
    bool on_junction = false;  ///< the place stands where `last` ends (outward) or begins (inward), and no turn onto
                               ///< its own road is made

    bool operator<(const AccessLeg& o) const {
        return cost != o.cost ? cost < o.cost : std::tie(source, other) < std::tie(o.source, o.other);
    }
};

/// Sites in use by the link they are attached to.
using SitesByLink = std::unordered_map<std::uint32_t, std::vector<std::uint32_t>>;
SitesByLink by_link(const std::vector<SiteOutcome>& sites);

SplitLink split_link(const roads::Network& network, const CostedNetwork& costed, LinkId link);

/// What an attachment adds besides its road: the off-road leg where it counts, and of a site its turnout.
Part before_road(const Question& q, const places::Attachment& a);
/// Held at `kFar`; a stretch of road alone may cost more than that.
inline std::uint32_t sum(std::uint64_t a, std::uint64_t b) {
    return static_cast<std::uint32_t>(std::min<std::uint64_t>(a + b, routing::kFar));
}
inline Part operator+(const Part& a, const Part& b) { return {sum(a.ms, b.ms), sum(a.mm, b.mm)}; }

/// Labels of one search, read on the roads of one plan. `EachLabel(way, use)` calls `use` with what it takes until one
/// may start along a way (outward), or from having travelled it (inward): one label, or those of several sites.
template <class EachLabel>
class Searched {
public:
    Searched(const Ready& ready, const CostedNetwork& costed, const std::vector<SiteOutcome>& sites,
             const SitesByLink& on_link, EachLabel each_label)
        : ready_(ready), costed_(costed), sites_(sites), on_link_(on_link), each_label_(std::move(each_label)) {}

    /// Calls `use` with every way to serve something attached at `a`, its own off-road leg apart.
    template <class Use>
    void each_leg(const places::Attachment& a, Use&& use) const;

    /// The best way to serve something attached at `a`, its own off-road leg apart.
    [[nodiscard]] AccessLeg best_leg(const places::Attachment& a) const;
    /// What becomes of something that stands at `position` and is attached at `a`, if it is.
    [[nodiscard]] PlaceOutcome outcome_at(const std::optional<geo::LonLat>& position,
                                          const std::optional<places::Attachment>& a) const;

private:
    /// Something exactly on a junction, where turning is not free: over any road that meets there.
    template <class Use>
    void each_leg_on_junction(const places::Attachment& a, bool at_end, Use&& use) const;

    const Ready& ready_;
    const CostedNetwork& costed_;
    const std::vector<SiteOutcome>& sites_;
    const SitesByLink& on_link_;
    EachLabel each_label_;
};

/// For `Searched`: the one label that `label_of(way)` gives.
template <class LabelOf>
auto one_label(LabelOf label_of) {
    return [label_of = std::move(label_of)](routing::LinkWay way, auto&& use) { use(label_of(way)); };
}

/// Calls `use(way, step)` for every way that a site's road leaves it by (outward) or comes to it by (inward), with what
/// the stretch between costs, the leg included.
template <class Use>
void each_way_of_site(const Ready& ready, const CostedNetwork& costed, const places::Attachment& a, Use&& use) {
    const bool outward = ready.question.towards == Towards::demand;
    const SplitLink link = split_link(*ready.inputs.network, costed, a.link);
    for (const routing::LinkWay way : {routing::LinkWay::against(a.link), routing::LinkWay::along(a.link)}) {
        if (const auto part = outward ? link.off(a.offset, way.is_against()) : link.onto(way.is_against(), a.offset))
            use(way, *part + before_road(ready.question, a));
    }
}

/// Whether something stands exactly where it would leave its road by this way (outward), or come onto it (inward).
inline bool stands_at_end(const roads::Network& network, const places::Attachment& a, routing::LinkWay way,
                          bool outward) {
    return a.offset == (outward != way.is_against() ? network.length(a.link) : Millimetres(0));
}

/// Where a search starts from one site.
void add_seeds(const Ready& ready, const CostedNetwork& costed, const places::Attachment& a, std::uint32_t site,
               std::vector<routing::Seed>& seeds);
/// Where it starts from all sites in use.
std::vector<routing::Seed> seeds_of(const Ready& ready, const CostedNetwork& costed,
                                    const std::vector<SiteOutcome>& sites);

/// What becomes of every place, from a search's labels: most stand on a road with no site and no closure, and take the
/// better of two access; the others are gone into.
PlaceOutcomes places_of(const Ready& ready, const CostedNetwork& costed, const std::vector<SiteOutcome>& sites,
                        const SitesByLink& on_link, const Labels& labels);

/// Sites under a plan, attached.
std::vector<SiteOutcome> attach_sites(const Ready& ready, const Plan& plan);
/// The graph that an outcome was searched on.
std::shared_ptr<const routing::Graph> graph_under(const Ready& ready, const Outcome& outcome);
/// Attaches a site that stands nowhere yet.
/// \param part which of the question's site sets it would join
std::optional<places::Attachment> attach_site(const Ready& ready, geo::LonLat spot, std::uint32_t number,
                                              std::size_t part);

/// From a label over a stretch of road.
inline AccessLeg leg_over(const routing::Label& label, const Part::Step& step,
                          routing::LinkWay way = routing::LinkWay::none()) {
    if (!label.reached()) return {};
    // Both measures are right, or there is no route.
    const std::uint32_t cost = sum(label.cost, step.cost), other = sum(label.other, step.other);
    return cost == routing::kFar || other == routing::kFar ? AccessLeg{}
                                                           : AccessLeg{cost, label.source, other, way, false, false};
}

/// What becomes of something attached at `a` with this leg. \pre it is attached
inline PlaceOutcome outcome_of(const Question& q, const std::optional<places::Attachment>& a, AccessLeg leg) {
    PlaceOutcome p;
    p.status = Status::cut_off;
    if (leg.cost == routing::kFar) return p;
    if (q.off_road_speed) {
        const auto off_road = before_road(q, *a).in(q.measure());
        leg.cost = sum(leg.cost, off_road.cost);
        leg.other = sum(leg.other, off_road.other);
    }
    if (leg.cost == routing::kFar || leg.other == routing::kFar) return p;
    const bool by_time = q.measure() == routing::Measure::time;
    p.site = SiteIndex(leg.source);
    p.rank = 1;
    p.time = Millis(by_time ? leg.cost : leg.other);
    p.distance = Millimetres(by_time ? leg.other : leg.cost);
    p.status = is_beyond(p.time, p.distance, q.limit) ? Status::beyond_limit : Status::served;
    return p;
}

template <class EachLabel>
AccessLeg Searched<EachLabel>::best_leg(const places::Attachment& a) const {
    AccessLeg best;
    each_leg(a, [&](const AccessLeg& leg) { best = std::min(best, leg); });
    return best;
}

template <class EachLabel>
template <class Use>
void Searched<EachLabel>::each_leg(const places::Attachment& a, Use&& use) const {
    using routing::LinkWay;
    const auto& network = *ready_.inputs.network;
    const SplitLink link = split_link(network, costed_, a.link);
    const bool outward = ready_.question.towards == Towards::demand;
    const routing::Measure measure = ready_.question.measure();

    if (const auto here = on_link_.find(a.link.value()); here != on_link_.end()) {
        for (const std::uint32_t site : here->second) {
            const Millimetres at_site = sites_[site].attachment->offset;
            const Millimetres begin = outward ? at_site : a.offset;
            const Millimetres end = outward ? a.offset : at_site;
            if (const auto part = link.between(begin, end)) {
                const auto step = (*part + before_road(ready_.question, *sites_[site].attachment)).in(measure);
                use(AccessLeg{step.cost, site, step.other,
                              begin <= end ? LinkWay::along(a.link) : LinkWay::against(a.link), true, false});
            }
        }
    }
    for (const LinkWay way : {LinkWay::along(a.link), LinkWay::against(a.link)}) {
        if (const auto part = outward ? link.onto(way.is_against(), a.offset) : link.off(a.offset, way.is_against()))
            each_label_(way, [&](const routing::Label& label) { use(leg_over(label, part->in(measure), way)); });
    }
    if (!costed_.turns.free()) {
        if (a.offset.count() == 0) each_leg_on_junction(a, false, use);
        if (a.offset == network.length(a.link)) each_leg_on_junction(a, true, use);
    }
}

template <class EachLabel>
template <class Use>
void Searched<EachLabel>::each_leg_on_junction(const places::Attachment& a, bool at_end, Use&& use) const {
    const auto& network = *ready_.inputs.network;
    const bool outward = ready_.question.towards == Towards::demand;
    const routing::Measure measure = ready_.question.measure();
    const NodeId node = at_end ? network.ends(a.link).to : network.ends(a.link).from;
    for (const routing::LinkWay leaving : costed_.ways.from(node)) {
        const routing::LinkWay way = outward ? routing::reversed(leaving) : leaving;
        const SplitLink link = split_link(network, costed_, way.link());
        const auto whole = link.whole();
        if (const std::uint64_t ms = way.is_against() ? whole.against : whole.along; ms < routing::kFar) {
            const Part part{static_cast<std::uint32_t>(ms),
                            static_cast<std::uint32_t>(network.length(way.link()).count())};
            each_label_(way, [&](const routing::Label& label) {
                AccessLeg leg = leg_over(label, part.in(measure), way);
                leg.on_junction = true;
                use(leg);
            });
        }
        const auto here = on_link_.find(way.link().value());
        if (here == on_link_.end()) continue;
        for (const std::uint32_t site : here->second) {
            const Millimetres at = sites_[site].attachment->offset;
            const auto part = outward ? link.off(at, way.is_against()) : link.onto(way.is_against(), at);
            if (!part) continue;
            const auto step = (*part + before_road(ready_.question, *sites_[site].attachment)).in(measure);
            use(AccessLeg{step.cost, site, step.other, way, true, true});
        }
    }
}

template <class EachLabel>
PlaceOutcome Searched<EachLabel>::outcome_at(const std::optional<geo::LonLat>& position,
                                             const std::optional<places::Attachment>& a) const {
    PlaceOutcome p;
    if (!position) return p;
    p.status = Status::no_road_near;
    if (!a) return p;
    return outcome_of(ready_.question, a, best_leg(*a));
}

}  // namespace otoro::service
