/// A corpus of broken files, made here, each with the message that it must give. Nothing may crash, hang, take memory
/// by what a file merely says, or be left out in silence.
#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>
#include <zip.h>

#include <catch2/catch.hpp>
#include <cstring>
#include <functional>

#include "files/add_data.h"
#include "files/closure_file.h"
#include "files/open_file.h"
#include "files/profile_file.h"
#include "files/read_heights.h"
#include "files/study_file.h"
#include "geo/error.h"
#include "support/asking.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

// ------------------------------------------------------------------------------------------------------------ makers

std::string broken_feature(const std::string& geometry, const std::string& properties = "{}") {
    return R"({"type":"Feature","properties":)" + properties + R"(,"geometry":)" + geometry + "}";
}
std::string collection_of(const std::vector<std::string>& features) {
    return fmt::format(R"({{"type":"FeatureCollection","features":[{}]}})", fmt::join(features, ","));
}
std::string line(const std::string& coordinates) {
    return R"({"type":"LineString","coordinates":)" + coordinates + "}";
}
std::string point(const std::string& coordinates) { return R"({"type":"Point","coordinates":)" + coordinates + "}"; }
const std::string kLine = line("[[-9.51,46.2],[-9.5,46.2]]");
const std::string kPoint = point("[-9.505,46.2]");

/// A good file of forty roads in one of GDAL's formats, as bytes.
std::string good(const Folder& folder, const char* driver, const std::string& name) {
    files::prepare_gdal();
    const auto path = folder.file(name);
    {
        const std::unique_ptr<GDALDataset> out(
            GetGDALDriverManager()->GetDriverByName(driver)->Create(path.c_str(), 0, 0, 0, GDT_Unknown, nullptr));
        OGRSpatialReference wgs84;
        wgs84.SetWellKnownGeogCS("WGS84");
        wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
        auto* layer = out->CreateLayer("roads", &wgs84, wkbLineString);
        OGRFieldDefn field("name", OFTString);
        layer->CreateField(&field);
        for (int i = 0; i < 40; ++i) {
            OGRFeature f(layer->GetLayerDefn());
            f.SetField("name", fmt::format("Street {}", i).c_str());
            OGRLineString l;
            l.addPoint(-9.5, 46.2 + 0.001 * i);
            l.addPoint(-9.49, 46.2 + 0.001 * i);
            f.SetGeometry(&l);
            REQUIRE(layer->CreateFeature(&f) == OGRERR_NONE);
        }
    }
    return test::contents(path);
}
std::string with_bytes(std::string text, std::size_t at, const std::string& bytes) {
    text.replace(at, bytes.size(), bytes);
    return text;
}
std::string first_of(const std::string& text, double share) {
    return text.substr(0, static_cast<std::size_t>(static_cast<double>(text.size()) * share));
}

/// A spreadsheet whose one part says that it unpacks to so many megabytes (of zeros, so that the file is small).
std::string bomb(const Folder& folder, std::size_t megabytes) {
    static std::map<std::size_t, std::string> made;  // packing a gigabyte takes seconds
    if (const auto at = made.find(megabytes); at != made.end()) return at->second;
    const auto path = folder.file("bomb.zip");
    int error = 0;
    zip_t* z = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
    const std::string zeros(megabytes << 20U, '\0');
    const auto part =
        zip_file_add(z, "content.xml", zip_source_buffer(z, zeros.data(), zeros.size(), 0), ZIP_FL_OVERWRITE);
    zip_set_file_compression(z, static_cast<zip_uint64_t>(part), ZIP_CM_DEFLATE, 1);
    zip_close(z);
    return made[megabytes] = test::contents(path);
}

/// An archive of two parts that both say that they unpack to so many bytes.
std::string parts_that_say(std::uint64_t size) {
    const auto number = [](std::uint64_t v, int bytes) {
        std::string s;
        for (int i = 0; i < bytes; ++i) s += static_cast<char>(v >> (8 * i) & 0xffU);
        return s;
    };
    const std::string name = "xl/workbook.xml";
    std::string parts, list;
    for (int i = 0; i < 2; ++i) {
        const std::string own = name + std::string(static_cast<std::size_t>(i), 'x');
        const auto at = parts.size();
        const std::string length = number(own.size(), 2);
        parts += "PK\x03\x04" + number(45, 2) + std::string(20, 0) + length + number(0, 2) + own;
        // A size of all ones stands in the further field 1 (PKWARE's APPNOTE, 4.5.3).
        list += "PK\x01\x02" + number(45, 2) + number(45, 2) + std::string(16, 0) + number(0xffffffff, 4) + length +
                number(12, 2) + std::string(10, 0) + number(at, 4) + own + number(1, 2) + number(8, 2) +
                number(size, 8);
    }
    return parts + list + "PK\x05\x06" + number(0, 4) + number(2, 2) + number(2, 2) + number(list.size(), 4) +
           number(parts.size(), 4) + number(0, 2);
}

const std::string kOsmHead = "<?xml version='1.0'?><osm version='0.6'>";
const std::string kProfileHead = R"({"otoro_travel_profile":1,)";

// ------------------------------------------------------------------------------------------------------------ readers

void as_roads(const std::string& path) { (void)files::add_roads({{path, "", ""}, {}}, {}, Task()); }
void as_demand(const std::string& path) { (void)files::add_demand({{path, "", ""}, {}, {}}, "", Task()); }
void as_sites(const std::string& path) { (void)files::add_sites({{path, "", ""}, {}, {}, {}, {}}, "", Task()); }
void as_study(const std::string& path) { (void)files::open_study(path, Task()); }
void as_profile(const std::string& path) { (void)files::read_profile(path); }
void as_closures(const std::string& path) { (void)files::read_closures(path, Task()); }
void as_heights(const std::string& path) {
    roads::Lines lines;
    lines.add(std::array{geo::LonLat{-9.5, 46.2}, geo::LonLat{-9.49, 46.2}}, {});
    (void)files::with_heights(lines, path, Task());
}

struct Broken {
    const char* name;  ///< of the file
    void (*read)(const std::string&);
    std::function<std::string(const Folder&)> make;
    const char* message;  ///< a part of what must be said
};

std::function<std::string(const Folder&)> text(std::string t) {
    return [t = std::move(t)](const Folder&) { return t; };
}

const std::vector<Broken>& corpus() {
    static const std::vector<Broken> all{
        // nothing, or not what it says
        {"empty.gpkg", as_roads, text(""), "the file is empty"},
        {"empty.csv", as_demand, text(""), "the file is empty"},
        {"empty.osm", as_roads, text(""), "the file is empty"},
        {"zeros.gpkg", as_roads, text(std::string(4096, '\0')), "no format that is read here"},
        {"noise.shp", as_roads, text(std::string(300, '\x7f')), "no format that is read here"},
        {"noise.fgb", as_roads, text("fgb\x03" + std::string(200, '\xff')), "cannot be read"},
        {"page.geojson", as_roads, text("<html><body>Sign in</body></html>"), "no format that is read here"},
        {"picture.csv", as_demand, text("\x89PNG\r\n\x1a\n" + std::string(100, '\x01')), "no format that is read here"},
        {"word.kml", as_roads, text("Dear council, here are the roads."), "cannot be read"},
        {"packed.zip", as_roads, text("PK\x03\x04rest"), "it is an archive"},
        {"packed.kmz", as_sites, text("PK\x03\x04rest"), "it is an archive"},
        {"packed.csv.gz", as_demand, text("\x1f\x8b\x08rest"), "it is an archive"},
        // broken off
        {"cut.geojson", as_roads, text(first_of(collection_of({broken_feature(kLine), broken_feature(kLine)}), 0.6)),
         "cannot be read"},
        {"cut30.gpkg", as_roads, [](const Folder& f) { return first_of(good(f, "GPKG", "g.gpkg"), 0.3); },
         "cannot be read"},
        {"cut60.gpkg", as_roads, [](const Folder& f) { return first_of(good(f, "GPKG", "g.gpkg"), 0.6); },
         "cannot be read"},
        {"cut90.fgb", as_roads, [](const Folder& f) { return first_of(good(f, "FlatGeobuf", "g.fgb"), 0.9); },
         "cannot be read"},
        {"cut20.fgb", as_roads, [](const Folder& f) { return first_of(good(f, "FlatGeobuf", "g.fgb"), 0.2); },
         "says it has 40 records but ends here"},
        {"cut.shp", as_roads, [](const Folder& f) { return first_of(good(f, "ESRI Shapefile", "g.shp"), 0.5); },
         "cannot be read"},
        {"head.shp", as_roads, [](const Folder& f) { return good(f, "ESRI Shapefile", "g.shp").substr(0, 60); },
         "cannot be read"},
        {"cut.gml", as_roads,
         text("<?xml version='1.0'?><gml:FeatureCollection "
              "xmlns:gml='http://www.opengis.net/gml'><gml:featureMember><road><gml:LineString><gml:posList>46 -9 46"),
         "cannot be read"},
        {"cut.osm", as_roads, text(kOsmHead + "<node id='1' lat='46' lon='-9'/><way id='1'><nd ref='1'/>"),
         "cannot be read as OpenStreetMap"},
        {"cut.osm.pbf", as_roads, text(std::string("\x00\x00\x00\x0d\x0a\x09OSMHeader\x18", 16)),
         "cannot be read as OpenStreetMap"},
        {"cut.xlsx", as_demand, text("PK\x03\x04 and no more"), "not a spreadsheet, or it is damaged"},
        {"cut.gpx", as_roads,
         text("<?xml version='1.0'?><gpx version='1.1' "
              "xmlns='http://www.topografix.com/GPX/1/1'><trk><trkseg><trkpt lat='46' lon='-9'/>"),
         "cannot be read"},
        // endings and byte orders
        {"order.shp", as_roads,
         [](const Folder& f) {
             return with_bytes(good(f, "ESRI Shapefile", "g.shp"), 0, std::string("\x0a\x27\x00\x00", 4));
         },
         "no format that is read here"},
        {"magic.gpkg", as_roads, [](const Folder& f) { return with_bytes(good(f, "GPKG", "g.gpkg"), 0, "SQLight"); },
         "no format that is read here"},
        {"pages.gpkg", as_roads,
         [](const Folder& f) {
             auto t = good(f, "GPKG", "g.gpkg");
             return t.substr(0, 100) + std::string(t.size() - 100, '\0');
         },
         "cannot be read"},
        // counts that are not there
        {"count.fgb", as_roads,
         [](const Folder& f) {
             auto t = good(f, "FlatGeobuf", "g.fgb");
             return with_bytes(t, 8, std::string("\xff\xff\xff\x7f", 4));
         },
         "cannot be read"},
        {"length.shp", as_roads,
         [](const Folder& f) {
             return with_bytes(good(f, "ESRI Shapefile", "g.shp"), 104, std::string("\x7f\xff\xff\xff", 4));
         },
         ""},
        {"points.shp", as_roads,
         [](const Folder& f) {
             return with_bytes(good(f, "ESRI Shapefile", "g.shp"), 148, std::string("\xff\xff\xff\x7f", 4));
         },
         ""},
        {"bomb.xlsx", as_demand, [](const Folder& f) { return bomb(f, 1100); }, "would unpack to more than 1024 MB"},
        {"bomb.ods", as_demand, [](const Folder& f) { return bomb(f, 1100); }, "would unpack to more than 1024 MB"},
        {"sizes.xlsx", as_demand, text(parts_that_say(0x8000000000000000ULL)), "would unpack to more than 1024 MB"},
        // shapes
        {"points.geojson", as_roads, text(collection_of({broken_feature(kPoint)})), "it has no lines"},
        {"areas.geojson", as_roads,
         text(collection_of({broken_feature(R"({"type":"Polygon","coordinates":[[[0,0],[1,0],[1,1],[0,0]]]})")})),
         "it has no lines"},
        {"lines.geojson", as_demand, text(collection_of({broken_feature(kLine)})), "it has no points"},
        {"none.geojson", as_roads, text(collection_of({})), "is empty"},
        {"null.geojson", as_roads, text(collection_of({broken_feature("null")})), "it has no line"},
        {"emptyline.geojson", as_roads, text(collection_of({broken_feature(line("[]"))})), "record 1"},
        {"onepoint.geojson", as_roads, text(collection_of({broken_feature(line("[[-9.5,46.2]]"))})),
         "fewer than two points"},
        {"twice.geojson", as_roads,
         text(collection_of({broken_feature(line("[[-9.5,46.2],[-9.5,46.2],[-9.5,46.2]]"))})),
         "its line has no length"},
        {"far.geojson", as_roads, text(collection_of({broken_feature(line("[[-170,46.2],[170,46.2]]"))})),
         "over 1000 km long"},
        {"offglobe.geojson", as_roads, text(collection_of({broken_feature(line("[[-9.5,46.2],[-9.5,99.2]]"))})),
         "not on the globe"},
        {"words.geojson", as_roads, text(collection_of({broken_feature(line(R"([["a","b"],["c","d"]])"))})), ""},
        {"huge.geojson", as_demand, text(collection_of({broken_feature(point("[1e400,46.2]"))})), ""},
        {"nanwkt.csv", as_demand, text("id,lon,lat\na,nan,46.2\n"), "are not numbers"},
        {"infinite.csv", as_demand, text("id,lon,lat\na,inf,46.2\n"), "are not numbers"},
        // tables
        {"noxy.csv", as_demand, text("id,town,street\na,b,c\n"), "no columns for longitude and latitude"},
        {"header.csv", as_demand, text("id,lon,lat\n"), "it has no records"},
        {"blank.csv", as_demand, text("id,lon,lat\na,,\nb,,\n"), "none of its 2 records can be located"},
        {"text.csv", as_demand, text("id,lon,lat\na,west,north\n"), "are not numbers"},
        {"metres.csv", as_demand, text("id,x,y\na,461498,5116569\nb,461400,5116500\n"),
         "are not degrees and it names no coordinate system"},
        {"utf16.csv", as_demand, text(std::string("\xff\xfei\0d\0,\0l\0o\0n\0,\0l\0a\0t\0\n\0", 24)), ""},
        // OpenStreetMap
        {"noway.osm", as_roads, text(kOsmHead + "<node id='1' version='1' lat='46' lon='-9'/></osm>"),
         "none of its 0 ways is a road"},
        {"nonodes.osm", as_roads,
         text(kOsmHead +
              "<way id='1' version='1'><nd ref='1'/><nd ref='2'/><tag k='highway' v='service'/></way></osm>"),
         "none of its 1 ways is a road"},
        {"badlat.osm", as_roads, text(kOsmHead + "<node id='1' version='1' lat='north' lon='-9'/></osm>"),
         "cannot be read as OpenStreetMap"},
        {"badid.osm", as_roads, text(kOsmHead + "<way id='one' version='1'/></osm>"),
         "cannot be read as OpenStreetMap"},
        {"entities.osm", as_roads,
         text("<?xml version='1.0'?><!DOCTYPE osm [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;&a;'>]><osm "
              "version='0.6'><node id='&b;'/></osm>"),
         "cannot be read as OpenStreetMap"},
        {"version.osm", as_roads, text("<?xml version='1.0'?><osm version='0.3'></osm>"),
         "cannot be read as OpenStreetMap"},
        // studies
        {"other.gpkg", as_study, [](const Folder& f) { return good(f, "GPKG", "g.gpkg"); },
         "it is not a study of Otoro"},
        {"cutstudy.gpkg", as_study,
         [](const Folder& f) {
             service::Study s = test::study_of(test::Town().draw({{0, 0}, {300, 0}}), test::households({{{100, 5}, 2}}),
                                               test::posts({{20, 5}}));
             files::save_study(s, f.file("s.gpkg"), Task());
             return first_of(test::contents(f.file("s.gpkg")), 0.5);
         },
         ""},
        // profiles
        {"list.json", as_profile, text("[1,2,3]"), "it is not a travel profile"},
        {"broken.json", as_profile, text("{\"otoro_travel_profile\":1,"), "it is not a travel profile"},
        {"nomode.json", as_profile, text(kProfileHead + R"("name":"x"})"), "cannot be understood"},
        {"mode.json", as_profile,
         text(kProfileHead + R"("name":"x","mode":"fly","heeds_stated_speed":true,"slope":false})"),
         "'fly' is not known"},
        {"speed.json", as_profile,
         text(
             kProfileHead +
             R"("name":"x","mode":"walk","heeds_stated_speed":true,"slope":false,"one_speed_mm_per_hour":4000000000})"),
         "out of range"},
        {"class.json", as_profile,
         text(kProfileHead + R"("name":"x","mode":"walk","heeds_stated_speed":true,"slope":false,)"
                             R"("classes":{"canal":{"allowed":true,"speed_mm_per_hour":3000000}}})"),
         "'canal' is not known"},
        {"large.json", as_profile, text(std::string(2U << 20U, ' ')), "too large for a travel profile"},
        // closures
        {"closure.geojson", as_closures, text(collection_of({broken_feature("null", R"({"effect":"shut"})")})),
         "no point, line or polygon"},
        {"effect.geojson", as_closures, text(collection_of({broken_feature(kPoint, R"({"effect":"closed?"})")})),
         "is not closed, slowed or delay"},
        {"factor.geojson", as_closures,
         text(collection_of({broken_feature(kPoint, R"({"effect":"slowed","factor":"fast"})")})),
         "not between 1 and 1000"},
        // elevation
        {"model.tif", as_heights, text("II*\0 and no more"), "not a GeoTIFF"},
        {"empty.tif", as_heights, text(""), "not a GeoTIFF"},
    };
    return all;
}

}  // namespace

TEST_CASE("Every broken file of the corpus is refused with a message that says why and what to do") {
    CHECK(corpus().size() >= 60);
    for (const Broken& b : corpus()) {
        const Folder folder;
        const auto path = folder.write(std::string("in-") + b.name, b.make(folder));
        std::string said = "(it was read)";
        bool helps = false;
        try {
            b.read(path);
        } catch (const InputError& e) {
            said = e.what();
            helps = e.parts().file == path && !e.parts().remedy.empty();
        }
        INFO(b.name << ": " << said);
        CHECK(helps);
        CHECK_THAT(said, Catch::Contains(b.message));
    }
}

TEST_CASE("What can be used of a half-broken file is used, and the rest listed with reasons") {
    const Folder folder;
    const auto r = files::read_roads(
        {{folder.write("m.geojson",
                       collection_of({broken_feature(kLine), broken_feature(line("[[-9.5,46.2],[-9.5,46.2]]")),
                                      broken_feature(R"({"type":"Polygon","coordinates":[[[0,0],[1,0],[1,1],[0,0]]]})"),
                                      broken_feature(line("[[-9.5,46.2],[-9.49,46.21],[-9.5,46.21],[-9.49,46.2]]"))})),
          "", ""},
         {}},
        Task());
    CHECK(r.lines.count() == 2);  // the one that crosses itself is a road all the same
    CHECK(r.flaws.size() == 2);
    const auto d = files::read_demand(
        {{folder.write(
              "w.csv",
              "id,lon,lat,residents\na,-9.5,46.2,3\nb,-9.5,46.2,many\nc,-9.5,46.2,-4\nd,-9.5,46.2,\xe9\nb,x,46.2,1\n"),
          "", ""},
         {},
         {}},
        Task());
    CHECK(d.demand.count() == 5);
    CHECK(d.flaws.size() == 5);  // three weights, a repeated id, a place
}
