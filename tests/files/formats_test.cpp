#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <catch2/catch.hpp>

#include "files/open_file.h"
#include "files/read_places.h"
#include "files/read_roads.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "support/files.h"
#include "support/town.h"

using namespace otoro;
using test::Folder;

namespace {

/// Writes the cross roads in any format and coordinate system, as somebody else's program would.
std::string write_roads(const Folder& folder, const std::string& name, const char* driver, int epsg) {
    files::prepare_gdal();
    const std::string path = folder.file(name);
    OGRSpatialReference wgs84, target;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    target.importFromEPSG(epsg);
    target.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    const std::unique_ptr<GDALDataset> out(
        GetGDALDriverManager()->GetDriverByName(driver)->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
    auto* layer = out->CreateLayer("roads", &target, wkbLineString, nullptr);
    OGRFieldDefn kind("class", OFTString), street("name", OFTString);
    layer->CreateField(&kind);
    layer->CreateField(&street);
    const std::unique_ptr<OGRCoordinateTransformation> transform(OGRCreateCoordinateTransformation(&wgs84, &target));
    const double lines[3][4] = {{-9.51, 46.2, -9.5, 46.2}, {-9.5, 46.2, -9.49, 46.2}, {-9.5, 46.2, -9.5, 46.21}};
    for (const auto& l : lines) {
        OGRFeature f(layer->GetLayerDefn());
        f.SetField("class", "residential");
        f.SetField("name", "Kelp Row");
        OGRLineString g;
        for (int i = 0; i < 2; ++i) {
            double x = l[2 * i], y = l[2 * i + 1];
            transform->Transform(1, &x, &y);
            g.addPoint(x, y);
        }
        f.SetGeometry(&g);
        if (layer->CreateFeature(&f) != OGRERR_NONE) throw std::runtime_error("the test file cannot be written");
    }
    return path;
}

files::RoadsRead read(const std::string& path) { return files::read_roads({{path, "", "", "", ""}, {}}, Task()); }

void check_cross_roads(const std::string& path, double margin_m) {
    INFO(path);
    auto r = read(path);
    CHECK(r.flaws.empty());
    REQUIRE(r.lines.count() == 3);
    CHECK(r.fields.road_class == "class");
    CHECK(r.lines.attributes[0].road_class == roads::RoadClass::residential);
    CHECK(r.lines.names.at(r.lines.attributes[0].name) == "Kelp Row");
    const auto net = join(std::move(r.lines), Task());
    CHECK(net.node_count() == 4);
    CHECK(net.length(LinkId(0u)).metres() == Approx(771.93).margin(margin_m));
}

}  // namespace

TEST_CASE("Every line format gives the same roads, joined and measured in true metres") {
    const Folder folder;
    const double exact = geo::line_length(std::array{geo::LonLat{-9.51, 46.2}, geo::LonLat{-9.5, 46.2}}).metres();
    CHECK(exact == Approx(771.93).margin(0.1));
    for (const auto& [name, driver] : {std::pair{"a.gpkg", "GPKG"},
                                       {"a.geojson", "GeoJSON"},
                                       {"a.shp", "ESRI Shapefile"},
                                       {"a.fgb", "FlatGeobuf"},
                                       {"a.gml", "GML"}})
        check_cross_roads(write_roads(folder, name, driver, 4326), 0.1);
}

TEST_CASE("Any coordinate system, metres or US survey feet or degrees, gives true metres") {
    const Folder folder;
    // UTM 29N in metres; a state plane in US survey feet far from its own zone would not do, so the nearest in feet
    // that covers: EPSG 2272 is not here.
    check_cross_roads(write_roads(folder, "utm.gpkg", "GPKG", 32629), 0.1);
    check_cross_roads(write_roads(folder, "mercator.gpkg", "GPKG", 3857), 0.1);
}

TEST_CASE("A grid in US survey feet gives true metres") {
    // 1000 US survey feet apart on the grid of EPSG:2230 near its middle, where the grid is true to a few parts in ten
    // thousand.
    const Folder folder;
    const auto path = folder.write("feet.csv", "id,x,y\na,6500000,1900000\nb,6501000,1900000\n");
    const auto d = files::read_demand({{path, "", "EPSG:2230", "", ""}, {}, {}}, Task());
    CHECK(geo::distance_metres(*d.demand.places[0].position, *d.demand.places[1].position) ==
          Approx(304.8006).epsilon(0.0005));
}

TEST_CASE("Another coordinate system can be named in place of the file's own") {
    const Folder folder;
    const auto path = folder.write("utm.csv", "id,x,y\na,461431.6,5116476.7\n");
    const auto d = files::read_demand({{path, "", "32629", "", ""}, {}, {}}, Task());
    CHECK(geo::distance_metres(*d.demand.places[0].position, {-9.5, 46.2}) < 200);
    CHECK_THROWS_WITH(files::read_demand({{path, "", "EPSG:999999", "", ""}, {}, {}}, Task()),
                      Catch::Contains("EPSG:999999"));
    CHECK_THROWS_WITH(files::read_demand({{path, "", "", "", ""}, {}, {}}, Task()),
                      Catch::Contains("not degrees") && Catch::Contains("EPSG"));
}

TEST_CASE("Roads of the cross are guessed field by field") {
    const Folder folder;
    auto r = read(folder.write("cross.geojson", test::kCrossRoads));
    REQUIRE(r.lines.count() == 3);
    CHECK(r.fields.one_way == "oneway");
    CHECK(r.fields.speed == "speed");
    CHECK(r.lines.attributes[1].drive_one_way() == roads::OneWay::along);
    CHECK(r.lines.attributes[1].drive_speed == Speed::km_per_hour(20));
    CHECK_FALSE(r.lines.attributes[0].drive_speed.stated());
    CHECK(r.lines.attributes[2].road_class == roads::RoadClass::primary);
}

TEST_CASE("Fields can be chosen, and one that is not there is named") {
    const Folder folder;
    const auto path = folder.write("cross.geojson", test::kCrossRoads);
    const auto r = files::read_roads({{path, "", "", "", ""}, files::RoadFields{"", "name", "", ""}}, Task());
    CHECK(r.lines.attributes[2].road_class == roads::RoadClass::other);
    CHECK(r.lines.attributes[1].drive_one_way() == roads::OneWay::both);
    CHECK_THROWS_WITH(files::read_roads({{path, "", "", "", ""}, files::RoadFields{"kind", "", "", ""}}, Task()),
                      Catch::Contains("'kind'") && Catch::Contains("class"));
}

TEST_CASE("Speeds in miles an hour, by the field's name or its text") {
    const Folder folder;
    const auto with = [&](const std::string& properties) {
        return read(folder.write(
            "s.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{)" + properties +
                             R"(},"geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.5,46.2]]}}]})"));
    };
    CHECK(with(R"("speed_mph":30)").lines.attributes[0].drive_speed == Speed::miles_per_hour(30));
    CHECK(with(R"("maxspeed":"30 mph")").lines.attributes[0].drive_speed == Speed::miles_per_hour(30));
    CHECK(with(R"("maxspeed":"50 km/h")").lines.attributes[0].drive_speed == Speed::km_per_hour(50));
    const auto odd = with(R"("speed":"fast")");
    CHECK_FALSE(odd.lines.attributes[0].drive_speed.stated());
    REQUIRE(odd.flaws.size() == 1);
    CHECK_THAT(odd.flaws[0].wrong, Catch::Contains("'fast'"));
    CHECK(with(R"("speed":5000)").flaws.size() == 1);
}

TEST_CASE("A line of several parts becomes several roads") {
    const Folder folder;
    const auto r =
        read(folder.write("m.geojson", R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{},
        "geometry":{"type":"MultiLineString","coordinates":[[[-9.51,46.2],[-9.5,46.2]],[[-9.5,46.2],[-9.5,)"
                                       R"(46.3]]]}}]})"));
    CHECK(r.records == 1);
    CHECK(r.lines.count() == 2);
}

TEST_CASE("Words that are no known class are reported with how often they were met") {
    const Folder folder;
    const auto r = read(folder.write(
        "w.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","properties":{"class":"goat )"
                     R"(trail"},"geometry":{"type":"LineString","coordinates":[[-9.51,46.2],[-9.5,46.2]]}},
        {"type":"Feature","properties":{"class":"goat )"
                     R"(trail"},"geometry":{"type":"LineString","coordinates":[[-9.5,46.2],[-9.5,46.3]]}}]})"));
    CHECK(r.unknown_classes.at("goat trail").records == 2);
}

TEST_CASE("Reading tells how far it is and can be stopped") {
    const Folder folder;
    const auto path = folder.write("cross.geojson", test::kCrossRoads);
    int told = 0;
    files::read_roads({{path, "", "", "", ""}, {}}, Task({}, [&](std::string_view, double) { ++told; }));
    CHECK(told > 0);
    std::stop_source stop;
    stop.request_stop();
    CHECK_THROWS_AS(files::read_roads({{path, "", "", "", ""}, {}}, Task(stop.get_token())), Stopped);
}

TEST_CASE("Nothing is left beside the source") {
    const Folder folder;
    const auto path = write_roads(folder, "a.gml", "GML", 4326);
    std::filesystem::remove(folder.file("a.gfs"));
    const auto before = folder.count();
    read(path);
    CHECK(folder.count() == before);
}

TEST_CASE("A file describes itself: layers, shapes, fields") {
    const Folder folder;
    const auto info = files::describe_file(folder.write("cross.geojson", test::kCrossRoads));
    REQUIRE(info.layers.size() == 1);
    CHECK(info.layers[0].shape == files::Shape::line);
    CHECK(info.layers[0].records == 3);
    CHECK(info.layers[0].fields == std::vector<std::string>{"class", "name", "oneway", "speed"});
}

TEST_CASE("Saltmere's roads are read whole") {
    auto r = read(OTORO_SALTMERE "/roads.gpkg");
    CHECK(r.flaws.empty());
    CHECK(r.unknown_classes.empty());
    CHECK(r.unknown_one_ways.empty());
    CHECK(r.lines.count() > 5500);
    CHECK(r.lines.count() < 6500);
}
