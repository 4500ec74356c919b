#include "service/reach.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "geo/edge_index.h"
#include "geo/ellipsoid.h"
#include "reach/everywhere.h"
#include "reach/level_lines.h"
#include "reach/overlay.h"
#include "roads/shape.h"
#include "service/access_legs.h"
#include "service/own_limit_values.h"
#include "service/reach_parts.h"

namespace otoro::service {

Amount amount_of(double count, ValueOf measure) {
    const auto whole = static_cast<std::int64_t>(std::llround(count));
    return measure == ValueOf::time ? Amount(Millis(whole)) : Amount(Millimetres(whole));
}

namespace {

void check(const ReachRequest& request) {
    if (request.limits.empty() && request.own_limits.empty())
        refuse("", "no limit is given", "Say how far, such as 8min or 800m");
    if (!request.limits.empty() && !request.own_limits.empty())
        refuse("", "there are limits for all sites, and limits of their own", "Give one or the other");
    if (request.limits.size() > kMostLimits)
        refuse("",
               "there are " + std::to_string(request.limits.size()) + " limits; at most " +
                   std::to_string(kMostLimits) + " can be told apart",
               "Give fewer, or a longer step");
    for (std::size_t i = 0; i < request.limits.size(); ++i) {
        if (request.limits[i].index() != request.limits[0].index())
            refuse("", "some limits are times and some are lengths", "Give all in minutes or all in metres");
        if (count_of(request.limits[i]) < 0) refuse("", "a limit is less than nothing", "Give limits from 0 on");
        if (i > 0 && !(count_of(request.limits[i - 1]) < count_of(request.limits[i])))
            refuse("", "the limits do not rise", "Give each once, the shortest first");
    }
    const std::optional<Amount>* first = nullptr;
    for (const auto& own : request.own_limits) {
        if (!own) continue;
        if (first == nullptr) first = &own;
        if (own->index() != (*first)->index())
            refuse("", "some sites' limits are times and some are lengths", "Give all in minutes or all in metres");
    }
    if (!request.own_limits.empty() && first == nullptr)
        refuse("", "no site has a limit of its own", "Name a field that holds limits, such as 8 or 8min");
}

}  // namespace

ReachSearch::ReachSearch(std::shared_ptr<const Ready> ready, const Plan& plan, const ReachRequest& request,
                         const Task& task)
    : ready_(std::move(ready)),
      request_(request),
      costed_(costed_under(*ready_, plan, task)),
      searching_(*ready_, costed_),
      sites_(attach_sites(*ready_, plan)) {
    check(request);
    std::vector<bool> picked(sites_.size(), request.sites.empty());
    for (const SiteIndex s : request.sites)
        if (s.value() < picked.size()) picked[s.value()] = true;
    for (std::uint32_t i = 0; i < sites_.size(); ++i) {
        const bool has_limit = request.own_limits.empty() || (i < request.own_limits.size() && request.own_limits[i]);
        if (sites_[i].planned.in_use && sites_[i].attachment && picked[i] && has_limit) picks_.push_back(i);
    }
    if (!request.limits.empty()) {
        measure_ = measure_of(request.limits.front());
    } else {
        for (const auto& own : request.own_limits)
            if (own) measure_ = measure_of(*own);
    }
}

reach::Bands ReachSearch::bands() const {
    reach::Bands out;
    for (const auto& l : request_.limits) out.limits.push_back(held(count_of(l)));
    if (request_.limits.empty()) out.limits.push_back(0);
    out.per_metre_off_road = per_metre_off_road(ready_->question, measure_);
    return out;
}

double ReachSearch::held(double limit) const {
    const auto& q = ready_->question.limit;
    return q && measure_of(*q) == measure_ ? std::min(limit, count_of(*q)) : limit;
}

std::shared_ptr<const SiteValues> ReachSearch::values(std::span<const std::uint32_t> sites, bool merged,
                                                      const Task& task) const {
    std::vector<SiteOutcome> these = sites_;
    std::vector<bool> in(these.size(), false);
    for (const std::uint32_t s : sites) in[s] = true;
    for (std::uint32_t i = 0; i < these.size(); ++i) these[i].planned.in_use = in[i];
    if (!request_.own_limits.empty() || has_own_limits(*ready_, these))
        return own_limit_values(std::move(these), merged, task);
    const double most = count_of(request_.limits.back());
    const auto seeds = seeds_of(*ready_, *costed_, these);
    constexpr std::size_t kManySites = 4;
    const bool sweep = ready_->prepared && sites.size() > kManySites;
    const bool bounded = (measure_ == ValueOf::time) == (ready_->question.measure() == routing::Measure::time);
    const double furthest = static_cast<double>(routing::kFar) - 1;
    const auto cost_limit = static_cast<std::uint32_t>(bounded ? std::min(most, furthest) : furthest);
    Labels labels = sweep ? searching_.labels(seeds, task).first : searching_.labels_within(seeds, cost_limit, task);
    return std::make_shared<const RoadValues>(ready_, costed_, std::move(these),
                                              std::make_shared<const Labels>(std::move(labels)), measure_, merged);
}

/// Each site as far as the request says of it, or as its record does.
std::shared_ptr<const SiteValues> ReachSearch::own_limit_values(std::vector<SiteOutcome> these, bool merged,
                                                                const Task& task) const {
    OwnLimitValues::Asked asked{ready_, costed_, std::move(these), {}, {}, measure_, merged};
    for (std::size_t i = 0; i < asked.sites.size(); ++i) {
        asked.limits.push_back(request_.own_limits.empty() ? asked.sites[i].planned.site.limit
                                                           : request_.own_limits[i]);
        if (!request_.own_limits.empty())
            asked.shifts.push_back(asked.limits.back() ? held(count_of(*asked.limits.back())) : 0);
    }
    return std::make_shared<const OwnLimitValues>(std::move(asked), searching_, task);
}

Touched ReachSearch::touched(const SiteValues& values) const {
    double most = request_.limits.empty() ? 0 : count_of(request_.limits.back());
    for (const auto& own : request_.own_limits)
        if (own) most = std::max(most, count_of(*own));
    Touched out{values.touched(searching_.graph(), most), {}};
    out.boxes = boxes_around(*ready_->inputs.network, out.links);
    return out;
}

std::vector<geo::Box> boxes_around(const roads::Network& network, std::span<const LinkId> links) {
    constexpr double kDegrees = 0.03;
    std::map<std::pair<int, int>, geo::Box> cells;
    for (const LinkId link : links) {
        geo::Box box;
        for (const geo::LonLat p : network.shape(link)) box.add(p);
        const auto cell = [](double degrees) { return static_cast<int>(std::floor(degrees / kDegrees)); };
        const geo::LonLat at = box.centre();
        cells[{cell(at.lon), cell(at.lat)}].add(box);
    }
    std::vector<geo::Box> out;
    for (const auto& [cell, box] : cells) out.push_back(box);
    return out;
}

std::shared_ptr<const Ready> ready_from(const std::shared_ptr<const Ready>& ready,
                                        const std::vector<geo::LonLat>& spots, const Task& task) {
    auto set = std::make_shared<places::SiteSet>();
    set->name = "spots";
    if (const auto& sets = ready->inputs.sites.sets(); !sets.empty())
        set->attaching.rule = sets.front()->attaching.rule;
    for (const geo::LonLat p : spots)
        set->sites.push_back({fmt::format("{:.5f},{:.5f}", p.lon, p.lat), "", p, places::SiteState::open, {}});
    Inputs inputs = ready->inputs;
    inputs.sites = set;
    Question question = ready->question;
    question.sites = {set->name};
    return prepare(inputs, question, ready.get(), task);
}

std::shared_ptr<const SiteValues> nearest_values(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                                 ValueOf value, std::span<const SiteIndex> of, const Task& task) {
    const auto costed = costed_under(*ready, plan, task);
    auto sites = attach_sites(*ready, plan);
    for (std::uint32_t i = 0; i < sites.size() && !of.empty(); ++i)
        if (std::find(of.begin(), of.end(), SiteIndex(i)) == of.end()) sites[i].planned.in_use = false;
    const Searching searching(*ready, costed);
    if (has_own_limits(*ready, sites))
        return values_within_own_limits(ready, costed, std::move(sites), value, searching, task);
    Labels labels = searching.labels(seeds_of(*ready, *costed, sites), task).first;
    return std::make_shared<const RoadValues>(ready, costed, std::move(sites),
                                              std::make_shared<const Labels>(std::move(labels)), value, false);
}

reach::Polygons ground_in(std::vector<geo::Area> areas, const roads::Network& network) {
    for (auto& area : areas)
        for (auto& ring : area.rings)
            for (auto& p : ring) p = network.near(p);
    return reach::polygons_of(areas);
}

namespace {

/// By place, whether it stands outside.
std::vector<bool> outside_of(const reach::Polygons& within, const Ready& ready) {
    const geo::Area area = reach::area_of(within);
    const geo::AreaIndex index(std::span(&area, 1));
    const auto& demand = ready.inputs.demand;
    std::vector<bool> out(demand.count());
    for (std::uint32_t i = 0; i < demand.count(); ++i) {
        const auto& at = demand.at(i).position;
        out[i] = !at || !index.any_contains(ready.inputs.network->near(*at));
    }
    return out;
}

/// Calls `use` with each part of a road part that is inside.
template <class Use>
void each_inside(const roads::Network& network, const RoadPart& part, const reach::InsideOf& within, Use&& use) {
    const auto shape = roads::shape_between(network, part.link, Millimetres(std::llround(part.from)),
                                            Millimetres(std::llround(part.to)));
    for (const auto& [a, b] : within.parts_of(shape)) {
        const auto at = [](double from, double to, double x) { return from + (to - from) * x; };
        RoadPart inside = part;
        inside.from = at(part.from, part.to, a);
        inside.to = at(part.from, part.to, b);
        inside.value_from = at(part.value_from, part.value_to, a);
        inside.value_to = at(part.value_from, part.value_to, b);
        use(inside);
    }
}

/// Whose ground a class is, and where it begins and ends.
class Areas {
public:
    Areas(const ReachSearch& search, Reach& out)
        : ready_(search.ready()),
          search_(search),
          request_(search.request()),
          out_(out),
          bands_(search.bands()),
          classes_{static_cast<std::uint32_t>(bands_.limits.size())} {
        if (!request_.within) return;
        left_out_ = outside_of(*request_.within, ready_);
        within_.emplace(*request_.within);
    }

    /// Ground, roads and places of one set of values.
    void add(const SiteValues& values, const Task& task) {
        const Touched touched = search_.touched(values);
        const PlaceOutcomes places = values.at_places();
        Found found = ground_of(values, touched, task);
        add_roads(values, touched, found);
        add_places(places, found);
        take(std::move(found));
    }
    /// \param ground what exactly so many sites reach, if it does not follow from the roads alone
    void add(const SitesCounted& counted, const std::optional<std::vector<reach::Polygons>>& ground, const Task& task) {
        Found found;
        if (ground) {
            for (std::uint32_t k = 0; k < ground->size(); ++k) {
                const std::uint32_t c = classes_.of(k + 1, 0);
                put(found[c], {c, (*ground)[k], reach::square_metres((*ground)[k])});
            }
        } else {
            found = ground_of(counted, counted.touched(), task);
        }
        add_roads(counted, counted.touched(), found);
        for (std::uint32_t i = 0; i < counted.at_places().size(); ++i)
            if (const std::uint32_t sites = counted.at_places()[i]; sites > 0 && counts(i))
                add_place(found[classes_.of(sites, 0)], i);
        take(std::move(found));
    }

private:
    using Found = std::map<std::uint32_t, ReachArea>;  // by class

    Found ground_of(const reach::AlongRoads& values, const Touched& touched, const Task& task) const {
        return with_boundaries(
            *ready_.ground, values, bands_, touched.boxes, task,
            [&](const std::vector<reach::Boundary>& boundaries) { return ground_between(boundaries, task); });
    }
    [[nodiscard]] Found ground_between(const std::vector<reach::Boundary>& boundaries, const Task& task) const {
        Found found;
        const std::uint32_t bands = classes_.bands;
        if (!request_.full) {
            for (auto& region : regions(ready_.ground->plane(), boundaries, request_.simplify_metres, task))
                put(found[region.ground], std::move(region));
        } else {
            for (std::uint32_t band = 0; band < bands; ++band) {
                auto within = boundaries;
                for (auto& b : within) {
                    b.left = widened(b.left, band);
                    b.right = widened(b.right, band);
                }
                for (auto& region : regions(ready_.ground->plane(), within, request_.simplify_metres, task))
                    put(found[region.ground], std::move(region));
            }
        }
        return found;
    }

    /// Areas that hold something are part of the answer.
    void take(Found found) {
        for (auto& [c, area] : found) {
            const std::uint32_t owner = classes_.owner(c), band = classes_.band(c);
            if (area.polygons.empty() && area.inside.places == 0) continue;
            if (request_.overlap == Overlap::count)
                area.sites_reaching = owner;
            else if (request_.overlap != Overlap::merged)
                area.site = SiteIndex(owner);
            const auto& limits = request_.limits;
            const auto measure = search_.measure();
            area.from = amount_of(0, measure);
            if (limits.empty())
                area.to = request_.overlap == Overlap::merged ? search_.longest_limit() : *request_.own_limits[owner];
            else {
                area.to = limits[band];
                if (!request_.full && band > 0) area.from = limits[band - 1];
            }
            out_.areas.push_back(std::move(area));
        }
    }
    [[nodiscard]] bool counts(std::uint32_t place) const { return left_out_.empty() || !left_out_[place]; }
    void add_place(ReachArea& area, std::uint32_t place) const {
        ++area.inside.places;
        area.inside.weight += ready_.question.by_weight ? ready_.inputs.demand.at(place).weight : Weight::one();
        area.places.emplace_back(place);
    }

    /// The class of all bands up to this one together.
    [[nodiscard]] std::uint32_t widened(std::uint32_t c, std::uint32_t band) const {
        if (c == reach::kNobody || classes_.band(c) > band) return reach::kNobody;
        return classes_.of(classes_.owner(c), band);
    }

    void put(ReachArea& area, reach::Region region) const {
        if (request_.within) region.polygons = reach::common(region.polygons, *request_.within);
        if (request_.off) region.polygons = reach::without(region.polygons, *request_.off);
        if (request_.within || request_.off) region.square_metres = reach::square_metres(region.polygons);
        const double least = request_.least_square_metres;
        if (least > 0) {
            std::erase_if(region.polygons, [&](const reach::Polygon& p) { return reach::ring_area(p.outer) < least; });
            region.square_metres = 0;
            for (auto& p : region.polygons) {
                std::erase_if(p.holes, [&](const auto& h) { return -reach::ring_area(h) < least; });
                region.square_metres += reach::ring_area(p.outer);
                for (const auto& h : p.holes) region.square_metres += reach::ring_area(h);
            }
        }
        area.polygons = std::move(region.polygons);
        area.square_metres = region.square_metres;
    }

    void add_roads(const reach::AlongRoads& values, const Touched& touched, Found& found) const {
        std::map<std::uint32_t, double> sums;
        each_part(values, touched.links, bands_, [&](const RoadPart& part) {
            const std::uint32_t last = request_.full ? classes_.bands : part.band + 1;
            double length = within_ ? 0 : part.to - part.from;
            if (within_)
                each_inside(*ready_.inputs.network, part, *within_,
                            [&](const RoadPart& inside) { length += inside.to - inside.from; });
            for (std::uint32_t b = part.band; b < last; ++b) sums[classes_.of(part.owner, b)] += length;
        });
        for (const auto& [c, sum] : sums)
            if (const auto at = found.find(c); at != found.end())
                at->second.road = Millimetres(static_cast<std::int64_t>(std::llround(sum)));
    }

    void add_places(const PlaceOutcomes& places, Found& found) const {
        for (std::uint32_t i = 0; i < places.size(); ++i) {
            const PlaceOutcome& p = places[i];
            if (!p.served() || !counts(i)) continue;
            const std::uint32_t site = p.site->value();
            double value = search_.measure() == ValueOf::time ? static_cast<double>(p.time.count())
                                                              : static_cast<double>(p.distance.count());
            if (request_.limits.empty()) value -= count_of(*request_.own_limits[site]);
            const std::uint32_t band = bands_.of(value);
            const std::uint32_t owner = request_.overlap == Overlap::merged ? 0 : site;
            const std::uint32_t last = request_.full ? classes_.bands : std::min(band + 1, classes_.bands);
            for (std::uint32_t b = band; b < last; ++b) add_place(found[classes_.of(owner, b)], i);
        }
    }

    const Ready& ready_;
    const ReachSearch& search_;
    const ReachRequest& request_;
    Reach& out_;
    reach::Bands bands_;
    reach::Classes classes_;
    std::vector<bool> left_out_;             ///< places outside of what is asked about; empty: none
    std::optional<reach::InsideOf> within_;  ///< what is asked about
};

void find_rim(const Ready& ready, const SiteValues& values, double limit, ValueOf measure, Reach& out) {
    for (const auto& end : ready.ground->rim()) {
        const auto value = values.at(end.link, end.offset);
        if (!value || value->value >= limit) continue;
        out.rim.push_back({end.at, amount_of(limit - value->value, measure), ready.inputs.network->name(end.link)});
    }
}

}  // namespace

Amount ReachSearch::longest_limit() const {
    Amount longest = amount_of(0, measure_);
    for (const std::uint32_t s : picks_)
        if (count_of(*request_.own_limits[s]) > count_of(longest)) longest = *request_.own_limits[s];
    return longest;
}

void each_part(const reach::AlongRoads& values, std::span<const LinkId> links, const reach::Bands& bands,
               const std::function<void(const RoadPart&)>& use) {
    std::vector<reach::Stretch> stretches;
    for (const LinkId link : links) {
        values.stretches(link, stretches);
        for (const auto& s : stretches) {
            const auto at = [&](double x) {
                return s.value_from + (s.value_to - s.value_from) * (x - s.from) / (s.to - s.from);
            };
            double from = s.from;
            std::uint32_t band = bands.of(s.value_from);
            const std::uint32_t last = bands.of(s.value_to);
            while (true) {
                double to = s.to;
                if (band != last) {
                    const double limit = bands.limits[band < last ? band : band - 1];
                    to = std::clamp(s.from + (limit - s.value_from) / (s.value_to - s.value_from) * (s.to - s.from),
                                    from, s.to);
                }
                if (band < bands.limits.size() && to > from) use({link, from, to, at(from), at(to), s.owner, band});
                if (band == last) break;
                from = to;
                band < last ? ++band : --band;
            }
        }
    }
}

Reach reach_areas(const std::shared_ptr<const Ready>& ready, const Plan& plan, const ReachRequest& request,
                  const Task& task) {
    const ReachSearch search(ready, plan, request, task);
    Reach out{ready->question, plan, request, search.sites(), {}, {}};
    if (request.overlap == Overlap::count) {
        // Every limit has counts of its own.
        for (std::size_t i = 0; i < std::max<std::size_t>(request.limits.size(), 1); ++i) {
            ReachRequest one = request;
            if (!request.limits.empty()) one.limits = {request.limits[i]};
            const ReachSearch within(ready, plan, one, task);
            std::optional<std::vector<reach::Polygons>> ground;
            if (ready->question.off_road_speed) ground = ground_counted(ready, plan, one, within.picks(), task);
            Areas(within, out).add(SitesCounted(within, task), ground, task);
        }
        return out;
    }
    Areas areas(search, out);
    const double most = search.bands().limits.back();
    const bool each = request.overlap == Overlap::each;
    const std::size_t rounds = each ? search.picks().size() : 1;
    for (std::size_t i = 0; i < rounds && !search.picks().empty(); ++i) {
        task.at("finding reached ground", static_cast<double>(i) / static_cast<double>(rounds));
        const auto sites = each ? search.picks().subspan(i, 1) : search.picks();
        const auto values = search.values(sites, request.overlap == Overlap::merged, task);
        areas.add(*values, task);
        find_rim(*ready, *values, most, search.measure(), out);
    }
    std::stable_sort(out.rim.begin(), out.rim.end(),
                     [](const RimEnd& a, const RimEnd& b) { return count_of(a.left) > count_of(b.left); });
    return out;
}

std::vector<EqualLine> equal_lines(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                   const ReachRequest& request, const Task& task) {
    const ReachSearch search(ready, plan, request, task);
    std::vector<EqualLine> out;
    if (search.picks().empty()) return out;
    const auto values = search.values(search.picks(), true, task);
    auto bands = search.bands();
    bands.limits.push_back(2 * reach::kBeyond);
    const reach::Everywhere everywhere(*values, *ready->inputs.network);
    const auto boundaries = ready->ground->boundaries(everywhere, bands, search.touched(*values).boxes, task);
    const reach::Classes classes{static_cast<std::uint32_t>(bands.limits.size())};
    std::optional<reach::InsideOf> within, off;
    if (request.within) within.emplace(*request.within);
    if (request.off) off.emplace(*request.off);
    for (auto& line : level_lines(ready->ground->plane(), boundaries, classes)) {
        const Amount at = request.limits.empty() ? search.longest_limit() : request.limits[line.level];
        reach::InsideOf::Lines parts{std::move(line.vertices)};
        if (within) parts = within->inside(parts.front());
        for (auto& part : parts) {
            reach::InsideOf::Lines left{std::move(part)};
            if (off) left = off->outside(left.front());
            for (auto& vertices : left) out.push_back({at, std::move(vertices)});
        }
    }
    return out;
}

std::vector<ReachCircle> reach_circles(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                       const ReachRequest& request, const std::optional<Millimetres>& radius,
                                       const std::optional<Speed>& speed, const Task& task) {
    const ReachSearch search(ready, plan, request, task);
    if (!radius && !speed && search.measure() == ValueOf::time)
        refuse("", "a circle for a limit in time needs a radius, or a speed", "Give one, such as 5km or 40km/h");
    std::vector<ReachCircle> out;
    const auto& demand = ready->inputs.demand;
    const auto left_out = request.within ? outside_of(*request.within, *ready) : std::vector<bool>();
    for (std::size_t k = 0; k < search.picks().size(); ++k) {
        task.at("drawing circles", static_cast<double>(k) / static_cast<double>(search.picks().size()));
        const std::uint32_t s = search.picks()[k];
        ReachRequest one = request;
        one.overlap = Overlap::merged;
        one.full = true;
        one.sites = {SiteIndex(s)};
        const Amount limit = request.limits.empty() ? *request.own_limits[s] : request.limits.back();
        if (!request.limits.empty()) one.limits = {limit};
        ReachCircle c;
        c.site = SiteIndex(s);
        c.centre = *search.sites()[s].planned.site.position;
        if (radius)
            c.radius = *radius;
        else if (const auto* time = std::get_if<Millis>(&limit))
            c.radius = Millimetres(
                static_cast<std::int64_t>(static_cast<Wide>(std::max<std::int64_t>(
                                              0, time->count() - search.sites()[s].attachment->turnout.count())) *
                                          speed->mm_per_hour() / 3'600'000));
        else
            c.radius = std::get<Millimetres>(limit);
        c.polygons = {reach::circle(ready->inputs.network->near(c.centre), c.radius.metres())};
        if (request.within) c.polygons = reach::common(c.polygons, *request.within);
        if (request.off) c.polygons = reach::without(c.polygons, *request.off);
        c.square_metres = reach::square_metres(c.polygons);
        const Reach reached = reach_areas(ready, plan, one, task);
        const reach::Polygons ground = reached.areas.empty() ? reach::Polygons() : reached.areas[0].polygons;
        const double both = reach::square_metres(reach::common(ground, c.polygons));
        c.promised_square_metres = std::max(0.0, c.square_metres - both);
        c.unpromised_square_metres = std::max(0.0, reach::square_metres(ground) - both);
        const ReachSearch alone(ready, plan, one, task);
        const auto places = alone.values(alone.picks(), true, task)->at_places();
        for (std::uint32_t i = 0; i < places.size(); ++i) {
            const auto& place = demand.at(i);
            if (!place.position || (!left_out.empty() && left_out[i])) continue;
            const bool in_circle = geo::distance(*place.position, c.centre) <= c.radius;
            const bool is_reached = places[i].served() && is_within(places[i], limit);
            const Weight weight = ready->question.by_weight ? place.weight : Weight::one();
            const auto add = [&](Tally& tally) {
                ++tally.places;
                tally.weight += weight;
            };
            if (in_circle) add(c.inside);
            if (in_circle && !is_reached) add(c.promised);
            if (!in_circle && is_reached) add(c.unpromised);
        }
        out.push_back(std::move(c));
    }
    return out;
}

std::vector<ReachedRoad> reached_roads(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                       const ReachRequest& request, const Task& task) {
    const ReachSearch search(ready, plan, request, task);
    const auto bands = search.bands();
    std::vector<ReachedRoad> out;
    std::optional<reach::InsideOf> within;
    if (request.within) within.emplace(*request.within);
    const bool each = request.overlap == Overlap::each || request.overlap == Overlap::count;
    const std::size_t rounds = each ? search.picks().size() : 1;
    for (std::size_t i = 0; i < rounds && !search.picks().empty(); ++i) {
        task.at("finding reached roads", static_cast<double>(i) / static_cast<double>(rounds));
        const auto sites = each ? search.picks().subspan(i, 1) : search.picks();
        const auto values = search.values(sites, false, task);
        const auto whole = [](double mm) { return Millimetres(static_cast<std::int64_t>(std::llround(mm))); };
        const auto add = [&](const RoadPart& p) {
            const double shift = request.limits.empty() ? count_of(*request.own_limits[p.owner]) : 0;
            ReachedRoad road{p.link,
                             whole(p.from),
                             whole(p.to),
                             amount_of(p.value_from + shift, search.measure()),
                             amount_of(p.value_to + shift, search.measure()),
                             SiteIndex(p.owner),
                             p.band};
            if (request.overlap == Overlap::merged) road.site.reset();
            if (road.from < road.to) out.push_back(road);
        };
        each_part(*values, search.touched(*values).links, bands, [&](const RoadPart& p) {
            if (within)
                each_inside(*ready->inputs.network, p, *within, add);
            else
                add(p);
        });
    }
    return out;
}

}  // namespace otoro::service
