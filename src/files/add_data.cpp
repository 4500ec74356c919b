#include "files/add_data.h"

#include <fmt/format.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>

#include "files/atomic_file.h"
#include "files/complaints.h"
#include "files/open_file.h"
#include "geo/wording.h"

namespace otoro::files {
namespace {

std::string or_none(const std::string& field) {
    return field.empty() ? "none" : field[0] == '=' ? "the formula " + field : "'" + field + "'";
}

std::string joined(const std::vector<std::string>& remarks) {
    std::string s;
    for (const auto& r : remarks) s += "; " + r;
    return s;
}

std::string about(const RoadsRead& r) {
    std::string s =
        fmt::format("class from {}, name from {}, speed from {}, one-way from {}", or_none(r.fields.road_class),
                    or_none(r.fields.name), or_none(r.fields.speed), or_none(r.fields.one_way));
    if (!r.fields.minutes.empty()) s += ", minutes from " + or_none(r.fields.minutes);
    if (!r.fields.minutes_back.empty()) s += ", minutes back from " + or_none(r.fields.minutes_back);
    if (!r.fields.minutes.empty() || !r.fields.minutes_back.empty())
        s += r.lines.times_of == roads::TimesOf::walkers    ? " (of walkers)"
             : r.lines.times_of == roads::TimesOf::cyclists ? " (of cyclists)"
                                                            : " (of vehicles)";
    if (!r.fields.length.empty()) s += ", length compared with " + or_none(r.fields.length);
    if (!r.fields.level.empty()) s += ", level from " + or_none(r.fields.level);
    if (!r.fields.bridge.empty()) s += ", bridges from " + or_none(r.fields.bridge);
    if (!r.fields.tunnel.empty()) s += ", tunnels from " + or_none(r.fields.tunnel);
    if (!r.lines.heights.empty()) s += ", heights from the lines";
    if (!r.lines.bans.empty()) s += fmt::format(", {} forbidden turns", r.lines.bans.size());
    if (!r.lines.traffic_signals.empty())
        s += fmt::format(", {} crossings with signals", r.lines.traffic_signals.size());
    return s + joined(r.remarks);
}

/// What the file says in words that mean nothing here, one flaw a word.
void add_unknown_words(const RoadsRead& read, const std::string& file, FlawList& flaws) {
    const std::string speed = describe(travel::speed_on({}, {}));
    const auto add = [&](const WordMet& met, std::string wrong) {
        Flaw flaw{file, 0, "", std::move(wrong), false, FlawKind::word, std::nullopt};
        flaw.more = met.records - 1;
        flaws.push_back(std::move(flaw));
    };
    const auto roads = [](const WordMet& met) {
        return fmt::format("{} road{}, {},", met.records, met.records == 1 ? "" : "s",
                           said_long(Millimetres::from_metres(met.metres), 1));
    };
    constexpr const char* kRemedy =
        "to map the word, add the roads again and say what it means (Words in the window, --road-word in a command)";
    for (const auto& [word, met] : read.unknown_classes) {
        if (word.empty())
            add(met, fmt::format("{} have no class: they are open to everybody both ways at {}", roads(met), speed));
        else
            add(met, fmt::format("{} have the class '{}', which is not known: they are open to everybody at {}; {}",
                                 roads(met), word, speed, kRemedy));
    }
    for (const auto& [word, met] : read.unknown_one_ways)
        add(met, fmt::format("{} say '{}' for one-way, which is not known: they are open both ways; {}", roads(met),
                             word, kRemedy));
    for (const auto& [tag, count] : read.unknown_tags)
        add({count, 0}, fmt::format("{} object{} {} '{}': that is not understood and counts for nothing", count,
                                    count == 1 ? "" : "s", count == 1 ? "says" : "say", tag));
}

/// Text that a file's own name or fields brought, fit to be kept: always UTF-8.
service::Origin origin_of(const LayerChoice& layer, std::string description, FlawList flaws, std::int64_t left_out) {
    if (!layer.filter.empty())
        description += fmt::format("; only records with {} ({} others left out)", as_utf8(layer.filter), left_out);
    const bool file = reach_of(layer.path) == Reach::file;
    // A database address may hold a password: that is not kept.
    const std::string shown =
        file ? std::filesystem::path(layer.path).filename().string() : without_password(layer.path);
    // A path that is not UTF-8 cannot be kept as text: such a file is not found again, which is better than a broken
    // study.
    const std::string path = file ? std::filesystem::absolute(layer.path).string() : std::string();
    return {as_utf8(shown),
            as_utf8(layer.layer),
            as_utf8(description),
            flaws.take(),
            as_utf8(path) == path ? path : std::string(),
            layer.crs,
            layer.filter,
            {}};
}

OGRSpatialReference by_code(int epsg) {
    OGRSpatialReference srs;
    srs.importFromEPSG(epsg);
    srs.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    return srs;
}

/// How many of the coordinates fall within the box when read in this system.
std::size_t hits(const std::vector<geo::LonLat>& raw, int epsg, const geo::Box& box) {
    const Complaints quiet;
    const auto from = by_code(epsg);
    const auto to = by_code(4326);
    const std::unique_ptr<OGRCoordinateTransformation, void (*)(OGRCoordinateTransformation*)> t(
        OGRCreateCoordinateTransformation(&from, &to),
        [](OGRCoordinateTransformation* c) { OGRCoordinateTransformation::DestroyCT(c); });
    if (!t) return 0;
    std::size_t n = 0;
    for (const auto& p : raw) {
        double x = p.lon, y = p.lat;
        if (t->Transform(1, &x, &y) && box.contains({x, y})) ++n;
    }
    return n;
}

}  // namespace

service::RoadsIn add_roads(const RoadChoice& choice, const roads::Preparation& preparation, const Task& task) {
    auto read = read_roads(choice, task);
    auto flaws = std::move(read.flaws);
    add_unknown_words(read, without_password(choice.layer.path), flaws);
    auto origin = origin_of(choice.layer, about(read), std::move(flaws), read.left_out);
    origin.taken = read.remarks;
    return roads_in(std::make_shared<const roads::Lines>(std::move(read.lines)), preparation, std::move(origin), task);
}

service::DemandIn add_demand(const DemandChoice& choice, const std::string& name, const Task& task) {
    auto read = read_demand(choice, task);
    if (!name.empty()) read.demand.name = name;
    const std::string id = read.fields.id.empty() ? "the record number" : or_none(read.fields.id);
    std::string about = fmt::format("id from {}, weight from {}", id, or_none(read.fields.weight));
    if (!read.fields.group.empty()) about += ", group from " + or_none(read.fields.group);
    if (!read.fields.recorded.empty()) about += ", recorded site from " + or_none(read.fields.recorded);
    if (!read.fields.priority.empty()) about += ", priority from " + or_none(read.fields.priority);
    auto origin = origin_of(choice.layer, about + joined(read.remarks), std::move(read.flaws), read.left_out);
    origin.taken = read.remarks;
    origin.fields = {{"id", read.fields.id},
                     {"weight", read.fields.weight},
                     {"road", read.fields.road},
                     {"group", read.fields.group},
                     {"recorded_site", read.fields.recorded},
                     {"priority", read.fields.priority},
                     {"x", choice.layer.x_field},
                     {"y", choice.layer.y_field}};
    origin.raw_sample = std::move(read.raw_sample);
    return {std::make_shared<const places::DemandSet>(std::move(read.demand)), std::move(origin)};
}

service::SitesIn add_sites(const SiteChoice& choice, const std::string& name, const Task& task) {
    auto read = read_sites(choice, task);
    if (!name.empty()) read.sites.name = name;
    const std::string id = read.fields.id.empty() ? "the record number" : or_none(read.fields.id),
                      state = read.fields.state.empty() ? "none: all open" : or_none(read.fields.state);
    std::string about = fmt::format("id from {}, state from {}", id, state);
    if (!read.fields.zone.empty()) about += ", zone from " + or_none(read.fields.zone);
    if (!read.fields.cost.empty()) about += ", cost from " + or_none(read.fields.cost);
    if (!read.fields.limit.empty()) about += ", limit from " + or_none(read.fields.limit);
    if (!read.fields.least.empty()) about += ", least from " + or_none(read.fields.least);
    if (!read.fields.turnout.empty()) about += ", turnout from " + or_none(read.fields.turnout);
    auto origin = origin_of(choice.layer, about + joined(read.remarks), std::move(read.flaws), read.left_out);
    origin.taken = read.remarks;
    origin.fields = {{"id", read.fields.id},           {"name", read.fields.name},
                     {"state", read.fields.state},     {"capacity", read.fields.capacity},
                     {"zone", read.fields.zone},       {"cost", read.fields.cost},
                     {"limit", read.fields.limit},     {"least", read.fields.least},
                     {"turnout", read.fields.turnout}, {"x", choice.layer.x_field},
                     {"y", choice.layer.y_field}};
    origin.raw_sample = std::move(read.raw_sample);
    return {std::make_shared<const places::SiteSet>(std::move(read.sites)), std::move(origin)};
}

service::WaterIn add_water(const LayerChoice& choice, const Task& task) {
    auto read = read_areas({choice, "", ""}, "water", task);
    auto areas = std::make_shared<std::vector<geo::Area>>();
    for (auto& zone : read.zones.zones) areas->push_back(std::move(zone.area));
    return {std::move(areas), origin_of(choice, "water", std::move(read.flaws), read.left_out)};
}

service::ZonesIn add_zones(const ZoneChoice& choice, const std::string& name, const Task& task) {
    auto read = read_areas(choice, "zones", task);
    if (!name.empty()) read.zones.name = name;
    const std::string id = read.fields.id.empty() ? "the record number" : or_none(read.fields.id);
    auto origin = origin_of(choice.layer, fmt::format("id from {}, name from {}", id, or_none(read.fields.name)),
                            std::move(read.flaws), read.left_out);
    origin.fields = {{"id", read.fields.id}, {"name", read.fields.name}};
    return {std::make_shared<const places::ZoneSet>(std::move(read.zones)), std::move(origin)};
}

service::PairsIn add_pairs(const PairChoice& choice, const Task& task) {
    auto read = read_pairs(choice, task);
    auto origin = origin_of(choice.layer,
                            fmt::format("demand from {}, site from {}, value from {}", or_none(read.fields.demand),
                                        or_none(read.fields.site), or_none(read.fields.value)) +
                                joined(read.remarks),
                            std::move(read.flaws), read.left_out);
    origin.taken = read.remarks;
    origin.fields = {{"demand", read.fields.demand}, {"site", read.fields.site}, {"value", read.fields.value}};
    return {std::make_shared<const places::PairValues>(std::move(read.pairs)), std::move(origin)};
}

std::optional<std::string> likely_crs(const service::Origin& origin, const geo::Box& roads) {
    if (origin.raw_sample.empty() || roads.empty()) return std::nullopt;
    prepare_gdal();
    constexpr double kMargin = 0.05;
    const geo::Box box{roads.west - kMargin, roads.south - kMargin, roads.east + kMargin, roads.north + kMargin};
    const int zone = std::clamp(static_cast<int>(std::floor((box.centre().lon + 180) / 6)) + 1, 1, 60);
    const bool north = box.centre().lat >= 0;
    // Degrees, the web's metres, the universal grid here and in the zones beside, and the European and national grids
    // that cover much.
    std::vector<int> codes{4326, 3857};
    for (const int z : {zone, zone - 1, zone + 1})
        if (z >= 1 && z <= 60) {
            codes.push_back((north ? 32600 : 32700) + z);
            if (north && z >= 28 && z <= 38) codes.push_back(25800 + z);
        }
    for (const int code : {3035, 27700, 29902, 2157, 2154, 28992, 31370, 3763, 2056, 5070, 2180, 3006, 3067})
        codes.push_back(code);
    for (const int code : codes)
        if (hits(origin.raw_sample, code, box) * 5 >= origin.raw_sample.size() * 4) return fmt::format("EPSG:{}", code);
    return std::nullopt;
}

void suggest_crs(std::vector<service::Finding>& findings, const service::Study& study) {
    if (!study.roads) return;
    for (auto& f : findings) {
        if (f.kind != service::FindingKind::wrong_crs) continue;
        const auto* demand = f.of == service::SetKind::demand ? study.find_demand(f.about) : nullptr;
        const auto* sites = f.of == service::SetKind::sites ? study.find_sites(f.about) : nullptr;
        if (!demand && !sites) continue;
        const service::Origin& origin = demand ? demand->origin : sites->origin;
        const auto crs = likely_crs(origin, study.roads->network->extent());
        std::error_code error;
        if (!crs || origin.path.empty() || !std::filesystem::is_regular_file(origin.path, error)) continue;
        f.sentence += *crs == "EPSG:4326" ? "; they are degrees that were taken for metres"
                                          : fmt::format("; {} puts them among the roads", *crs);
        f.fix = service::ReadAgain{{f.of, f.about}, *crs};
        f.fix_label = fmt::format("Read again as {}", *crs);
    }
}

std::optional<std::string> read_from(const service::Study& study, const std::string& path) {
    const auto is_part = [&](const std::string& source) {
        const auto all = files_read_with(source);
        return std::any_of(all.begin(), all.end(), [&](const std::string& f) { return same_file(path, f); });
    };
    if (study.roads && is_part(study.roads->origin.path)) return "the roads";
    if (study.water && is_part(study.water->origin.path)) return "the water";
    if (study.pairs && is_part(study.pairs->origin.path)) return "the table of pairs";
    for (const auto& d : study.demand)
        if (is_part(d.origin.path)) return "the demand " + d.set->name;
    for (const auto& s : study.sites)
        if (is_part(s.origin.path)) return "the sites " + s.set->name;
    for (const auto& z : study.zones)
        if (is_part(z.origin.path)) return "the zones " + z.set->name;
    return std::nullopt;
}

LayerChoice layer_of(const service::Origin& origin) {
    const auto field = [&](const char* what) {
        const auto at = origin.fields.find(what);
        return at == origin.fields.end() ? std::string() : at->second;
    };
    return {origin.path, origin.layer, origin.crs, field("x"), field("y"), origin.filter};
}

service::Study read_again(service::Study study, const service::ReadAgain& fix, const Task& task) {
    // Fields are taken as they were chosen; studies of earlier versions do not say, and they are guessed as they were
    // then.
    const auto field = [](const service::Origin& o, const char* what) -> std::optional<std::string> {
        const auto at = o.fields.find(what);
        return at == o.fields.end() ? std::nullopt : std::optional(at->second);
    };
    const auto layer = [&](const service::Origin& o) {
        LayerChoice out = layer_of(o);
        out.crs = fix.crs;
        return out;
    };
    if (const auto* d = fix.set.kind == service::SetKind::demand ? study.find_demand(fix.set.name) : nullptr) {
        const auto& o = d->origin;
        auto in = add_demand({layer(o), field(o, "id"), field(o, "weight"), field(o, "road"), field(o, "group"),
                              field(o, "recorded_site"), field(o, "priority")},
                             fix.set.name, task);
        auto set = *in.set;
        set.attaching.rule = d->set->attaching.rule;
        set.attaching.by_hand = d->set->attaching.by_hand;
        in.set = std::make_shared<const places::DemandSet>(std::move(set));
        return with_demand(std::move(study), std::move(in));
    }
    if (const auto* s = fix.set.kind == service::SetKind::sites ? study.find_sites(fix.set.name) : nullptr) {
        const auto& o = s->origin;
        auto in =
            add_sites({layer(o), field(o, "id"), field(o, "name"), field(o, "state"), field(o, "capacity"),
                       field(o, "zone"), field(o, "cost"), field(o, "limit"), field(o, "least"), field(o, "turnout")},
                      fix.set.name, task);
        auto set = *in.set;
        set.attaching = s->set->attaching;
        in.set = std::make_shared<const places::SiteSet>(std::move(set));
        return with_sites(std::move(study), std::move(in));
    }
    return study;
}

}  // namespace otoro::files
