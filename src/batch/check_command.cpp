#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/findings.h"
#include "service/join_report.h"
#include "service/network_summary.h"

namespace otoro::batch {
namespace {

using nlohmann::json;

/// How wide gaps may be that are looked for.
Millimetres parse_gap(const std::string& text) {
    const auto width = parse_length(text);
    if (width > roads::kWidestGap)
        refuse("", fmt::format("gaps are looked for up to {}", describe(roads::kWidestGap)), "");
    return width;
}

struct Check : Command {
    RoadOptions roads;
    FileOptions demand, sites;
    std::string travel, water, attach_limit = "250m", json_out, demand_id, site_id, weight, tolerance = "10m",
                               summary_out;
    bool quiet = false, strict = false, compare_joins = false;

    void add_to(Options& app) override {
        roads.add_to(app);
        app.add_option("--travel", travel, std::string("count only the roads this traveller may use: ") + kTravel)
            .type_name("PROFILE");
        demand.add_to(app, "demand", "points to be served", FileOptions::How::maybe_one, true);
        sites.add_to(app, "sites", "points that serve", FileOptions::How::maybe_one, true);
        app.add_option("--demand-id", demand_id, "field of the demand's id ('id')")
            .type_name("FIELD")
            .needs("--demand");
        app.add_option("--site-id", site_id, "field of the sites' id ('id')").type_name("FIELD").needs("--sites");
        app.add_option("--weight", weight, "field that says how much each place counts (found by name)")
            .type_name("FIELD")
            .needs("--demand");
        app.add_option("--attach-limit", attach_limit, "farthest road that a place is joined to")
            .shows_default()
            .reads_as("LENGTH", parse_length);
        app.add_option("--water", water, "polygons of water: roads that run over it are listed").type_name("FILE");
        app.add_option("--gap-tolerance", tolerance, "road ends nearer than this that do not join are listed")
            .shows_default()
            .reads_as("LENGTH", parse_gap);
        app.add_flag("--compare-joins", compare_joins, "also show what each rule of joining would give");
        app.add_option("--summary", summary_out, "also write every rule, speed, tolerance and count in plain words")
            .type_name("FILE");
        app.add_option("--json", json_out, "also write the report as JSON").type_name("FILE");
        app.add_flag("--strict", strict, "exit with 3 if there is any finding");
        app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
    }

    [[nodiscard]] int run() const override;
};

json to_json(const std::vector<Flaw>& flaws) {
    json out = json::array();
    for (const auto& f : flaws)
        out.push_back(
            {{"file", f.file}, {"record", f.record + 1}, {"id", f.id}, {"wrong", f.wrong}, {"set_aside", f.set_aside}});
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
    return {{"places", places},
            {"attached", r.attached},
            {"off_main_piece", r.off_main_piece},
            {"no_road_near", r.no_road_near},
            {"bad_location", r.bad_location},
            {"longest_off_road_m", r.longest_off_road.metres()}};
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
        out.push_back({{"kind", name(f.kind)},
                       {"about", f.about},
                       {"sentence", f.sentence},
                       {"count", f.count},
                       {"places", f.places},
                       {"weight", f.weight.value()},
                       {"items", std::move(items)}});
    }
    return out;
}

void print(const service::RoadReport& r) {
    fmt::print("Roads: {} links, {} nodes, {:.3f} km, {} one-way ({})\n", said_whole(r.links), said_whole(r.nodes),
               r.length.kilometres(), said_whole(r.one_way_links),
               describe(share_of(Weight(r.one_way_links), Weight(r.links))));
    if (r.left_out > 0) fmt::print("  {} links are not for this traveller\n", said_whole(r.left_out));
    fmt::print("  {} {}\n", said_whole(r.pieces.size()), r.pieces.size() == 1 ? "piece" : "pieces");
    for (std::size_t i = 0; i < std::min<std::size_t>(r.pieces.size(), 10); ++i)
        fmt::print("    {:>3}. {} links, {:.3f} km\n", i + 1, said_whole(r.pieces[i].links),
                   r.pieces[i].length.kilometres());
}

void print(const char* what, const service::AttachReport& r, std::size_t places) {
    fmt::print(
        "{}: {} places\n  attached {}, of them {} not on the largest piece; longest off-road leg {:.1f} m\n  "
        "no_road_near {}\n  bad_location {}\n",
        what, said_whole(places), said_whole(r.attached), said_whole(r.off_main_piece), r.longest_off_road.metres(),
        said_whole(r.no_road_near), said_whole(r.bad_location));
}

void print(const std::vector<service::Finding>& findings) {
    constexpr std::size_t kShown = 5;
    fmt::print("Findings: {}\n", findings.size());
    for (const auto& f : findings) {
        fmt::print(
            "  - {}{}\n", f.sentence,
            f.places > 0 ? fmt::format(" [{} places, weight {}]", said_whole(f.places), describe(f.weight)) : "");
        for (std::size_t i = 0; i < std::min(f.items.size(), kShown); ++i) fmt::print("      {}\n", f.items[i].text);
        if (f.items.size() > kShown) fmt::print("      ... and {} more\n", said_whole(f.count - kShown));
    }
}

int Check::run() const {
    Console console(quiet);
    const Task task = console.task();
    service::Study study;
    study.question().attach_limit = parsed("--attach-limit", attach_limit, parse_length);
    study.gap_tolerance = parsed("--gap-tolerance", tolerance, parse_gap);
    std::vector<std::string> taken = roads.paths;
    for (const auto* files : {&demand, &sites}) taken.insert(taken.end(), files->paths.begin(), files->paths.end());
    for (const auto& path : {water, roads.heights, travel}) taken.push_back(path);
    check_output("--summary", summary_out, {}, taken);
    taken.push_back(summary_out);
    check_output("--json", json_out, {".json"}, taken);
    const auto profile = travel.empty() ? std::nullopt : std::optional(profile_of(travel));
    if (profile) study.question().profile = *profile;
    study = with_roads(std::move(study), read_roads(roads, profile, task));
    if (!water.empty()) study.water = files::add_water({water, "", ""}, task);
    const auto& network = *study.roads->network;
    const auto report = service::check_roads(network, profile, task);
    print(report);
    json out = to_json(report);
    std::vector<Flaw> flaws = study.roads->origin.flaws;

    const auto add_places = [&](const char* what, const std::vector<std::optional<geo::LonLat>>& places,
                                const std::vector<Flaw>& more) {
        const auto r = service::check_places(network, report, places, study.question().attach_limit, task);
        print(what, r, places.size());
        out[what] = to_json(r, places.size());
        flaws.insert(flaws.end(), more.begin(), more.end());
    };
    if (!demand.paths.empty()) {
        study =
            with_demand(std::move(study),
                        files::add_demand({demand.choices().front(), if_given(demand_id), if_given(weight)}, "", task));
        add_places("demand", places::positions(*study.demand[0].set), study.demand[0].origin.flaws);
    }
    if (!sites.paths.empty()) {
        study = with_sites(std::move(study),
                           files::add_sites({sites.choices().front(), if_given(site_id), {}, {}, {}}, "", task));
        add_places("sites", places::positions(*study.sites[0].set), study.sites[0].origin.flaws);
    }
    const auto aside = std::count_if(flaws.begin(), flaws.end(), [](const Flaw& f) { return f.set_aside; });
    fmt::print("Records skipped: {}; kept with a flaw: {}\n", aside, static_cast<std::ptrdiff_t>(flaws.size()) - aside);
    const auto understood = [&](const service::Origin& origin) {
        console.note(fmt::format("{}: {}", origin.file, origin.description));
    };
    understood(study.roads->origin);
    for (const auto& d : study.demand) understood(d.origin);
    for (const auto& s : study.sites) understood(s.origin);
    tell_flaws(console, flaws);
    out["set_aside"] = aside;
    out["flaws"] = to_json(flaws);
    if (compare_joins) {
        json rules = json::array();
        for (const auto& r : service::compare_join_rules(study, task)) {
            fmt::print("{}\n", describe(r));
            rules.push_back({{"rule", name(r.rule)},
                             {"links", r.links},
                             {"pieces", r.pieces},
                             {"dead_ends", r.dead_ends},
                             {"places_cut_off", r.cut_off.places},
                             {"weight_cut_off", r.cut_off.weight.value()}});
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

}  // namespace

std::unique_ptr<Command> check_command() { return std::make_unique<Check>(); }

}  // namespace otoro::batch
