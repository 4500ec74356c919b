#include "files/write_reach.h"

#include <fmt/format.h>

#include "files/write_answer.h"
#include "geo/wording.h"
#include "roads/shape.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

using Kind = AnswerColumn::Kind;
using service::ValueOf;

ValueOf measure_of(const service::ReachRequest& request) {
    for (const auto& limit : request.limits) return service::measure_of(limit);
    for (const auto& own : request.own_limits)
        if (own) return service::measure_of(*own);
    return ValueOf::time;
}
/// Minutes or metres.
double number(const Amount& a) {
    const auto* const time = std::get_if<Millis>(&a);
    return time ? time->minutes() : std::get<Millimetres>(a).metres();
}
double rounded(double v, double steps) { return std::round(v * steps) / steps; }

Cell site_cell(const std::vector<service::SiteOutcome>& sites, const std::optional<SiteIndex>& site, bool name) {
    if (!site) return {};
    const auto& s = sites[site->value()].planned.site;
    return name ? s.name : s.id;
}

}  // namespace

std::string reach_sentence(const service::Ready& ready, const service::ReachRequest& request) {
    std::string limits;
    if (request.limits.empty()) limits = "each site's own limit";
    for (std::size_t i = 0; i < request.limits.size(); ++i)
        limits += (i == 0 ? "" : i + 1 == request.limits.size() ? " and " : ", ") + describe(request.limits[i]);
    const auto& q = ready.question;
    return fmt::format("Ground within {} of the {}{}, {} {}, {}nearest road within {}{}{}", limits,
                       q.use == service::SiteUse::open ? "open " : "open and candidate ", service::listed(q.sites),
                       service::travel_words(q), q.towards == service::Towards::demand ? "to the place" : "to the site",
                       q.limit || q.own_limits ? service::limit_words(q) + ", " : std::string(),
                       describe(ready.ground->limit()), request.within ? ", in the zones" : "",
                       request.off ? ", off the water" : "");
}

ShapeTable reach_table(const service::Ready& ready, const service::Reach& reach) {
    const bool time = measure_of(reach.request) == ValueOf::time;
    ShapeTable out;
    out.name = "reach";
    out.description = reach_sentence(ready, reach.request);
    out.columns = {{"site_id", "site_id"},
                   {"site_name", "site_name"},
                   {"sites_reaching", "sites", Kind::whole},
                   {time ? "from_minutes" : "from_metres", time ? "from_min" : "from_m", Kind::number},
                   {time ? "to_minutes" : "to_metres", time ? "to_min" : "to_m", Kind::number},
                   {"measure", "measure"},
                   {"travel", "travel"},
                   {"towards", "towards"},
                   {"plan", "plan"},
                   {"square_km", "square_km", Kind::number},
                   {"road_km", "road_km", Kind::number},
                   {"places", "places", Kind::whole},
                   {"weight", "weight", Kind::number},
                   {"question", "question"}};
    const std::string question = out.description;
    out.each_row = [&ready, &reach, time, question](const auto& use) {
        for (const auto& a : reach.areas) {
            ShapeRow row;
            row.cells = {site_cell(reach.sites, a.site, false),
                         site_cell(reach.sites, a.site, true),
                         a.sites_reaching > 0 ? Cell(std::int64_t{a.sites_reaching}) : Cell(),
                         number(a.from),
                         number(a.to),
                         std::string(time ? "time" : "distance"),
                         travel::label(ready.question.profile),
                         std::string(ready.question.towards == service::Towards::demand ? "demand" : "site"),
                         reach.plan.name,
                         rounded(a.square_metres / 1e6, 1e6),
                         a.road.kilometres(),
                         std::int64_t{a.inside.places},
                         a.inside.weight.value(),
                         question};
            row.polygons = a.polygons;
            use(row);
        }
    };
    return out;
}

ShapeTable roads_table(const service::Ready& ready, const service::Reach& reach,
                       const std::vector<service::ReachedRoad>& roads) {
    const bool time = measure_of(reach.request) == ValueOf::time;
    ShapeTable out;
    out.name = "roads_reached";
    out.description = reach_sentence(ready, reach.request);
    out.kind = ShapeKind::lines;
    out.columns = {{"site_id", "site_id"},
                   {"site_name", "site_name"},
                   {"road", "road"},
                   {time ? "minutes_start" : "metres_start", time ? "min_start" : "m_start", Kind::number},
                   {time ? "minutes_end" : "metres_end", time ? "min_end" : "m_end", Kind::number},
                   {"length_m", "length_m", Kind::number},
                   {time ? "within_minutes" : "within_metres", time ? "within_min" : "within_m", Kind::number}};
    out.each_row = [&ready, &reach, &roads](const auto& use) {
        const auto& network = *ready.inputs.network;
        for (const auto& r : roads) {
            ShapeRow row;
            const auto& limits = reach.request.limits;
            std::optional<Amount> within;
            if (!limits.empty())
                within = limits[r.band];
            else if (r.site)
                within = reach.request.own_limits[r.site->value()];
            row.cells = {site_cell(reach.sites, r.site, false),
                         site_cell(reach.sites, r.site, true),
                         network.name(r.link),
                         number(r.at_from),
                         number(r.at_to),
                         (r.to - r.from).metres()};
            row.cells.emplace_back();
            if (within) row.cells.back() = number(*within);
            row.lines = {roads::shape_between(network, r.link, r.from, r.to)};
            use(row);
        }
    };
    return out;
}

ShapeTable lines_table(const service::Ready& ready, const std::vector<service::EqualLine>& lines) {
    const bool time = lines.empty() || std::holds_alternative<Millis>(lines.front().at);
    ShapeTable out;
    out.name = time ? "equal_time" : "equal_distance";
    out.description = fmt::format("Lines of equal {} to the nearest of the {}", time ? "time" : "distance",
                                  service::listed(ready.question.sites));
    out.kind = ShapeKind::lines;
    out.columns = {{time ? "minutes" : "metres", time ? "minutes" : "metres", Kind::number}};
    out.each_row = [&lines](const auto& use) {
        for (const auto& line : lines) use(ShapeRow{{number(line.at)}, {}, {line.vertices}});
    };
    return out;
}

ShapeTable circles_table(const service::Ready& ready, const service::Reach& reach,
                         const std::vector<service::ReachCircle>& circles) {
    ShapeTable out;
    out.name = "circles";
    out.description = "Straight-line circles beside: " + reach_sentence(ready, reach.request);
    out.columns = {{"site_id", "site_id"},
                   {"site_name", "site_name"},
                   {"radius_m", "radius_m", Kind::number},
                   {"square_km", "square_km", Kind::number},
                   {"places", "places", Kind::whole},
                   {"weight", "weight", Kind::number},
                   {"not_reached_square_km", "no_sqkm", Kind::number},
                   {"not_reached_places", "no_places", Kind::whole},
                   {"not_reached_weight", "no_weight", Kind::number},
                   {"beyond_circle_square_km", "more_sqkm", Kind::number},
                   {"beyond_circle_places", "more_place", Kind::whole},
                   {"beyond_circle_weight", "more_weigh", Kind::number}};
    out.each_row = [&reach, &circles](const auto& use) {
        for (const auto& c : circles) {
            ShapeRow row;
            const auto square_km = [](double m) { return Cell(rounded(m / 1e6, 1e6)); };
            row.cells = {site_cell(reach.sites, c.site, false),
                         site_cell(reach.sites, c.site, true),
                         c.radius.metres(),
                         square_km(c.square_metres),
                         std::int64_t{c.inside.places},
                         c.inside.weight.value(),
                         square_km(c.promised_square_metres),
                         std::int64_t{c.promised.places},
                         c.promised.weight.value(),
                         square_km(c.unpromised_square_metres),
                         std::int64_t{c.unpromised.places},
                         c.unpromised.weight.value()};
            row.polygons = c.polygons;
            use(row);
        }
    };
    return out;
}

ShapeTable uncovered_table(const service::Ready& ready, const std::vector<service::SiteOutcome>& sites,
                           const Amount& limit, const service::Uncovered& uncovered) {
    const bool time = std::holds_alternative<Millis>(limit);
    service::ReachRequest request;
    request.limits = {limit};
    ShapeTable out;
    out.name = "uncovered";
    out.description = "Not reached: " + reach_sentence(ready, request);
    out.columns = {{"name", "name"},
                   {"zone", "zone"},
                   {"square_km", "square_km", Kind::number},
                   {"places", "places", Kind::whole},
                   {"weight", "weight", Kind::number},
                   {"nearest_site_id", "site_id"},
                   {"nearest_site_name", "site_name"},
                   {time ? "too_far_minutes" : "too_far_metres", time ? "far_min" : "far_m", Kind::number},
                   {"at_longitude", "at_lon", Kind::number},
                   {"at_latitude", "at_lat", Kind::number},
                   {"question", "question"}};
    out.each_row = [&sites, &uncovered, question = out.description](const auto& use) {
        for (const auto& p : uncovered.patches) {
            const geo::LonLat at = geo::normalised(p.at);
            ShapeRow row;
            row.cells = {p.name,
                         p.zone,
                         rounded(p.square_metres / 1e6, 1e6),
                         std::int64_t{p.inside.places},
                         p.inside.weight.value(),
                         site_cell(sites, p.nearest, false),
                         site_cell(sites, p.nearest, true),
                         p.too_far ? Cell(number(*p.too_far)) : Cell(),
                         rounded(at.lon, 1e6),
                         rounded(at.lat, 1e6),
                         question};
            row.polygons = {p.polygon};
            use(row);
        }
    };
    return out;
}

ShapeTable failing_table(const places::ZoneSet& zones, const Amount& limit,
                         const std::vector<service::ZoneCover>& found) {
    ShapeTable out;
    out.name = "not_covered";
    out.description = fmt::format("Ground near roads that is not within {}", describe(limit));
    out.columns = {{"zone_id", "zone_id"},
                   {"zone_name", "zone_name"},
                   {"square_km", "square_km", Kind::number},
                   {"places", "places", Kind::whole},
                   {"weight", "weight", Kind::number}};
    out.each_row = [&zones, &found](const auto& use) {
        for (const auto& z : found) {
            if (z.failing.empty()) continue;
            ShapeRow row;
            row.cells = {zones.zones[z.zone].id, zones.zones[z.zone].name,
                         (z.square_metres - z.square_metres_within) / 1e6,
                         std::int64_t{z.places.places - z.places_within.places},
                         (z.places.weight - z.places_within.weight).value()};
            row.polygons = z.failing;
            use(row);
        }
    };
    return out;
}

std::string zones_csv(const places::ZoneSet& zones, const std::vector<service::PlannedSite>& sites,
                      const std::vector<service::ZoneCover>& found) {
    const auto share = [](double part, double whole) {
        return whole > 0 ? fmt::format("{:.4f}", std::floor(part / whole * 1e6) / 1e4) : std::string();
    };
    std::string text =
        "zone_id,zone_name,sites,covered,ground_percent,ground_square_km,ground_within_square_km,"
        "no_road_square_km,road_percent,road_km,road_within_km,places,places_within,weight,"
        "weight_within,weight_percent";
    text += kCsvEnd;
    for (const auto& z : found) {
        std::string own;
        for (const SiteIndex s : z.own) own += (own.empty() ? "" : " ") + sites[s.value()].site.id;
        const auto& zone = zones.zones[z.zone];
        text += fmt::format("{},{},{},{},{},{:.6f},{:.6f},{:.6f},{},{:.6f},{:.6f},{},{},{},{},{}{}", csv_cell(zone.id),
                            csv_cell(zone.name), csv_cell(own), cell(z.judged()),
                            share(z.square_metres_within, z.square_metres), z.square_metres / 1e6,
                            z.square_metres_within / 1e6, z.square_metres_no_road / 1e6,
                            share(z.road_within.kilometres(), z.road.kilometres()), z.road.kilometres(),
                            z.road_within.kilometres(), z.places.places, z.places_within.places,
                            plain_number(z.places.weight.value()), plain_number(z.places_within.weight.value()),
                            share(z.places_within.weight.value(), z.places.weight.value()), kCsvEnd);
    }
    return text;
}

ShapeTable change_table(const std::string& first, const std::string& second, const service::ReachChange& change) {
    ShapeTable out;
    out.name = "reach_change";
    out.description = fmt::format("What is reached by: {}; against what is reached by: {}", second, first);
    out.columns = {{"change", "change"},
                   {"square_km", "square_km", Kind::number},
                   {"places", "places", Kind::whole},
                   {"weight", "weight", Kind::number},
                   {"first", "first"},
                   {"second", "second"}};
    out.each_row = [&change, first, second](const auto& use) {
        const auto put = [&](const char* what, const reach::Polygons& ground, double square_metres,
                             const service::Tally& inside) {
            if (ground.empty() && inside.places == 0) return;
            ShapeRow row;
            row.cells = {std::string(what),
                         rounded(square_metres / 1e6, 1e6),
                         std::int64_t{inside.places},
                         inside.weight.value(),
                         first,
                         second};
            row.polygons = ground;
            use(row);
        };
        put("gained", change.gained, change.gained_square_metres, change.gained_places);
        put("lost", change.lost, change.lost_square_metres, change.lost_places);
        put("kept", change.kept, change.kept_square_metres, change.kept_places);
    };
    return out;
}

}  // namespace otoro::files
