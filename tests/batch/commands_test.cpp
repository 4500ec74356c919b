#include "batch/commands.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <cstdio>
#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "batch/options.h"
#include "batch/running.h"
#include "files/add_data.h"
#include "files/study_file.h"
#include "geo/wording.h"
#include "support/asking.h"
#include "support/files.h"
#include "support/hill.h"

using namespace otoro;
using test::Folder;
using test::Ran;
using test::run;

namespace {

const std::string kRoads = OTORO_SALTMERE "/roads.gpkg";
const std::string kHomes = OTORO_SALTMERE "/households.csv";
const std::string kPosts = OTORO_SALTMERE "/ambulance-posts.geojson";

std::vector<std::string> assign(const std::string& out) {
    return {"assign",          "--roads", kRoads,      "--demand", kHomes,      "--sites", kPosts,
            "--travel",        "respond", "--measure", "time",     "--towards", "demand",  "--standard",
            "90% within 8min", "--out",   out};
}

/// The lines of a table, each of which must end with a return and a new line.
std::vector<std::string> table_lines(const std::string& path) {
    std::vector<std::string> l;
    std::istringstream in(test::contents(path));
    for (std::string line; std::getline(in, line);) {
        REQUIRE(line.ends_with('\r'));
        line.pop_back();
        l.push_back(line);
    }
    return l;
}

}  // namespace

TEST_CASE("assign answers Saltmere: a row for each household, the sentence and the verdict") {
    const Folder folder;
    const auto r = run(assign(folder.file("a.csv")));
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("responding with priority to the place") && Catch::Contains("not met") &&
                          Catch::Contains("no_road_near         1 places") && Catch::Contains("cut_off"));
    CHECK_THAT(r.err, Catch::Contains("weight is empty"));
    const auto text = test::contents(folder.file("a.csv"));
    CHECK(std::count(text.begin(), text.end(), '\n') == 9001);
}

TEST_CASE("Asked twice, the same file to the last byte") {
    const Folder folder;
    run(assign(folder.file("a.csv")));
    run(assign(folder.file("b.csv")));
    CHECK(test::contents(folder.file("a.csv")) == test::contents(folder.file("b.csv")));
}

TEST_CASE("Quiet says nothing but the answer") {
    const Folder folder;
    auto args = assign(folder.file("a.csv"));
    args.push_back("--quiet");
    const auto r = run(args);
    CHECK(r.err.empty());
    CHECK_FALSE(r.out.empty());
}

TEST_CASE("Candidates serve when asked, a limit leaves places beyond it, one speed for all roads") {
    const Folder folder;
    auto args = assign(folder.file("a.csv"));
    for (const char* more : {"--use", "open+candidate", "--limit", "5min", "--speed", "50km/h", "--loads"})
        args.push_back(more);
    args.push_back(folder.file("loads.csv"));
    const auto r = run(args);
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("open and candidate") && Catch::Contains("at 50 km/h on all roads") &&
                          Catch::Contains("at most 5 min"));
    CHECK_THAT(test::contents(folder.file("loads.csv")), Catch::Contains("C1,Quay,candidate,yes,"));
    CHECK_THAT(test::contents(folder.file("a.csv")), Catch::Contains("beyond_limit"));
}

TEST_CASE("What each candidate would bring is what opening it brings") {
    const Folder folder;
    auto args = assign(folder.file("c.csv"));
    args[0] = "candidates";
    const auto r = run(args);
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("4 candidates") && Catch::Contains("without any 87.5 %") &&
                          Catch::Contains("with Southcote 97.5 %"));
    const auto table = table_lines(folder.file("c.csv"));
    CHECK(table.front() ==
          "site_id,name,places_nearer,weight_nearer,places_within,weight_within,share_within_percent,met");
    service::Study study;
    study = with_roads(std::move(study), files::add_roads({{kRoads, "", ""}, {}}, {}, Task()));
    study = with_demand(std::move(study), files::add_demand({{kHomes, "", ""}, {}, {}}, "", Task()));
    study = with_sites(std::move(study), files::add_sites({{kPosts, "", ""}, {}, {}, {}, {}}, "", Task()));
    study.question().profile.mode = travel::Mode::respond;
    const auto ready = service::prepare(*study.inputs(), study.question(), nullptr, Task());
    const auto today = service::answer(*ready, {}, Task());
    int rows = 0;
    for (std::size_t row = 1; row < table.size(); ++row, ++rows) {
        std::vector<std::string> cells;
        std::istringstream in(table[row]);
        for (std::string cell; std::getline(in, cell, ',');) cells.push_back(cell);
        const auto opened = service::answer(*ready, {"", {{service::Change::open, cells[0], {}}}, {}}, Task());
        const auto verdict = judge(opened, *study.question().standard);
        CHECK(cells[4] == std::to_string(verdict.inside.places));
        CHECK(std::stod(cells[6]) == Approx(verdict.share.percent()));
        CHECK(cells[7] == (verdict.met ? "yes" : "no"));
        std::size_t nearer = 0;
        for (std::size_t i = 0; i < opened.places.size(); ++i)
            nearer += opened.places[i].site != today.places[i].site ? 1 : 0;
        CHECK(cells[2] == std::to_string(nearer));
    }
    CHECK(rows == 4);
    args.insert(args.end(), {"--use", "open+candidate"});
    const auto none = run(args);
    CHECK(none.code == batch::kBadInput);
    CHECK_THAT(none.err, Catch::Contains("no candidate that is not in use already"));
}

TEST_CASE("check counts the roads and writes a report") {
    const Folder folder;
    const auto r = run({"check", "--roads", kRoads, "--travel", "drive", "--demand", kHomes, "--sites", kPosts,
                        "--json", folder.file("c.json")});
    CHECK(r.code == 0);
    const auto j = nlohmann::json::parse(test::contents(folder.file("c.json")));
    CHECK(j.at("links").get<int>() > 5000);
    CHECK(j.at("nodes").get<int>() > 3500);
    CHECK(j.at("kilometres").get<double>() > 500);
    REQUIRE(j.at("pieces").size() >= 2);
    CHECK(j.at("pieces")[0].at("links").get<int>() > j.at("pieces")[1].at("links").get<int>());
    CHECK(j.at("pieces")[0].at("kilometres").get<double>() > 0);
    CHECK(j.at("demand").at("no_road_near") == 1);
    CHECK(j.at("sites").at("attached") == 9);
    CHECK(j.at("flaws").size() == 2);
}

TEST_CASE("answer works out the plans of a study") {
    const Folder folder;
    service::Study s;
    s = with_roads(s, test::roads_of(test::Town().draw({{0, 0}, {1000, 0}})));
    s = with_demand(s, {test::households({{{100, 0}, 1}, {{900, 0}, 3}}), {}});
    auto sites = *test::posts({{0, 0}, {1000, 0}});
    sites.sites[1].state = places::SiteState::candidate;
    s = with_sites(s, {std::make_shared<places::SiteSet>(sites), {}});
    s.question().standard = service::Standard{Share::percent(50), Millimetres::metres(500)};
    s.plans.push_back({"Far end opens", {{service::Change::open, "s1", {}}}});
    files::save_study(s, folder.file("s.gpkg"), Task());

    const auto all = run({"answer", folder.file("s.gpkg"), "--out", folder.file("tables")});
    CHECK(all.code == 0);
    CHECK_THAT(all.out, Catch::Contains("Plan: Today\nVerdict: 25 % within 500 m, 50 % wanted: not met") &&
                            Catch::Contains("Plan: Far end opens\nVerdict: 100 %"));
    for (const char* name :
         {"tables/Today.csv", "tables/Far_end_opens.gpkg", "tables/Far_end_opens_sites.csv", "tables/summary.txt"})
        CHECK(std::filesystem::exists(folder.file(name)));
    const auto one = run({"answer", folder.file("s.gpkg"), "--plan", "Today", "--out", folder.file("one")});
    CHECK(one.code == 0);
    CHECK_FALSE(std::filesystem::exists(folder.file("one/Far_end_opens.csv")));
    CHECK(run({"answer", folder.file("s.gpkg"), "--plan", "Nobody's", "--out", folder.file("x")}).code == 1);
}

TEST_CASE("Misuse ends with 2 and says how to do it") {
    const Folder folder;
    CHECK(run({}).code == 2);
    CHECK(run({"fly"}).code == 2);
    CHECK(run({"assign", "--roads", kRoads}).code == 2);
    auto bad = assign(folder.file("a.csv"));
    bad[8] = "teleport";
    CHECK(run(bad).code == 2);
    for (const auto& [option, value] : {std::pair{"--limit", "8"},
                                        {"--speed", "40"},
                                        {"--standard", "90"},
                                        {"--attach-limit", "8min"},
                                        {"--limit", "a lot"}}) {
        auto args = assign(folder.file("a.csv"));
        if (std::string(option) == "--standard")
            args.resize(13), args.insert(args.end(), {"--out", folder.file("a.csv")});
        args.insert(args.end(), {option, value});
        const auto r = run(args);
        INFO(option << " " << value);
        CHECK(r.code == 2);
        CHECK_THAT(r.err, Catch::Contains(value));
        CHECK_FALSE(std::filesystem::exists(folder.file("a.csv")));
    }
}

TEST_CASE("Options that do not go together, lack another or have another word are refused by name") {
    const Folder folder;
    const auto refused = [&](std::vector<std::string> more, const std::vector<std::string>& named) {
        auto args = assign(folder.file("a.csv"));
        args.insert(args.end(), more.begin(), more.end());
        const auto r = run(args);
        CHECK(r.code == 2);
        for (const auto& name : named) CHECK_THAT(r.err, Catch::Contains(name));
        CHECK_THAT(r.err, Catch::Contains("Run with --help"));
        CHECK_FALSE(std::filesystem::exists(folder.file("a.csv")));
    };
    refused({"--fields", "--ids-only"}, {"--fields", "--ids-only"});
    refused({"--join", "anywhere"}, {"--join", "anywhere"});
    refused({"--needed", "0"}, {"--needed"});
    refused({"--zones-layer", "a"}, {"--zones-layer", "--zones"});
    const auto r = run({"assign", "--roads", kRoads});
    CHECK_THAT(r.err, Catch::Contains("is required"));
    CHECK(run({"assign", "--help"}).code == 0);
}

TEST_CASE("Bad input ends with 1, names the file and writes nothing") {
    const Folder folder;
    const std::string out = folder.file("a.csv");
    auto args = assign(out);
    args[2] = folder.file("missing.gpkg");
    auto r = run(args);
    CHECK(r.code == 1);
    CHECK_THAT(r.err, Catch::Contains("missing.gpkg") && Catch::Contains("no such file"));
    args = assign(out);
    args[4] = folder.write("homes.csv", "id,name\n1,2\n");
    r = run(args);
    CHECK(r.code == 1);
    CHECK_THAT(r.err, Catch::Contains("homes.csv"));
    args = assign(out);
    args.insert(args.end(), {"--demand-id", "number"});
    CHECK(run(args).code == 1);
    CHECK_FALSE(std::filesystem::exists(out));
    args = assign(folder.file("a.odd"));
    CHECK(run(args).code == 1);
}

TEST_CASE("Help has examples") {
    const auto r = run({"--help"});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("otoro-batch assign --roads") && Catch::Contains("90s 8min 1h"));
    CHECK(run({"assign", "--help"}).code == 0);
}

TEST_CASE("check tells the same findings as the window, as JSON, and is strict if asked") {
    const Folder folder;
    const auto json = folder.file("check.json");
    const auto r = run({"check", "--roads", kRoads, "--travel", "drive", "--demand", kHomes, "--sites", kPosts,
                        "--json", json, "--quiet"});
    CHECK(r.code == batch::kDone);
    CHECK_THAT(r.out, Catch::Contains("Findings: 7"));
    const auto j = nlohmann::json::parse(test::contents(json));
    std::map<std::string, nlohmann::json> by_kind;
    for (const auto& f : j.at("findings")) by_kind[f.at("kind")] = f;
    for (const char* kind :
         {"gaps", "cut_off_pieces", "cut_off_places", "no_road_near", "ids", "weights", "far_from_road"})
        CHECK(by_kind.contains(kind));
    CHECK(by_kind["gaps"]["count"] == 6);
    CHECK(by_kind["cut_off_places"]["places"] == 23);
    CHECK(run({"check", "--roads", kRoads, "--quiet", "--strict"}).code == batch::kFindings);
    std::string two_way = test::kCrossRoads;  // its one-way street can be entered and not left
    two_way.replace(two_way.find("\"yes\""), 5, "\"no\"");
    CHECK(run({"check", "--roads", folder.write("good.geojson", two_way), "--quiet", "--strict"}).code == batch::kDone);
}

TEST_CASE("check lists minutes that are hard to believe, and every command says so when it reads them") {
    const Folder folder;
    const auto roads = folder.write("r.csv",
                                    "class,minutes,wkt\nresidential,93,\"LINESTRING (-9.51 46.2,-9.5 46.2)\"\n"
                                    "residential,0,\"LINESTRING (-9.5 46.2,-9.49 46.2)\"\n");
    const auto homes = folder.write("h.csv", "id,weight,lon,lat\na,7,-9.495,46.2\n");
    const auto sites = folder.write("p.csv", "id,lon,lat\np,-9.51,46.2\n");
    const auto json = folder.file("check.json");
    const auto r = run({"check", "--roads", roads, "--road-minutes", "minutes", "--travel", "drive", "--demand", homes,
                        "--sites", sites, "--json", json});
    CHECK(r.code == batch::kDone);
    CHECK_THAT(r.out, Catch::Contains("1 road has a time hard to believe") && Catch::Contains("[1 places, weight 7]"));
    const auto parsed = nlohmann::json::parse(test::contents(json));
    for (const auto& f : parsed.at("findings"))
        if (f.at("kind") == "stated_times") CHECK(f.at("count") == 2);
    const auto assigned =
        run({"assign", "--roads", roads, "--road-minutes", "minutes", "--travel", "drive", "--measure", "time",
             "--towards", "demand", "--demand", homes, "--sites", sites, "--out", folder.file("a.csv")});
    CHECK_THAT(assigned.err,
               Catch::Contains("record 1: its 93 min for 772 m are 0.5 km/h, against 30 km/h otherwise") &&
                   Catch::Contains("record 2: its minutes '0' are no time at all; its speed is used"));
}

TEST_CASE("check compares the rules of joining and writes the network summary") {
    const Folder folder;
    const auto cross =
        folder.write("x.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{},)"
                                  R"("geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.49,46.2]]}},
{"type":"Feature","properties":{},"geometry":{"type":"LineString","coordinates":[[-9.5,46.19],[-9.5,46.21]]}}]})");
    const auto summary = folder.file("s.txt");
    const auto r = run({"check", "--roads", cross, "--compare-joins", "--summary", summary, "--json",
                        folder.file("j.json"), "--quiet"});
    CHECK(r.code == batch::kDone);
    const auto rules = nlohmann::json::parse(test::contents(folder.file("j.json"))).at("join_rules");
    CHECK(rules.at(0).at("pieces") == 2);
    CHECK(rules.at(2).at("pieces") == 1);
    CHECK_THAT(test::contents(summary), Catch::Contains("Lines join where road ends touch"));
    CHECK_THAT(run({"check", "--roads", cross, "--join", "crossings", "--quiet"}).out,
               Catch::Contains("4 links, 5 nodes"));
    // On two levels they do not cross, unless the field is said to be no level.
    const auto levels = folder.write(
        "levels.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"layer":1},)"
                          R"("geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.49,46.2]]}},
{"type":"Feature","properties":{},"geometry":{"type":"LineString","coordinates":[[-9.5,46.19],[-9.5,46.21]]}}]})");
    CHECK_THAT(run({"check", "--roads", levels, "--join", "crossings", "--quiet"}).out,
               Catch::Contains("2 links, 4 nodes"));
    CHECK_THAT(run({"check", "--roads", levels, "--join", "crossings", "--road-level", "", "--quiet"}).out,
               Catch::Contains("4 links, 5 nodes"));
}

TEST_CASE("assign closes gaps, filters, merges, shuts roads and takes profiles from files") {
    const Folder folder;
    const auto roads = folder.write(
        "r.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"class":"residential"},)"
        R"("geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.5,46.2]]}},
{"type":"Feature","properties":{"class":"residential"},"geometry":{"type":"LineString",)"
        R"("coordinates":[[-9.49995,46.2],[-9.49,46.2]]}}]})");
    const auto homes = folder.write("h.csv", "id,lon,lat,kind\na,-9.495,46.2,farm\nb,-9.505,46.2,flat\n");
    const auto posts = folder.write("p.csv", "id,lon,lat\ns,-9.509,46.2\n");
    const std::vector<std::string> base{"assign", "--roads",           roads,  "--demand",  homes,    "--sites",
                                        posts,    "--measure",         "time", "--towards", "demand", "--quiet",
                                        "--out",  folder.file("o.csv")};
    const auto with = [&](std::vector<std::string> more) {
        auto all = base;
        all.insert(all.end(), more.begin(), more.end());
        const auto r = run(all);
        INFO(r.err);
        CHECK(r.code == batch::kDone);
        return test::contents(folder.file("o.csv"));
    };
    CHECK_THAT(with({"--travel", "drive"}), Catch::Contains("a,,,cut_off") && Catch::Contains("b,1,s,served"));
    CHECK_THAT(with({"--travel", "drive", "--close-gaps", "10m"}), Catch::Contains("a,1,s,served"));
    CHECK_THAT(with({"--travel", "drive", "--close-gaps", "10m", "--demand-filter", "kind = 'farm'"}),
               Catch::Contains("a,1,s,served") && !Catch::Contains("\nb,"));
    const auto profile = folder.write(
        "w.json", R"({"otoro_travel_profile":1,"mode":"walk","name":"slow","heeds_stated_speed":true,"slope":false,)"
                  R"("one_speed_mm_per_hour":1000000})");
    CHECK_THAT(with({"--travel", profile}), Catch::Contains("b,1,s,served,18.5"));  // 309 m at 1 km/h
    const auto closures = folder.write(
        "c.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"effect":"shut"},)"
                     R"("geometry":{"type":"Point","coordinates":[-9.507,46.2]}}]})");
    CHECK_THAT(with({"--travel", "drive", "--closures", closures}), Catch::Contains("b,,,cut_off"));
    CHECK_THAT(with({"--travel", "drive", "--off-road-speed", "3.6km/h"}), Catch::Contains("b,1,s,served"));
    CHECK_THAT(with({"--travel", "drive", "--attach-never", "residential"}), Catch::Contains("b,,,no_road_near"));
    CHECK_THAT(with({"--travel", "drive", "--attach-piece", "2km"}), Catch::Contains("b,,,no_road_near"));
    const auto more = folder.write(
        "more.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"class":"residential"},)"
        R"("geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.49995,46.2]]}}]})");
    CHECK_THAT(with({"--travel", "drive", "--roads", more}), Catch::Contains("a,1,s,served"));
}

TEST_CASE("An elevation model makes walkers climb, and drivers are told that it changes nothing") {
    const Folder folder;
    const auto hill = test::write_hill(folder.file("hill.tif"));
    const auto roads = folder.write(
        "r.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"class":"residential"},)"
        R"("geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.47,46.2]]}}]})");
    const auto homes = folder.write("h.csv", "id,lon,lat\na,-9.47,46.2\n");
    const auto posts = folder.write("p.csv", "id,lon,lat\ns,-9.51,46.2\n");
    const auto asked = [&](const std::string& travel, const std::string& towards, bool heights) {
        std::vector<std::string> all{"assign", "--roads",  roads,   "--demand",          homes,  "--sites",
                                     posts,    "--travel", travel,  "--measure",         "time", "--towards",
                                     towards,  "--quiet",  "--out", folder.file("o.csv")};
        if (heights) all.insert(all.end(), {"--heights", hill});
        const auto r = run(all);
        INFO(r.err);
        REQUIRE(r.code == batch::kDone);
        return std::pair(test::contents(folder.file("o.csv")), r.err);
    };
    const auto up = asked("walk", "demand", true), down = asked("walk", "site", true),
               flat = asked("walk", "demand", false);
    CHECK(flat.first == asked("walk", "site", false).first);
    CHECK(up.first != flat.first);
    CHECK(up.first != down.first);
    CHECK(up.second.empty());
    const auto by_car = asked("drive", "demand", true);
    CHECK(by_car.first == asked("drive", "demand", false).first);
    CHECK_THAT(by_car.second, Catch::Contains("heights change nothing for"));
}

TEST_CASE("Misuse of the new options is misuse") {
    CHECK(run({"check", "--roads", kRoads, "--join", "anywhere"}).code == batch::kMisuse);
    CHECK(run({"check", "--roads", kRoads, "--travel", "fly"}).code == batch::kMisuse);
    CHECK(run({"check", "--roads", kRoads, "--close-gaps", "5km"}).code == batch::kMisuse);
    CHECK(run({"check", "--roads", kRoads, "--road-word", "B Road"}).code == batch::kMisuse);
    CHECK(run({"check", "--roads", kRoads, "--roads-filter", "class ="}).code == batch::kMisuse);
}

TEST_CASE("A table has a row for every site and place with a way between, or for the few nearest") {
    const Folder folder;
    const auto out = folder.file("table.csv"), few = folder.file("few.csv"), nearest = folder.file("nearest.csv");
    const std::vector<std::string> asked{"--roads",   kRoads,
                                         "--demand",  OTORO_SALTMERE "/pupils.csv",
                                         "--sites",   OTORO_SALTMERE "/primary-schools.geojson",
                                         "--travel",  "walk",
                                         "--measure", "distance",
                                         "--towards", "site"};
    const auto with = [&](const char* command, std::vector<std::string> more) {
        std::vector<std::string> all{command};
        all.insert(all.end(), asked.begin(), asked.end());
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    };
    const auto lines = table_lines;
    const auto whole = with("table", {"--out", out});
    CHECK(whole.code == 0);
    CHECK(with("table", {"--out", few, "--nearest", "1"}).code == 0);
    CHECK(with("assign", {"--out", nearest}).code == 0);
    CHECK(lines(out).front() == "site_id,demand_id,minutes,metres,site_name,straight_m,detour");
    CHECK(whole.out.find(said_whole(static_cast<std::int64_t>(lines(out).size()) - 1) + " rows") != std::string::npos);
    // The nearest of the table are the answer's.
    std::map<std::string, std::string> answered;  // place -> site, minutes, metres
    for (const auto& line : lines(nearest)) {
        std::vector<std::string> cells;
        std::istringstream in(line);
        for (std::string cell; std::getline(in, cell, ',');) cells.push_back(cell);
        if (cells.size() > 5 && cells[3] == "served") answered[cells[0]] = cells[2] + "," + cells[4] + "," + cells[5];
    }
    const auto best = lines(few);
    REQUIRE(best.size() == answered.size() + 1);
    for (std::size_t i = 1; i < best.size(); ++i) {
        std::vector<std::string> cells;
        std::istringstream in(best[i]);
        for (std::string cell; std::getline(in, cell, ',');) cells.push_back(cell);
        REQUIRE(cells.size() == 8);
        REQUIRE(answered[cells[1]] == cells[0] + "," + cells[3] + "," + cells[4]);
    }
}

TEST_CASE("A route names its turns, keeps or finds the order of stops, and says which stop is at fault") {
    const Folder folder;
    const std::vector<std::string> asked{
        "route",      "--roads",    kRoads,        "--travel",   "drive",
        "--stop",     "-9.51,46.2", "--stop",      "-9.5,46.22", "--stop",
        "-9.48,46.2", "--stop",     "-9.52,46.21", "--out",      folder.file("way.geojson")};
    const auto given = run(asked);
    CHECK(given.code == 0);
    CHECK(given.out.find("over stops 1 2 3 4") != std::string::npos);
    CHECK(given.out.find("set out along") != std::string::npos);
    CHECK(nlohmann::json::parse(test::contents(folder.file("way.geojson")))["features"][0]["geometry"]["coordinates"]
              .size() > 50);
    auto best = asked;
    best.emplace_back("--best-order");
    const auto found = run(best);
    CHECK(found.code == 0);
    CHECK(std::stod(found.out) <= std::stod(given.out));
    const auto far =
        run({"route", "--roads", kRoads, "--travel", "drive", "--stop", "-9.51,46.2", "--stop", "-8,46.2"});
    CHECK(far.code == 1);
    CHECK(far.err.find("stop 2: no road") != std::string::npos);
    CHECK(run({"route", "--roads", kRoads, "--travel", "drive", "--stop", "-9.51;46.2", "--stop", "-9.5,46.2"}).code ==
          2);
}

TEST_CASE("A table keeps to the limit, and takes no option that it does not use") {
    const Folder folder;
    auto args = assign(folder.file("t.csv"));
    args[0] = "table";
    const auto standard = std::find(args.begin(), args.end(), "--standard");
    if (standard != args.end()) {
        CHECK(run(args).code == 2);
        args.erase(standard, standard + 2);
    }
    REQUIRE(run(args).code == 0);
    const auto all = table_lines(folder.file("t.csv"));
    args.insert(args.end(), {"--limit", "4min"});
    REQUIRE(run(args).code == 0);
    const auto within = table_lines(folder.file("t.csv"));
    CHECK(within.size() > 1);
    std::size_t expected = 1;
    for (std::size_t i = 1; i < all.size(); ++i)
        expected += std::stod(all[i].substr(all[i].find(',', all[i].find(',') + 1) + 1)) <= 4.0 ? 1 : 0;
    CHECK(within.size() == expected);
    args.insert(args.end(), {"--weight", "residents"});
    CHECK(run(args).code == 2);
}

TEST_CASE("No output is written over an input, whatever the input is") {
    const Folder folder;
    const auto profile = folder.write("way.json", "{}");
    const auto refused = [&](std::vector<std::string> more) {
        auto args = assign(folder.file("a.csv"));
        args.insert(args.end(), more.begin(), more.end());
        const auto r = run(args);
        INFO(r.err);
        CHECK(r.code == 1);
        CHECK_THAT(r.err, Catch::Contains("read or written already"));
        CHECK(r.out.empty());
    };
    const auto closures = folder.write("closures.csv", "");
    refused({"--closures", closures, "--loads", closures});
    CHECK(run({"check", "--roads", kRoads, "--travel", profile, "--json", profile}).code != 0);
    CHECK(test::contents(profile) == "{}");
    const auto r = run({"route", "--roads", kRoads, "--travel", profile, "--stop", "-9.51,46.2", "--stop", "-9.5,46.22",
                        "--out", profile});
    CHECK(r.code != 0);
    CHECK(test::contents(profile) == "{}");
    CHECK(run({"check", "--roads", kRoads, "--roads-layer", "a", "--roads-layer", "b"}).code == 2);
}

TEST_CASE("Texts that begin like a formula cannot become one, and come back as they were") {
    const Folder folder;
    const auto homes = folder.write(
        "homes.csv",
        "id,lon,lat\n=1+1,-9.49,46.2\n+44 1,-9.49,46.2\n-5,-9.49,46.2\n@x,-9.49,46.2\n'quoted,-9.49,46.2\n");
    const auto out = folder.file("a.csv");
    REQUIRE(run({"assign", "--roads", kRoads, "--demand", homes, "--sites", kPosts, "--travel", "drive", "--measure",
                 "time", "--towards", "demand", "--out", out})
                .code == 0);
    const auto rows = table_lines(out);
    REQUIRE(rows.size() == 6);
    CHECK(rows[1].starts_with("'=1+1,"));
    CHECK(rows[2].starts_with("'+44 1,"));
    CHECK(rows[3].starts_with("-5,"));
    CHECK(rows[4].starts_with("'@x,"));
    CHECK(rows[5].starts_with("'quoted,"));
    // Read again as a table they are what they were.
    const auto again =
        folder.write("again.csv", "demand_id,lon,lat\r\n" + rows[1].substr(0, rows[1].find(',')) + ",-9.49,46.2\r\n");
    const auto set = files::read_demand({{again, "", ""}, std::string("demand_id"), {}}, Task()).demand;
    CHECK(set.places[0].id == "=1+1");
}

TEST_CASE("A word for slip roads keeps places from those alone") {
    const auto rule = [](const char* word) {
        batch::AttachOptions options;
        options.never = {word};
        return options.rule();
    };
    CHECK(rule("primary_link").allows(roads::RoadClass::primary));
    CHECK_FALSE(rule("primary_link").allows(roads::RoadClass::primary, true));
    CHECK_FALSE(rule("primary").allows(roads::RoadClass::primary));
    CHECK_FALSE(rule("primary").allows(roads::RoadClass::primary, true));
    CHECK(rule("primary_link").allows(roads::RoadClass::secondary, true));
}
