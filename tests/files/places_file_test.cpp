#include <catch2/catch.hpp>

#include "files/read_places.h"
#include "geo/error.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {
files::DemandRead demand(const Folder& folder, const std::string& text, const std::string& name = "homes.csv") {
    return files::read_demand({{folder.write(name, text), "", "", "", ""}, {}, {}}, Task());
}
}  // namespace

TEST_CASE("A table of households: id, place and weight") {
    const Folder folder;
    const auto r = demand(folder, "id,lon,lat,residents\nA,-9.5,46.2,3\nB,-9.51,46.21,2.5\n");
    CHECK(r.flaws.empty());
    CHECK(r.fields == files::DemandFields{"id", "residents"});
    CHECK(r.demand.weight_name == "residents");
    REQUIRE(r.demand.count() == 2);
    CHECK(r.demand.places[0].id == "A");
    CHECK(r.demand.places[0].position == geo::LonLat{-9.5, 46.2});
    CHECK(r.demand.places[1].weight == Weight::of(2.5));
    CHECK(r.demand.name == "homes");
}

TEST_CASE("Without an id the record number from 0, without a weight each counts one") {
    const Folder folder;
    const auto r = demand(folder, "longitude,latitude\n-9.5,46.2\n-9.51,46.21\n");
    CHECK(r.demand.places[1].id == "1");
    CHECK(r.demand.places[1].weight == Weight::one());
    CHECK(r.demand.weight_name.empty());
}

TEST_CASE("Bad records stay in the whole, in file order, each with its reason") {
    const Folder folder;
    const auto r =
        demand(folder,
               "id,lon,lat,residents\nA,-9.5,46.2,3\nB,,46.2,2\nC,-9.5,146.2,4\nD,-9.5,46.2,\nE,-9.5,46.2,-2\nF,-9.5,"
               "46.2,many\nA,-9.5,46.2,1\n,-9.5,46.2,1\n");
    REQUIRE(r.demand.count() == 8);
    CHECK_FALSE(r.demand.places[1].position);
    CHECK(r.demand.places[1].weight == Weight::of(2));
    CHECK_FALSE(r.demand.places[2].position);
    for (const std::size_t i : {3, 4, 5}) CHECK(r.demand.places[i].weight == Weight());
    REQUIRE(r.flaws.size() == 7);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("coordinates are empty") && Catch::Contains("bad_location"));
    CHECK_THAT(r.flaws[1].wrong, Catch::Contains("146.2") && Catch::Contains("not on the globe"));
    CHECK_THAT(r.flaws[2].wrong, Catch::Contains("weight is empty"));
    CHECK_THAT(r.flaws[3].wrong, Catch::Contains("-2 is negative"));
    CHECK_THAT(r.flaws[4].wrong, Catch::Contains("'many' is not a number"));
    CHECK_THAT(r.flaws[5].wrong, Catch::Contains("also that of record 1"));
    CHECK_THAT(r.flaws[6].wrong, Catch::Contains("id is empty"));
}

TEST_CASE("Tables as spreadsheets write them: semicolons, tabs, decimal commas, a byte order mark, old encodings") {
    const Folder folder;
    CHECK(demand(folder, "id;lon;lat;residents\nA;-9,5;46,2;3\n").demand.places[0].position == geo::LonLat{-9.5, 46.2});
    CHECK(demand(folder, "id\tlon\tlat\nA\t-9.5\t46.2\n").demand.count() == 1);
    CHECK(demand(folder, "\xEF\xBB\xBFid,lon,lat\r\nA,-9.5,46.2\r\n").demand.places[0].id == "A");
    CHECK(demand(folder, "id,lon,lat\nCaf\xE9,-9.5,46.2\n").demand.places[0].id == "Caf\xC3\xA9");
    CHECK(demand(folder, "id,lon,lat\n\"a,b\",-9.5,46.2\n").demand.places[0].id == "a,b");
}

TEST_CASE("Columns can be named") {
    const Folder folder;
    const auto path = folder.write("c.csv", "ref,east,north,heads\nQ,-9.5,46.2,7\n");
    const auto r = files::read_demand({{path, "", "EPSG:4326", "east", "north"}, "ref", "heads"}, Task());
    CHECK(r.demand.places[0].id == "Q");
    CHECK(r.demand.places[0].weight == Weight::of(7));
}

TEST_CASE("Points of a spatial format, with record numbers where there is no id") {
    const Folder folder;
    const auto r = demand(folder,
                          R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"pupils":2},"geometry":{"type":"Point","coordinates":[-9.5,46.2]}},
        {"type":"Feature","properties":{"pupils":3},"geometry":{"type":"MultiPoint","coordinates":[[-9.5,46.21]]}},
        {"type":"Feature","properties":{"pupils":4},"geometry":{"type":"MultiPoint","coordinates":[[-9.7,)"
                          R"(46.21],[-9.5,46.21],[-9.4,46.2]]}},
        {"type":"Feature","properties":{"pupils":5},"geometry":null}]})",
                          "p.geojson");
    REQUIRE(r.demand.count() == 4);
    CHECK(r.demand.places[1].id == "1");
    CHECK(r.demand.places[1].position == geo::LonLat{-9.5, 46.21});
    CHECK(r.demand.places[2].position == geo::LonLat{-9.5, 46.21});  // of several, the one nearest to their middle
    CHECK_FALSE(r.demand.places[3].position);
    CHECK(r.flaws.size() == 1);
}

TEST_CASE("Sites: name, state and capacity") {
    const Folder folder;
    const auto path =
        folder.write("posts.csv",
                     "id,name,state,capacity,lon,lat\nA1,Quay,open,120,-9.5,46.2\nC1,Mill,Candidate,,-9.51,46.2\nX,Old,"
                     "closed,,-9.52,46.2\nY,Odd,maybe,lots,-9.53,46.2\n");
    const auto r = files::read_sites({{path, "", "", "", ""}, {}, {}, {}, {}}, Task());
    REQUIRE(r.sites.count() == 4);
    CHECK(r.sites.sites[0].name == "Quay");
    CHECK(r.sites.sites[0].capacity == Weight::of(120));
    CHECK(r.sites.sites[1].state == places::SiteState::candidate);
    CHECK(r.sites.sites[2].state == places::SiteState::closed);
    CHECK(r.sites.sites[3].state == places::SiteState::open);
    REQUIRE(r.flaws.size() == 2);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("'maybe'"));
    CHECK_THAT(r.flaws[1].wrong, Catch::Contains("capacity"));
}

TEST_CASE("Saltmere's planted flaws are found") {
    const auto r = files::read_demand({{OTORO_SALTMERE "/households.csv", "", "", "", ""}, {}, {}}, Task());
    CHECK(r.demand.count() == 9000);
    REQUIRE(r.flaws.size() == 2);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("is also that of record"));
    CHECK_THAT(r.flaws[1].wrong, Catch::Contains("weight is empty"));
}
