/// Tables of all pairs, and routes over stops, on the command line.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <sstream>

#include "batch/running.h"
#include "support/small_disk.h"

using namespace otoro;
using test::Folder;
using test::run;

namespace {

/// A straight road of 1,000 m or so along the equator, with an island beside it, and points on both.
struct Points {
    Folder folder;
    std::string roads = folder.write("roads.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"highway":"residential","name":"Long Lane"},"geometry":{"type":"LineString",
         "coordinates":[[0,0],[0.009,0]]}},
        {"type":"Feature","properties":{"highway":"residential"},"geometry":{"type":"LineString",
         "coordinates":[[0,1],[0.001,1]]}}]})");
    std::string from =
        folder.write("from.csv", "id,name,lon,lat\na,Ash,0,0\nb,Birch,0.004,0\nc,\"Cove, by sea\",0,1\n");
    std::string to = folder.write("to.csv", "id,name,lon,lat\nx,Elm,0.001,0\ny,Fir,0.009,0\n");

    [[nodiscard]] test::Ran table(const std::vector<std::string>& more) const {
        std::vector<std::string> all{"table",    "--roads", roads,       "--from",  from,
                                     "--travel", "walk",    "--measure", "distance"};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    }
};

}  // namespace

TEST_CASE("A table between two sets names both ends, and counts what has no way") {
    const Points p;
    const auto out = p.folder.file("t.csv");
    const auto r = p.table({"--to", p.to, "--out", out});
    INFO(r.err);
    REQUIRE(r.code == 0);
    CHECK(test::contents(out) ==
          "from_id,from_name,to_id,to_name,minutes,metres,straight_m,detour\r\n"
          "a,Ash,x,Elm,1.39148,111.319,111.319,1.000\r\n"
          "a,Ash,y,Fir,12.52343,1001.875,1001.875,1.000\r\n"
          "b,Birch,x,Elm,4.17448,333.959,333.958,1.000\r\n"
          "b,Birch,y,Fir,6.95747,556.597,556.597,1.000\r\n");
    CHECK_THAT(r.out, Catch::Contains("4 rows, 3 by 2") && Catch::Contains("2 pairs without a way"));
    REQUIRE(p.table({"--to", p.to, "--nearest", "1", "--out", out}).code == 0);
    CHECK_THAT(test::contents(out), Catch::StartsWith("from_id,from_name,to_id,to_name,rank,minutes") &&
                                        Catch::Contains("\na,Ash,x,Elm,1,1.39") &&
                                        Catch::Contains("\nb,Birch,x,Elm,1,4.17"));
    REQUIRE(p.table({"--to", p.to, "--limit", "600m", "--out", out}).code == 0);
    CHECK_THAT(test::contents(out), !Catch::Contains("a,Ash,y,Fir"));
}

TEST_CASE("A table says which pairs it leaves out, and why, however it is written") {
    Points p;
    p.from = p.folder.write("from.csv", "id,name,lon,lat\na,Ash,0,0\nc,Cove,0,1\nd,Dune,,\n");
    p.to = p.folder.write("to.csv", "id,name,lon,lat\nx,Elm,0.001,0\ny,Fir,0.009,0\nz,Sea,3,3\n");
    const auto out = p.folder.file("t.csv");
    for (const std::vector<std::string>& how :
         {std::vector<std::string>{"--out", out}, {"--out", out, "--wide"}, {"--statistics", p.folder.file("s.csv")}}) {
        auto asked = how;
        asked.insert(asked.end(), {"--to", p.to, "--quiet"});
        const auto r = p.table(asked);
        INFO(how.back());
        CHECK(r.code == 0);
        CHECK_THAT(r.err, Catch::Contains("from d is left out: bad_location: its record gives no place on the globe") &&
                              Catch::Contains("to z is left out: no_road_near: no road that this traveller may use") &&
                              Catch::Contains("no way for c to x, c to y\n"));
    }
    const auto few = p.table({"--to", p.to, "--nearest", "1", "--limit", "500m", "--out", out, "--quiet"});
    CHECK_THAT(few.err, Catch::Contains("no way within the limit for ") && !Catch::Contains("a to"));
    CHECK(p.table({"--to", p.to, "--nearest", "1", "--out", out, "--quiet"}).err.find("no way") != std::string::npos);
}

TEST_CASE("A table of a set with itself, wide and in a database") {
    const Points p;
    const auto out = p.folder.file("t.csv");
    REQUIRE(p.table({"--wide", "--out", out}).code == 0);
    CHECK(test::contents(out) ==
          "from_id,from_name,metres_a,metres_b,metres_c\r\n"
          "a,Ash,0.000,445.278,\r\nb,Birch,445.278,0.000,\r\nc,\"Cove, by sea\",,,0.000\r\n");
    for (const char* name : {"t.gpkg", "t.sqlite", "t.ods", "t.xlsx"}) {
        CHECK(p.table({"--out", p.folder.file(name)}).code == 0);
        CHECK(p.table({"--wide", "--out", p.folder.file(name)}).code == 0);
    }
}

TEST_CASE("Statistics of a table, with it or without") {
    const Points p;
    const auto statistics = p.folder.file("s.csv");
    const auto r = p.table({"--to", p.to, "--statistics", statistics});
    REQUIRE(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("4 pairs: mean 6.26 min, median 4.17, 90th percentile 12.52, worst 12.52; 2 "
                                      "without a way"));
    const auto text = test::contents(statistics);
    CHECK_THAT(text, Catch::StartsWith("of,id,name,pairs,without,mean_minutes,median_minutes,p90_minutes,worst_minutes,"
                                       "mean_metres,median_metres,p90_metres,worst_metres\r\nall,,,4,2,") &&
                         Catch::Contains("\nfrom,a,Ash,2,0,") &&
                         Catch::Contains("\nfrom,c,\"Cove, by sea\",0,2,,,,,,,,\r") &&
                         Catch::Contains("\nto,y,Fir,2,1,"));
}

TEST_CASE("Of a set with itself nobody is paired with itself in the statistics") {
    const Points p;
    const auto r = p.table({"--statistics", p.folder.file("s.csv")});
    CHECK_THAT(r.out, Catch::Contains("2 pairs: mean 5.57 min") && Catch::Contains("4 without a way"));
}

TEST_CASE("Misuse of a table is misuse") {
    const Points p;
    const auto out = p.folder.file("t.csv");
    CHECK(p.table({}).code == 2);
    CHECK(p.table({"--towards", "site", "--out", out}).code == 2);
    CHECK(p.table({"--demand", p.to, "--out", out}).code == 2);
    CHECK(p.table({"--wide", "--nearest", "1", "--out", out}).code == 2);
    CHECK(p.table({"--wide", "--statistics", out}).code == 2);
    CHECK(run({"table", "--roads", p.roads, "--travel", "walk", "--to", p.to, "--out", out}).code == 2);
    CHECK(p.table({"--to", p.to, "--out", p.to}).code == 1);
}

TEST_CASE("A round over stops of a file comes back, and is told leg by leg with times") {
    const Points p;
    const auto stops = p.folder.write("stops.csv", "id,name,lon,lat\n1,Ash,0,0\n2,Elm,0.008,0\n3,Fir,0.004,0\n");
    const auto line = p.folder.file("way.gpkg"), text = p.folder.file("way.txt");
    const auto with = [&](const std::vector<std::string>& more) {
        std::vector<std::string> all{"route", "--roads", p.roads, "--travel", "walk", "--stops", stops};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    };
    const auto r = with({"--round", "--best-order", "--out", line, "--text", text});
    INFO(r.err);
    REQUIRE(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("22.3 min, 1.78 km over stops 1 2 3 1\n") &&
                          Catch::Contains("stop 1, Ash to stop 2, Elm: 11.1 min, 891 m\n") &&
                          Catch::Contains("  set out along Long Lane, 891 m, 11.1 min\n"));
    CHECK(test::contents(text) == r.out);
    const auto closed = p.folder.write("closed.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature",
        "properties":{"effect":"closed"},"geometry":{"type":"Point","coordinates":[0.006,0]}}]})");
    CHECK_THAT(with({"--closures", closed}).err, Catch::Contains("no way from stop 1 to stop 2"));
    CHECK(run({"route", "--roads", p.roads, "--travel", "walk"}).code == 2);
}

TEST_CASE("A long table has every pair once and in order, whatever the length of a name") {
    const Points p;
    std::string text = "id,name,lon,lat\n";
    constexpr int kMany = 300;  // ninety thousand rows are more than are put into words at once
    for (int i = 0; i < kMany; ++i)
        text +=
            fmt::format("p{},{},{:.6f},0\n", i, i == 7 ? std::string(10'000, 'x') : fmt::format("n{}", i), i * 0.00003);
    const auto points = p.folder.write("many.csv", text);
    const auto out = p.folder.file("t.csv");
    const auto asked = [&](const std::string& from) {
        return run(
            {"table", "--roads", p.roads, "--from", from, "--travel", "walk", "--measure", "distance", "--out", out});
    };
    REQUIRE(asked(points).code == 0);
    std::istringstream rows(test::contents(out));
    std::string row;
    std::getline(rows, row);
    for (int a = 0; a < kMany; ++a)
        for (int b = 0; b < kMany; ++b) {
            REQUIRE(std::getline(rows, row));
            REQUIRE(row.starts_with(fmt::format("p{},", a)));
            REQUIRE(row.find(fmt::format(",p{},", b)) != std::string::npos);
        }
    CHECK_FALSE(std::getline(rows, row));
    // A disk that takes no more leaves the table that was there.
    const auto before = test::contents(out);
    {
        const test::SmallDisk full(100'000);
        const auto r = asked(points);
        CHECK(r.code == 1);
        CHECK_THAT(r.err, Catch::Contains("t.csv"));
    }
    CHECK(test::contents(out) == before);
    // Nobody can get anywhere: the headings alone.
    REQUIRE(run({"table", "--roads", p.roads, "--from", p.from, "--to",
                 p.folder.write("far.csv", "id,lon,lat\nz,0.0005,1\n"), "--travel", "walk", "--measure", "distance",
                 "--limit", "1m", "--out", out})
                .code == 0);
    CHECK(test::contents(out) == "from_id,from_name,to_id,to_name,minutes,metres,straight_m,detour\r\n");
}

TEST_CASE("Stops on one spot take nothing between them, in any order and as a round") {
    const Points p;
    const auto asked = [&](const std::vector<std::string>& more) {
        std::vector<std::string> all{"route",   "--roads", p.roads,   "--travel", "walk",   "--stop",
                                     "0.001,0", "--stop",  "0.001,0", "--stop",   "0.004,0"};
        all.insert(all.end(), more.begin(), more.end());
        return run(all);
    };
    const auto r = asked({});
    CHECK(r.code == 0);
    CHECK_THAT(r.out, Catch::Contains("stop 1 to stop 2: 0.0 min, 0 m"));
    CHECK_THAT(asked({"--round", "--best-order"}).out, Catch::Contains("0.67 km over stops 1 "));
}
