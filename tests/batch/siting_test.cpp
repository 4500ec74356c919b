/// Choosing sites, judging by steps, closing and comparing, on the command line.
#include <catch2/catch.hpp>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <sstream>

#include "batch/running.h"

using namespace otoro;
using test::Folder;
using test::run;

namespace {

/// One straight road of about two kilometres along the equator: 0.001 degrees are 111 m, at 36 km/h 11 s.
struct Road {
    Folder folder;
    std::string roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"highway":"residential"},"geometry":{"type":"LineString","coordinates":[[0,0],[0.02,0]]}}]})");
    std::string sites = folder.write("posts.csv",
                                     "id,name,lon,lat,state,price\nA,Ash,0,0,open,\nB,Birch,0.01,0,candidate,5\n"
                                     "C,Cedar,0.018,0,candidate,3\nD,Dale,0.02,0,candidate,3\nE,Elm,5,5,candidate,1\n");
    std::string homes =
        folder.write("homes.csv",
                     "id,lon,lat,weight,kind\nh1,0.001,0,1,flat\nh2,0.009,0,2,flat\nh3,0.017,0,4,house\n"
                     "h4,0.0195,0,4,house\nh5,6,6,3,house\n");

    [[nodiscard]] test::Ran asked(const std::string& command, const std::vector<std::string>& more) const {
        std::vector<std::string> all{command, "--roads",   roads,    "--demand", homes,    "--sites",
                                     sites,   "--travel",  "drive",  "--speed",  "36km/h", "--measure",
                                     "time",  "--towards", "demand", "--quiet"};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    }
    [[nodiscard]] nlohmann::json located(std::vector<std::string> more) const {
        more.insert(more.end(), {"--json", folder.file("best.json")});
        const auto r = asked("locate", more);
        INFO(r.err);
        REQUIRE(r.code == 0);
        return nlohmann::json::parse(test::contents(folder.file("best.json")));
    }
    [[nodiscard]] static std::string ids(const nlohmann::json& j) {
        std::string text;
        for (const auto& site : j["sites"])
            text += site["id"].get<std::string>() + (site["kept"].get<bool>() ? "* " : " ");
        return text;
    }
};

}  // namespace

TEST_CASE("locate finds the best set by every goal, and says what is proven") {
    const Road road;
    auto j = road.located({"--goal", "cover", "--within", "20s", "--choose", "1"});
    CHECK(Road::ids(j) == "A* C ");
    CHECK(j["value"] == 9);  // all but h2, which is 89 m from Birch alone, and h5
    CHECK(j["bound"] == 9);
    CHECK(j["proven"] == true);
    CHECK(j["gap_percent"] == 0);
    CHECK(j["unreachable"] == 1);
    j = road.located({"--goal", "travel", "--choose", "1"});
    CHECK(Road::ids(j) == "A* C ");
    CHECK(j["value"].get<double>() == Approx((1 * 11.13 + 2 * 100.2 + 4 * 11.13 + 4 * 16.7) / 60).epsilon(0.01));
    j = road.located({"--goal", "worst", "--choose", "1"});
    CHECK(Road::ids(j) == "A* C ");
    CHECK(j["value"].get<double>() == Approx(100.2 / 60).epsilon(0.01));
    j = road.located({"--goal", "fewest", "--within", "20s"});
    CHECK(Road::ids(j) == "A* B C ");
    CHECK(j["value"] == 3);
    j = road.located({"--goal", "fewest", "--within", "20s", "--share", "50%", "--keep", "none"});
    CHECK(Road::ids(j) == "C ");
    j = road.located({"--goal", "expected", "--within", "40s", "--choose", "2", "--busy", "50%", "--keep", "none"});
    CHECK(Road::ids(j) == "C D ");  // twice at h3 and h4 beats once more at h2
    CHECK(j["value"].get<double>() == Approx(6));
    j = road.located({"--goal", "backup", "--within", "40s", "--choose", "2", "--keep", "none"});
    CHECK(j["value"] == 16);
    // Open ones too, but none closes: what is chosen beside it is as if it were kept.
    j = road.located({"--goal", "cover", "--within", "20s", "--choose", "2", "--keep", "none", "--close-at-most", "0"});
    CHECK(Road::ids(j) == "A C ");
    CHECK(j["closed"].empty());
    CHECK_THAT(j["question"].get<std::string>(), Catch::Contains("closing none of the open ones"));
    j = road.located({"--goal", "fewest", "--within", "20s", "--share", "50%", "--keep", "none"});
    CHECK(j["closed"] == nlohmann::json::array({"A"}));
    j = road.located(
        {"--goal", "fewest", "--within", "20s", "--share", "50%", "--keep", "none", "--close-at-most", "0"});
    CHECK(Road::ids(j) == "A C ");
    j = road.located({"--goal", "cover", "--within", "20s", "--budget", "5", "--cost", "price", "--forbid", "C"});
    CHECK(Road::ids(j) == "A* D ");
    j = road.located({"--goal", "cover", "--within", "20s", "--choose", "2", "--conflict", "B,C", "--one-of", "B,E"});
    CHECK(Road::ids(j) == "A* B D ");
    j = road.located({"--goal", "cover", "--within", "20s", "--choose", "1", "--capacity", "price", "--keep", "none"});
    CHECK(j["value"] == 3);  // C and D take three, A, without a number, the one that it has; the first of those
    j = road.located({"--goal", "cover", "--within", "5s", "--choose", "1", "--at-demand", "--keep", "none"});
    CHECK(j["value"] == 4);
}

TEST_CASE("locate writes the sites and the price of every step") {
    const Road road;
    const auto r = road.asked("locate", {"--goal", "cover", "--within", "20s", "--choose", "2", "--out",
                                         road.folder.file("sites.csv"), "--curve", road.folder.file("curve.csv")});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("Choose 2 of the candidate posts, keeping all open ones") &&
                          Catch::Contains("Best: Birch, Cedar") && Catch::Contains("proven: no set is better"));
    CHECK(test::contents(road.folder.file("sites.csv")) ==
          "site_id,name,set,state,kept,cost,lon,lat\r\nA,Ash,posts,open,yes,,0,0\r\n"
          "B,Birch,posts,candidate,no,5,0.01,0\r\nC,Cedar,posts,candidate,no,3,0.018,0\r\n");
    CHECK(test::contents(road.folder.file("curve.csv")) ==
          "choose,sites,value,bound,gap_percent,proven,chosen\r\n1,2,9,9,0.0000,yes,C\r\n2,3,11,11,0.0000,yes,B C\r\n");
}

TEST_CASE("locate refuses what cannot be") {
    const Road road;
    const auto refused = [&](const std::vector<std::string>& more, int code, const std::string& why) {
        const auto r = road.asked("locate", more);
        CHECK(r.code == code);
        CHECK_THAT(r.err, Catch::Contains(why));
    };
    refused({"--goal", "cover"}, 2, "the goal cover needs a limit");
    refused({"--goal", "travel", "--within", "5min"}, 2, "the goal travel has no limit");
    refused({"--goal", "cover", "--within", "20s", "--choose", "4"}, 1, "4 are to be chosen, and there are 3");
    refused({"--goal", "cover", "--within", "20s", "--require", "X"}, 1, "'X', which is the id of no site");
    refused({"--goal", "cover", "--within", "20s", "--require", "E"}, 1, "no road that this traveller may use is near");
    refused({"--goal", "cover", "--within", "20s", "--budget", "9", "--choose", "1"}, 2, "--budget");
    refused({"--goal", "fewest", "--within", "20s", "--share", "90%"}, 1, "no set brings 90 % within");
    refused({"--goal", "cover", "--within", "20s", "--use", "open+candidate"}, 2, "candidates are chosen here");
    refused({"--goal", "cover", "--within", "20s", "--grid", "500m", "--junctions"}, 2, "--grid");
    refused({"--goal", "travel", "--json", road.sites}, 1, "read or written already");
}

TEST_CASE("locate names the rules that contradict each other, and no others, whatever the goal") {
    const Road road;
    const std::vector<std::string> contrary{"--conflict", "B,D",      "--conflict", "C,D",     "--one-of",
                                            "B,C",        "--one-of", "D",          "--apart", "1m"};
    for (std::vector<std::string> asked : {std::vector<std::string>{"--goal", "fewest", "--within", "20s"},
                                           {"--goal", "fewest", "--within", "20s", "--share", "10%"},
                                           {"--goal", "cover", "--within", "20s", "--choose", "2"},
                                           {"--goal", "travel", "--choose", "2"},
                                           {"--goal", "worst", "--choose", "3"}}) {
        INFO(asked[1]);
        asked.insert(asked.end(), contrary.begin(), contrary.end());
        const auto r = road.asked("locate", asked);
        CHECK(r.code == 1);
        CHECK_THAT(r.err,
                   Catch::Contains("no set keeps to everything that is asked: B and D are not both open; C and D "
                                   "are not both open; one of B, C is open; one of D is open."));
    }
    const auto few = road.asked("locate", {"--goal", "travel", "--choose", "1", "--one-of", "B", "--one-of", "C,D"});
    CHECK(few.code == 1);
    CHECK_THAT(few.err, Catch::Contains("asked: one of B is open; one of C, D is open; no more than 1 is chosen."));
    // One that is kept is a part of it.
    const auto kept =
        road.asked("locate", {"--goal", "cover", "--within", "20s", "--conflict", "A,B", "--one-of", "B"});
    CHECK(kept.code == 1);
    CHECK_THAT(kept.err, Catch::Contains("A and B are not both open; one of B is open; open sites are kept (A)."));
    // Rules that leave sets, but none that covers all: the most is said.
    const auto most =
        road.asked("locate", {"--goal", "fewest", "--within", "20s", "--conflict", "B,C", "--conflict", "B,D"});
    CHECK(most.code == 1);
    CHECK_THAT(most.err, Catch::Contains("the rules allow no more than 9."));
}

TEST_CASE("Everybody is reached, not reached, or reached by no site in question, under every goal and rule") {
    const Road road;
    for (const std::vector<std::string>& goal : {std::vector<std::string>{"--goal", "cover", "--within", "20s"},
                                                 {"--goal", "backup", "--within", "20s"},
                                                 {"--goal", "expected", "--within", "20s"},
                                                 {"--goal", "travel"},
                                                 {"--goal", "worst"},
                                                 {"--goal", "cover", "--within", "20s", "--capacity", "price"},
                                                 {"--goal", "fewest", "--within", "20s", "--share", "10%"}})
        for (const std::vector<std::string>& rule : {std::vector<std::string>{},
                                                     {"--conflict", "A,B"},
                                                     {"--conflict", "A,C", "--conflict", "A,D"},
                                                     {"--forbid", "B"},
                                                     {"--keep", "none"},
                                                     {"--limit", "30s"},
                                                     {"--apart", "1km"}}) {
            auto asked = goal;
            asked.insert(asked.end(), rule.begin(), rule.end());
            INFO(goal[1] << " " << (rule.empty() ? "" : rule[0]));
            const auto j = road.located(asked);
            const double beyond = j.contains("beyond_all_weight") ? j["beyond_all_weight"].get<double>() : 0;
            CHECK(j["reached_weight"].get<double>() + j["not_reached_weight"].get<double>() + beyond +
                      j["unreachable_weight"].get<double>() ==
                  j["whole_weight"].get<double>());
            if (goal[1] == "cover") CHECK(j["reached_weight"] == j["value"]);
        }
    // Whom only a site can serve that may not stand beside a kept one is reached by none in question.
    CHECK(road.located({"--goal", "cover", "--within", "20s", "--conflict", "A,B"})["beyond_all_weight"] == 2);
}

TEST_CASE("The worst is the farthest that anybody travels, said alike by every command") {
    Road road;
    road.homes = road.folder.write(
        "nobody.csv", "id,lon,lat,weight,kind\nh1,0.001,0,1,flat\nh2,0.009,0,2,flat\nnobody,0.02,0,0,flat\n");
    const auto j = road.located({"--goal", "worst", "--forbid", "D", "--choose", "1"});
    CHECK(j["value"].get<double>() == Approx(11.13 / 60).epsilon(0.01));  // h1 from A, h2 from B; nobody from 0.02
    const auto csv = road.folder.file("a.csv"), json = road.folder.file("a.json");
    REQUIRE(road.asked("assign", {"--open", "B", "--out", csv, "--json", json}).code == 0);
    const auto a = nlohmann::json::parse(test::contents(json));
    CHECK(a["minutes"]["worst"] == j["value"]);
    CHECK(a["loads"][1]["worst_minutes"].get<double>() == Approx(11.13 / 60).epsilon(0.01));
    // Fewest has nobody to cover there.
    CHECK(road.located({"--goal", "fewest", "--within", "20s"})["chosen"] == nlohmann::json::array({"B"}));
}

TEST_CASE("An id that two sites have names neither: both records are said") {
    Road road;
    road.sites = road.folder.write("twice.csv",
                                   "id,name,lon,lat,state\nA,Ash,0,0,open\nB,Birch,0.01,0,candidate\n"
                                   "C,Cedar,0.018,0,candidate\nB,Beech,0.02,0,candidate\n");
    const std::string why = "'B', which is the id of 2 sites: record 2 of the twice, record 4 of the twice";
    for (const std::string option : {"--require", "--forbid", "--one-of"}) {
        const auto r = road.asked("locate", {"--goal", "cover", "--within", "20s", option, "B"});
        CHECK(r.code == 1);
        CHECK_THAT(r.err, Catch::Contains(option + " names " + why));
    }
    for (const std::string option : {"--open", "--close"}) {
        const auto r = road.asked("assign", {option, "B", "--out", road.folder.file("a.csv")});
        CHECK(r.code == 1);
        CHECK_THAT(r.err, Catch::Contains(option + " names " + why));
    }
    CHECK(road.asked("locate", {"--goal", "cover", "--within", "20s", "--require", "C"}).code == 0);
}

TEST_CASE("standard judges every step for all and by group") {
    const Road road;
    const auto out = road.folder.file("steps.csv");
    const auto r = road.asked("standard", {"--steps", "50% within 30s, 10% within 15s", "--by-group", "kind", "--band",
                                           "10%", "--out", out, "--json", road.folder.file("steps.json")});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("Not met: 7.1 % within 0.5 min") && Catch::Contains("house lacks most, 5.5") &&
                          Catch::Contains("at 90 % of the speed: not met"));
    const auto text = test::contents(out);
    CHECK_THAT(text, Catch::Contains("all,all,50 % within 0.5 min,50,0.5,1,5,14,1,1,7.1428,no,6,"));
    CHECK(text.find("group,house") < text.find("group,flat"));  // those with most people missed first
    const auto j = nlohmann::json::parse(test::contents(road.folder.file("steps.json")));
    CHECK(j["met"] == false);
    CHECK(j["groups"].size() == 2);
    CHECK(j["band"].size() == 2);
    CHECK(road.asked("standard", {"--steps", "much within 8min", "--out", out}).code == 2);
}

TEST_CASE("weakest ranks sites, and roads if asked") {
    const Road road;
    const auto out = road.folder.file("weakest.csv");
    const auto r = road.asked("weakest", {"--standard", "50% within 2min", "--roads-too", "--out", out});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("The site that hurts most: Ash, 3 weight fewer"));
    CHECK_THAT(test::contents(out), Catch::Contains("site,A,Ash,2,3,0.0000,no,"));
    CHECK(road.asked("weakest", {"--out", out}).code == 2);
}

TEST_CASE("compare lays the plans of a study side by side") {
    const Road road;
    const auto study = road.folder.file("s.otoro.gpkg");
    REQUIRE(road.asked("study", {"--standard", "90% within 20s", "--out", study}).code == 0);
    const auto r = run({"compare", study, "--out", road.folder.file("tables"), "--quiet"});
    CHECK(r.code == 0);
    CHECK_THAT(test::contents(road.folder.file("tables/compared.csv")),
               Catch::Contains("homes,Today,7.1428,90,") && Catch::Contains(",no,0.0000,"));
    // The tables of the answers may stand in the same folder, whatever the plans are called.
    for (const std::string name : {"compared", "compared homes Birch"})
        REQUIRE(run({"study", study, "--add-plan", name, "--open", "B", "--quiet"}).code == 0);
    REQUIRE(run({"compare", study, "--out", road.folder.file("tables"), "--quiet"}).code == 0);
    std::map<std::string, std::string> before;
    for (const auto& entry : std::filesystem::directory_iterator(road.folder.file("tables")))
        before[entry.path().string()] = test::contents(entry.path().string());
    REQUIRE(before.size() == 6);
    REQUIRE(run({"answer", study, "--out", road.folder.file("tables"), "--quiet"}).code == 0);
    for (const auto& [path, text] : before) CHECK(test::contents(path) == text);
    CHECK(std::filesystem::exists(road.folder.file("tables/plan_compared.csv")));
    CHECK(std::filesystem::exists(road.folder.file("tables/summary.txt")));
    const auto wrong = run({"compare", study, "--plans", "Today,Nowhere", "--out", road.folder.file("tables")});
    CHECK(wrong.code == 1);
    CHECK_THAT(wrong.err, Catch::Contains("it has no plan 'Nowhere'"));
}

TEST_CASE("assign says every step of the standard, and turning out takes its time") {
    const Road road;
    const auto r = road.asked("assign", {"--standard", "50% within 30s, all within 10s for flat", "--turnout", "15s",
                                         "--group", "kind", "--out", road.folder.file("a.csv")});
    INFO(r.err);
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("driving at 36 km/h on all roads, 0.25 min to turn out to the place") &&
                          Catch::Contains("50 % must be within 0.5 min, and all within 0.167 min for flat.") &&
                          Catch::Contains("all within 0.167 min for flat: 0 %, 3 weight short") &&
                          Catch::Contains("The whole standard: not met"));
    // 111 m take 11 s, and turning out 15.
    CHECK_THAT(test::contents(road.folder.file("a.csv")), Catch::Contains("h1,1,A,served,0.4355"));
    const auto own = road.folder.write("own.csv", "id,lon,lat,out\nA,0,0,2\nB,0.001,0,now\n");
    const auto with_own = run(
        {"assign",   "--roads",         road.roads, "--demand",  road.homes,  "--sites", own,
         "--travel", "drive",           "--speed",  "36km/h",    "--measure", "time",    "--towards",
         "demand",   "--turnout-field", "out",      "--turnout", "15s",       "--out",   road.folder.file("b.csv")});
    CHECK(with_own.code == 0);
    CHECK_THAT(with_own.err, Catch::Contains("its turnout 'now' is neither minutes nor a time"));
    CHECK_THAT(test::contents(road.folder.file("b.csv")), Catch::Contains("h1,1,B,served,0.25"));
    CHECK(road.asked("assign", {"--standard", "50% within 30s by 2", "--out", road.folder.file("c.csv")}).code == 2);
}

TEST_CASE("candidates are ranked by weighted criteria") {
    const Road road;
    const auto out = road.folder.file("ranked.csv");
    const auto r =
        road.asked("candidates", {"--standard", "50% within 20s", "--rank", "newly_within=3,mean", "--out", out});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("4 candidates; first Cedar, with a score of 1.000"));
    const auto text = test::contents(out);
    CHECK_THAT(text, Catch::Contains("1,C,Cedar,1.000000,2,8,"));
    CHECK_THAT(text, Catch::Contains("4,E,Elm,0.000000,0,0,"));
    const auto bare = road.folder.write("bare.csv", "id,lon,lat,state\nA,0,0,open\nB,0.01,0,candidate\n");
    const auto silent = run({"candidates", "--roads", road.roads, "--demand", road.homes, "--sites", bare, "--travel",
                             "drive", "--measure", "time", "--towards", "demand", "--rank", "cost", "--out", out});
    CHECK_THAT(silent.err, Catch::Contains("no candidate has a value for cost"));
    CHECK(road.asked("candidates", {"--rank", "beauty=3", "--out", out}).code == 2);
    // By every rule as many as its answer gives it.
    for (const std::vector<std::string>& rule :
         std::vector<std::vector<std::string>>{{"--capacity", "price", "--split"},
                                               {"--capacity", "price", "--fill", "nearest-first"},
                                               {"--nearest", "2", "--needed", "2"},
                                               {"--recorded", "kind"}}) {
        INFO(rule[0]);
        auto asked = rule;
        asked.insert(asked.end(), {"--standard", "50% within 20s", "--rank", "load", "--out", out});
        REQUIRE(road.asked("candidates", asked).code == 0);
        std::map<std::string, std::string> load;
        std::istringstream told(test::contents(out));
        for (std::string line; std::getline(told, line);) {
            std::vector<std::string> cells;
            std::istringstream row(line);
            for (std::string cell; std::getline(row, cell, ',');) cells.push_back(cell);
            load[cells.at(1)] = cells.at(9);
        }
        REQUIRE(load.size() == 5);  // with the heading
        for (const std::string id : {"B", "C", "D", "E"}) {
            auto opened = rule;
            opened.insert(opened.end(),
                          {"--open", id, "--out", road.folder.file("o.csv"), "--loads", road.folder.file("loads.csv")});
            REQUIRE(road.asked("assign", opened).code == 0);
            const auto loads = test::contents(road.folder.file("loads.csv"));
            const auto row = loads.substr(loads.find("\r\n" + id + ",") + 2);
            INFO(row.substr(0, row.find('\r')));
            std::vector<std::string> cells;
            std::istringstream line(row.substr(0, row.find('\r')));
            for (std::string cell; std::getline(line, cell, ',');) cells.push_back(cell);
            CHECK(cells.at(5) == load.at(id));
        }
    }
    // Whether two sites are near is told by an answer for each; so is whom sites with limits of their own leave.
    const auto by_two = road.asked("candidates", {"--standard", "50% within 20s, 50% within 20s by 2", "--out", out});
    CHECK(by_two.code == 0);
    CHECK_THAT(test::contents(out), Catch::Contains(",yes") || Catch::Contains(",no"));
    const auto limited = road.folder.write(
        "limited.csv", "id,lon,lat,state,most\nA,0,0,open,0.1\nB,0.01,0,candidate,\nC,0.002,0,candidate,0.05\n");
    const auto ranked = run({"candidates", "--roads", road.roads,  "--demand", road.homes,  "--sites", limited,
                             "--travel",   "drive",   "--measure", "time",     "--towards", "demand",  "--limit-field",
                             "most",       "--rank",  "load",      "--quiet",  "--out",     out});
    CHECK(ranked.err == "");
    CHECK(ranked.code == 0);
    CHECK_THAT(test::contents(out), Catch::Contains("1,B,B,1.000000,"));
}

TEST_CASE("locate lists others nearly as good, and how sure the best is") {
    const Road road;
    const auto j = road.located({"--goal", "cover", "--within", "20s", "--choose", "1", "--nearly", "60%", "--sure"});
    REQUIRE(j["nearly_as_good"]["sets"].size() == 1);  // Birch alone is two thirds worse
    CHECK(j["nearly_as_good"]["sets"][0]["sites"][0] == "D");
    CHECK(j["nearly_as_good"]["sets"][0]["value"] == 5);
    CHECK(j["how_sure"]["variants"].size() == 6);
    CHECK(j["how_sure"]["sites"][0]["id"] == "C");
    CHECK(j["how_sure"]["sites"][0]["of"] == 6);
    CHECK(j["how_sure"]["as_good"] == 0);
    // At 80 % of the speed h3 and h4 are out of reach of one or the other: what Cedar loses is said.
    for (const auto& v : j["how_sure"]["variants"]) {
        CHECK(v["best"].get<double>() >= v["chosen"].get<double>());
        CHECK(v["worse_percent"].get<double>() ==
              Approx(100 * (v["best"].get<double>() - v["chosen"].get<double>()) / v["best"].get<double>()));
    }
    // Of two that are as good one is chosen, and the other is counted.
    const auto tie = road.located({"--goal", "cover", "--within", "8s", "--choose", "1", "--sure", "--forbid", "C"});
    CHECK(tie["how_sure"]["as_good"] == 0);
}

TEST_CASE("One moment ends all that locate is asked for, and what was left off is said") {
    const Road road;
    const auto curve = road.folder.file("curve.csv");
    const auto r = road.asked("locate", {"--goal", "cover", "--within", "20s", "--choose", "3", "--curve", curve,
                                         "--nearly", "60%", "--sure", "--time-limit", "0.000001s"});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("There may be more.") && Catch::Contains("more were left off"));
}

TEST_CASE("fairness and access say who fares worse") {
    const Road road;
    const auto out = road.folder.file("even.csv"), lorenz = road.folder.file("lorenz.csv");
    const auto r =
        road.asked("fairness", {"--standard", "50% within 20s", "--group", "kind", "--lorenz", lorenz, "--out", out});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("Gini 0.") && Catch::Contains("Most are missed in house: 11"));
    CHECK_THAT(test::contents(out), Catch::Contains("all,,5,14,1,7.1428,13,"));
    CHECK_THAT(test::contents(lorenz),
               Catch::Contains("0.000000,0.000000") && Catch::Contains("100.000000,100.000000"));

    const auto sites = road.folder.file("supply.csv");
    const auto a = road.asked("access", {"--catchment", "2min", "--sites-out", sites, "--out", out});
    CHECK(a.code == 0);
    CHECK_THAT(a.out, Catch::Contains("sites for every 1,000") && Catch::Contains("have none"));
    CHECK_THAT(test::contents(sites), Catch::Contains("A,Ash,1,3,0.333333333"));
    CHECK_THAT(test::contents(out), Catch::Contains("h1,1,0.333333333") && Catch::Contains("h3,4,0"));
    CHECK(road.asked("access", {"--catchment", "2km", "--out", out}).code == 1);
    // Of several fields that may be it one can be named; which was taken is said.
    const auto beds = road.folder.write("beds.csv", "id,name,lon,lat,capacity,beds\nA,Ash,0,0,3,6\n");
    const auto with = [&](const std::vector<std::string>& more) {
        std::vector<std::string> all{"--sites", beds, "--catchment", "2min", "--sites-out", sites, "--out", out};
        all.insert(all.end(), more.begin(), more.end());
        std::vector<std::string> whole{"access",   "--roads",   road.roads, "--demand", road.homes,
                                       "--travel", "drive",     "--speed",  "36km/h",   "--measure",
                                       "time",     "--towards", "demand",   "--quiet"};
        whole.insert(whole.end(), all.begin(), all.end());
        const auto ran = run(whole);
        INFO(ran.err);
        CHECK(ran.code == 0);
        return ran.out + test::contents(sites);
    };
    CHECK_THAT(with({}), Catch::Contains("places ('capacity') for every 1,000") && Catch::Contains("A,Ash,3,3,1"));
    CHECK_THAT(with({"--capacity", "beds"}), Catch::Contains("places ('beds')") && Catch::Contains("A,Ash,6,3,2"));
}

TEST_CASE("How coordinates were taken is said, also with --quiet") {
    Road road;
    road.homes =
        road.folder.write("west.csv", "id,lon,lat,weight,kind\nh1,0.001 E,0 N,1,flat\nh2,0.002 W,0 N,2,flat\n");
    const auto r = road.asked("assign", {"--out", road.folder.file("a.csv")});
    CHECK(r.code == 0);
    CHECK_THAT(r.err, Catch::Contains("west and south are below 0"));
}
