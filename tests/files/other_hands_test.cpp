#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>
#include <shapefil.h>

#include <catch2/catch.hpp>
#include <filesystem>

#include "files/add_data.h"
#include "files/closure_file.h"
#include "files/open_file.h"
#include "geo/error.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

struct Table {
    std::vector<std::string> fields;
    std::vector<std::vector<std::string>> rows;
};

/// A spreadsheet of texts, a sheet a table.
std::string write_sheets(const Folder& folder, const std::string& name, const char* driver,
                         const std::vector<std::pair<std::string, Table>>& sheets) {
    files::prepare_gdal();
    const std::string path = folder.file(name);
    const std::unique_ptr<GDALDataset> out(
        GetGDALDriverManager()->GetDriverByName(driver)->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
    for (const auto& [sheet, table] : sheets) {
        auto* layer = out->CreateLayer(sheet.c_str(), nullptr, wkbNone, nullptr);
        for (const auto& f : table.fields) {
            OGRFieldDefn def(f.c_str(), OFTString);
            layer->CreateField(&def);
        }
        for (const auto& row : table.rows) {
            OGRFeature record(layer->GetLayerDefn());
            for (std::size_t i = 0; i < row.size(); ++i)
                if (!row[i].empty()) record.SetField(static_cast<int>(i), row[i].c_str());
            if (layer->CreateFeature(&record) != OGRERR_NONE)
                throw std::runtime_error("the test file cannot be written");
        }
    }
    return path;
}

files::DemandRead demand(const std::string& path, std::optional<std::string> id = {}, const std::string& crs = {}) {
    return files::read_demand({{path, "", crs}, std::move(id), {}}, Task());
}

std::vector<std::string> ids(const files::DemandRead& r) {
    std::vector<std::string> out;
    for (const auto& p : r.demand.places) out.push_back(p.id);
    return out;
}
using Ids = std::vector<std::string>;

std::string said(const std::vector<std::string>& remarks) {
    std::string out;
    for (const auto& r : remarks) out += r + "\n";
    return out;
}

/// A shapefile of points with one field of a given type, its values as text.
std::string write_points(const Folder& folder, const std::string& name, DBFFieldType type, int width, int decimals,
                         const std::vector<std::string>& values) {
    const std::string base = folder.file(name);
    SHPHandle shp = SHPCreate(base.c_str(), SHPT_POINT);
    DBFHandle dbf = DBFCreate(base.c_str());
    DBFAddField(dbf, "ID", type, width, decimals);
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double x = -9.5 + 0.001 * static_cast<double>(i), y = 46.2;
        SHPObject* point = SHPCreateSimpleObject(SHPT_POINT, 1, &x, &y, nullptr);
        SHPWriteObject(shp, -1, point);
        SHPDestroyObject(point);
        DBFWriteAttributeDirectly(dbf, static_cast<int>(i), 0, std::string(values[i]).data());
    }
    SHPClose(shp);
    DBFClose(dbf);
    return base + ".shp";
}

std::string feature(const std::string& properties, const std::string& more = "", double lon = -9.5) {
    return fmt::format(
        R"({{"type":"Feature"{},"properties":{{{}}},"geometry":{{"type":"Point","coordinates":[{},46.2]}}}})", more,
        properties, lon);
}
std::string others_collection(const std::vector<std::string>& features) {
    std::string out = R"({"type":"FeatureCollection","features":[)";
    for (std::size_t i = 0; i < features.size(); ++i) out += (i > 0 ? "," : "") + features[i];
    return out + "]}";
}

}  // namespace

// ----------------------------------------------------------------------------------------------------------------- ids

TEST_CASE("Ids of a table are texts, also where a file of column types stands beside it") {
    const Folder folder;
    (void)folder.write("homes.csvt", "\"Integer\",\"Real\",\"Real\"\n");
    const auto path = folder.write(
        "homes.csv", "id,lon,lat\n007,-9.5,46.2\n12345678901234567890,-9.5,46.2\na b,-9.5,46.2\n1001.000,-9.5,46.2\n");
    CHECK(ids(demand(path)) == Ids{"007", "12345678901234567890", "a b", "1001.000"});
}

TEST_CASE("Ids of GML are texts, with a schema beside it or without") {
    const Folder folder;
    const std::string text =
        R"(<?xml version="1.0"?><wfs:FeatureCollection xmlns:wfs="http://www.opengis.net/wfs" )"
        R"(xmlns:gml="http://www.opengis.net/gml" xmlns:o="http://o.example" xsi:schemaLocation="http://o.example )"
        R"(homes.xsd" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
<gml:featureMember><o:home><o:id>007</o:id><o:geom><gml:Point )"
        R"(srsName="EPSG:4326"><gml:coordinates>-9.5,)"
        R"(46.2</gml:coordinates></gml:Point></o:geom></o:home></gml:featureMember>
<gml:featureMember><o:home><o:id>010</o:id><o:geom><gml:Point )"
        R"(srsName="EPSG:4326"><gml:coordinates>-9.5,)"
        R"(46.2</gml:coordinates></gml:Point></o:geom></o:home></gml:featureMember>
</wfs:FeatureCollection>)";
    CHECK(ids(demand(folder.write("plain.gml", text), "id")) == Ids{"007", "010"});
    (void)folder.write(
        "homes.xsd",
        R"(<?xml version="1.0"?><xs:schema targetNamespace="http://o.example" xmlns:o="http://o.example" )"
        R"(xmlns:gml="http://www.opengis.net/gml" xmlns:xs="http://www.w3.org/2001/XMLSchema" )"
        R"(elementFormDefault="qualified" version="1.0">
<xs:element name="home" type="o:home_Type" substitutionGroup="gml:_Feature"/><xs:complexType )"
        R"(name="home_Type"><xs:complexContent><xs:extension base="gml:AbstractFeatureType"><xs:sequence>
<xs:element name="geom" type="gml:PointPropertyType"/><xs:element name="id" )"
        R"(type="xs:integer"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType></xs:schema>)");
    CHECK(ids(demand(folder.write("homes.gml", text), "id")) == Ids{"007", "010"});
}

TEST_CASE("Whole numbers held as reals are ids without decimals and without exponent") {
    const Folder folder;
    CHECK(ids(demand(
              write_points(folder, "reals", FTDouble, 24, 11, {"1001.00000000000", "1234567890123456.00000000000"}))) ==
          Ids{"1001", "1234567890123456"});
    CHECK(
        ids(demand(write_points(folder, "long", FTDouble, 20, 0, {"12345678901234567890", "12345678901234567891"}))) ==
        Ids{"12345678901234567890", "12345678901234567891"});
    CHECK(ids(demand(write_points(folder, "text", FTString, 20, 0, {"00123", "a 1"}))) == Ids{"00123", "a 1"});
    CHECK(ids(demand(folder.write("a.geojson",
                                  others_collection({feature(R"("id":1234567890123456)"), feature(R"("id":1001.0)"),
                                                     feature(R"("id":0.000001)")})))) ==
          Ids{"1234567890123456", "1001", "0.000001"});
}

TEST_CASE("Ids that are lists, objects or more digits than the file holds are kept and named") {
    const Folder folder;
    const auto lists =
        demand(folder.write("a.geojson", others_collection({feature(R"("id":["a","b"])"), feature(R"("id":["c"])")})));
    REQUIRE(lists.flaws.size() == 2);
    CHECK_THAT(lists.flaws[0].wrong, Catch::Contains("a list"));
    const auto objects =
        demand(folder.write("b.geojson", others_collection({feature(R"("id":{"a":1})"), feature(R"("id":{"a":2})")})));
    REQUIRE(objects.flaws.size() == 2);
    CHECK_THAT(objects.flaws[0].wrong, Catch::Contains("an object"));
    const auto digits =
        demand(folder.write("c.geojson", others_collection({feature(R"("id":123456789012345678901234)")})));
    REQUIRE(digits.flaws.size() == 1);
    CHECK_THAT(digits.flaws[0].wrong, Catch::Contains("more digits"));
    // Dates stay as they were written.
    CHECK(ids(demand(folder.write(
              "d.geojson", others_collection({feature(R"("id":"2026-01-02")"), feature(R"("id":"2026-01-03")")})))) ==
          Ids{"2026-01-02", "2026-01-03"});
}

TEST_CASE("The id of a GeoJSON feature and the key of a GeoPackage layer are ids where there is no other") {
    const Folder folder;
    CHECK(ids(demand(folder.write("a.geojson", others_collection({feature("", R"(,"id":70)"),
                                                                  feature("", R"(,"id":12)")})))) == Ids{"70", "12"});
    CHECK(ids(demand(folder.write("b.geojson", others_collection({feature("", R"(,"id":"x7")"),
                                                                  feature("", R"(,"id":"x8")")})))) == Ids{"x7", "x8"});
    CHECK(ids(demand(folder.write("c.geojson", others_collection({feature(""), feature("")})))) == Ids{"0", "1"});
    files::prepare_gdal();
    const auto path = folder.file("a.gpkg");
    {
        OGRSpatialReference wgs84;
        wgs84.SetWellKnownGeogCS("WGS84");
        const std::unique_ptr<GDALDataset> out(
            GetGDALDriverManager()->GetDriverByName("GPKG")->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
        char** options = CSLSetNameValue(nullptr, "FID", "plot");
        auto* layer = out->CreateLayer("homes", &wgs84, wkbPoint, options);
        CSLDestroy(options);
        for (const int key : {500, 7}) {
            OGRFeature record(layer->GetLayerDefn());
            record.SetFID(key);
            OGRPoint p(46.2, -9.5);
            record.SetGeometry(&p);
            REQUIRE(layer->CreateFeature(&record) == OGRERR_NONE);
        }
    }
    CHECK(files::describe_file(path).layers[0].fields == std::vector<std::string>{"plot"});
    CHECK(files::describe_file(path).layers[0].key == "plot");
    CHECK(ids(demand(path)) == Ids{"7", "500"});
    CHECK(demand(path).fields.id == "plot");
    CHECK(ids(demand(path, "")) == Ids{"0", "1"});  // the record number, if that is what is wanted
}

// ------------------------------------------------------------------------------------------------------------- numbers

TEST_CASE("A thousand and more is not a little over one") {
    const Folder folder;
    const auto r = demand(
        folder.write("a.csv", "id,lon,lat,residents\na,-9.5,46.2,\"1,234\"\nb,-9.5,46.2,\"12,345\"\nc,-9.5,46.2,7\n"));
    CHECK(r.flaws.empty());
    CHECK(r.demand.places[0].weight == Weight::of(1234));
    CHECK(r.demand.places[1].weight == Weight::of(12345));
    CHECK_THAT(said(r.remarks), Catch::Contains("'1,234' is 1234"));
    const auto commas =
        demand(folder.write("b.csv", "id;lon;lat;residents\na;-9,512;46,201;1,234\nb;-9,513;46,202;12\n"));
    CHECK(commas.demand.places[0].position == geo::LonLat{-9.512, 46.201});
    CHECK(commas.demand.places[0].weight == Weight::of(1.234));
    const auto in = files::add_demand({{folder.file("a.csv"), "", ""}, {}, {}}, "", Task());
    CHECK_THAT(in.origin.description, Catch::Contains("'1,234' is 1234"));
}

TEST_CASE("Weights with a unit behind some of them are listed") {
    const Folder folder;
    const auto r = demand(folder.write("a.csv", "id,lon,lat,weight\na,-9.5,46.2,50 %\nb,-9.5,46.2,7\n"));
    REQUIRE(r.flaws.size() == 1);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("50 %") && Catch::Contains("others have not"));
}

TEST_CASE("A filter compares numbers as the column writes them, and ids as texts") {
    const Folder folder;
    const auto path = folder.write("a.csv", "id,lon,lat,residents\n007,-9.5,46.2,\"1,234\"\n7,-9.5,46.2,12\n");
    const auto wanted = [&](const char* filter) {
        return ids(files::read_demand({{path, "", "", "", "", filter}, {}, {}}, Task()));
    };
    CHECK(wanted("residents > 1000") == Ids{"007"});
    CHECK(wanted("id = '7'") == Ids{"7"});
    CHECK(wanted("id IN ('007')") == Ids{"007"});
    CHECK(wanted("id = 7") == Ids{"007", "7"});
}

// -------------------------------------------------------------------------------------------------------------- tables

TEST_CASE("A spreadsheet of texts under a title, with an empty heading and an empty row") {
    for (const auto& [name, driver] : {std::pair{"a.xlsx", "XLSX"}, std::pair{"a.ods", "ODS"}}) {
        INFO(name);
        const Folder folder;
        // The writer's own headings are the title row here.
        const Table table{{"Households 2026", "b", "c", "d", "e"},
                          {{},
                           {"id ", " lon", "lat", "", "residents"},
                           {"007", "-9.5", "46.2", "x", "3"},
                           {},
                           {"008", "-9.51", "46.21", "y", "4"}}};
        Table titled = table;
        titled.fields = {"Households 2026", " ", "  ", "   ", "    "};
        const auto path = write_sheets(folder, name, driver, {{"Places", titled}});
        const auto r = demand(path);
        CHECK(r.flaws.empty());
        CHECK(ids(r) == Ids{"007", "008"});
        CHECK(r.demand.places[1].weight == Weight::of(4));
        CHECK(r.demand.places[1].position == geo::LonLat{-9.51, 46.21});
        CHECK_THAT(said(r.remarks), Catch::Contains("headings in row 3") && Catch::Contains("1 row empty"));
        CHECK(files::describe_file(path).layers[0].fields ==
              std::vector<std::string>{"id", "lon", "lat", "field_4", "residents"});
    }
}

TEST_CASE("Of several sheets the first with places is taken, the others are said, and each can be chosen") {
    const Folder folder;
    const Table notes{{"about", "text"}, {{"made by", "nobody"}}};
    const Table homes{{"id", "lon", "lat"}, {{"a", "-9.5", "46.2"}}};
    const Table more{{"id", "lon", "lat"}, {{"b", "-9.5", "46.2"}, {"c", "-9.5", "46.2"}}};
    const auto path = write_sheets(folder, "a.xlsx", "XLSX", {{"Notes", notes}, {"Homes", homes}, {"More", more}});
    const auto r = demand(path);
    CHECK(ids(r) == Ids{"a"});
    CHECK_THAT(said(r.remarks), Catch::Contains("'More'") && !Catch::Contains("'Notes'"));
    CHECK(files::describe_file(path).layers.size() == 3);
    CHECK(files::read_demand({{path, "More", ""}, {}, {}}, Task()).demand.count() == 2);
}

TEST_CASE("A table in text under a title, and without headings") {
    const Folder folder;
    const auto titled =
        demand(folder.write("a.csv", "Households of 2026\n\nid;lon;lat\n007;-9.5;46.2\n;;\n008;-9.51;46.21\n"));
    CHECK(ids(titled) == Ids{"007", "008"});
    CHECK_THAT(said(titled.remarks), Catch::Contains("first 2 lines") && Catch::Contains("1 row empty"));
    const auto bare =
        files::read_demand({{folder.write("b.csv", "007,-9.5,46.2\n008,-9.51,46.21\n"), "", "", "field_2", "field_3"},
                            std::string("field_1"),
                            {}},
                           Task());
    CHECK(ids(bare) == Ids{"007", "008"});
    const auto year = demand(folder.write("c.csv", "id,lon,lat,2026\n007,-9.5,46.2,5\n"));
    CHECK(ids(year) == Ids{"007"});
}

TEST_CASE("What cannot be read in a table is named for what it is") {
    const Folder folder;
    std::string wide;
    for (const char c : std::string("id,lon,lat\n7,-9.5,46.2\n")) wide += std::string(1, c) + std::string(1, '\0');
    CHECK_THROWS_WITH(demand(folder.write("a.csv", "\xFF\xFE" + wide)), Catch::Contains("UTF-16"));
    CHECK_THROWS_WITH(demand(folder.write("b.csv", wide)), Catch::Contains("UTF-16"));
    CHECK_THROWS_WITH(demand(folder.write("c.csv", "id|lon|lat\n7|-9.5|46.2\n8|-9.5|46.2\n")),
                      Catch::Contains("'|'") && Catch::Contains("commas"));
    CHECK_THROWS_WITH(demand(folder.write("d.csv", "id,what\n7,8\n")),
                      Catch::Contains("no columns for longitude and latitude") && Catch::Contains("id, what"));
}

TEST_CASE("Of two pairs of coordinates the one that fits the coordinate system is taken, and said") {
    const Folder folder;
    const auto path = folder.write("a.csv", "id,easting,northing,lat,lon\na,500000,4649776,46.2,-9.5\n");
    const auto degrees = demand(path);
    CHECK(degrees.demand.places[0].position == geo::LonLat{-9.5, 46.2});
    CHECK_THAT(said(degrees.remarks), Catch::Contains("from 'lon' and 'lat', not from 'easting' and 'northing'"));
    const auto metres = demand(path, {}, "EPSG:32631");
    REQUIRE(metres.demand.places[0].position);
    CHECK(metres.demand.places[0].position->lon == Approx(3));
    CHECK_THAT(said(metres.remarks), Catch::Contains("from 'easting' and 'northing'"));
}

TEST_CASE("Well-known text in a column, and records one a line") {
    const Folder folder;
    const auto points =
        demand(folder.write("a.csv", "id,place\na,POINT (-9.5 46.2)\nb,SRID=4326;POINT(-9.51 46.21)\nc,nowhere\n"));
    CHECK(points.demand.places[1].position == geo::LonLat{-9.51, 46.21});
    REQUIRE(points.flaws.size() == 1);
    CHECK_THAT(points.flaws[0].wrong, Catch::Contains("'nowhere' is not well-known text"));
    const auto lines = files::read_roads(
        {{folder.write("b.csv", "name,class,wkt\nKelp Row,residential,\"LINESTRING (-9.51 46.2,-9.5 46.2)\"\n"), "",
          ""},
         {}},
        Task());
    REQUIRE(lines.lines.count() == 1);
    CHECK(lines.lines.attributes[0].road_class == roads::RoadClass::residential);
    const auto seq = demand(folder.write("c.geojsonl", feature(R"("id":"a")") + "\n" + feature(R"("id":"b")") + "\n"));
    CHECK(ids(seq) == Ids{"a", "b"});
}

TEST_CASE("Water and closures as well-known text, and places in a database's table without shapes") {
    const Folder folder;
    const auto water = files::add_water(
        {folder.write("water.csv", "name;wkt\nlake;POLYGON ((-9.5 46.2,-9.4 46.2,-9.4 46.3,-9.5 46.2))\n"), "", ""},
        Task());
    CHECK(water.areas->size() == 1);
    const auto closures = files::read_closures(
        folder.write(
            "works.csv",
            "name;effect;delay_min;wkt\nbridge;shut;;POINT (-9.5 46.2)\nmarket;delay;1,5;POINT (-9.51 46.2)\n"),
        Task());
    REQUIRE(closures.size() == 2);
    CHECK(closures[1].delay == Millis(90'000));
    const auto areas = files::read_closures(
        folder.write(
            "areas.csv",
            "name;effect;factor;wkt\nfair;slowed;2.0005;POLYGON ((0 0,9 0,9 9,0 0),(1 0.5,2 0.5,2 1,1 0.5))\n"),
        Task());
    REQUIRE(areas.size() == 1);
    CHECK(areas[0].factor_per_mille == 2001);  // rounded, not cut off
    CHECK(areas[0].more_rings.size() == 1);
    files::prepare_gdal();
    const auto path = folder.file("a.gpkg");
    {
        const std::unique_ptr<GDALDataset> out(
            GetGDALDriverManager()->GetDriverByName("GPKG")->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
        auto* layer = out->CreateLayer("homes", nullptr, wkbNone, nullptr);
        for (const char* f : {"id", "lon", "lat", "residents"}) {
            OGRFieldDefn def(f, OFTString);
            layer->CreateField(&def);
        }
        OGRFeature record(layer->GetLayerDefn());
        record.SetField("id", "007");
        record.SetField("lon", "-9.5");
        record.SetField("lat", "46.2");
        record.SetField("residents", "1,234");
        REQUIRE(layer->CreateFeature(&record) == OGRERR_NONE);
    }
    const auto r = demand(path);
    CHECK(ids(r) == Ids{"007"});
    CHECK(r.demand.places[0].weight == Weight::of(1234));
}

TEST_CASE("Odd tables end in a sentence or in what they hold") {
    const Folder folder;
    for (const char* text : {"id,lon,lat\n", "id,lon,lat", "\n\n\n", ",,,\n,,,\n", "id\n", "\"", "id,lon,lat\n\"",
                             "a;b\n1;2\n", "id,lon,lat\n,,\n,,\n", "id,id,lon,lat\n"}) {
        INFO(text);
        CHECK_THROWS_AS(demand(folder.write("odd.csv", text)), InputError);
    }
    CHECK(ids(demand(folder.write("few.csv", "id,lon,lat\n7,-9.5,46.2"))) == Ids{"7"});
    CHECK(ids(demand(folder.write("more.csv", "id,lon,lat\n7,-9.5,46.2,extra\n8\n"))) == Ids{"7", "8"});
    CHECK(ids(demand(folder.write("mac.csv", "id,lon,lat\r7,-9.5,46.2\r"))).size() == 1);
    CHECK(ids(demand(folder.write("100 % of, homes.csv", "id,lon,lat\n7,-9.5,46.2\n"))) == Ids{"7"});
    CHECK(ids(demand(folder.write("titled, homes.csv", "Homes\nid,lon,lat\n7,-9.5,46.2\n"))) == Ids{"7"});
}

TEST_CASE("Shapefiles with rows deleted are read for the others") {
    const Folder folder;
    const auto path = write_points(folder, "cut", FTString, 4, 0, {"a", "b", "c"});
    DBFHandle dbf = DBFOpen(path.c_str(), "rb+");
    DBFMarkRecordDeleted(dbf, 1, 1);
    DBFClose(dbf);
    CHECK(ids(demand(path)) == Ids{"a", "c"});
}

TEST_CASE("Names in bytes that are no UTF-8 do not reach a file") {
    const Folder folder;
    const auto path = folder.write("caf\xE9.csv", "id,lon,lat,num\xE9ro\n7,-9.5,46.2,5\n");
    const auto in = files::add_demand({{path, "", ""}, std::string("num\xC3\xA9ro"), {}}, "", Task());
    CHECK(in.set->places[0].id == "5");
    CHECK(in.set->name == "caf\xC3\xA9");
    CHECK(in.origin.file == "caf\xC3\xA9.csv");
    for (const auto& text : {in.origin.description, in.origin.path}) CHECK(text.find('\xE9') == std::string::npos);
}

// ------------------------------------------------------------------------------------------------------------ polygons

TEST_CASE("A polygon stands for a point inside it") {
    const Folder folder;
    const auto one = [&](const char* wkt) {
        const auto r = demand(folder.write("a.csv", fmt::format("id,shape\na,\"{}\"\n", wkt)));
        return *r.demand.places[0].position;
    };
    const auto u = one("POLYGON ((0 0,10 0,10 10,9 10,9 1,1 1,1 10,0 10,0 0))");
    CHECK((u.lat < 1 || u.lon < 1 || u.lon > 9));
    const auto ring = one("POLYGON ((0 0,10 0,10 10,0 10,0 0),(1 1,9 1,9 9,1 9,1 1))");
    CHECK((ring.lon < 1 || ring.lon > 9 || ring.lat < 1 || ring.lat > 9));
    const auto parts = one("MULTIPOLYGON (((0 0,9 0,9 0.1,0 0.1,0 0)),((20 20,23 20,23 23,20 23,20 20)))");
    CHECK(parts.lon > 20);  // the larger, though the other is wider
    const auto bow = one("POLYGON ((0 0,2 2,2 0,0 2,0 0))");
    CHECK((bow.lon != 1.0 && bow.lon > 0 && bow.lon < 2));
    CHECK_THROWS_WITH(one("POLYGON ((0 0,1 1,2 2,0 0))"), Catch::Contains("no area"));
}

// --------------------------------------------------------------------------------------------------------------- roads

namespace {

files::RoadsRead roads_of(const Folder& folder, const std::string& header, const std::vector<std::string>& rows,
                          const std::string& name = "roads.csv") {
    std::string text = header + ",wkt\n";
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const double lat = 46.2 + 0.01 * static_cast<double>(i);
        text += fmt::format("{},\"LINESTRING (-9.51 {},-9.50 {})\"\n", rows[i], lat, lat);
    }
    return files::read_roads({{folder.write(name, text), "", ""}, {}}, Task());
}
double kmh(const files::RoadsRead& r, std::size_t i) { return r.lines.attributes[i].drive_speed.km_per_hour(); }

}  // namespace

TEST_CASE("Shapefile columns cut from OpenStreetMap mean what their makers mean") {
    const Folder folder;
    const auto r = roads_of(folder, "fclass,oneway,bridge,tunnel,layer,maxspeed",
                            {"primary,B,F,F,0,50", "primary_link,F,T,F,0,0", "track_grade3,T,F,T,0,0",
                             "residential,B,F,T,-2,30", "service,B,T,F,1,0"});
    CHECK(r.unknown_classes.empty());
    CHECK(r.unknown_one_ways.empty());
    const auto& a = r.lines.attributes;
    CHECK(a[0].drive_one_way() == roads::OneWay::both);
    CHECK(a[1].drive_one_way() == roads::OneWay::along);
    CHECK(a[2].drive_one_way() == roads::OneWay::against);
    CHECK(a[2].road_class == roads::RoadClass::track);
    CHECK(a[0].level() == 0);
    CHECK(a[1].level() == 1);
    CHECK(a[2].level() == -1);
    CHECK(a[3].level() == -2);
    CHECK(a[4].level() == 1);
    CHECK_THAT(said(r.remarks), Catch::Contains("'F' as drawn"));
}

TEST_CASE("F and T alone are false and true") {
    const Folder folder;
    const auto r = roads_of(folder, "class,oneway", {"primary,F", "primary,T"});
    CHECK(r.lines.attributes[0].drive_one_way() == roads::OneWay::both);
    CHECK(r.lines.attributes[1].drive_one_way() == roads::OneWay::along);
    CHECK_THAT(said(r.remarks), Catch::Contains("'F' not one-way"));
    const auto unsure = roads_of(folder, "class,oneway", {"primary,B", "primary,N"});
    CHECK(unsure.unknown_one_ways.contains("N"));
}

TEST_CASE("Units of speed, in headings and in values") {
    const Folder folder;
    for (const char* heading : {"Speed_Mph", "speedMph", "MPH", "speed mph", "Speed (mph)"}) {
        INFO(heading);
        const auto r = roads_of(folder, std::string("class,") + heading, {"primary,30"});
        CHECK(kmh(r, 0) == Approx(48.28032));
    }
    const auto r = roads_of(folder, "class,speed",
                            {"primary,30 MPH", "primary,30mph", "primary,60 km/h", "primary,50;30", "primary,40"});
    CHECK(kmh(r, 0) == Approx(48.28032));
    CHECK(kmh(r, 1) == Approx(48.28032));
    CHECK(kmh(r, 2) == 60);
    CHECK(kmh(r, 3) == 30);
    CHECK(kmh(r, 4) == 40);
    // A value that names its unit is in that unit, whatever its heading says.
    const auto both = roads_of(folder, "class,speed_mph", {"primary,60 km/h", "primary,30"});
    CHECK(kmh(both, 0) == 60);
    CHECK(kmh(both, 1) == Approx(48.28032));
}

TEST_CASE("A formula is in km/h whatever its fields are called") {
    const Folder folder;
    const auto path = folder.write("a.csv", "class,limit_mph,wkt\nprimary,30,\"LINESTRING (-9.51 46.2,-9.5 46.2)\"\n");
    files::RoadFields f;
    f.road_class = "class";
    f.speed = "= limit_mph * 1.609344";
    CHECK(kmh(files::read_roads({{path, "", ""}, f}, Task()), 0) == Approx(48.28032));
}

TEST_CASE("Lengths in other units are one finding, with the unit found") {
    const Folder folder;
    // 0.01 degrees of longitude at 46.2 to 46.24 degrees north.
    const std::vector<double> metres{772.2, 772.1, 771.9, 771.8, 771.6};
    const auto flaws_of = [&](const std::string& heading, double each) {
        std::vector<std::string> rows;
        for (const double m : metres) rows.push_back(fmt::format("primary,{:.4f}", m / each));
        std::vector<std::string> out;
        for (const auto& f : roads_of(folder, "class," + heading, rows).flaws) out.push_back(f.wrong);
        return out;
    };
    CHECK(flaws_of("length", 1).empty());
    CHECK(flaws_of("length_km", 1000).empty());
    CHECK(flaws_of("length_ft", 0.3048).empty());
    for (const auto& [each, unit] : {std::pair{0.3048, "feet"}, std::pair{77200.0, "degrees"},
                                     std::pair{1609.344, "miles"}, std::pair{0.6921, "web map"}}) {
        const auto flaws = flaws_of("length", each);
        REQUIRE(flaws.size() == 1);
        CHECK_THAT(flaws[0], Catch::Contains(unit) && Catch::Contains("'length'"));
    }
    const auto none = flaws_of("length", 7.7);
    REQUIRE(none.size() == 1);
    CHECK_THAT(none[0], Catch::Contains("no unit") && Catch::Contains("5 of 5"));
}

TEST_CASE("Minutes of a line of several parts are shared among them by length") {
    const Folder folder;
    const auto path =
        folder.write("a.csv",
                     "class,minutes,minutes_back,wkt\nprimary,4,8,\"MULTILINESTRING ((-9.53 46.2,-9.50 46.2),(-9.50 "
                     "46.2,-9.49 46.2))\"\n");
    const auto r = files::read_roads({{path, "", ""}, {}}, Task());
    REQUIRE(r.lines.count() == 2);
    CHECK(r.lines.attributes[0].fixed_ms == Approx(180'000).margin(2));
    CHECK(r.lines.attributes[0].fixed_ms + r.lines.attributes[1].fixed_ms == 240'000);
    CHECK(r.lines.against_ms[0] + r.lines.against_ms[1] == 480'000);
}

TEST_CASE("A class that is missing or was never heard of is told with its roads and kilometres") {
    const Folder folder;
    const auto r = roads_of(folder, "class,name", {"goat trail,a", "goat trail,b", ",c", "primary,d"});
    CHECK(r.unknown_classes.at("goat trail").records == 2);
    CHECK(r.unknown_classes.at("goat trail").metres == Approx(1544).margin(2));
    CHECK(r.unknown_classes.at("").records == 1);
    const auto in = files::add_roads({{folder.file("roads.csv"), "", ""}, {}}, {}, Task());
    std::string all;
    for (const auto& f : in.origin.flaws) all += f.wrong + "\n";
    CHECK_THAT(all, Catch::Contains("2 roads, 1.5 km, have the class 'goat trail'") && Catch::Contains("--road-word") &&
                        Catch::Contains("1 road, 0.8 km, have no class"));
}

TEST_CASE("Options that an OpenStreetMap file does not have are refused") {
    const Folder folder;
    const auto path = folder.write(
        "a.osm",
        "<?xml version='1.0'?><osm version='0.6'><node id='1' version='1' lat='46.2' lon='-9.5'/><node id='2' "
        "version='1' lat='46.2' lon='-9.49'/><way id='1' version='1'><nd ref='1'/><nd ref='2'/><tag k='highway' "
        "v='service'/></way></osm>");
    const auto refused = [&](files::RoadChoice choice, const char* why) {
        CHECK_THROWS_WITH(files::read_roads(choice, Task()), Catch::Contains(why));
    };
    refused({{path, "", "EPSG:27700"}, {}}, "in degrees");
    refused({{path, "highways", ""}, {}}, "no layer 'highways'");
    files::RoadFields fields;
    fields.road_class = "kind";
    refused({{path, "", ""}, fields}, "no field 'kind'");
    CHECK(files::read_roads({{path, "roads", ""}, {}}, Task()).lines.count() == 1);
    const auto upper = folder.write("b.OSM", test::contents(path));
    CHECK(files::read_roads({{upper, "", ""}, {}}, Task()).lines.count() == 1);
}

TEST_CASE("Reading again with another coordinate system keeps every field that was chosen") {
    const Folder folder;
    const auto path =
        folder.write("a.csv", "id,ref,residents,jobs,lon2,lat2\n1,A,3,30,-9.5,46.2\n2,B,4,40,-9.51,46.21\n");
    service::Study study;
    study = with_demand(
        std::move(study),
        files::add_demand({{path, "", "", "lon2", "lat2"}, std::string("ref"), std::string("jobs")}, "homes", Task()));
    study = files::read_again(std::move(study), {{service::SetKind::demand, "homes"}, "EPSG:4326"}, Task());
    const auto& set = *study.find_demand("homes")->set;
    CHECK(set.places[1].id == "B");
    CHECK(set.weight_name == "jobs");
    CHECK(set.places[1].position == geo::LonLat{-9.51, 46.21});
}
