/// Roads and places from formats beyond the usual ones, from a database and from web services.
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <catch2/catch.hpp>
#include <cstdio>
#include <memory>

#include "files/add_data.h"
#include "files/closure_file.h"
#include "files/open_file.h"
#include "files/read_heights.h"
#include "geo/error.h"
#include "support/files.h"
#include "support/hill.h"

using namespace otoro;
using test::Folder;

namespace {

files::RoadsRead read_roads(const std::string& path, const std::string& layer = "", const std::string& crs = "",
                            const std::string& filter = "") {
    return files::read_roads({{path, layer, crs, "", "", filter}, {}}, Task());
}

/// Writes a small layer with one of GDAL's drivers, or skips the format if it cannot be written here.
std::string written(const Folder& folder, const std::string& name, const char* driver, OGRwkbGeometryType type,
                    const std::vector<std::pair<std::string, std::string>>& rows, const char* field = "name") {
    files::prepare_gdal();
    const auto path = folder.file(name);
    auto* d = GetGDALDriverManager()->GetDriverByName(driver);
    REQUIRE(d);
    const std::unique_ptr<GDALDataset> out(d->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
    REQUIRE(out);
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    const bool dxf = std::string(driver) == "DXF";
    auto* layer = out->CreateLayer(dxf ? "entities" : std::string(driver) == "GPX" ? "tracks" : "layer", &wgs84, type);
    REQUIRE(layer);
    if (!dxf && layer->GetLayerDefn()->GetFieldIndex(field) < 0) {
        OGRFieldDefn definition(field, OFTString);
        layer->CreateField(&definition);
    }
    for (const auto& [text, wkt] : rows) {
        OGRFeature f(layer->GetLayerDefn());
        if (!dxf) f.SetField(field, text.c_str());
        OGRGeometry* g = nullptr;
        REQUIRE(OGRGeometryFactory::createFromWkt(wkt.c_str(), nullptr, &g) == OGRERR_NONE);
        f.SetGeometryDirectly(g);
        REQUIRE(layer->CreateFeature(&f) == OGRERR_NONE);
    }
    return path;
}

const std::vector<std::pair<std::string, std::string>> kTwoRoads{{"Kelp Row", "LINESTRING(-9.51 46.2,-9.5 46.2)"},
                                                                 {"North Road", "LINESTRING(-9.5 46.2,-9.5 46.21)"}};

/// Runs a program with its standard input and output here.
class Running {
public:
    explicit Running(const std::vector<std::string>& command) {
        int in[2], out[2];
        REQUIRE(::pipe(in) == 0);
        REQUIRE(::pipe(out) == 0);
        std::vector<char*> argv;
        for (const auto& c : command) argv.push_back(const_cast<char*>(c.c_str()));
        argv.push_back(nullptr);
        posix_spawn_file_actions_t files;
        posix_spawn_file_actions_init(&files);
        posix_spawn_file_actions_adddup2(&files, in[0], 0);
        posix_spawn_file_actions_adddup2(&files, out[1], 1);
        for (const int fd : {in[0], in[1], out[0], out[1]}) posix_spawn_file_actions_addclose(&files, fd);
        REQUIRE(::posix_spawnp(&pid_, argv[0], &files, nullptr, argv.data(), environ) == 0);
        posix_spawn_file_actions_destroy(&files);
        ::close(in[0]);
        ::close(out[1]);
        stdin_ = in[1];
        stdout_ = out[0];
    }
    ~Running() {
        ::close(stdin_);
        ::close(stdout_);
        ::waitpid(pid_, nullptr, 0);
    }
    Running(const Running&) = delete;
    Running& operator=(const Running&) = delete;
    std::string line() {
        std::string s;
        char c = 0;
        while (::read(stdout_, &c, 1) == 1 && c != '\n') s += c;
        return s;
    }

private:
    pid_t pid_;
    int stdin_, stdout_;
};

}  // namespace

TEST_CASE("Roads from DXF, KML and GPX") {
    const Folder folder;
    const auto dxf = read_roads(written(folder, "plan.dxf", "DXF", wkbLineString, kTwoRoads), "", "EPSG:4326");
    CHECK(dxf.lines.count() == 2);
    CHECK(join(dxf.lines, Task()).node_count() == 3);
    const auto kml = read_roads(written(folder, "town.kml", "LIBKML", wkbLineString, kTwoRoads));
    CHECK(kml.lines.count() == 2);
    CHECK(kml.lines.names.at(kml.lines.attributes[0].name) == "Kelp Row");
    CHECK(kml.lines.heights.empty());  // no heights, or all zero
    const auto gpx = read_roads(
        written(folder, "walk.gpx", "GPX", wkbMultiLineString, {{"Walk", "MULTILINESTRING((-9.51 46.2,-9.5 46.2))"}}));
    CHECK(gpx.lines.count() == 1);
}

TEST_CASE("Layers of lines are merged with the same fields, and a filter keeps what is wanted") {
    const Folder folder;
    const auto a = folder.write("a.geojson", test::kCrossRoads);
    const auto b = folder.write(
        "b.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"class":"service",)"
                     R"("name":"Yard"},"geometry":{"type":"LineString","coordinates":[[-9.49,46.2],[-9.48,46.2]]}}]})");
    const auto merged = files::read_roads({{a, "", ""}, {}, {{b, "", ""}}}, Task());
    CHECK(merged.lines.count() == 4);
    CHECK(merged.lines.attributes[3].road_class == roads::RoadClass::service);
    const auto some = read_roads(a, "", "", "class = 'residential' AND speed IS NULL");
    CHECK(some.lines.count() == 1);
    CHECK(some.left_out == 2);
    const auto counted = files::count_records({a, "", "", "", "", "class = 'primary'"}, files::Shape::line, Task());
    CHECK(counted.wanted == 1);
    CHECK(counted.all == 3);
    CHECK_THROWS_WITH(read_roads(a, "", "", "class = 'canal'"), Catch::Contains("leaves none of its 3 records"));
    CHECK_THROWS_WITH(read_roads(a, "", "", "surface = 'mud'"),
                      Catch::Contains("no field 'surface'") && Catch::Contains("class, name"));
}

TEST_CASE("Minutes, both ways, from fields or a formula, lengths compared, levels, words mapped") {
    const Folder folder;
    const auto path = folder.write(
        "r.geojson",
        R"({"type":"FeatureCollection","features":[
{"type":"Feature","properties":{"kind":"B )"
        R"(Road","kmh":36,"there":2,"back":3.5,"length_m":772,"bridge":"yes"},"geometry":{"type":"LineString",)"
        R"("coordinates":[[-9.51,46.2],[-9.5,46.2]]}},
{"type":"Feature","properties":{"kind":"lane","kmh":18,"length_m":100,"bridge":""},)"
        R"("geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.49,46.2]]}}]})");
    files::RoadFields f;
    f.road_class = "kind";
    f.minutes = "there";
    f.minutes_back = "back";
    f.length = "length_m";
    f.level = "bridge";
    f.words = {{"B Road", "secondary"}, {"lane", "unclassified"}};
    const auto r = files::read_roads({{path, "", ""}, f}, Task());
    REQUIRE(r.lines.count() == 2);
    CHECK(r.lines.attributes[0].road_class == roads::RoadClass::secondary);
    CHECK(r.lines.attributes[0].fixed_ms == 120'000);
    REQUIRE(r.lines.against_ms.size() == 2);
    CHECK(r.lines.against_ms[0] == 210'000);
    CHECK(r.lines.attributes[1].fixed_ms == 0);
    CHECK(r.lines.attributes[0].level() == 1);
    CHECK(r.lines.attributes[1].level() == 0);
    CHECK(r.unknown_classes.empty());
    CHECK(r.unknown_one_ways.empty());
    REQUIRE(r.flaws.size() == 1);  // the second says 100 m and is 772
    CHECK(r.flaws[0].kind == FlawKind::length);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("stated as 100 m and drawn as 772 m"));

    f.minutes = "= length_m / 1000 / kmh * 60";
    f.minutes_back.clear();
    const auto worked_out = files::read_roads({{path, "", ""}, f}, Task());
    CHECK(worked_out.lines.attributes[0].fixed_ms == Approx(77'200).margin(1));
    const auto net = join(worked_out.lines, Task());
    CHECK(travel::crossing(net, LinkId(0u), {}).against == travel::crossing(net, LinkId(0u), {}).along);
    f.words["x"] = "nonsense";
    CHECK_THROWS_WITH(files::read_roads({{path, "", ""}, f}, Task()), Catch::Contains("'nonsense' is no class"));
}

TEST_CASE("Minutes that are no time, or hard to believe, are listed with their record and what counts instead") {
    const Folder folder;
    // Each 772 m: 0.93 min at the 50 km/h that the file states.
    std::string text = "kind,kmh,minutes,wkt\n";
    const std::vector<const char*> minutes{"1", "0", "-2", "soon", "70000", "0.2", "12", "5", "", "0.30"};
    for (std::size_t i = 0; i < minutes.size(); ++i)
        text += fmt::format("residential,50,{},\"LINESTRING (-9.51 {:.2f},-9.5 {:.2f})\"\n", minutes[i],
                            46.2 + 0.01 * static_cast<double>(i), 46.2 + 0.01 * static_cast<double>(i));
    files::RoadFields f;
    f.road_class = "kind";
    f.speed = "kmh";
    f.minutes = "minutes";
    const auto r = files::read_roads({{folder.write("r.csv", text), "", ""}, f}, Task());
    REQUIRE(r.lines.count() == minutes.size());
    std::vector<std::string> said;
    for (const auto& flaw : r.flaws) {
        CHECK(flaw.place == static_cast<std::uint32_t>(flaw.record));
        CHECK((flaw.kind == FlawKind::no_time) == (r.lines.attributes[*flaw.place].fixed_ms == 0));
        said.push_back(fmt::format("{}: {}", flaw.record + 1, flaw.wrong));
    }
    REQUIRE(said.size() == 7);
    CHECK(said[0] == "2: its minutes '0' are no time at all; its speed is used");
    CHECK(said[1] == "3: its minutes '-2' are below nothing; its speed is used");
    CHECK(said[2] == "4: its minutes 'soon' are not a number; its speed is used");
    CHECK(said[3] == "5: its minutes '70000' are more than a month; its speed is used");
    CHECK_THAT(said[4], Catch::StartsWith("6: its 0.2 min for 771 m are 231 km/h, against 50 km/h otherwise; they"));
    CHECK_THAT(said[5], Catch::StartsWith("7: its 12 min for 77") && Catch::Contains("are 3.9 km/h, against 50 km/h"));
    CHECK_THAT(said[6], Catch::StartsWith("10: its 0.3 min for 77"));  // a third and a little less
}

TEST_CASE("Where one direction's minutes are none, the other's count for both, and that is said") {
    const Folder folder;
    files::RoadFields f;
    f.minutes = "there";
    f.minutes_back = "back";
    const auto r = files::read_roads({{folder.write("r.csv",
                                                    "there,back,wkt\n2,0,\"LINESTRING (-9.51 46.2,-9.5 46.2)\"\n"
                                                    "-1,3,\"LINESTRING (-9.51 46.3,-9.5 46.3)\"\n"),
                                       "", ""},
                                      f},
                                     Task());
    REQUIRE(r.flaws.size() == 2);
    CHECK(r.flaws[0].wrong == "its minutes '0' are no time at all; the time of the other direction counts for both");
    CHECK(r.flaws[1].wrong == "its minutes '-1' are below nothing; the time of the other direction counts for both");
    const auto net = join(r.lines, Task());
    for (const auto& [link, minutes] : {std::pair(0U, 2U), std::pair(1U, 3U)}) {
        CHECK(travel::crossing(net, LinkId(link), {}).along == minutes * 60'000);
        CHECK(travel::crossing(net, LinkId(link), {}).against == minutes * 60'000);
    }
}

TEST_CASE("Places from polygons, spreadsheets and KML") {
    const Folder folder;
    const auto areas = files::read_demand(
        {{folder.write("p.geojson",
                       R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"id":"farm"},)"
                       R"("geometry":{"type":"Polygon","coordinates":[[[-9.5,46.2],[-9.4,46.2],[-9.4,)"
                       R"(46.3],[-9.41,46.21],[-9.5,46.2]]]}}]})"),
          "", ""},
         {},
         {}},
        Task());
    REQUIRE(areas.demand.places[0].position);
    const auto p = *areas.demand.places[0].position;  // inside the crooked field, which its middle is not
    CHECK(p.lon > -9.5);
    CHECK(p.lon < -9.4);
    for (const auto& [name, driver] : {std::pair{"homes.ods", "ODS"}, std::pair{"homes.xlsx", "XLSX"}}) {
        files::prepare_gdal();
        const auto path = folder.file(name);
        {
            const std::unique_ptr<GDALDataset> out(
                GetGDALDriverManager()->GetDriverByName(driver)->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
            auto* layer = out->CreateLayer("Sheet1", nullptr, wkbNone);
            for (const char* c : {"id", "lon", "lat", "residents"}) {
                OGRFieldDefn definition(c, std::string(c) == "id" ? OFTString : OFTReal);
                layer->CreateField(&definition);
            }
            OGRFeature f(layer->GetLayerDefn());
            f.SetField(0, "H1");
            f.SetField(1, -9.5);
            f.SetField(2, 46.2);
            f.SetField(3, 4.0);
            REQUIRE(layer->CreateFeature(&f) == OGRERR_NONE);
        }
        INFO(name);
        const auto d = files::read_demand({{path, "", ""}, {}, {}}, Task());
        REQUIRE(d.demand.count() == 1);
        CHECK(d.demand.places[0].id == "H1");
        CHECK(d.demand.places[0].position == geo::LonLat{-9.5, 46.2});
        CHECK(d.demand.places[0].weight == Weight::of(4));
    }
    const auto kml = files::read_sites(
        {{written(folder, "posts.kml", "LIBKML", wkbPoint, {{"Quay", "POINT(-9.5 46.2)"}}), "", ""}, {}, {}, {}, {}},
        Task());
    CHECK(kml.sites.sites[0].name == "Quay");
}

TEST_CASE("Roads and places from a PostGIS database") {
    const Folder folder;
    struct Database {
        std::string folder;
        explicit Database(std::string f) : folder(std::move(f)) {}
        ~Database() {
            if (std::system((std::string(OTORO_TESTS "/support/postgis stop ") + folder).c_str()) == 0)
                std::filesystem::remove_all(folder);
        }
    } database("/tmp/otoro-postgis-" + std::to_string(::getpid()));
    std::string address;
    {
        Running start({OTORO_TESTS "/support/postgis", "start", database.folder});
        address = start.line();
    }
    REQUIRE(address.starts_with("postgresql://"));
    const auto info = files::describe_file(address);
    CHECK(info.layers.size() == 2);
    const auto r = read_roads(address, "roads");
    CHECK(r.lines.count() == 2);
    CHECK(r.lines.attributes[0].drive_speed == Speed::km_per_hour(30));
    CHECK(read_roads(address, "roads", "", "class = 'primary'").lines.count() == 1);
    const auto in = files::add_demand({{address, "homes", ""}, {}, {}}, "", Task());
    CHECK(in.set->places[1].weight == Weight::of(2));
    CHECK(in.origin.path.empty());  // an address may hold a password
    CHECK_THROWS_WITH(read_roads("postgresql://nobody@/nowhere?host=" + database.folder),
                      Catch::Contains("database does not answer"));
}

TEST_CASE("Roads from OGC API Features and from a WFS") {
    Running service({"python3", OTORO_TESTS "/support/feature_service.py"});
    const std::string base = "http://127.0.0.1:" + service.line();
    const auto api = read_roads(base, "roads");
    REQUIRE(api.lines.count() == 2);
    CHECK(api.lines.names.at(api.lines.attributes[1].name) == "North Road");
    CHECK(api.lines.shape(0)[0] == geo::LonLat{-9.51, 46.2});
    const auto wfs = read_roads(base + "/wfs?service=WFS", "t:roads");
    REQUIRE(wfs.lines.count() == 2);
    CHECK(wfs.lines.attributes[1].road_class == roads::RoadClass::primary);
    CHECK(wfs.lines.shape(0)[0].lon == Approx(-9.51));
    CHECK_THROWS_WITH(read_roads("http://127.0.0.1:1/none"), Catch::Contains("service does not answer"));
}

TEST_CASE("A coordinate system that was not meant is found out and fixed by reading again") {
    const Folder folder;
    service::Study s;
    s = with_roads(s, files::add_roads({{folder.write("roads.geojson", test::kCrossRoads), "", ""}, {}}, {}, Task()));
    // Degrees, read as if they were metres of a grid.
    s = with_demand(
        s,
        files::add_demand(
            {{folder.write("homes.csv", "id,x,y\nh1,-9.505,46.2001\nh2,-9.495,46.2001\n"), "", "EPSG:32629"}, {}, {}},
            "", Task()));
    // A grid read as another grid.
    s = with_sites(
        s,
        files::add_sites({{folder.write("posts.csv", "id,x,y\ns1,461498,5116569\n"), "", "EPSG:27700"}, {}, {}, {}, {}},
                         "", Task()));
    auto found = findings_of(s, *check_study(s, Task()));
    files::suggest_crs(found, s);
    std::map<std::string, std::string> suggested;
    for (const auto& f : found)
        if (f.kind == service::FindingKind::wrong_crs && f.fix) {
            suggested[f.about] = std::get<service::ReadAgain>(*f.fix).crs;
            s = files::read_again(std::move(s), std::get<service::ReadAgain>(*f.fix), Task());
        }
    CHECK(suggested == std::map<std::string, std::string>{{"homes", "EPSG:4326"}, {"posts", "EPSG:32629"}});
    CHECK(s.demand[0].set->places[0].position == geo::LonLat{-9.505, 46.2001});
    for (const auto& f : findings_of(s, *check_study(s, Task()))) CHECK(f.kind != service::FindingKind::wrong_crs);
}

TEST_CASE("Heights from an elevation model") {
    const Folder folder;
    const auto path = test::write_hill(folder.file("hill.tif"));
    const auto roads = read_roads(folder.write("r.geojson", test::kCrossRoads));
    const auto high = files::with_heights(roads.lines, path, Task());
    REQUIRE(high->heights.size() == 6);
    CHECK(high->heights_of(0)[1] - high->heights_of(0)[0] == Approx(10).margin(0.01));
    CHECK(high->heights_of(2)[0] == Approx(high->heights_of(2)[1]).margin(0.01));
    CHECK_THROWS_WITH(files::with_heights(roads.lines, folder.write("no.tif", "not a tiff"), Task()),
                      Catch::Contains("not a GeoTIFF"));
}

TEST_CASE("Closures from a file, where what cannot be used is an error and not left out") {
    const Folder folder;
    const auto good = files::read_closures(
        folder.write("c.geojson", R"({"type":"FeatureCollection","features":[
{"type":"Feature","properties":{"name":"Bridge )"
                                  R"(works","effect":"shut"},"geometry":{"type":"Point","coordinates":[-9.5,46.2]}},
{"type":"Feature","properties":{"name":"Market","effect":"slowed","factor":2.5},"geometry":{"type":"Polygon",)"
                                  R"("coordinates":[[[-9.5,46.2],[-9.4,46.2],[-9.4,46.3],[-9.5,46.2]]]}},
{"type":"Feature","properties":{"name":"Gate","effect":"delay","delay_min":1.5},)"
                                  R"("geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.4,46.2]]}}]})"),
        Task());
    REQUIRE(good.size() == 3);
    CHECK(good[0].name == "Bridge works");
    CHECK(good[1].factor_per_mille == 2500);
    CHECK(good[1].vertices.size() == 3);
    CHECK(good[2].delay == Millis(90'000));
    const auto bad = [&](const char* properties) {
        return folder.write("bad.geojson",
                            std::string(R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":)") +
                                properties + R"(,"geometry":{"type":"Point","coordinates":[-9.5,46.2]}}]})");
    };
    CHECK_THROWS_WITH(files::read_closures(bad(R"({"effect":"blocked"})"), Task()),
                      Catch::Contains("record 1") && Catch::Contains("'blocked'"));
    CHECK_THROWS_WITH(files::read_closures(bad(R"({"effect":"slowed","factor":0.2})"), Task()),
                      Catch::Contains("between 1 and 1000"));
}

TEST_CASE("The layer of a drawing is no level, and a drawing of lines with texts among them is lines") {
    const test::Folder folder;
    const auto path = folder.write("drawing.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"Layer":"ROADS-MAJOR"},
         "geometry":{"type":"LineString","coordinates":[[0,0],[0.01,0]]}},
        {"type":"Feature","properties":{"Layer":"ROADS-MINOR"},
         "geometry":{"type":"LineString","coordinates":[[0.01,0],[0.02,0]]}},
        {"type":"Feature","properties":{"Layer":"TEXT"},"geometry":{"type":"Point","coordinates":[0.005,0]}}]})");
    files::RoadChoice choice;
    choice.layer.path = path;
    const auto in = files::add_roads(choice, {}, Task());
    REQUIRE(in.network->link_count() == 2);
    for (std::uint32_t i = 0; i < 2; ++i) CHECK(in.network->attributes(LinkId(i)).level() == 0);
    CHECK_THAT(in.origin.description, Catch::Contains("'Layer', such as 'ROADS-MAJOR', is no level"));
    CHECK(files::describe_file(path, Task()).layers[0].shape == files::Shape::line);
    // Words of bridges and tunnels are levels, and so are numbers.
    const auto said = folder.write("said.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"layer":"Flyover"},
         "geometry":{"type":"LineString","coordinates":[[0,0],[0.01,0]]}},
        {"type":"Feature","properties":{"layer":"Underpass"},
         "geometry":{"type":"LineString","coordinates":[[0,1],[0.01,1]]}},
        {"type":"Feature","properties":{"layer":"-2"},
         "geometry":{"type":"LineString","coordinates":[[0,2],[0.01,2]]}},
        {"type":"Feature","properties":{"layer":"Covered"},
         "geometry":{"type":"LineString","coordinates":[[0,3],[0.01,3]]}},
        {"type":"Feature","properties":{"layer":"GOVERNMENT-ROADS"},
         "geometry":{"type":"LineString","coordinates":[[0,4],[0.01,4]]}},
        {"type":"Feature","properties":{"layer":"road_bridge"},
         "geometry":{"type":"LineString","coordinates":[[0,5],[0.01,5]]}}]})");
    choice.layer.path = said;
    const auto levels = files::add_roads(choice, {}, Task());
    CHECK(levels.network->attributes(LinkId(0U)).level() == 1);
    CHECK(levels.network->attributes(LinkId(1U)).level() == -1);
    CHECK(levels.network->attributes(LinkId(2U)).level() == -2);
    CHECK(levels.network->attributes(LinkId(3U)).level() == 0);
    CHECK(levels.network->attributes(LinkId(4U)).level() == 0);
    CHECK(levels.network->attributes(LinkId(5U)).level() == 1);
    CHECK_THAT(levels.origin.description, Catch::Contains("'layer', such as 'Covered', is no level"));
}
