#include "service/cover.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <set>
#include <string_view>

#include "geo/amounts.h"
#include "geo/box_index.h"
#include "geo/ellipsoid.h"
#include "geo/local_frame.h"
#include "geo/wording.h"
#include "reach/everywhere.h"
#include "roads/shape.h"
#include "service/reach_parts.h"

namespace otoro::service {
namespace {

/// Ground within a limit of some sites, and ground near roads that is beyond it.
struct Grounds {
    std::shared_ptr<const SiteValues> values;
    PlaceOutcomes places;
    reach::Polygons within, beyond;
};

Grounds grounds_of(const std::shared_ptr<const Ready>& ready, const Plan& plan, const Amount& limit,
                   const std::vector<SiteIndex>& sites, const geo::Box& box, const Task& task) {
    ReachRequest request;
    request.limits = {limit};
    request.overlap = Overlap::merged;
    request.sites = sites;
    const ReachSearch search(ready, plan, request, task);
    Grounds out;
    // Not only as far as the limit: how much too far is asked too.
    ReachRequest all = request;
    all.limits = {limit, amount_of(static_cast<double>(routing::kFar), measure_of(limit))};
    const ReachSearch far(ready, plan, all, task);
    out.values = far.values(far.picks(), true, task);
    out.places = out.values->at_places();
    reach::Bands bands = search.bands();
    bands.limits.push_back(2 * reach::kBeyond);
    const reach::Everywhere everywhere(*out.values, *ready->inputs.network);
    for (auto& region : with_boundaries(*ready->ground, everywhere, bands, {&box, 1}, task, [&](const auto& found) {
             return reach::regions(ready->ground->plane(), found, 0, task);
         }))
        (region.ground == 0 ? out.within : out.beyond) = std::move(region.polygons);
    return out;
}

/// Values by the nearest site, without any limit.
std::shared_ptr<const SiteValues> by_nearest(const Ready& ready, const Plan& plan, ValueOf measure, const Task& task) {
    auto without = std::make_shared<Ready>(ready);
    without->question.limit.reset();
    without->question.own_limits = false;
    return nearest_values(without, plan, measure, {}, task);
}

bool is_inside(const PlaceOutcome& p, const Amount& limit) { return p.served() && is_within(p, limit); }

Weight weight_of(const Ready& ready, std::uint32_t place) {
    return ready.question.by_weight ? ready.inputs.demand.at(place).weight : Weight::one();
}
void add(Tally& tally, Weight weight) {
    ++tally.places;
    tally.weight += weight;
}

geo::Area near_roads(const roads::Network& network, geo::Area area) {
    geo::Area out;
    for (auto& ring : area.rings) {
        for (auto& p : ring) p = network.near(p);
        out.add(std::move(ring));
    }
    return out;
}

/// The nearest of some areas whose edge is within a metre.
std::optional<std::uint32_t> within_a_metre(const std::vector<geo::Area>& areas,
                                            const std::vector<std::uint32_t>& which, geo::LonLat spot) {
    const geo::LocalFrame frame(spot);
    std::optional<std::uint32_t> best;
    double least = 1;
    for (const std::uint32_t k : which)
        for (const auto& ring : areas[k].rings)
            if (const double away = ring.empty() ? least : foot_on_line(ring, frame).squared; away < least) {
                least = away;
                best = k;
            }
    return best;
}

/// Adds what of the zone's roads is within the limit.
void add_roads(const Ready& ready, const Grounds& grounds, const reach::Bands& bands, const reach::InsideOf& inside,
               ZoneCover& cover) {
    const auto& network = *ready.inputs.network;
    std::vector<std::uint32_t> links;
    network.links_touching(inside.box(), links);
    std::sort(links.begin(), links.end());
    double all = 0, within = 0;
    for (const std::uint32_t i : links) {
        if (!ready.ground->use()[i]) continue;
        const LinkId link(i);
        const double share = inside.share_of(network.shape(link));
        if (share <= 0) continue;
        const auto length = static_cast<double>(network.length(link).count());
        all += share * length;
        const std::array one{link};
        each_part(*grounds.values, one, bands, [&](const RoadPart& part) {
            if (share >= 1) {
                within += part.to - part.from;
                return;
            }
            const auto shape = roads::shape_between(network, link, Millimetres(std::llround(part.from)),
                                                    Millimetres(std::llround(part.to)));
            within += inside.share_of(shape) * (part.to - part.from);
        });
    }
    cover.road = Millimetres(std::llround(all));
    cover.road_within = Millimetres(std::llround(std::min(within, all)));
}

}  // namespace

std::vector<ZoneCover> zones_covered(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                     const places::ZoneSet& zones, const Amount& limit, AnswersFor who,
                                     const Task& task) {
    const auto& network = *ready->inputs.network;
    std::vector<geo::Area> areas;
    geo::Box box;
    for (const auto& z : zones.zones) {
        areas.push_back(near_roads(network, z.area));
        box.add(areas.back().box);
    }
    const auto planned = sites_under(ready->inputs.sites, plan, ready->question.use);
    std::map<std::uint32_t, std::vector<SiteIndex>> own;
    if (who == AnswersFor::own) {
        for (std::uint32_t s = 0; s < planned.size(); ++s)
            for (std::uint32_t z = 0; z < zones.count() && planned[s].in_use && !planned[s].site.zone.empty(); ++z)
                if (planned[s].site.zone == zones.zones[z].id || planned[s].site.zone == zones.zones[z].name)
                    own[z].push_back(SiteIndex(s));
        if (own.empty())
            throw InputError({"", std::nullopt, "no site in use names a zone that there is",
                              "Name the field of the sites that holds their zone's id or name"});
    }
    const auto zone_of = places::zones_of(zones, places::positions(ready->inputs.demand), task);
    reach::Bands bands{{count_of(limit)}, 0};
    std::optional<Grounds> of_all;
    if (who == AnswersFor::any) of_all = grounds_of(ready, plan, limit, {}, box, task);
    std::vector<ZoneCover> out;
    for (std::uint32_t z = 0; z < zones.count(); ++z) {
        task.at("looking at zones", static_cast<double>(z) / static_cast<double>(zones.count()));
        ZoneCover cover;
        cover.zone = z;
        const reach::Polygons zone = reach::polygons_of(std::span(&areas[z], 1));
        std::optional<Grounds> of_own;
        if (who == AnswersFor::own) {
            cover.own = own[z];
            // A zone that nobody answers for is reached by nobody: no site has this number.
            const std::vector<SiteIndex> nobody{SiteIndex(reach::kNobody)};
            of_own = grounds_of(ready, plan, limit, cover.own.empty() ? nobody : cover.own, areas[z].box, task);
        }
        const Grounds& grounds = of_all ? *of_all : *of_own;
        const reach::Polygons inside = common(grounds.within, zone);
        cover.failing = common(grounds.beyond, zone);
        cover.square_metres_within = reach::square_metres(inside);
        const double failing = reach::square_metres(cover.failing);
        cover.square_metres = cover.square_metres_within + failing;
        cover.square_metres_no_road = std::max(0.0, reach::square_metres(zone) - cover.square_metres);
        if (!zone.empty()) add_roads(*ready, grounds, bands, reach::InsideOf(zone), cover);
        for (std::uint32_t i = 0; i < zone_of.size(); ++i) {
            if (zone_of[i] != z) continue;
            add(cover.places, weight_of(*ready, i));
            if (is_inside(grounds.places[i], limit))
                add(cover.places_within, weight_of(*ready, i));
            else
                cover.failing_places.emplace_back(i);
        }
        cover.covered = failing < 1 && (cover.road - cover.road_within).count() < 1000 && cover.failing_places.empty();
        out.push_back(std::move(cover));
    }
    return out;
}

namespace {

/// One of the eight winds, from one place to another near by.
std::string_view wind(geo::LonLat from, geo::LonLat to) {
    constexpr std::array<std::string_view, 8> kWinds{"east", "north-east", "north", "north-west",
                                                     "west", "south-west", "south", "south-east"};
    const auto scale = geo::MetresPerDegree::at_latitude(from.lat);
    const double east = (to.lon - from.lon) * scale.east, north = (to.lat - from.lat) * scale.north;
    const double eighths = std::atan2(north, east) / std::numbers::pi * 4;
    return kWinds[static_cast<std::size_t>(std::lround(eighths) + 8) % 8];
}

std::string where(const std::string& road, geo::LonLat at, const std::vector<SiteOutcome>& sites) {
    const SiteOutcome* nearest = nullptr;
    Millimetres least;
    for (const SiteOutcome& s : sites) {
        if (!s.planned.in_use || !s.planned.site.position) continue;
        const Millimetres away = geo::distance(at, *s.planned.site.position);
        if (nearest != nullptr && away >= least) continue;
        nearest = &s;
        least = away;
    }
    std::string text = road.empty() ? "" : "by " + road;
    if (nearest == nullptr) return text.empty() ? fmt::format("at {:.4f}, {:.4f}", at.lat, at.lon) : text;
    constexpr Millimetres kBeside = Millimetres::metres(50);
    const std::string site = label(nearest->planned.site);
    if (!text.empty()) text += ", ";
    if (least < kBeside) return text + "at " + site;
    const geo::LonLat centre = *nearest->planned.site.position;
    return text + fmt::format("{} {} of {}", said_long(least, 1), wind(centre, geo::near_to(at, centre)), site);
}

}  // namespace

std::string covered_words(const std::vector<ZoneCover>& zones, const Amount& limit) {
    const auto in = [&](Judged j) {
        return std::count_if(zones.begin(), zones.end(), [&](const ZoneCover& z) { return z.judged() == j; });
    };
    std::string text = fmt::format("{} of {} zones are covered within {}", said_whole(in(Judged::met)),
                                   said_whole(static_cast<std::int64_t>(zones.size())), describe(limit));
    if (const auto nobody = in(Judged::nobody); nobody > 0)
        text += fmt::format("; in {} there is neither road nor place", said_whole(nobody));
    return text;
}

Uncovered uncovered(const std::shared_ptr<const Ready>& ready, const Plan& plan, const Amount& limit,
                    double least_square_metres, const Task& task) {
    const auto& network = *ready->inputs.network;
    const Grounds grounds = grounds_of(ready, plan, limit, {}, network.extent(), task);
    const auto& demand = ready->inputs.demand;
    Uncovered out;
    // Which patch each uncovered place is in: the one that holds it, or where rounding puts it on an edge, the nearest.
    std::vector<geo::Area> areas;
    for (const auto& p : grounds.beyond) areas.push_back(reach::area_of({p}));
    std::vector<std::vector<DemandIndex>> inside(areas.size());
    const geo::BoxIndex boxes(static_cast<std::uint32_t>(areas.size()), [&](std::uint32_t i) { return areas[i].box; });
    std::vector<std::uint32_t> near;
    for (std::uint32_t i = 0; i < grounds.places.size(); ++i) {
        const auto& at = demand.at(i).position;
        const PlaceOutcome& p = grounds.places[i];
        if (!at || p.status == Status::no_road_near || is_inside(p, limit)) continue;
        const geo::LonLat spot = network.near(*at);
        boxes.touching(geo::LocalFrame(spot).box_around(1), near);
        std::sort(near.begin(), near.end());
        std::optional<std::uint32_t> patch;
        for (const std::uint32_t k : near)
            if (!patch && areas[k].contains(spot)) patch = k;
        if (!patch) patch = within_a_metre(areas, near, spot);
        if (patch) {
            inside[*patch].emplace_back(i);
        } else {
            add(out.elsewhere, weight_of(*ready, i));
            out.elsewhere_places.emplace_back(i);
        }
    }
    const auto& zone_of = ready->zone_of;
    const auto sites = attach_sites(*ready, plan);
    std::set<std::string> named;
    // How far a site serves: as far as the limit, the question's, or its own.
    const auto farthest = [&](SiteIndex site) {
        const auto& q = ready->question;
        double least = count_of(limit);
        for (const auto& other : {q.limit, q.own_limits ? sites[site.value()].planned.site.limit : std::nullopt})
            if (other && measure_of(*other) == measure_of(limit)) least = std::min(least, count_of(*other));
        return least;
    };
    std::shared_ptr<const SiteValues> anywhere;  // whatever limits there are
    for (std::uint32_t k = 0; k < areas.size(); ++k) {
        if ((k & 255U) == 0) task.check();
        UncoveredPatch patch;
        patch.polygon = grounds.beyond[k];
        patch.square_metres = reach::square_metres({patch.polygon});
        out.square_metres += patch.square_metres;
        if (patch.square_metres < least_square_metres && inside[k].empty()) {
            ++out.left_out;
            continue;
        }
        patch.places = inside[k];
        std::optional<double> worst;  // beyond the limit
        std::map<std::uint32_t, std::int64_t> weight_by_zone;
        for (const DemandIndex i : patch.places) {
            add(patch.inside, weight_of(*ready, i.value()));
            const PlaceOutcome& p = grounds.places[i.value()];
            if (zone_of && (*zone_of)[i.value()] != places::kNoZone)
                weight_by_zone[(*zone_of)[i.value()]] += 1 + weight_of(*ready, i.value()).count();
            if (!p.site) continue;
            const double value = measure_of(limit) == ValueOf::time ? static_cast<double>(p.time.count())
                                                                    : static_cast<double>(p.distance.count());
            const double beyond = value - farthest(*p.site);
            if (worst && beyond <= *worst) continue;
            worst = beyond;
            patch.nearest = p.site;
        }
        // A spot on a road in it.
        std::string road;
        geo::LonLat spot = patch.polygon.outer.front();
        if (!patch.places.empty()) spot = network.near(*demand.at(patch.places.front()).position);
        if (const auto a =
                places::attach(network, ready->ground->use(), spot, ready->ground->limit() + Millimetres::metres(2))) {
            patch.at = a->at;
            road = network.name(a->link);
            if (!worst && !anywhere) anywhere = by_nearest(*ready, plan, measure_of(limit), task);
            if (!worst)
                if (const auto value = anywhere->at(a->link, a->offset); value && value->value < reach::kBeyond) {
                    worst = value->value - farthest(SiteIndex(value->owner));
                    patch.nearest = SiteIndex(value->owner);
                }
        } else {
            patch.at = spot;
        }
        if (!weight_by_zone.empty() && ready->inputs.zones) {
            const auto most = std::max_element(weight_by_zone.begin(), weight_by_zone.end(),
                                               [](const auto& a, const auto& b) { return a.second < b.second; });
            patch.zone = ready->inputs.zones->zones[most->first].label();
        }
        const std::string spot_name = where(road, patch.at, sites);
        patch.name = spot_name;
        for (int alike = 2; !named.insert(patch.name).second; ++alike)
            patch.name = fmt::format("{} ({})", spot_name, alike);
        if (worst && *worst > 0) patch.too_far = amount_of(*worst, measure_of(limit));
        out.patches.push_back(std::move(patch));
    }
    std::stable_sort(out.patches.begin(), out.patches.end(), [](const UncoveredPatch& a, const UncoveredPatch& b) {
        return a.inside.weight != b.inside.weight ? a.inside.weight > b.inside.weight
                                                  : a.square_metres > b.square_metres;
    });
    return out;
}

ReachChange reach_change(const std::shared_ptr<const Ready>& first, const Plan& first_plan, const Amount& first_limit,
                         const std::shared_ptr<const Ready>& second, const Plan& second_plan,
                         const Amount& second_limit, const Task& task) {
    const auto one = [&](const std::shared_ptr<const Ready>& ready, const Plan& plan, const Amount& limit,
                         std::vector<bool>& inside) {
        ReachRequest request;
        request.limits = {limit};
        request.overlap = Overlap::merged;
        auto reach = reach_areas(ready, plan, request, task);
        const ReachSearch search(ready, plan, request, task);
        const auto places = search.values(search.picks(), true, task)->at_places();
        for (const auto& p : places) inside.push_back(is_inside(p, limit));
        return reach.areas.empty() ? reach::Polygons() : std::move(reach.areas.front().polygons);
    };
    std::vector<bool> before, after;
    const auto a = one(first, first_plan, first_limit, before), b = one(second, second_plan, second_limit, after);
    ReachChange out;
    constexpr double kSliver = 0.02;  // edges of one reach and of another are the same within millimetres
    out.gained = without_slivers(without(b, a), kSliver);
    out.lost = without_slivers(without(a, b), kSliver);
    out.kept = without_slivers(common(a, b), kSliver);
    out.gained_square_metres = reach::square_metres(out.gained);
    out.lost_square_metres = reach::square_metres(out.lost);
    out.kept_square_metres = reach::square_metres(out.kept);
    for (std::uint32_t i = 0; i < before.size() && i < after.size(); ++i) {
        if (!before[i] && !after[i]) continue;
        const auto put = [&](Tally& tally, std::vector<DemandIndex>& list) {
            add(tally, weight_of(*first, i));
            list.emplace_back(i);
        };
        if (before[i] && after[i])
            put(out.kept_places, out.kept_list);
        else if (after[i])
            put(out.gained_places, out.gained_list);
        else
            put(out.lost_places, out.lost_list);
    }
    return out;
}

}  // namespace otoro::service
