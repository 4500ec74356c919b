/// One question put to every command that answers it: the same to the last digit.
#include <array>
#include <catch2/catch.hpp>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "batch/running.h"
#include "support/cases.h"

using namespace otoro;
using test::Folder;

namespace {

using Args = std::vector<std::string>;

/// A small town of exact blocks, on which many ways and many sites are as near as one another: some roads one-way, some
/// missing, one closed, people who count nothing, sites with limits of their own, two zones.
struct Town {
    Folder folder;
    std::string roads, homes, posts, zones, closures;

    explicit Town(std::mt19937& rng) {
        const auto below = [&](std::uint32_t n) { return static_cast<int>(rng() % n); };
        constexpr int kSide = 5;
        const auto at = [](double x, double y) {
            std::ostringstream out;
            out.precision(9);
            out << x * 0.001 << "," << y * 0.001;
            return out.str();
        };
        const auto point = [&](double x, double y) { return "[" + at(x, y) + "]"; };
        std::string features;
        const auto add = [&](std::string& to, const std::string& properties, const std::string& type,
                             const std::string& coordinates) {
            to += (to.empty() ? "" : ",\n") + std::string(R"({"type":"Feature","properties":{)") + properties +
                  R"(},"geometry":{"type":")" + type + R"(","coordinates":)" + coordinates + "}}";
        };
        const auto whole = [](const std::string& list) {
            return R"({"type":"FeatureCollection","features":[)" + list + "]}";
        };
        for (int x = 0; x <= kSide; ++x)
            for (int y = 0; y <= kSide; ++y)
                for (const bool east : {true, false}) {
                    if ((east ? x : y) == kSide || below(7) == 0) continue;
                    add(features,
                        std::string(R"("highway":"residential","oneway":")") + (below(6) == 0 ? "yes" : "no") + '"',
                        "LineString", "[" + point(x, y) + "," + point(x + (east ? 1 : 0), y + (east ? 0 : 1)) + "]");
                }
        roads = folder.write("roads.geojson", whole(features));
        std::string text = "id,lon,lat,weight,kind\n";
        for (int i = 0; i < 40; ++i)
            text += "h" + std::to_string(i) + "," + at(below(2 * kSide + 1) / 2.0, below(kSide + 1)) + "," +
                    std::to_string(below(4)) + "," + (below(2) == 0 ? "flat" : "house") + "\n";
        text += "far,3,3,2,flat\n";
        homes = folder.write("homes.csv", text);
        text = "id,lon,lat,state,reach\n";
        for (int i = 0; i < 6; ++i)
            text += "s" + std::to_string(i) + "," + at(below(kSide + 1), below(2 * kSide + 1) / 2.0) + "," +
                    (i < 3 ? "open" : "candidate") + "," + (below(4) == 0 ? "" : std::to_string(10 + below(50)) + "s") +
                    "\n";
        posts = folder.write("posts.csv", text);
        std::string areas;
        for (const auto& [name, west, east] : {std::tuple{"West", -1.0, 2.2}, std::tuple{"East", 2.2, 9.0}})
            add(areas, std::string(R"("name":")") + name + '"', "Polygon",
                "[[" + point(west, -9) + "," + point(east, -9) + "," + point(east, 9) + "," + point(west, 9) + "," +
                    point(west, -9) + "]]");
        zones = folder.write("zones.geojson", whole(areas));
        std::string shut;
        add(shut, R"("name":"works","effect":"shut")", "Point", point(below(kSide) + 0.5, below(kSide + 1)));
        add(shut, R"("name":"snow","effect":"slowed","factor":1.5)", "Polygon",
            "[[" + point(1.2, 1.2) + "," + point(3.3, 1.2) + "," + point(3.3, 3.3) + "," + point(1.2, 1.2) + "]]");
        closures = folder.write("closures.geojson", whole(shut));
    }
    [[nodiscard]] std::string file(const std::string& name) const { return folder.file(name); }
};

using Row = std::map<std::string, std::string>;
std::vector<Row> rows_of(const std::string& csv) {
    std::istringstream in(csv);
    std::string line;
    const auto cells = [](std::string text) {
        if (!text.empty() && text.back() == '\r') text.pop_back();
        Args out{""};
        for (const char c : text)
            if (c == ',')
                out.emplace_back();
            else
                out.back().push_back(c);
        return out;
    };
    std::getline(in, line);
    const Args head = cells(line);
    std::vector<Row> out;
    while (std::getline(in, line)) {
        const Args found = cells(line);
        Row row;
        for (std::size_t i = 0; i < head.size() && i < found.size(); ++i) row[head[i]] = found[i];
        out.push_back(row);
    }
    return out;
}

Args joined(Args a, const Args& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}

nlohmann::json features_of(const std::string& path) { return nlohmann::json::parse(test::contents(path))["features"]; }

struct Asking {
    const Town& town;
    Args question;

    [[nodiscard]] std::string ran(const std::string& command, const Args& more) const {
        const auto r = test::run(joined(joined({command, "--roads", town.roads, "--sites", town.posts, "--travel",
                                                "drive", "--speed", "36km/h", "--attach-limit", "60m", "--quiet"},
                                               question),
                                        more));
        INFO(command << ": " << r.err);
        REQUIRE(r.code == 0);
        return r.out;
    }
    [[nodiscard]] Args of_homes(const Args& more) const { return joined({"--demand", town.homes}, more); }
    [[nodiscard]] std::vector<Row> table(const std::string& command, const Args& more) const {
        (void)ran(command, of_homes(joined({"--out", town.file("out.csv")}, more)));
        return rows_of(test::contents(town.file("out.csv")));
    }
};

/// What an answer comes to.
struct Summed {
    std::map<std::string, Row> by_place;
    std::map<std::string, double> weight;
    double within = 0, travel = 0, worst = 0;
    int places_within = 0;

    Summed(const std::vector<Row>& rows, const std::string& column, double limit) {
        for (const Row& row : rows) {
            by_place[row.at("demand_id")] = row;
            weight[row.at("demand_id")] = std::stod(row.at("weight"));
            if (row.at("status") != "served") continue;
            const double cost = std::stod(row.at(column)), w = std::stod(row.at("weight"));
            travel += cost * w;
            if (w > 0) worst = std::max(worst, cost);
            if (cost > limit) continue;
            within += w;
            ++places_within;
        }
    }
};

}  // namespace

TEST_CASE("Every command that answers one question says the same of it, to the last digit") {
    std::mt19937 rng(11);
    int asked_of = 0, on_a_tie = 0;
    for (int n = 0; n < test::cases(12); ++n) {
        const Town town(rng);
        const bool by_time = n % 2 == 0, own_limits = n % 4 >= 2, closed = n % 3 == 1;
        INFO("town " << n);
        const std::string column = by_time ? "minutes" : "metres", limit = by_time ? "25s" : "250m";
        const double most = by_time ? 25.0 / 60 : 250;
        Asking asking{town, {"--measure", by_time ? "time" : "distance", "--towards", n % 5 < 3 ? "demand" : "site"}};
        if (closed) asking.question = joined(asking.question, {"--closures", town.closures});
        const Args own = own_limits ? Args{"--limit-field", "reach"} : Args{};
        const Summed answer(asking.table("assign", own), column, most);

        // The table, whole and the nearest only, to the site and the digits.
        std::map<std::string, Row> best;
        for (const Row& row : asking.table("table", own)) {
            auto& now = best[row.at("demand_id")];
            if (!now.empty() && std::stod(row.at(column)) == std::stod(now.at(column))) ++on_a_tie;
            if (now.empty() || std::stod(row.at(column)) < std::stod(now.at(column))) now = row;
        }
        std::map<std::string, Row> nearest;
        for (const Row& row : asking.table("table", joined(own, {"--nearest", "1"})))
            nearest[row.at("demand_id")] = row;
        for (const auto& [id, row] : answer.by_place) {
            INFO(id);
            ++asked_of;
            const bool served = row.at("status") == "served";
            REQUIRE(served == (best.count(id) > 0));
            REQUIRE(served == (nearest.count(id) > 0));
            if (!served) continue;
            for (const auto* other : {&best[id], &nearest[id]})
                for (const char* cell : {"site_id", "minutes", "metres"}) CHECK(other->at(cell) == row.at(cell));
        }

        // A way over two stops.
        const auto& some = answer.by_place.at("h" + std::to_string(n));
        if (some.at("status") == "served" && !closed) {
            const auto position = [&](const std::string& file, const std::string& id) {
                for (const Row& row : rows_of(test::contents(file)))
                    if (row.at("id") == id) return row.at("lon") + "," + row.at("lat");
                return std::string();
            };
            Args stops{position(town.posts, some.at("site_id")), position(town.homes, some.at("demand_id"))};
            if (asking.question[3] == "site") std::swap(stops[0], stops[1]);
            const auto r = test::run({"route", "--roads", town.roads, "--travel", "drive", "--speed", "36km/h",
                                      "--measure", asking.question[1], "--stop=" + stops[0], "--stop=" + stops[1],
                                      "--attach-limit", "60m", "--out", town.file("way.geojson"), "--quiet"});
            INFO(r.err);
            REQUIRE(r.code == 0);
            const auto way = features_of(town.file("way.geojson"))[0]["properties"];
            // Written with a digit less.
            CHECK(way["minutes"].get<double>() == Approx(std::stod(some.at("minutes"))).margin(0.00005));
            CHECK(way["metres"].get<double>() == Approx(std::stod(some.at("metres"))).margin(0.0005));
        }

        // Who is within reach, and who is not.
        if (!own_limits) {
            (void)asking.ran("reach", asking.of_homes({"--weight", "weight", "--limits", limit, "--overlap", "merged",
                                                       "--out", town.file("reach.geojson")}));
            int places = 0;
            double weight = 0;
            for (const auto& f : features_of(town.file("reach.geojson"))) {
                places += f["properties"]["places"].get<int>();
                weight += f["properties"]["weight"].get<double>();
            }
            CHECK(places == answer.places_within);
            CHECK(weight == answer.within);
        }
        double missed = 0, all = 0, off = 0;
        for (const auto& [id, w] : answer.weight) {
            all += w;
            if (answer.by_place.at(id).at("status") == "no_road_near") off += w;
        }
        (void)asking.ran("uncovered",
                         asking.of_homes(joined(own, {"--limit", limit, "--out", town.file("un.geojson")})));
        for (const auto& f : features_of(town.file("un.geojson"))) missed += f["properties"]["weight"].get<double>();
        CHECK(missed == all - off - answer.within);

        // The standard.
        const auto steps =
            asking.table("standard", joined(own, {"--zones", town.zones, "--steps", "50% within " + limit}));
        CHECK(std::stod(steps.front().at("weight_within")) == answer.within);

        // A candidate that opens; the best set; the plan of it.
        const auto opened = [&](const std::string& id) {
            return Summed(asking.table("assign", joined(own, {"--open", id})), column, most);
        };
        for (const Row& row : asking.table("candidates", joined(own, {"--standard", "50% within " + limit}))) {
            INFO("candidate " << row.begin()->second);
            const Summed then = opened(row.at("site_id"));
            CHECK(std::stod(row.at("weight_within")) == then.within);
        }
        (void)asking.ran("locate", asking.of_homes(joined(own, {"--goal", "cover", "--within", limit, "--choose", "1",
                                                                "--json", town.file("best.json")})));
        const auto cover = nlohmann::json::parse(test::contents(town.file("best.json")));
        std::string chosen;
        for (const auto& site : cover["sites"])
            if (!site["kept"].get<bool>()) chosen = site["id"].get<std::string>();
        const Summed then = opened(chosen);
        CHECK(cover["reached_weight"].get<double>() == then.within);
        (void)asking.ran("locate", asking.of_homes(joined(
                                       own, {"--goal", "worst", "--choose", "1", "--json", town.file("best.json")})));
        const auto worst = nlohmann::json::parse(test::contents(town.file("best.json")));
        for (const auto& site : worst["sites"])
            if (!site["kept"].get<bool>()) chosen = site["id"].get<std::string>();
        CHECK(worst["value"].get<double>() == Approx(opened(chosen).worst).margin(0.00001));

        // A study of the same, and its plans side by side.
        (void)asking.ran("study", asking.of_homes(joined(
                                      own, {"--standard", "50% within " + limit, "--out", town.file("s.otoro.gpkg")})));
        REQUIRE(test::run({"answer", town.file("s.otoro.gpkg"), "--out", town.file("tables"), "--quiet"}).code == 0);
        std::map<std::string, Row> kept;
        for (const Row& row :
             rows_of(test::contents(town.file("tables/" + std::string(closed ? "closures" : "Today") + ".csv"))))
            kept[row.at("demand_id")] = row;
        for (const auto& [id, row] : answer.by_place)
            for (const char* cell : {"site_id", "status", "minutes", "metres", "weight"})
                CHECK(kept[id].at(cell) == row.at(cell));
        std::filesystem::remove_all(town.file("tables"));

        // Two plans side by side: what each comes to, and place by place what one changes.
        (void)asking.ran(
            "study", asking.of_homes(joined(own, {"--standard", "50% within " + limit, "--add-plan", "Then", "--open",
                                                  chosen, "--out", town.file("c.otoro.gpkg")})));
        REQUIRE(test::run({"compare", town.file("c.otoro.gpkg"), "--out", town.file("tables"), "--quiet"}).code == 0);
        Asking today = asking;
        if (closed) today.question.resize(today.question.size() - 2);  // closures are the plan's
        const Summed before(today.table("assign", own), column, most), after = opened(chosen);
        const double unit = by_time ? 1 : 1000;
        const auto plans = rows_of(test::contents(town.file("tables/compared.csv")));
        REQUIRE(plans.size() == 2);
        for (const auto& [row, sums] : {std::pair(plans[0], &before), std::pair(plans[1], &after)}) {
            INFO("plan " << row.at("plan"));
            double served = 0;
            for (const auto& [id, place] : sums->by_place)
                if (place.at("status") == "served") served += sums->weight.at(id);
            CHECK(std::stod(row.at("served_weight")) == served);
            CHECK(std::stod(row.at("whole_weight")) == all);
            CHECK(std::stod(row.at("share_percent")) == Approx(sums->within / all * 100).margin(0.0001));
            if (served == 0) continue;
            CHECK(std::stod(row.at("worst")) == Approx(sums->worst / unit).margin(0.00001));
            CHECK(std::stod(row.at("mean")) == Approx(sums->travel / served / unit).margin(0.00001));
        }
        std::map<std::string, Row> changed;
        std::string name;
        for (const auto& entry : std::filesystem::directory_iterator(town.file("tables")))
            if (entry.path().string().ends_with("_places.csv")) name = entry.path().string();
        for (const Row& row : rows_of(test::contents(name))) changed[row.at("demand_id")] = row;
        for (const auto& [id, cells] : before.by_place) {
            INFO("compared " << id);
            const Row &was = cells, &is = after.by_place.at(id);
            const auto alike = [&](const char* cell) { return was.at(cell) == is.at(cell); };
            CHECK((changed.count(id) == 0) == (alike("status") && alike("site_id") && alike(column.c_str())));
            if (changed.count(id) == 0) continue;
            const Row& row = changed.at(id);
            for (const auto& [cell, side, site_cell] :
                 {std::tuple("before", &was, "site_before"), std::tuple("after", &is, "site_after")}) {
                const std::string& status = side->at("status");
                if (status == "beyond_limit") continue;  // how far the nearest is, which serves nobody here
                CHECK((row.at(cell).empty() ? "" : row.at(site_cell)) ==
                      (status == "served" ? side->at("site_id") : ""));
                if (status == "served")
                    CHECK(std::stod(row.at(cell)) == Approx(std::stod(side->at(column)) / unit).margin(0.00001));
            }
        }
        std::filesystem::remove_all(town.file("tables"));
    }
    CHECK(asked_of > test::cases(400));
    if (test::cases(12) == 12) CHECK(on_a_tie > 5);
}

TEST_CASE("A way of weeks is one in every command, and one that is longer than can be counted is in none") {
    const Folder folder;
    // At 0.1 km/h 50 km are three weeks; 59.6 km, 2,147,483 seconds, are the most.
    const auto roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"highway":"residential"},
         "geometry":{"type":"LineString","coordinates":[[0,0],[0.45,0]]}},
        {"type":"Feature","properties":{"highway":"residential"},
         "geometry":{"type":"LineString","coordinates":[[0.45,0],[0.9,0]]}}]})");
    const auto homes = folder.write(
        "homes.csv", "id,lon,lat,weight\nnear,0.01,0,1\nweeks,0.44,0,2\nmore,0.53,0,4\ntoo far,0.54,0,8\n");
    const auto posts = folder.write("posts.csv", "id,lon,lat,state\nA,0,0,open\nB,0.001,0,candidate\n");
    const auto asked = [&](const std::string& command, const Args& more) {
        const auto r =
            test::run(joined({command, "--roads", roads, "--demand", homes, "--sites", posts, "--travel", "drive",
                              "--speed", "0.1km/h", "--measure", "time", "--towards", "demand", "--quiet"},
                             more));
        INFO(command << ": " << r.err);
        REQUIRE(r.code == 0);
        return r;
    };
    const auto minutes = [&](const std::string& command, const Args& more) {
        (void)asked(command, joined({"--out", folder.file("out.csv")}, more));
        std::map<std::string, std::string> out;
        for (const Row& row : rows_of(test::contents(folder.file("out.csv"))))
            if (!row.at("minutes").empty()) out[row.at("demand_id")] = row.at("minutes");
        return out;
    };
    const auto found = minutes("assign", {});
    CHECK(found.size() == 3);
    CHECK(std::stod(found.at("weeks")) / 60 / 24 == Approx(20.4).margin(0.05));
    CHECK(minutes("table", {}) == found);
    CHECK(minutes("table", {"--nearest", "1"}) == found);
    for (const auto& [id, at] : {std::pair{"weeks", "0.44,0"}, std::pair{"more", "0.53,0"}}) {
        const auto r = test::run({"route", "--roads", roads, "--travel", "drive", "--speed", "0.1km/h", "--stop", "0,0",
                                  "--stop", at, "--out", folder.file("way.geojson"), "--quiet"});
        REQUIRE(r.code == 0);
        CHECK(features_of(folder.file("way.geojson"))[0]["properties"]["minutes"].get<double>() ==
              Approx(std::stod(found.at(id))).margin(0.00005));
    }
    CHECK_THAT(test::run({"route", "--roads", roads, "--travel", "drive", "--speed", "0.1km/h", "--stop", "0,0",
                          "--stop", "0.54,0", "--quiet"})
                   .err,
               Catch::Contains("no way"));
    (void)asked("reach", {"--limits", "30000min,36000min", "--overlap", "merged", "--full", "--out",
                          folder.file("reach.geojson")});
    const auto areas = features_of(folder.file("reach.geojson"));
    CHECK(areas[0]["properties"]["weight"] == 3);
    CHECK(areas[1]["properties"]["weight"] == 7);
    (void)asked("locate", {"--goal", "travel", "--choose", "1", "--json", folder.file("best.json")});
    CHECK(nlohmann::json::parse(test::contents(folder.file("best.json")))["unreachable_weight"] == 8);
}
