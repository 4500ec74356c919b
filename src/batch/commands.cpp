#include "batch/commands.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>

#include "batch/console.h"
#include "files/atomic_file.h"
#include "files/read_places.h"
#include "files/read_roads.h"
#include "files/study_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "service/check.h"
#include "service/study.h"

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
    std::string path, layer, crs, x, y;

    void add_to(CLI::App& app, const std::string& what, const std::string& about, bool required, bool points) {
        auto* o = app.add_option("--" + what, path, about)->type_name("FILE");
        if (required) o->required();
        app.add_option("--" + what + "-layer", layer, "layer of that file (the first that fits)")->type_name("NAME");
        app.add_option("--" + what + "-crs", crs, "its coordinate system, by EPSG code (the file's own)")->type_name("EPSG");
        if (!points) return;
        app.add_option("--" + what + "-x", x, "CSV column of longitude or x (found by name)")->type_name("FIELD");
        app.add_option("--" + what + "-y", y, "CSV column of latitude or y (found by name)")->type_name("FIELD");
    }
    [[nodiscard]] files::LayerChoice choice() const { return {path, layer, crs, x, y}; }
};

struct RoadFieldOptions {
    std::string road_class, name, speed, one_way;
    bool any = false;

    void add_to(CLI::App& app) {
        app.add_option("--road-class", road_class, "field of the road's class (found by name)")->type_name("FIELD");
        app.add_option("--road-name", name, "field of the road's name")->type_name("FIELD");
        app.add_option("--road-speed", speed, "field of the speed travelled, km/h unless its name or value says mph")->type_name("FIELD");
        app.add_option("--road-one-way", one_way, "field that says which way is allowed")->type_name("FIELD");
    }
    /// Guesses, with what was named put in their place.
    [[nodiscard]] std::optional<files::RoadFields> choice(const FileOptions& roads) const {
        if (files::is_osm(roads.path) || (road_class.empty() && name.empty() && speed.empty() && one_way.empty())) return std::nullopt;
        auto fields = files::guess_road_fields(files::Source(roads.choice(), files::Shape::line).fields());
        if (!road_class.empty()) fields.road_class = road_class;
        if (!name.empty()) fields.name = name;
        if (!speed.empty()) fields.speed = speed;
        if (!one_way.empty()) fields.one_way = one_way;
        return fields;
    }
};

std::optional<std::string> if_given(const std::string& s) { return s.empty() ? std::nullopt : std::optional(s); }

travel::Mode mode_of(const std::string& option) { return *travel::parse_mode(option); }

constexpr std::size_t kMostFlawsShown = 20;

void tell_flaws(Console& console, const std::vector<Flaw>& flaws) {
    for (std::size_t i = 0; i < std::min(flaws.size(), kMostFlawsShown); ++i) {
        const auto& f = flaws[i];
        console.note(fmt::format("{}: record {}{}: {}{}", f.file, f.record, f.id.empty() ? "" : fmt::format(" ({})", f.id), f.wrong, f.set_aside ? "; set aside" : ""));
    }
    if (flaws.size() > kMostFlawsShown) console.note(fmt::format("... and {} more like these; 'otoro-batch check --json' lists them all", flaws.size() - kMostFlawsShown));
}

void tell_unknown_words(Console& console, const files::RoadsRead& roads) {
    for (const auto& [word, count] : roads.unknown_words)
        console.note(fmt::format("roads: '{}' ({} records) is not a known class or one-way word; such roads are open both ways at {}", word, count,
                                 describe(travel::speed_on({}, {}))));
}

// ---------------------------------------------------------------------------------------------------------------- check

struct Check {
    FileOptions roads, demand, sites;
    RoadFieldOptions fields;
    std::string travel, attach_limit = "250m", json_out, demand_id, site_id, weight;
    bool quiet = false;

    void add_to(CLI::App& app) {
        roads.add_to(app, "roads", "lines to travel on", true, false);
        fields.add_to(app);
        app.add_option("--travel", travel, "count only the roads this traveller may use")->check(CLI::IsMember({"drive", "respond", "walk", "cycle"}));
        demand.add_to(app, "demand", "points to be served", false, true);
        sites.add_to(app, "sites", "points that serve", false, true);
        app.add_option("--demand-id", demand_id, "field of the demand's id ('id')")->type_name("FIELD");
        app.add_option("--site-id", site_id, "field of the sites' id ('id')")->type_name("FIELD");
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")->type_name("FIELD");
        app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")->capture_default_str();
        app.add_option("--json", json_out, "also write the report as JSON")->type_name("FILE");
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

int Check::run() const {
    Console console(quiet);
    const Task task = console.task();
    const Millimetres limit = parsed("--attach-limit", attach_limit, parse_length);
    auto read = files::read_roads({roads.choice(), fields.choice(roads)}, task);
    tell_unknown_words(console, read);
    std::vector<Flaw> flaws = std::move(read.flaws);
    const auto network = join(std::move(read.lines), task);
    const auto profile = travel.empty() ? std::nullopt : std::optional(travel::Profile{mode_of(travel), std::nullopt});
    const auto report = service::check_roads(network, profile, task);
    print(report);
    json out = to_json(report);
    out["records"] = read.records;
    out["unknown_words"] = read.unknown_words;

    const auto add_places = [&](const char* what, const std::vector<std::optional<geo::LonLat>>& places, const std::vector<Flaw>& more) {
        const auto r = service::check_places(network, report, places, limit, task);
        print(what, r, places.size());
        out[what] = to_json(r, places.size());
        flaws.insert(flaws.end(), more.begin(), more.end());
    };
    if (!demand.path.empty()) {
        const auto d = files::read_demand({demand.choice(), if_given(demand_id), if_given(weight)}, task);
        add_places("demand", service::positions(d.demand), d.flaws);
    }
    if (!sites.path.empty()) {
        const auto s = files::read_sites({sites.choice(), if_given(site_id), {}, {}, {}}, task);
        add_places("sites", service::positions(s.sites), s.flaws);
    }
    const auto aside = std::count_if(flaws.begin(), flaws.end(), [](const Flaw& f) { return f.set_aside; });
    fmt::print("Records set aside: {}; kept with a flaw: {}\n", aside, static_cast<std::ptrdiff_t>(flaws.size()) - aside);
    tell_flaws(console, flaws);
    out["set_aside"] = aside;
    out["flaws"] = to_json(flaws);
    if (!json_out.empty()) files::write_text(json_out, out.dump(2, ' ', false, json::error_handler_t::replace) + "\n");
    return kDone;
}

// --------------------------------------------------------------------------------------------------------------- assign

struct Assign {
    FileOptions roads, demand, sites;
    RoadFieldOptions fields;
    std::string travel = "drive", speed, measure = "time", towards = "demand", limit, standard, attach_limit = "250m";
    std::string demand_id, site_id, weight, use = "open", out, as = "points", loads;
    bool quiet = false;

    void add_to(CLI::App& app) {
        roads.add_to(app, "roads", "lines to travel on", true, false);
        fields.add_to(app);
        demand.add_to(app, "demand", "points to be served", true, true);
        sites.add_to(app, "sites", "points that serve", true, true);
        app.add_option("--travel", travel, "how they travel")->required()->check(CLI::IsMember({"drive", "respond", "walk", "cycle"}));
        app.add_option("--speed", speed, "one speed for all roads, such as 40km/h");
        app.add_option("--measure", measure, "what nearest means")->required()->check(CLI::IsMember({"time", "distance"}));
        app.add_option("--towards", towards, "which way they travel")->required()->check(CLI::IsMember({"demand", "site"}));
        app.add_option("--limit", limit, "farther places are not served: 8min, 2km");
        app.add_option("--standard", standard, "share and limit to be met, such as \"90% within 8min\"");
        app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")->capture_default_str();
        app.add_option("--demand-id", demand_id, "field of the demand's id ('id')")->type_name("FIELD");
        app.add_option("--site-id", site_id, "field of the sites' id ('id')")->type_name("FIELD");
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")->type_name("FIELD");
        app.add_option("--use", use, "which sites may serve")->check(CLI::IsMember({"open", "open+candidate"}))->capture_default_str();
        app.add_option("--out", out, "where the answer goes: .csv, .gpkg or .geojson")->required()->type_name("FILE");
        app.add_option("--as", as, "in .gpkg and .geojson: places as points, or lines from place to site")->check(CLI::IsMember({"points", "lines"}))->capture_default_str();
        app.add_option("--loads", loads, "also write one row a site, as CSV")->type_name("FILE");
        app.add_flag("--quiet", quiet, "no progress, no remarks");
    }

    [[nodiscard]] service::Question question() const {
        service::Question q;
        q.use = use == "open" ? service::SiteUse::open : service::SiteUse::open_and_candidate;
        q.profile.mode = mode_of(travel);
        if (!speed.empty()) q.profile.one_speed = parsed("--speed", speed, parse_speed);
        q.towards = towards == "demand" ? service::Towards::demand : service::Towards::site;
        q.measure = measure == "time" ? routing::Measure::time : routing::Measure::distance;
        if (!limit.empty()) q.limit = parsed("--limit", limit, parse_amount);
        q.standard.reset();
        if (!standard.empty()) q.standard = parsed("--standard", standard, parse_standard);
        q.attach_limit = parsed("--attach-limit", attach_limit, parse_length);
        return q;
    }

    int run() const;
};

void tell_idle_sites(Console& console, const service::Outcome& o) {
    for (const auto& s : o.sites)
        if (s.planned.in_use && !s.attachment)
            console.note(fmt::format("site {} serves nobody: {}", s.planned.site.id,
                                     s.planned.site.position ? "no road that this traveller may use is near it" : "it has no place on the globe"));
}

int Assign::run() const {
    service::Question q = question();
    Console console(quiet);
    const Task task = console.task();
    auto roads_read = files::read_roads({roads.choice(), fields.choice(roads)}, task);
    tell_unknown_words(console, roads_read);
    tell_flaws(console, roads_read.flaws);
    auto network = std::make_shared<const roads::Network>(join(std::move(roads_read.lines), task));
    auto demand_read = files::read_demand({demand.choice(), if_given(demand_id), if_given(weight)}, task);
    tell_flaws(console, demand_read.flaws);
    auto sites_read = files::read_sites({sites.choice(), if_given(site_id), {}, {}, {}}, task);
    tell_flaws(console, sites_read.flaws);

    q.demand = demand_read.demand.name;
    q.sites = sites_read.sites.name;
    const service::Inputs inputs{std::move(network), std::make_shared<const places::DemandSet>(std::move(demand_read.demand)),
                                 std::make_shared<const places::SiteSet>(std::move(sites_read.sites))};
    const auto ready = prepare(inputs, q, nullptr, task);
    const auto outcome = service::answer(*ready, {}, task);
    tell_idle_sites(console, outcome);
    files::write_answer(*ready, outcome, out, as == "points" ? files::AnswerShape::points : files::AnswerShape::lines, task);
    if (!loads.empty()) files::write_loads(outcome, loads);
    console.note("");
    fmt::print("{}", files::summary(*ready, outcome));
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
  otoro-batch answer saltmere.otoro.gpkg --plan "Quay opens" --out tables/

Amounts carry their unit: 90s 8min 1h 500m 2km 1.5mi. Exit code: 0 done, 1 bad input, 2 misuse.)";

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
    auto* check_app = app.add_subcommand("check", "what the roads and places are like");
    auto* assign_app = app.add_subcommand("assign", "each demand place to its nearest site");
    auto* answer_app = app.add_subcommand("answer", "the answers of a saved study");
    check.add_to(*check_app);
    assign.add_to(*assign_app);
    answer.add_to(*answer_app);
    for (auto* sub : {check_app, assign_app, answer_app}) sub->footer(kExamples);

    try {
        app.parse(argc, argv);
        if (*check_app) return check.run();
        if (*assign_app) return assign.run();
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
