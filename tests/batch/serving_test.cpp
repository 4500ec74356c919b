/// Other rules than the nearest, asked for on the command line.
#include <zip.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>
#include <sstream>

#include "batch/running.h"
#include "files/study_file.h"

using namespace otoro;
using test::Folder;
using test::run;

namespace {

/// One straight road of about a kilometre along the equator, two schools at its ends, pupils between them.
struct SchoolRun {
    Folder folder;
    std::string roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"highway":"residential"},"geometry":{"type":"LineString","coordinates":[[0,0],[0.009,0]]}}]})");
    std::string schools = folder.write("schools.csv", "id,name,lon,lat,seats\nA,Ash,0,0,2\nB,Birch,0.009,0,3\n");
    std::string pupils = folder.write("pupils.csv",
                                      "id,lon,lat,weight,goes to,siblings\n"
                                      "p1,0.001,0,1,A,2\np2,0.002,0,1,B,1\np3,0.004,0,1,C,1\np4,0.008,0,1,,\n");

    [[nodiscard]] test::Ran asked(const std::vector<std::string>& more, const std::string& out = "a.csv") const {
        std::vector<std::string> all{"assign",   "--roads",   roads,      "--demand", pupils,
                                     "--sites",  schools,     "--travel", "walk",     "--measure",
                                     "distance", "--towards", "site",     "--out",    folder.file(out)};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    }
    /// Of each row: pupil, rank, school or status, weight.
    [[nodiscard]] std::string told(const std::vector<std::string>& more) const {
        const auto r = asked(more);
        if (r.code != 0) return r.err;
        std::istringstream in(test::contents(folder.file("a.csv")));
        std::string line, text;
        std::getline(in, line);
        while (std::getline(in, line)) {
            std::vector<std::string> cells(1);
            for (const char c : line)
                if (c == ',')
                    cells.emplace_back();
                else
                    cells.back() += c;
            text += cells[0] + (cells[1].empty() ? "" : " " + cells[1]) + " " +
                    (cells[2].empty() ? cells[3] : cells[2]) + " " + cells[8] + "; ";
        }
        return text;
    }
};

}  // namespace

TEST_CASE("assign lists several nearest sites, or all within the limit, with their ranks") {
    const SchoolRun s;
    CHECK(s.told({"--nearest", "2"}) ==
          "p1 1 A 1; p1 2 B 1; p2 1 A 1; p2 2 B 1; p3 1 A 1; p3 2 B 1; p4 1 B 1; p4 2 A 1; ");
    CHECK(s.told({"--nearest", "all", "--limit", "800m"}) ==
          "p1 1 A 1; p2 1 A 1; p2 2 B 1; p3 1 A 1; p3 2 B 1; p4 1 B 1; ");
    const auto backup = s.asked({"--nearest", "2", "--needed", "2", "--standard", "50% within 600m"});
    CHECK_THAT(backup.out, Catch::Contains("the 2 nearest by distance (2 needed) of the open schools") &&
                               Catch::Contains("25 % within 600 m, 50 % wanted: not met"));
}

TEST_CASE("assign fills schools to their seats, and says what that costs") {
    const SchoolRun s;
    CHECK(s.told({"--capacity", "seats"}) == "p1 1 A 1; p2 1 A 1; p3 1 B 1; p4 1 B 1; ");
    const auto r = s.asked({"--capacity", "seats"});
    CHECK_THAT(r.out, Catch::Contains("Capacity: room for 5, asked for by 4\n") && Catch::Contains("nothing is less") &&
                          Catch::Contains("Not at the nearest site: 1 places, weight 1"));
    CHECK(s.told({"--capacity", "seats", "--fill", "nearest-first", "--priority", "siblings"}) ==
          "p1 1 B 1; p2 1 A 1; p3 1 A 1; p4 1 B 1; ");
    REQUIRE(s.asked({"--capacity", "seats", "--json", s.folder.file("a.json")}).code == 0);
    const auto json = nlohmann::json::parse(test::contents(s.folder.file("a.json")));
    CHECK(json["capacity"]["proven"] == true);
    CHECK(json["capacity"]["bound"] == json["capacity"]["travel"]);
    CHECK(json["capacity"]["room"] == 5);
    CHECK(json["loads"][0]["load"] == 2);
    CHECK(json["loads"][0]["capacity"] == 2);
    CHECK(json["statuses"]["served"]["places"] == 4);
    CHECK(json["not_at_nearest"]["extra_travel"] == json["capacity"]["extra_travel"]);
    CHECK(s.told({"--capacity", "seats", "--limit", "450m"}) == "p1 1 A 1; p2 1 A 1; p3 site_full 1; p4 1 B 1; ");
    CHECK_THAT(s.asked({"--fill", "least-travel", "--capacity", "nothing"}).err,
               Catch::Contains("there is no field 'nothing'"));
    CHECK_THAT(s.asked({"--split"}).err, Catch::Contains("no site has a capacity"));
    CHECK(s.asked({"--priority", "siblings", "--capacity", "seats"}).code == 2);
}

TEST_CASE("assign gives each school the least it should have, and says who is short of it") {
    const SchoolRun s;
    auto text = test::contents(s.schools);
    text.replace(text.find("seats"), 5, "seats,at least");
    text.replace(text.find(",2\n"), 3, ",2,0\n");
    text.replace(text.find(",3\n"), 3, ",3,3\n");
    (void)s.folder.write("schools.csv", text);
    CHECK(s.told({"--capacity", "seats", "--least", "at least"}) == "p1 1 A 1; p2 1 B 1; p3 1 B 1; p4 1 B 1; ");
    CHECK(s.told({"--fill", "least-travel", "--least", "at least"}) == "p1 1 A 1; p2 1 B 1; p3 1 B 1; p4 1 B 1; ");
    const auto loads = s.folder.file("loads.csv"), json_file = s.folder.file("a.json");
    const auto r = s.asked({"--least", "at least", "--loads", loads, "--json", json_file});
    CHECK_THAT(r.out, Catch::Contains("Sites short of their least: 1 of 2, weight 2 in all"));
    CHECK_THAT(test::contents(loads), Catch::Contains("worst_minutes,least,short_of_least\r\nA,Ash,open,yes,3,3,,"));
    CHECK_THAT(test::contents(loads), Catch::EndsWith(",3,2\r\n"));
    const auto json = nlohmann::json::parse(test::contents(json_file));
    CHECK(json["loads"][1]["least"] == 3);
    CHECK(json["loads"][1]["short_of_least"] == 2);
    // Words for numbers, and a least that no capacity can hold, are told.
    text.replace(text.find(",3,3"), 4, ",3,4");
    text.replace(text.find(",2,0"), 4, ",2,x");
    (void)s.folder.write("schools.csv", text);
    const auto bad = s.asked({"--capacity", "seats", "--least", "at least", "--json", json_file});
    CHECK_THAT(bad.err, Catch::Contains("record 1 (A): its least 'x' is not a number; it is taken as having none"));
    CHECK_THAT(bad.err, Catch::Contains("record 2 (B): its least of 4 is more than its capacity of 3"));
    const auto filled = nlohmann::json::parse(test::contents(json_file))["capacity"];
    CHECK(filled["short_of_least"] == 0);  // as far as the capacity goes
    CHECK(filled["least_short"] == 0);
    CHECK(filled["proven"] == true);
}

TEST_CASE("A bound is said of those answers that it is one for") {
    // Of 3 and 2 four find room when they are split; whole three at most, and that is proven.
    const SchoolRun s;
    (void)s.folder.write("schools.csv", "id,name,lon,lat,seats\nA,Ash,0,0,4\n");
    (void)s.folder.write("pupils.csv", "id,lon,lat,weight\np1,0.001,0,3\np2,0.002,0,2\n");
    const auto whole = s.asked({"--capacity", "seats"}).out;
    CHECK_THAT(whole, Catch::Contains("asked for by 5: 2 finds no room"));
    CHECK_THAT(whole, Catch::Contains("; nothing is less\n"));
    CHECK_THAT(s.asked({"--capacity", "seats", "--split"}).out,
               Catch::Contains("1 finds no room") && Catch::Contains("; nothing is less\n"));
    (void)s.folder.write("schools.csv", "id,name,lon,lat,seats,need\nA,Ash,0,0,4,4\n");
    CHECK_THAT(s.asked({"--capacity", "seats", "--least", "need"}).out,
               Catch::Contains("; nothing is less\n") &&
                   Catch::Contains("Sites short of their least: 1 of 1, weight 1 in all"));
    // Of two hundred of even weight one more is left over than of those that are split: too many to look at all ways.
    std::string many = "id,lon,lat,weight\n";
    for (int i = 0; i < 200; ++i)
        many += fmt::format("p{},{:.6f},0,{}\n", i, 0.001 + 0.00001 * i, 2 * (1 + i * 7 % 19));
    (void)s.folder.write("pupils.csv", many);
    (void)s.folder.write("schools.csv", "id,name,lon,lat,seats,need\nA,Ash,0,0,1001,1001\n");
    CHECK_THAT(s.asked({"--capacity", "seats", "--least", "need"}).out,
               Catch::Contains("; no answer leaves less than 2,993 without room, or sites less than 0 short of their "
                               "least, and none that does as well less than "));
}

TEST_CASE("assign follows what is recorded, and tells who would be nearer elsewhere") {
    const SchoolRun s;
    CHECK(s.told({"--recorded", "goes to"}) == "p1 1 A 1; p2 1 B 1; p3 not_recorded 1; p4 not_recorded 1; ");
    const auto text = test::contents(s.folder.file("a.csv"));
    CHECK_THAT(text, Catch::Contains("nearest_site_id,extra_minutes,extra_metres"));
    CHECK_THAT(text, Catch::Contains("Its record names no site in use.,A,,"));
    CHECK(s.asked({"--recorded", "goes to", "--nearest", "2"}).code == 2);
}

TEST_CASE("assign sends zones as a whole") {
    const SchoolRun s;
    const auto zones = s.folder.write("zones.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"id":"z"},"geometry":{"type":"Polygon",
        "coordinates":[[[0.0015,-1],[1,-1],[1,1],[0.0015,1],[0.0015,-1]]]}}]})");
    CHECK(s.told({"--together", zones}) == "p1 1 A 1; p2 1 B 1; p3 1 B 1; p4 1 B 1; ");
    CHECK(s.asked({"--together", zones, "--zones", zones}).code == 2);
}

TEST_CASE("assign reassigns whoever saves more than an amount, and tells the flows") {
    const SchoolRun s;
    const auto json_file = s.folder.file("a.json"), flows = s.folder.file("flows.csv");
    // p2 walks 779 m to Birch and would walk 223 m to Ash.
    REQUIRE(s.asked({"--recorded", "goes to", "--reassign-over", "500m", "--json", json_file, "--flows", flows}).code ==
            0);
    CHECK_THAT(test::contents(s.folder.file("a.csv")), Catch::Contains("reassigned_site_id"));
    const auto json = nlohmann::json::parse(test::contents(json_file));
    CHECK(json["reassigned"]["places"] == 1);
    CHECK(json["reassigned"]["flows"][0]["from"] == "B");
    CHECK(json["reassigned"]["flows"][0]["to"] == "A");
    CHECK(json["reassigned"]["saved_travel"].get<double>() == Approx(0.5566).margin(0.001));
    CHECK_THAT(test::contents(flows),
               Catch::StartsWith("from_site_id,from_name,to_site_id,to_name,places,weight,saved_km\r\n"
                                 "B,Birch,A,Ash,1,1,0.557\r\n"));
    REQUIRE(s.asked({"--recorded", "goes to", "--reassign-over", "600m", "--json", json_file}).code == 0);
    CHECK(nlohmann::json::parse(test::contents(json_file))["reassigned"]["places"] == 0);
    // All: p3 and p4, who have no school on record, get one too.
    REQUIRE(s.asked({"--recorded", "goes to", "--reassign-over", "all", "--json", json_file}).code == 0);
    CHECK(nlohmann::json::parse(test::contents(json_file))["reassigned"]["places"] == 3);
    CHECK(s.asked({"--reassign-over", "5min"}).code == 2);
    CHECK(s.asked({"--recorded", "goes to", "--flows", flows}).code == 2);
}

TEST_CASE("assign keeps to the limit that each site has of its own") {
    const SchoolRun s;
    const auto schools = s.folder.write("limited.csv", "id,name,lon,lat,reach\nA,Ash,0,0,150m\nB,Birch,0.009,0,700m\n");
    const auto with = [&](const std::vector<std::string>& more) {
        std::vector<std::string> all{"assign",
                                     "--roads",
                                     s.roads,
                                     "--demand",
                                     s.pupils,
                                     "--sites",
                                     schools,
                                     "--travel",
                                     "walk",
                                     "--measure",
                                     "distance",
                                     "--towards",
                                     "site",
                                     "--limit-field",
                                     "reach",
                                     "--out",
                                     s.folder.file("a.csv")};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    };
    const auto r = with({});
    INFO(r.err);
    REQUIRE(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("at most its site's own limit"));
    const auto text = test::contents(s.folder.file("a.csv"));
    CHECK_THAT(text, Catch::Contains("p1,1,A,served") && Catch::Contains("p2,,,beyond_limit") &&
                         Catch::Contains("the limit of that site is 150 m") && Catch::Contains("p3,1,B,served"));
    REQUIRE(with({"--limit", "100m"}).code == 0);
    CHECK_THAT(test::contents(s.folder.file("a.csv")), Catch::Contains("p1,,,beyond_limit"));
    REQUIRE(with({"--nearest", "2"}).code == 0);
    CHECK_THAT(test::contents(s.folder.file("a.csv")), Catch::Contains("p1,1,A,served") && !Catch::Contains("p3,2,"));
}

TEST_CASE("assign writes all the fields of the demand beside its own, or ids alone, in every format") {
    const SchoolRun s;
    REQUIRE(s.asked({"--fields"}).code == 0);
    const auto text = test::contents(s.folder.file("a.csv"));
    CHECK_THAT(text, Catch::Contains("site_name,id,lon,lat,weight_2,goes to,siblings\r\np1,") &&
                         Catch::Contains(",Ash,p1,0.001,0,1,A,2\r\n"));
    REQUIRE(s.asked({"--ids-only"}).code == 0);
    CHECK(test::contents(s.folder.file("a.csv")) == "demand_id,site_id\r\np1,A\r\np2,A\r\np3,A\r\np4,B\r\n");
    CHECK(s.asked({"--ids-only", "--fields"}).code == 2);
    // Of two files, fields of one name are one column.
    const auto more = s.folder.write("more.csv", "id,lon,lat,colour\nx,0.001,0,red\n");
    REQUIRE(s.asked({"--demand", more, "--fields"}).code == 0);
    CHECK_THAT(test::contents(s.folder.file("a.csv")),
               Catch::Contains("site_name,id,lon,lat,weight_2,goes to,siblings,colour\r\np1,") &&
                   Catch::Contains(",Ash,x,0.001,0,,,,red\r\n"));
    for (const char* name : {"a.ods", "a.xlsx", "a.gpkg", "a.geojson", "a.fgb", "a.shp", "a.sqlite"}) {
        INFO(name);
        const auto r = s.asked({"--nearest", "2", "--as", "journeys"}, name);
        CHECK(r.code == 0);
        CHECK(std::filesystem::file_size(s.folder.file(name)) > 0);
    }
    CHECK(s.asked({}, "a.doc").code == 1);
}

TEST_CASE("A spreadsheet that the disk refuses is an error, and no text becomes a formula") {
    const SchoolRun s;
    const auto pupils = s.folder.write("odd.csv", "id,lon,lat\nof:=1+1,0.001,0\n=2+2,0.002,0\n");
    const auto with = [&](const std::string& out) {
        return run({"assign", "--roads", s.roads, "--demand", pupils, "--sites", s.schools, "--travel", "walk",
                    "--measure", "distance", "--towards", "site", "--out", out});
    };
    for (const char* name : {"a.ods", "a.xlsx"}) {
        REQUIRE(with(s.folder.file(name)).code == 0);
        const auto again = run({"table", "--roads", s.roads, "--from", s.schools, "--travel", "walk", "--measure",
                                "distance", "--out", s.folder.file(name)});
        CHECK(again.code == 0);  // over the one before
        CHECK(test::contents(s.folder.file(name)).starts_with("PK"));
    }
    REQUIRE(with(s.folder.file("b.ods")).code == 0);
    const std::unique_ptr<zip_t, int (*)(zip_t*)> archive(zip_open(s.folder.file("b.ods").c_str(), ZIP_RDONLY, nullptr),
                                                          zip_close);
    REQUIRE(archive);
    const std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> content(zip_fopen(archive.get(), "content.xml", 0),
                                                                    zip_fclose);
    REQUIRE(content);
    std::string text(100'000, ' ');
    text.resize(static_cast<std::size_t>(zip_fread(content.get(), text.data(), text.size())));
    CHECK_THAT(text, Catch::Contains("of:=1+1") && Catch::Contains("=2+2") && !Catch::Contains("table:formula"));
}

TEST_CASE("assign draws journeys along the roads") {
    const Folder folder;
    // From the school at one corner to a pupil at the other, over the crossing between.
    const auto roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"highway":"residential"},"geometry":{"type":"LineString",
         "coordinates":[[0,0],[0.01,0]]}},
        {"type":"Feature","properties":{"highway":"residential"},"geometry":{"type":"LineString",
         "coordinates":[[0.01,0],[0.01,0.01]]}}]})");
    const auto schools = folder.write("schools.csv", "id,lon,lat\nA,0,0\n"),
               pupils = folder.write("pupils.csv", "id,lon,lat\np,0.01,0.01\nq,0,0\nfar,1,1\n");
    const auto out = folder.file("a.geojson");
    REQUIRE(run({"assign", "--roads", roads, "--demand", pupils, "--sites", schools, "--travel", "walk", "--measure",
                 "distance", "--towards", "site", "--as", "journeys", "--out", out})
                .code == 0);
    const auto json = nlohmann::json::parse(test::contents(out));
    REQUIRE(json["features"].size() == 3);
    CHECK(json["features"][0]["geometry"]["coordinates"] ==
          nlohmann::json::parse("[[0.01,0.01],[0.01,0.0],[0.0,0.0]]"));
    CHECK(json["features"][1]["geometry"].is_null());  // it stands where the school is
    CHECK(json["features"][2]["geometry"].is_null());
    CHECK(json["features"][2]["properties"]["status"] == "no_road_near");
}

TEST_CASE("A study keeps how it is served, and answers the same") {
    const SchoolRun s;
    const auto file = s.folder.file("s.otoro.gpkg");
    const auto r = run({"study",    "--roads", s.roads,         "--demand",   s.pupils,    "--sites", s.schools,
                        "--travel", "walk",    "--measure",     "distance",   "--towards", "site",    "--capacity",
                        "seats",    "--fill",  "nearest-first", "--priority", "siblings",  "--out",   file});
    INFO(r.err);
    REQUIRE(r.code == 0);
    REQUIRE(run({"answer", file, "--out", s.folder.file("tables")}).code == 0);
    REQUIRE(s.asked({"--capacity", "seats", "--fill", "nearest-first", "--priority", "siblings"}).code == 0);
    CHECK(test::contents(s.folder.file("tables/Today.csv")) == test::contents(s.folder.file("a.csv")));
}

TEST_CASE("assign lets a table of pairs decide, and says what of it means nobody") {
    const SchoolRun s;
    const auto visits = s.folder.write("visits.csv",
                                       "pupil,school,visits\np1,B,5\np1,A,3\np2,A,1\np2,A,7\np3,Z,2\nq,A,1\n"
                                       "p4,B,x\np4,A,\n");
    const auto json_file = s.folder.file("a.json");
    CHECK(s.told({"--pairs", visits, "--by", "visits"}) ==
          "p1 1 B 1; p2 1 A 1; p3 not_recorded 1; p4 not_recorded 1; ");
    CHECK(s.told({"--pairs", visits, "--smallest"}) == "p1 1 A 1; p2 1 A 1; p3 not_recorded 1; p4 not_recorded 1; ");
    const auto with_nearest = s.told({"--pairs", visits, "--smallest", "--else-nearest"});
    CHECK_THAT(with_nearest, Catch::Contains("p1 1 A 1; p2 1 A 1; ") && !Catch::Contains("not_recorded"));
    CHECK(s.asked({"--else-nearest"}).code == 2);
    const auto r = s.asked({"--pairs", visits, "--blend", "20%", "--json", json_file});
    CHECK_THAT(r.err, Catch::Contains("the pair stands in record 3 already, which counts") &&
                          Catch::Contains("its value 'x' is not a number") && Catch::Contains("its value is empty") &&
                          Catch::Contains("1 of 5 pairs name an id that no demand place has") &&
                          Catch::Contains("1 of 5 pairs name an id that no site has"));
    CHECK_THAT(r.out, Catch::Contains("the best by 20 % largest value and the rest nearness by distance"));
    const auto json = nlohmann::json::parse(test::contents(json_file));
    CHECK(json["pairs"] == nlohmann::json({{"rows", 5}, {"of_unknown_demand", 1}, {"of_unknown_sites", 1}}));
    CHECK(json["detours"]["steps"].size() == 5);
    CHECK_THAT(test::contents(s.folder.file("a.csv")),
               Catch::Contains("The table of pairs has no value for it with any site in use."));
    CHECK(s.asked({"--by", "visits"}).code == 2);
    CHECK(s.asked({"--pairs", visits, "--recorded", "goes to"}).code == 2);
    CHECK_THAT(s.asked({"--pairs", visits, "--by", "nothing"}).err, Catch::Contains("there is no field 'nothing'"));
    CHECK_THAT(s.asked({"--pairs", s.schools}).err, Catch::Contains("was found by name"));
}

TEST_CASE("assign tells which school's next places are worth most") {
    const SchoolRun s;
    const auto json_file = s.folder.file("a.json");
    REQUIRE(s.asked({"--capacity", "seats", "--json", json_file, "--more-places", "10"}).code == 0);
    const auto more = nlohmann::json::parse(test::contents(json_file))["more_places"];
    REQUIRE(more.size() == 1);         // the other has a seat left
    CHECK(more[0]["site_id"] == "A");  // p3 is 111 m nearer to it
    CHECK(more[0]["saves"].get<double>() == Approx(0.111).margin(0.002));
    CHECK(s.asked({"--capacity", "seats", "--more-places", "10"}).code == 2);
    CHECK(s.asked({"--capacity", "seats", "--json", json_file, "--more-places", "some"}).code == 2);
}
