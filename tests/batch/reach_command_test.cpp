#include <algorithm>
#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "batch/running.h"
#include "geo/units.h"
#include "support/asking.h"

using namespace otoro;
using test::Folder;
using test::run;

namespace {

std::vector<std::string> with(const char* command, std::vector<std::string> more) {
    std::vector<std::string> all{command,
                                 "--roads",
                                 OTORO_SALTMERE "/roads.gpkg",
                                 "--sites",
                                 OTORO_SALTMERE "/ambulance-posts.geojson",
                                 "--travel",
                                 "respond",
                                 "--measure",
                                 "time",
                                 "--towards",
                                 "demand",
                                 "--quiet"};
    all.insert(all.end(), more.begin(), more.end());
    return all;
}

nlohmann::json features(const std::string& path) { return nlohmann::json::parse(test::contents(path))["features"]; }

}  // namespace

TEST_CASE("reach writes areas, roads, lines and circles with what was asked") {
    const Folder folder;
    const auto r = run(with("reach", {"--demand", OTORO_SALTMERE "/households.csv", "--limits", "4min,8min", "--out",
                                      folder.file("a.geojson"), "--roads-out", folder.file("r.geojson"), "--lines-out",
                                      folder.file("l.geojson"), "--interval", "2min", "--circles-out",
                                      folder.file("c.geojson"), "--circle-speed", "40km/h"}));
    REQUIRE(r.code == 0);
    CHECK(r.out.find("areas") != std::string::npos);
    double weight = 0;
    for (const auto& f : features(folder.file("a.geojson"))) {
        const auto& p = f["properties"];
        CHECK(p["to_minutes"].get<double>() > p["from_minutes"].get<double>());
        CHECK(p["square_km"].get<double>() > 0);
        CHECK(p["question"].get<std::string>().find("4 min and 8 min") != std::string::npos);
        weight += p["weight"].get<double>();
    }
    CHECK(weight == 18'046);  // as the table has it
    for (const auto& f : features(folder.file("r.geojson"))) {
        const auto& p = f["properties"];
        CHECK(std::max(p["minutes_start"].get<double>(), p["minutes_end"].get<double>()) <=
              p["within_minutes"].get<double>() + 1e-4);
    }
    std::vector<double> minutes;
    for (const auto& f : features(folder.file("l.geojson"))) minutes.push_back(f["properties"]["minutes"]);
    std::sort(minutes.begin(), minutes.end());
    minutes.erase(std::unique(minutes.begin(), minutes.end()), minutes.end());
    CHECK(minutes == std::vector<double>{2, 4, 6, 8});
    CHECK(features(folder.file("c.geojson")).size() == 5);
}

TEST_CASE("A filter means the same for areas, roads, lines, circles and people as a file with those records alone") {
    const Folder folder;
    auto posts = nlohmann::json::parse(test::contents(OTORO_SALTMERE "/ambulance-posts.geojson"));
    nlohmann::json some = nlohmann::json::array();
    for (const auto& f : posts["features"])
        if (f["properties"]["state"] == "open" && f["properties"]["id"] != posts["features"][0]["properties"]["id"])
            some.push_back(f);
    const auto left_out = posts["features"][0]["properties"]["id"].get<std::string>();
    posts["features"] = some;
    const auto asked = [&](const std::string& sites, const std::vector<std::string>& more) {
        const std::string stem = more.empty() ? "alone" : "filtered";
        auto arguments = with("reach", {"--demand", OTORO_SALTMERE "/households.csv", "--limits", "5min", "--interval",
                                        "5min", "--circle-speed", "40km/h"});
        arguments[4] = sites;
        const std::vector<std::string> options{"--out", "--roads-out", "--lines-out", "--circles-out"};
        for (const auto& option : options)
            arguments.insert(arguments.end(), {option, folder.file(stem + option + ".geojson")});
        arguments.insert(arguments.end(), more.begin(), more.end());
        REQUIRE(run(arguments).code == 0);
        std::vector<std::string> out;
        for (const auto& option : options) out.push_back(features(folder.file(stem + option + ".geojson")).dump());
        return out;
    };
    const auto alone = asked(folder.write("ambulance-posts.geojson", posts.dump()), {});
    const auto filtered = asked(OTORO_SALTMERE "/ambulance-posts.geojson",
                                {"--sites-filter", "state = 'open' AND id <> '" + left_out + "'"});
    for (std::size_t i = 0; i < alone.size(); ++i) CHECK((filtered[i] == alone[i]));  // too long to be printed
}

TEST_CASE("reach writes every format, and from a spot") {
    const Folder folder;
    for (const char* const ending : {".gpkg", ".fgb", ".shp", ".geojson"}) {
        const std::string path = folder.file(std::string("area") + ending);
        auto arguments = with("reach", {"--limits", "2km", "--out", path});
        arguments[3] = "--from";
        arguments[4] = "-9.49,46.21";
        arguments[8] = "distance";
        REQUIRE(run(arguments).code == 0);
        CHECK(std::filesystem::file_size(path) > 500);
    }
    CHECK(std::filesystem::exists(folder.file("area.dbf")));
}

TEST_CASE("What cannot be reached is refused, or said, and nothing is written") {
    const Folder folder;
    const std::string out = folder.file("a.gpkg");
    CHECK(run(with("reach", {"--out", out})).code == 2);
    CHECK(run(with("reach", {"--limits", "0", "--out", out})).code == 2);
    CHECK(run(with("reach", {"--every", "1s", "--up-to", "10h", "--out", out})).code == 2);
    CHECK(run(with("reach", {"--limits", "8min,4min", "--out", out})).code == 1);
    CHECK(run(with("reach", {"--limits", "4min,800m", "--out", out})).code == 1);
    CHECK(run(with("reach", {"--limits", "4min", "--out", folder.file("a.xyz")})).code == 1);
    CHECK(run(with("reach", {"--limit-field", "nothing", "--out", out})).code == 1);
    CHECK_FALSE(std::filesystem::exists(out));
    auto sea = with("reach", {"--limits", "8min", "--out", out});
    sea[3] = "--from";
    sea[4] = "-9.9,46.2";
    const auto r = run(sea);
    CHECK(r.code == 0);
    CHECK(r.out.find("nothing is reached") != std::string::npos);
    const auto cells = run(with("surface", {"--cell", "0.001m", "--out", folder.file("s.tif")}));
    CHECK(cells.code != 0);
    CHECK(cells.err.find("at most") != std::string::npos);
    CHECK_FALSE(std::filesystem::exists(folder.file("s.tif")));
}

TEST_CASE("reach lists every site that it leaves out, and why") {
    const Folder folder;
    const auto roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"highway":"residential"},"geometry":{"type":"LineString","coordinates":[[0,0],[0.02,0]]}}]})");
    const auto sites =
        folder.write("posts.csv", "id,lon,lat,reach\nA,0,0,1\nB,,,1\nC,0.01,0,\nD,0.012,0,soon\nE,5,5,1\n");
    const auto r =
        run({"reach", "--roads", roads, "--sites", sites, "--travel", "drive", "--measure", "time", "--towards",
             "demand", "--limit-field", "reach", "--turnout", "30s", "--out", folder.file("a.geojson"), "--quiet"});
    REQUIRE(r.code == 0);
    // All that changes the answer stands in its sentence.
    CHECK_THAT(features(folder.file("a.geojson"))[0]["properties"]["question"].get<std::string>(),
               Catch::Contains("of the open posts, driving, 0.5 min to turn out to the place, nearest road within"));
    for (const char* left_out : {"site B is left out: bad_location: its record gives no place on the globe",
                                 "site C is left out: its record gives no limit of its own",
                                 "site D is left out: its record gives no limit of its own",
                                 "site E is left out: no_road_near: no road that this traveller may use is near it"})
        CHECK_THAT(r.err, Catch::Contains(left_out));
    CHECK_THAT(r.err, !Catch::Contains("site A is left out"));
    CHECK(features(folder.file("a.geojson")).size() == 1);
}

TEST_CASE("A surface is sampled, and one less itself is nothing everywhere") {
    const Folder folder;
    REQUIRE(run(with("surface",
                     {"--cell", "100m", "--out", folder.file("s.tif"), "--sample", OTORO_SALTMERE "/households.csv",
                      "--field", "to_post", "--sample-out", folder.file("p.csv")}))
                .code == 0);
    std::istringstream lines(test::contents(folder.file("p.csv")));
    std::string head;
    std::getline(lines, head);
    std::string first;
    std::getline(lines, first);
    std::istringstream given(test::contents(OTORO_SALTMERE "/households.csv"));
    std::string given_head, given_first;
    std::getline(given, given_head);
    std::getline(given, given_first);
    const auto plain = [](std::string line) { return line.substr(0, line.find('\r')); };
    CHECK(head == plain(given_head) + ",to_post\r");  // all that the file has, and the new column
    CHECK(first.starts_with(plain(given_first) + ","));
    const auto twice = run(
        with("surface", {"--cell", "100m", "--out", folder.file("s2.tif"), "--sample", OTORO_SALTMERE "/households.csv",
                         "--field", "ID", "--sample-out", folder.file("p2.csv")}));
    CHECK(twice.code == 1);
    CHECK(twice.err.find("already") != std::string::npos);
    REQUIRE(run(with("surface", {"--minus", folder.file("s.tif"), "--out", folder.file("d.tif")})).code == 0);
    CHECK(std::filesystem::file_size(folder.file("d.tif")) < std::filesystem::file_size(folder.file("s.tif")) / 4);
    CHECK(run(with("surface", {"--minus", OTORO_SALTMERE "/roads.gpkg", "--out", folder.file("e.tif")})).code == 1);
}

TEST_CASE("zones says of every zone whether it is covered, also of one that crosses itself") {
    const Folder folder;
    {
        std::ofstream file(folder.file("zones.geojson"));
        file << R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"id":"knot"},"geometry":)"
             << R"({"type":"Polygon","coordinates":[[[-9.50,46.20],[-9.48,46.22],[-9.48,46.20],[-9.50,46.22],)"
             << R"([-9.50,46.20]]]}}]})";
    }
    const auto r = run(with("zones", {"--zones", folder.file("zones.geojson"), "--limit", "8min", "--out",
                                      folder.file("z.csv"), "--failing-out", folder.file("f.gpkg")}));
    REQUIRE(r.code == 0);
    CHECK(r.out.find("of 1 zones") != std::string::npos);
    CHECK(test::contents(folder.file("z.csv")).find("knot") != std::string::npos);
    CHECK(run(with("zones", {"--limit", "8min", "--out", folder.file("y.csv")})).code == 2);
}

TEST_CASE("uncovered writes patches with places, too far and the nearest site, and what is left adds up") {
    const Folder folder;
    const auto r =
        run(with("uncovered", {"--demand", OTORO_SALTMERE "/households.csv", "--zones", OTORO_SALTMERE "/zones.geojson",
                               "--limit", "8min", "--out", folder.file("u.geojson")}));
    REQUIRE(r.code == 0);
    double weight = 0, before = 1e12;
    for (const auto& f : features(folder.file("u.geojson"))) {
        const auto& p = f["properties"];
        CHECK(p["weight"].get<double>() <= before);  // the heaviest first
        before = p["weight"];
        weight += before;
    }
    const auto all = run(with("reach", {"--demand", OTORO_SALTMERE "/households.csv", "--limits", "8min", "--overlap",
                                        "merged", "--out", folder.file("r.geojson")}));
    REQUIRE(all.code == 0);
    double reached = 0;
    for (const auto& f : features(folder.file("r.geojson"))) reached += f["properties"]["weight"].get<double>();
    CHECK(reached == 18'046);
    CHECK(weight + reached == 20'605 - 5);  // all but the one that no road is near
}

TEST_CASE(
    "reach-change: a longer limit only gains, what is kept is the first reach, and nothing different is refused") {
    const Folder folder;
    const auto demand = std::vector<std::string>{"--demand", OTORO_SALTMERE "/households.csv"};
    const auto asked = [&](std::vector<std::string> more) {
        more.insert(more.end(), demand.begin(), demand.end());
        return run(with("reach-change", more));
    };
    REQUIRE(asked({"--limit", "4min", "--then-limit", "8min", "--out", folder.file("c.geojson")}).code == 0);
    std::map<std::string, nlohmann::json> rows;
    for (const auto& f : features(folder.file("c.geojson"))) rows[f["properties"]["change"]] = f["properties"];
    REQUIRE(rows.size() == 2);
    CHECK(rows.at("gained")["weight"].get<double>() + rows.at("kept")["weight"].get<double>() == 18'046);
    REQUIRE(run(with("reach", {"--limits", "4min", "--overlap", "merged", "--out", folder.file("r.geojson")})).code ==
            0);
    CHECK(rows.at("kept")["square_km"].get<double>() ==
          Approx(features(folder.file("r.geojson"))[0]["properties"]["square_km"].get<double>()).margin(1e-4));
    CHECK(asked({"--limit", "4min", "--out", folder.file("d.geojson")}).code == 2);
    CHECK(asked({"--limit", "4min", "--then-close", "nowhere", "--out", folder.file("d.geojson")}).code == 1);
    CHECK_FALSE(std::filesystem::exists(folder.file("d.geojson")));
}

TEST_CASE("How many sites reach a spot is told while legs off the road count, too, and adds up to each") {
    const Folder folder;
    const auto sum = [&](const char* overlap, const std::string& file) {
        REQUIRE(run(with("reach", {"--demand", OTORO_SALTMERE "/households.csv", "--limits", "6min", "--off-road-speed",
                                   "4km/h", "--overlap", overlap, "--out", file}))
                    .code == 0);
        std::pair<double, double> out{0, 0};
        for (const auto& f : features(file)) {
            const auto& p = f["properties"];
            const double times = p["sites_reaching"].is_null() ? 1 : p["sites_reaching"].get<double>();
            out.first += times * p["square_km"].get<double>();
            out.second += times * p["weight"].get<double>();
        }
        return out;
    };
    const auto each = sum("each", folder.file("e.geojson")), count = sum("count", folder.file("n.geojson"));
    CHECK(count.first == Approx(each.first).margin(1e-3));
    CHECK(count.second == each.second);
    CHECK(each.second > 0);
}

TEST_CASE("Sampled points keep all that their file says, whatever its columns are called and whoever stands nowhere") {
    const Folder folder;
    const std::string points = folder.write("points.csv",
                                            "fid,geom,lon,lat,a name of many letters,a name of many words\n"
                                            "7,round,-9.49,46.21,one,1\n"
                                            "8,\"a, b\",,,two,2\n"
                                            "9,,-9.48,46.2,three,3\n");
    for (const char* const ending : {".gpkg", ".shp", ".geojson", ".fgb", ".csv"}) {
        INFO(ending);
        const std::string out = folder.file(std::string("out") + ending);
        const auto r = run(with("surface", {"--cell", "500m", "--out", folder.file("s.tif"), "--sample", points,
                                            "--field", "to_post", "--sample-out", out}));
        CHECK(r.code == 0);
        CHECK(std::filesystem::exists(out));
    }
    const auto all = features(folder.file("out.geojson"));
    REQUIRE(all.size() == 3);
    CHECK(all[0]["properties"]["geom"] == "round");
    CHECK(all[0]["properties"]["to_post"].get<double>() > 0);
    CHECK(all[1]["properties"]["to_post"].is_null());
    CHECK(all[1]["geometry"].is_null());
    CHECK(all[2]["properties"]["a name of many words"] == "3");
    const auto table = test::contents(folder.file("out.csv"));
    CHECK(table.find("fid,geom,lon,lat,a name of many letters,a name of many words,to_post\r\n") == 0);
    CHECK(table.find("8,\"a, b\",,,two,2,\r\n") != std::string::npos);
}

TEST_CASE("reach-change takes other ways of travelling and other measures, and says what each was") {
    const Folder folder;
    const auto r =
        run(with("reach-change", {"--limit", "4min", "--then-limit", "2km", "--then-travel", "walk", "--demand",
                                  OTORO_SALTMERE "/households.csv", "--out", folder.file("c.geojson")}));
    REQUIRE(r.code == 0);
    const auto rows = features(folder.file("c.geojson"));
    REQUIRE_FALSE(rows.empty());
    CHECK(rows[0]["properties"]["first"].get<std::string>().find("4 min") != std::string::npos);
    CHECK(rows[0]["properties"]["second"].get<std::string>().find(", walking to") != std::string::npos);
}

namespace {

void check_clipping(const char* overlap) {
    const Folder folder;
    const auto ground = [&](std::vector<std::string> more) {
        more.insert(more.end(), {"--limits", "4min,8min", "--out", folder.file("a.geojson")});
        REQUIRE(run(with("reach", more)).code == 0);
        double sum = 0;
        for (const auto& f : features(folder.file("a.geojson"))) sum += f["properties"]["square_km"].get<double>();
        return sum;
    };
    const std::string zones = OTORO_SALTMERE "/zones.geojson", water = OTORO_SALTMERE "/water.geojson";
    const double all = ground({"--overlap", overlap});
    const double clipped = ground({"--overlap", overlap, "--clip", zones});
    const double dry = ground({"--overlap", overlap, "--off-water", water});
    CHECK(clipped < all);
    CHECK(dry < all);
    CHECK(ground({"--overlap", overlap, "--clip", zones, "--off-water", water}) < std::min(clipped, dry));
    CHECK(ground({"--overlap", overlap, "--clip", water, "--off-water", water}) == Approx(0).margin(1e-6));
}

}  // namespace

TEST_CASE("Roads, kilometres, lines and circles are clipped as areas are, and lines and circles keep off the water") {
    const Folder folder;
    const auto zone = folder.write("zone.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"name":"Middle"},"geometry":{"type":"Polygon",
        "coordinates":[[[0.002,-0.01],[0.006,-0.01],[0.006,0.01],[0.002,0.01],[0.002,-0.01]]]}}]})");
    const auto roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"highway":"residential"},"geometry":{"type":"LineString","coordinates":[[0,0],[0.02,0]]}}]})");
    const auto sites = folder.write("posts.csv", "id,lon,lat\nA,0,0\n");
    const auto homes = folder.write("homes.csv", "id,lon,lat\nh1,0.001,0\nh2,0.003,0\nh3,0.005,0\nh4,0.007,0\n");
    const auto asked = [&](std::vector<std::string> more) {
        std::vector<std::string> all{"reach",
                                     "--roads",
                                     roads,
                                     "--sites",
                                     sites,
                                     "--demand",
                                     homes,
                                     "--travel",
                                     "drive",
                                     "--measure",
                                     "distance",
                                     "--towards",
                                     "demand",
                                     "--limits",
                                     "500m",
                                     "--attach-limit",
                                     "100m",
                                     "--out",
                                     folder.file("a.geojson"),
                                     "--roads-out",
                                     folder.file("r.geojson"),
                                     "--lines-out",
                                     folder.file("l.geojson"),
                                     "--circles-out",
                                     folder.file("c.geojson"),
                                     "--quiet"};
        all.insert(all.end(), more.begin(), more.end());
        const auto r = run(all);
        INFO(r.err);
        REQUIRE(r.code == 0);
    };
    const auto sum = [&](const char* file, const char* field) {
        double out = 0;
        for (const auto& f : features(folder.file(file))) out += f["properties"][field].get<double>();
        return out;
    };
    // West and east of all vertices.
    const auto from_to = [&](const char* file) {
        double west = 180, east = -180;
        const std::function<void(const nlohmann::json&)> look = [&](const nlohmann::json& j) {
            if (!j.empty() && j[0].is_number()) {
                west = std::min(west, j[0].get<double>());
                east = std::max(east, j[0].get<double>());
                return;
            }
            for (const auto& part : j) look(part);
        };
        for (const auto& f : features(folder.file(file))) look(f["geometry"]["coordinates"]);
        return std::pair(west, east);
    };
    asked({});
    CHECK(sum("a.geojson", "road_km") == Approx(0.5));
    CHECK(sum("a.geojson", "places") == 2);
    CHECK(sum("c.geojson", "places") == 2);
    const double circle = sum("c.geojson", "square_km");
    asked({"--clip", zone});
    // From 222.6 m, where the zone begins, to the limit at 500 m.
    CHECK(sum("a.geojson", "road_km") == Approx(0.5 - 0.222639).margin(1e-6));
    CHECK(sum("r.geojson", "length_m") == Approx(500 - 222.639).margin(1e-3));
    CHECK(sum("r.geojson", "metres_start") == Approx(222.639).margin(1e-3));
    CHECK(sum("a.geojson", "places") == 1);
    CHECK(sum("c.geojson", "places") == 1);
    CHECK(sum("c.geojson", "square_km") < circle / 2);
    for (const char* file : {"a.geojson", "r.geojson", "l.geojson", "c.geojson"}) {
        INFO(file);
        CHECK(from_to(file).first >= 0.002 - 1e-9);
        CHECK(from_to(file).second <= 0.006 + 1e-9);
    }
    // A bridge is a road, and who lives on a boat is somebody.
    asked({"--off-water", zone});
    CHECK(sum("a.geojson", "road_km") == Approx(0.5));
    CHECK(sum("a.geojson", "places") == 2);
    for (const char* file : {"a.geojson", "c.geojson"}) CHECK(from_to(file).second <= 0.002 + 1e-9);
    CHECK(features(folder.file("l.geojson")).empty());
}

TEST_CASE("Areas are clipped to zones and kept off the water") { check_clipping("nearest"); }
TEST_CASE("Areas that are merged are clipped to zones and kept off the water") { check_clipping("merged"); }
