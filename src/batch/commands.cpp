#include "batch/commands.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <filesystem>
#include <fstream>
#include <locale>
#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "batch/console.h"
#include "files/atomic_file.h"
#include "files/bring_in.h"
#include "files/closure_file.h"
#include "files/profile_file.h"
#include "files/read_heights.h"
#include "files/study_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "service/findings.h"
#include "service/itinerary.h"
#include "service/join_report.h"
#include "service/network_summary.h"
#include "service/travel_table.h"

namespace otoro::batch {
namespace {
using nlohmann::json;

/// Text of an option as the value it means; what does not parse is misuse.
template <class Parse>
auto parsed(const std::string& option, const std::string& text, Parse&& parse) {
    try {
        return parse(text);
    } catch (const InputError& e) {
        throw CLI::ValidationError(option, e.parts().wrong);
    }
}

/// `90% within 8min`
service::Standard parse_standard(const std::string& text) {
    constexpr std::string_view kWithin = "within";
    const auto at = text.find(kWithin);
    if (at == std::string::npos) throw InputError({"", std::nullopt, fmt::format("'{}' is not a standard such as '90% within 8min'", text), ""});
    return {parse_share(text.substr(0, at)), parse_amount(text.substr(at + kWithin.size()))};
}

/// The options that say how one file is to be read.
struct FileOptions {
    std::string path, layer, crs, x, y, filter;

    void add_to(CLI::App& app, const std::string& what, const std::string& about, bool required, bool points) {
        auto* o = app.add_option("--" + what, path, about)->type_name("FILE");
        if (required) o->required();
        app.add_option("--" + what + "-layer", layer, "layer of that file (the first that fits)")->type_name("NAME");
        app.add_option("--" + what + "-crs", crs, "its coordinate system, by EPSG code (the file's own)")->type_name("EPSG");
        app.add_option("--" + what + "-filter", filter, "only records of which this is true, such as \"class IN ('residential') AND speed >= 30\"")->type_name("CQL2");
        if (!points) return;
        app.add_option("--" + what + "-x", x, "CSV column of longitude or x (found by name)")->type_name("FIELD");
        app.add_option("--" + what + "-y", y, "CSV column of latitude or y (found by name)")->type_name("FIELD");
    }
    [[nodiscard]] files::LayerChoice choice() const { return {path, layer, crs, x, y, filter}; }
};

/// The roads: one layer or several, their fields, and how they join.
struct RoadOptions {
    std::vector<std::string> paths, layers, words;
    std::string crs, filter, join = "ends", close_gaps, heights;
    files::RoadFields named;

    void add_to(CLI::App& app) {
        app.add_option("--roads", paths, "lines to travel on; named again, further layers are merged with the first")->required()->type_name("FILE");
        app.add_option("--roads-layer", layers, "layer of that file (the first that fits); one for each --roads, in the same order")->type_name("NAME");
        app.add_option("--roads-crs", crs, "its coordinate system, by EPSG code (the file's own)")->type_name("EPSG");
        app.add_option("--roads-filter", filter, "only records of which this is true")->type_name("CQL2");
        app.add_option("--road-class", named.road_class, "field of the road's class (found by name)")->type_name("FIELD");
        app.add_option("--road-name", named.name, "field of the road's name")->type_name("FIELD");
        app.add_option("--road-speed", named.speed, "field of the speed travelled, km/h unless its name or value says mph; or a formula after '='")->type_name("FIELD");
        app.add_option("--road-one-way", named.one_way, "field that says which way is allowed")->type_name("FIELD");
        app.add_option("--road-minutes", named.minutes, "field of the minutes from end to end; or a formula such as '= length_m / 1000 / kmh * 60'")->type_name("FIELD");
        app.add_option("--road-minutes-back", named.minutes_back, "field of the minutes against the drawn direction, or a formula")->type_name("FIELD");
        app.add_option("--road-length", named.length, "field of the length, to be compared with the drawn line")->type_name("FIELD");
        app.add_option("--road-level", named.level, "field of the level, or of bridges or tunnels")->type_name("FIELD");
        app.add_option("--road-word", words, "what a class or one-way word of the file means, such as \"B Road=secondary\"")->type_name("WORD=MEANING");
        app.add_option("--join", join, "where lines meet: at their ends, at any shared vertex, or also where they cross on one level")->check(CLI::IsMember({"ends", "vertices", "crossings"}))->capture_default_str();
        app.add_option("--heights", heights, "GeoTIFF elevation model, for travellers to whom climbing costs time")->type_name("FILE");
        app.add_option("--close-gaps", close_gaps, "close every gap narrower than this, such as 5m")->type_name("LENGTH");
    }

    [[nodiscard]] files::RoadChoice choice() const {
        std::vector<files::LayerChoice> all;
        for (std::size_t i = 0; i < paths.size(); ++i) all.push_back({paths[i], i < layers.size() ? layers[i] : std::string(), crs, "", "", filter});
        files::RoadChoice c{all.front(), fields(all.front()), {all.begin() + 1, all.end()}};
        return c;
    }
    [[nodiscard]] roads::Preparation preparation() const { return {*roads::parse_join_rule(join), {}}; }

private:
    /// Guesses, with what was named put in their place.
    [[nodiscard]] std::optional<files::RoadFields> fields(const files::LayerChoice& first) const {
        if (files::is_osm(first.path) || (named == files::RoadFields{} && words.empty())) return std::nullopt;
        auto fields = files::guess_road_fields(files::Source(first, files::Shape::line).fields());
        const auto put = [](std::string& field, const std::string& given) {
            if (!given.empty()) field = given;
        };
        put(fields.road_class, named.road_class);
        put(fields.name, named.name);
        put(fields.speed, named.speed);
        put(fields.one_way, named.one_way);
        put(fields.minutes, named.minutes);
        put(fields.minutes_back, named.minutes_back);
        put(fields.length, named.length);
        put(fields.level, named.level);
        for (const auto& w : words) {
            const auto at = w.rfind('=');
            if (at == std::string::npos) throw CLI::ValidationError("--road-word", fmt::format("'{}' is not like \"B Road=secondary\"", w));
            fields.words[w.substr(0, at)] = w.substr(at + 1);
        }
        return fields;
    }
};

std::optional<std::string> if_given(const std::string& s) { return s.empty() ? std::nullopt : std::optional(s); }

constexpr std::size_t kMostFlawsShown = 20;

void tell_flaws(Console& console, const std::vector<Flaw>& flaws) {
    for (std::size_t i = 0; i < std::min(flaws.size(), kMostFlawsShown); ++i) {
        const auto& f = flaws[i];
        console.note(fmt::format("{}: record {}{}: {}{}", f.file, f.record, f.id.empty() ? "" : fmt::format(" ({})", f.id), f.wrong, f.set_aside ? "; set aside" : ""));
    }
    if (flaws.size() > kMostFlawsShown) console.note(fmt::format("... and {} more like these; 'otoro-batch check --json' lists them all", flaws.size() - kMostFlawsShown));
}

/// Roads as the options say, gaps closed.
service::RoadsIn read_roads(const RoadOptions& options, const std::optional<travel::Profile>& profile, const Task& task) {
    auto in = files::bring_in_roads(options.choice(), options.preparation(), task);
    if (!options.heights.empty()) in = roads_in(files::with_heights(*in.lines, options.heights, task), in.preparation, in.origin, task);
    if (options.close_gaps.empty()) return in;
    const Millimetres within = parsed("--close-gaps", options.close_gaps, parse_length);
    if (within > roads::kWidestGap) throw CLI::ValidationError("--close-gaps", fmt::format("gaps of more than {} are not closed unseen", describe(roads::kWidestGap)));
    const auto report = service::check_roads(*in.network, profile, task);
    auto preparation = in.preparation;
    for (const auto& g : roads::find_gaps(*in.network, report.as_pieces(), within, task)) preparation.closed.push_back(g.closing);
    return roads_in(in.lines, std::move(preparation), in.origin, task);
}

/// A travel profile: a standard one, or one read from a file.
travel::Profile profile_of(const std::string& word) {
    if (const auto mode = travel::parse_mode(word)) return {*mode, std::nullopt};
    if (!std::filesystem::exists(word)) throw CLI::ValidationError("--travel", fmt::format("'{}' is not drive, respond, walk or cycle, nor a file with a travel profile", word));
    return files::read_profile(word);
}
constexpr const char* kTravel = "drive, respond, walk or cycle, or a file with a travel profile";

// ---------------------------------------------------------------------------------------------------------------- check

struct Check {
    RoadOptions roads;
    FileOptions demand, sites;
    std::string travel, water, attach_limit = "250m", json_out, demand_id, site_id, weight, tolerance = "10m", summary_out;
    bool quiet = false, strict = false, compare_joins = false;

    void add_to(CLI::App& app) {
        roads.add_to(app);
        app.add_option("--travel", travel, std::string("count only the roads this traveller may use: ") + kTravel)->type_name("PROFILE");
        demand.add_to(app, "demand", "points to be served", false, true);
        sites.add_to(app, "sites", "points that serve", false, true);
        app.add_option("--demand-id", demand_id, "field of the demand's id ('id')")->type_name("FIELD");
        app.add_option("--site-id", site_id, "field of the sites' id ('id')")->type_name("FIELD");
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")->type_name("FIELD");
        app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")->capture_default_str();
        app.add_option("--water", water, "polygons of water: roads that run over it are listed")->type_name("FILE");
        app.add_option("--gap-tolerance", tolerance, "road ends nearer than this that do not join are listed")->capture_default_str();
        app.add_flag("--compare-joins", compare_joins, "also show what each rule of joining would give");
        app.add_option("--summary", summary_out, "also write every rule, speed, tolerance and count in plain words")->type_name("FILE");
        app.add_option("--json", json_out, "also write the report as JSON")->type_name("FILE");
        app.add_flag("--strict", strict, "exit with 3 if there is any finding");
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }

    int run() const;
};

json to_json(const std::vector<Flaw>& flaws) {
    json out = json::array();
    for (const auto& f : flaws) out.push_back({{"file", f.file}, {"record", f.record}, {"id", f.id}, {"wrong", f.wrong}, {"set_aside", f.set_aside}});
    return out;
}

json to_json(const service::RoadReport& r) {
    json pieces = json::array();
    for (const auto& p : r.pieces) pieces.push_back({{"links", p.links}, {"kilometres", p.length.kilometres()}});
    return {{"links", r.links},
            {"nodes", r.nodes},
            {"kilometres", r.length.kilometres()},
            {"pieces", pieces},
            {"one_way_links", r.one_way_links},
            {"one_way_share", r.links > 0 ? static_cast<double>(r.one_way_links) / r.links : 0.0},
            {"left_out_links", r.left_out}};
}

json to_json(const service::AttachReport& r, std::size_t places) {
    return {{"places", places},           {"attached", r.attached},         {"off_main_piece", r.off_main_piece},
            {"no_road_near", r.no_road_near}, {"bad_location", r.bad_location}, {"longest_off_road_m", r.longest_off_road.metres()}};
}

json to_json(const std::vector<service::Finding>& findings) {
    json out = json::array();
    for (const auto& f : findings) {
        json items = json::array();
        for (const auto& i : f.items) {
            json item{{"text", i.text}, {"weight", i.weight.value()}};
            if (i.place) item["place"] = *i.place;
            if (i.where) item["where"] = {i.where->lon, i.where->lat};
            items.push_back(std::move(item));
        }
        out.push_back({{"kind", name(f.kind)}, {"about", f.about}, {"sentence", f.sentence}, {"count", f.count}, {"places", f.places}, {"weight", f.weight.value()}, {"items", std::move(items)}});
    }
    return out;
}

void print(const service::RoadReport& r) {
    fmt::print("Roads: {} links, {} nodes, {:.3f} km, {} one-way ({:.1f} %)\n", r.links, r.nodes, r.length.kilometres(), r.one_way_links,
               r.links > 0 ? 100.0 * r.one_way_links / r.links : 0.0);
    if (r.left_out > 0) fmt::print("  {} links are not for this traveller\n", r.left_out);
    fmt::print("  {} {}\n", r.pieces.size(), r.pieces.size() == 1 ? "piece" : "pieces");
    for (std::size_t i = 0; i < std::min<std::size_t>(r.pieces.size(), 10); ++i)
        fmt::print("    {:>3}. {} links, {:.3f} km\n", i + 1, r.pieces[i].links, r.pieces[i].length.kilometres());
}

void print(const char* what, const service::AttachReport& r, std::size_t places) {
    fmt::print("{}: {} places\n  attached {}, of them {} not on the largest piece; longest off-road leg {:.1f} m\n  no_road_near {}\n  bad_location {}\n", what, places, r.attached,
               r.off_main_piece, r.longest_off_road.metres(), r.no_road_near, r.bad_location);
}

void print(const std::vector<service::Finding>& findings) {
    constexpr std::size_t kShown = 5;
    fmt::print("Findings: {}\n", findings.size());
    for (const auto& f : findings) {
        fmt::print("  - {}{}\n", f.sentence, f.places > 0 ? fmt::format(" [{} places, weight {}]", f.places, describe(f.weight)) : "");
        for (std::size_t i = 0; i < std::min(f.items.size(), kShown); ++i) fmt::print("      {}\n", f.items[i].text);
        if (f.items.size() > kShown) fmt::print("      ... and {} more\n", f.count - kShown);
    }
}

int Check::run() const {
    Console console(quiet);
    const Task task = console.task();
    service::Study study;
    study.question.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    study.gap_tolerance = parsed("--gap-tolerance", tolerance, parse_length);
    const auto profile = travel.empty() ? std::nullopt : std::optional(profile_of(travel));
    if (profile) study.question.profile = *profile;
    study = with_roads(std::move(study), read_roads(roads, profile, task));
    if (!water.empty()) study.water = files::bring_in_water({water, "", ""}, task);
    const auto& network = *study.roads->network;
    const auto report = service::check_roads(network, profile, task);
    print(report);
    json out = to_json(report);
    std::vector<Flaw> flaws = study.roads->origin.flaws;

    const auto add_places = [&](const char* what, const std::vector<std::optional<geo::LonLat>>& places, const std::vector<Flaw>& more) {
        const auto r = service::check_places(network, report, places, study.question.attach_limit, task);
        print(what, r, places.size());
        out[what] = to_json(r, places.size());
        flaws.insert(flaws.end(), more.begin(), more.end());
    };
    if (!demand.path.empty()) {
        study = with_demand(std::move(study), files::bring_in_demand({demand.choice(), if_given(demand_id), if_given(weight)}, "", task));
        add_places("demand", places::positions(*study.demand[0].set), study.demand[0].origin.flaws);
    }
    if (!sites.path.empty()) {
        study = with_sites(std::move(study), files::bring_in_sites({sites.choice(), if_given(site_id), {}, {}, {}}, "", task));
        add_places("sites", places::positions(*study.sites[0].set), study.sites[0].origin.flaws);
    }
    const auto aside = std::count_if(flaws.begin(), flaws.end(), [](const Flaw& f) { return f.set_aside; });
    fmt::print("Records set aside: {}; kept with a flaw: {}\n", aside, static_cast<std::ptrdiff_t>(flaws.size()) - aside);
    tell_flaws(console, flaws);
    out["set_aside"] = aside;
    out["flaws"] = to_json(flaws);
    if (compare_joins) {
        json rules = json::array();
        for (const auto& r : service::compare_join_rules(study, task)) {
            fmt::print("{}\n", describe(r));
            rules.push_back({{"rule", name(r.rule)}, {"links", r.links}, {"pieces", r.pieces}, {"dead_ends", r.dead_ends}, {"places_cut_off", r.cut_off.places}, {"weight_cut_off", r.cut_off.weight.value()}});
        }
        out["join_rules"] = rules;
    }
    const auto checked = service::check_study(study, task);
    auto findings = service::findings_of(study, *checked);
    files::suggest_crs(findings, study);
    print(findings);
    out["findings"] = to_json(findings);
    if (!summary_out.empty()) files::write_text(summary_out, service::network_summary(study, *checked));
    if (!json_out.empty()) files::write_text(json_out, out.dump(2, ' ', false, json::error_handler_t::replace) + "\n");
    return strict && service::count_open(findings) > 0 ? kFindings : kDone;
}

// --------------------------------------------------------------------------------------------------------------- assign

/// Which roads demand and sites may be attached to.
struct AttachOptions {
    std::vector<std::string> never;
    std::string least_piece, road_field;

    void add_to(CLI::App& app) {
        app.add_option("--attach-never", never, "a class that places are never attached to, such as motorway; may be named again")->type_name("CLASS");
        app.add_option("--attach-piece", least_piece, "attach only to pieces of the roads that are at least so long, such as 1km")->type_name("LENGTH");
        app.add_option("--demand-road", road_field, "field with the name of the road that a demand place is on: taken if it is within the limit")->type_name("FIELD");
    }
    [[nodiscard]] places::AttachRule rule() const {
        places::AttachRule r;
        for (const auto& word : never) {
            const auto c = roads::parse_class(word);
            if (!c) throw CLI::ValidationError("--attach-never", fmt::format("'{}' is not a class of road", word));
            r.classes &= ~(1U << static_cast<unsigned>(c->road_class));
        }
        if (!least_piece.empty()) r.least_piece = parsed("--attach-piece", least_piece, parse_length);
        return r;
    }
};

/// A set with its rule of attaching.
template <class In>
In with_rule(In in, const places::AttachRule& rule) {
    auto set = std::make_shared<std::remove_const_t<typename decltype(in.set)::element_type>>(*in.set);
    set->attaching.rule = rule;
    in.set = std::move(set);
    return in;
}

/// The options that say what is asked of what: everything but what is done with the answer.
struct Asking {
    RoadOptions roads;
    FileOptions demand, sites;
    AttachOptions attaching;
    std::string travel = "drive", speed, off_road_speed, closures, measure = "time", towards = "demand", limit, standard, attach_limit = "250m";
    std::string demand_id, site_id, weight, use = "open";
    bool quiet = false;

    void add_to(CLI::App& app) {
        roads.add_to(app);
        demand.add_to(app, "demand", "points to be served", true, true);
        sites.add_to(app, "sites", "points that serve", true, true);
        app.add_option("--travel", travel, std::string("how they travel: ") + kTravel)->required()->type_name("PROFILE");
        app.add_option("--speed", speed, "one speed for all roads, such as 40km/h");
        app.add_option("--measure", measure, "what nearest means")->required()->check(CLI::IsMember({"time", "distance"}));
        app.add_option("--towards", towards, "which way they travel")->required()->check(CLI::IsMember({"demand", "site"}));
        app.add_option("--limit", limit, "farther places are not served: 8min, 2km");
        app.add_option("--standard", standard, "share and limit to be met, such as \"90% within 8min\"");
        app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")->capture_default_str();
        attaching.add_to(app);
        app.add_option("--off-road-speed", off_road_speed, "count off-road legs too, at this speed, such as 4.8km/h (they are reported and not counted)");
        app.add_option("--closures", closures, "roads shut, slowed or delayed: points, lines and areas with fields effect, factor, delay_min")->type_name("FILE");
        app.add_option("--demand-id", demand_id, "field of the demand's id ('id')")->type_name("FIELD");
        app.add_option("--site-id", site_id, "field of the sites' id ('id')")->type_name("FIELD");
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")->type_name("FIELD");
        app.add_option("--use", use, "which sites may serve")->check(CLI::IsMember({"open", "open+candidate"}))->capture_default_str();
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }

    [[nodiscard]] service::Question question() const {
        service::Question q;
        q.use = use == "open" ? service::SiteUse::open : service::SiteUse::open_and_candidate;
        q.profile = profile_of(travel);
        if (!off_road_speed.empty()) q.off_road_speed = parsed("--off-road-speed", off_road_speed, parse_speed);
        if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
        q.towards = towards == "demand" ? service::Towards::demand : service::Towards::site;
        q.measure = measure == "time" ? routing::Measure::time : routing::Measure::distance;
        if (!limit.empty()) q.limit = parsed("--limit", limit, parse_amount);
        q.standard.reset();
        if (!standard.empty()) q.standard = parsed("--standard", standard, parse_standard);
        q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
        return q;
    }

    struct Ready {
        std::shared_ptr<const service::Ready> ready;
        service::Plan plan;
    };
    /// Reads everything and makes the question ready.
    Ready bring_in(Console& console, const Task& task) const;
};

struct Assign {
    Asking asking;
    std::string out, as = "points", loads;

    void add_to(CLI::App& app) {
        asking.add_to(app);
        app.add_option("--out", out, "where the answer goes: .csv, .gpkg or .geojson")->required()->type_name("FILE");
        app.add_option("--as", as, "in .gpkg and .geojson: places as points, or lines from place to site")->check(CLI::IsMember({"points", "lines"}))->capture_default_str();
        app.add_option("--loads", loads, "also write one row a site, as CSV")->type_name("FILE");
    }
    int run() const;
};

void tell_idle_sites(Console& console, const service::Outcome& o) {
    for (const auto& s : o.sites)
        if (s.planned.in_use && !s.attachment)
            console.note(fmt::format("site {} serves nobody: {}", s.planned.site.id,
                                     s.planned.site.position ? "no road that this traveller may use is near it" : "it has no place on the globe"));
}

Asking::Ready Asking::bring_in(Console& console, const Task& task) const {
    service::Question q = question();
    const auto roads_in = read_roads(roads, q.profile, task);
    tell_flaws(console, roads_in.origin.flaws);
    const auto rule = attaching.rule();
    const auto demand_in = with_rule(files::bring_in_demand({demand.choice(), if_given(demand_id), if_given(weight), if_given(attaching.road_field)}, "", task), rule);
    tell_flaws(console, demand_in.origin.flaws);
    const auto sites_in = with_rule(files::bring_in_sites({sites.choice(), if_given(site_id), {}, {}, {}}, "", task), rule);
    tell_flaws(console, sites_in.origin.flaws);
    Ready out;
    if (!closures.empty()) out.plan.closures = files::read_closures(closures);
    q.demand = demand_in.set->name;
    q.sites = sites_in.set->name;
    out.ready = prepare(service::Inputs{roads_in.network, demand_in.set, sites_in.set}, q, nullptr, task);
    return out;
}

int Assign::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    const auto [ready, plan] = asking.bring_in(console, task);
    const auto outcome = service::answer(*ready, plan, task);
    tell_idle_sites(console, outcome);
    files::write_answer(*ready, outcome, out, as == "points" ? files::AnswerShape::points : files::AnswerShape::lines, task);
    if (!loads.empty()) files::write_loads(outcome, loads);
    console.note(outcome.searched);
    fmt::print("{}", files::summary(*ready, outcome));
    return kDone;
}

// ---------------------------------------------------------------------------------------------------------------- table

struct Table {
    Asking asking;
    std::string out;
    std::uint32_t nearest = 0;

    void add_to(CLI::App& app) {
        asking.add_to(app);
        app.add_option("--out", out, "where the table goes, as CSV: one row for every site and place with a way between them")->required()->type_name("FILE");
        app.add_option("--nearest", nearest, "only so many nearest sites of each place")->check(CLI::PositiveNumber);
    }
    int run() const;
};

int Table::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    auto [ready, plan] = asking.bring_in(console, task);
    const auto& demand = *ready->inputs.demand;
    const auto& sites = ready->inputs.sites->sites;
    constexpr std::size_t kManySites = 100;  // from here on preparing pays for itself
    if (sites.size() >= kManySites) {
        auto faster = std::make_shared<service::Ready>(*ready);
        faster->prepared = prepare_searches(*ready, nullptr, nullptr, task);
        ready = faster;
    }
    std::uint64_t rows = 0;
    const auto line = [&](SiteIndex site, std::uint32_t place, const service::PlaceOutcome& p, int rank) {
        ++rows;
        return fmt::format("{},{},{}{:.5f},{:.3f}\n", files::csv_cell(sites[site.value()].id), files::csv_cell(demand.places[place].id), nearest > 0 ? fmt::format("{},", rank) : "", p.time.minutes(), p.distance.metres());
    };
    files::write_atomically(out, [&](const std::string& temporary) {
        std::ofstream file(temporary, std::ios::binary);
        file << (nearest > 0 ? "site_id,demand_id,rank,minutes,metres\n" : "site_id,demand_id,minutes,metres\n");
        if (nearest == 0) {
            service::each_site_to_all(*ready, plan, [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                std::string text;
                for (std::uint32_t i = 0; i < places.size(); ++i)
                    if (places[i].nearest) text += line(site, i, places[i], 0);
                file << text;
            }, task);
        } else {
            // The few best of each place so far, nearest first.
            std::vector<std::vector<std::pair<SiteIndex, service::PlaceOutcome>>> few(demand.count());
            const bool by_time = ready->question.measure == routing::Measure::time;
            const auto cost = [&](const service::PlaceOutcome& p) { return by_time ? p.time.count() : p.distance.count(); };
            service::each_site_to_all(*ready, plan, [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                for (std::uint32_t i = 0; i < places.size(); ++i) {
                    if (!places[i].nearest) continue;
                    auto& best = few[i];
                    const auto at = std::upper_bound(best.begin(), best.end(), cost(places[i]), [&](auto c, const auto& known) { return c < cost(known.second); });
                    if (best.size() == nearest && at == best.end()) continue;
                    best.insert(at, {site, places[i]});
                    if (best.size() > nearest) best.pop_back();
                }
            }, task);
            for (std::uint32_t i = 0; i < few.size(); ++i)
                for (std::size_t k = 0; k < few[i].size(); ++k) file << line(few[i][k].first, i, few[i][k].second, static_cast<int>(k) + 1);
        }
        if (!file.flush()) throw InputError({out, std::nullopt, "it cannot be written to the end", "Make room on the disk"});
    });
    console.note("");
    fmt::print("{} rows, from {} sites to {} places\n", rows, sites.size(), demand.count());
    return kDone;
}

// ---------------------------------------------------------------------------------------------------------------- route

struct RouteBy {
    RoadOptions roads;
    std::vector<std::string> stops;
    std::string travel = "drive", speed, measure = "time", attach_limit = "250m", out;
    bool best_order = false, quiet = false;

    void add_to(CLI::App& app) {
        roads.add_to(app);
        app.add_option("--stop", stops, "a stop, longitude,latitude; named again for each further one, in order")->required()->type_name("LON,LAT");
        app.add_flag("--best-order", best_order, "visit the stops between the first and the last in the best order (up to 12)");
        app.add_option("--travel", travel, std::string("how they travel: ") + kTravel)->required()->type_name("PROFILE");
        app.add_option("--speed", speed, "one speed for all roads, such as 40km/h");
        app.add_option("--measure", measure, "what best means")->check(CLI::IsMember({"time", "distance"}))->capture_default_str();
        app.add_option("--attach-limit", attach_limit, "farthest road that a stop is joined to")->capture_default_str();
        app.add_option("--out", out, "also write the line, as GeoJSON")->type_name("FILE");
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }
    int run() const;
};

geo::LonLat parse_position(const std::string& text) {
    double lon = 0, lat = 0;
    char comma = 0, more = 0;
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    if (!(in >> lon >> comma >> lat) || comma != ',' || (in >> more) || std::abs(lon) > 180 || std::abs(lat) > 90)
        throw InputError({"", std::nullopt, fmt::format("'{}' is not a position such as -9.51,46.2", text), ""});
    return {lon, lat};
}

int RouteBy::run() const {
    Console console(quiet);
    const Task task = console.task();
    service::Question q;
    q.profile = profile_of(travel);
    if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
    q.measure = measure == "time" ? routing::Measure::time : routing::Measure::distance;
    q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    std::vector<geo::LonLat> at;
    for (const auto& s : stops) at.push_back(parsed("--stop", s, parse_position));
    const auto roads_in = read_roads(roads, q.profile, task);
    tell_flaws(console, roads_in.origin.flaws);
    const auto ready = prepare({roads_in.network, std::make_shared<const places::DemandSet>(), std::make_shared<const places::SiteSet>()}, q, nullptr, task);
    const auto prepared = prepare_searches(*ready, nullptr, nullptr, task, 0);
    if (!prepared) throw InputError({roads.paths.front(), std::nullopt, "its roads are tangled beyond what can be prepared", "Check how its lines join"});
    const auto way = service::itinerary(*ready, *prepared, at, best_order, task);
    console.note("");
    fmt::print("{:.1f} min, {:.2f} km over stops", way.time.minutes(), way.distance.kilometres());
    for (const auto i : way.order) fmt::print(" {}", i + 1);
    fmt::print("\n");
    for (const auto& s : way.steps) fmt::print("  {} {}, {:.0f} m\n", describe(s.turn), s.road.empty() ? "an unnamed road" : s.road, s.distance.metres());
    if (!out.empty()) {
        json line = json::array();
        for (const auto& p : way.line) line.push_back({p.lon, p.lat});
        const json feature = {{"type", "Feature"}, {"geometry", {{"type", "LineString"}, {"coordinates", line}}}, {"properties", {{"minutes", way.time.minutes()}, {"metres", way.distance.metres()}}}};
        files::write_text(out, json{{"type", "FeatureCollection"}, {"features", json::array({feature})}}.dump() + "\n");
    }
    return kDone;
}

// --------------------------------------------------------------------------------------------------------------- answer

struct Answer {
    std::string study, plan, out;
    bool quiet = false;

    void add_to(CLI::App& app) {
        app.add_option("study", study, "a study saved by Otoro")->required()->type_name("STUDY");
        app.add_option("--plan", plan, "the plan to answer (every plan of the study)")->type_name("NAME");
        app.add_option("--out", out, "folder for the tables; made if it is not there")->required()->type_name("DIR");
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }
    int run() const;
};

/// A plan's name as part of a file name.
std::string file_part(const std::string& name) {
    std::string s;
    for (const char c : name) s += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
    return s.empty() ? "plan" : s;
}

int Answer::run() const {
    Console console(quiet);
    const Task task = console.task();
    const auto s = files::open_study(study, task);
    const auto inputs = s.inputs();
    if (!inputs) throw InputError({study, std::nullopt, "it has no roads, no demand or no sites yet", "Bring them in with the window and save it"});
    std::vector<service::Plan> plans = s.plans;
    if (!plan.empty()) {
        const auto* chosen = s.find_plan(plan);
        if (!chosen) throw InputError({study, std::nullopt, fmt::format("it has no plan '{}'", plan), "Name one of its plans"});
        plans = {*chosen};
    }
    std::error_code error;
    std::filesystem::create_directories(out, error);
    if (error) throw InputError({out, std::nullopt, fmt::format("the folder cannot be made ({})", error.message()), "Choose another"});

    const auto ready = prepare(*inputs, s.question, nullptr, task);
    std::string all;
    std::vector<std::string> used;
    for (const auto& p : plans) {
        const auto outcome = service::answer(*ready, p, task);
        const auto base = service::free_name(file_part(p.name), used);
        used.push_back(base);
        const auto stem = (std::filesystem::path(out) / base).string();
        for (const char* ending : {".csv", ".gpkg", ".geojson"}) files::write_answer(*ready, outcome, stem + ending, files::AnswerShape::points, task);
        files::write_loads(outcome, stem + "_sites.csv");
        all += files::summary(*ready, outcome) + "\n";
    }
    files::write_text((std::filesystem::path(out) / "summary.txt").string(), all);
    fmt::print("{}", all);
    return kDone;
}

constexpr const char* kExamples = R"(Examples:
  otoro-batch check --roads roads.gpkg --travel drive --demand households.csv --json report.json
  otoro-batch assign --roads roads.gpkg --demand households.csv --sites posts.geojson --travel respond \
      --measure time --towards demand --standard "90% within 8min" --out answer.csv
  otoro-batch assign --roads town.osm.pbf --demand pupils.csv --sites schools.geojson --travel walk \
      --measure distance --towards site --limit 2km --out answer.gpkg --as lines
  otoro-batch table --roads roads.gpkg --demand pupils.csv --sites schools.geojson --travel walk \
      --measure distance --towards site --nearest 3 --out three-nearest.csv
  otoro-batch route --roads roads.gpkg --travel drive --stop -9.51,46.2 --stop -9.5,46.22 --stop -9.48,46.2 --best-order
  otoro-batch answer saltmere.otoro.gpkg --plan "Quay opens" --out tables/

Amounts carry their unit: 90s 8min 1h 500m 2km 1.5mi. Exit code: 0 done, 1 bad input, 2 misuse, 3 findings (check --strict).)";

}  // namespace

int run(int argc, const char* const* argv) {
    const auto say_error = [](const std::string& text) { fmt::print(stderr, "otoro-batch: {}\n", text); };
    CLI::App app{"Otoro: who is served by whom, and does that meet the standard", "otoro-batch"};
    app.footer(kExamples);
    app.require_subcommand(1);
    app.set_version_flag("--version", "otoro-batch 0.1.0");
    Check check;
    Assign assign;
    Answer answer;
    Table table;
    RouteBy route;
    auto* check_app = app.add_subcommand("check", "what the roads and places are like");
    auto* assign_app = app.add_subcommand("assign", "each demand place to its nearest site");
    auto* answer_app = app.add_subcommand("answer", "the answers of a saved study");
    auto* table_app = app.add_subcommand("table", "from every site to every demand place");
    auto* route_app = app.add_subcommand("route", "a way over several stops, turn by turn");
    table.add_to(*table_app);
    route.add_to(*route_app);
    check.add_to(*check_app);
    assign.add_to(*assign_app);
    answer.add_to(*answer_app);
    for (auto* sub : {check_app, assign_app, answer_app, table_app, route_app}) sub->footer(kExamples);

    try {
        app.parse(argc, argv);
        if (*check_app) return check.run();
        if (*assign_app) return assign.run();
        if (*table_app) return table.run();
        if (*route_app) return route.run();
        return answer.run();
    } catch (const CLI::Success& e) {
        return app.exit(e);
    } catch (const CLI::ParseError& e) {
        say_error(fmt::format("{}\nRun with --help for usage and examples.", e.what()));
        return kMisuse;
    } catch (const Stopped&) {
        say_error("stopped; nothing was written");
        return kBadInput;
    } catch (const std::exception& e) {
        say_error(e.what());
        return kBadInput;
    }
}

}  // namespace otoro::batch
