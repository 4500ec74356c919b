#include <catch2/catch.hpp>
#include <filesystem>

#include "files/read_places.h"
#include "files/read_roads.h"
#include "files/study_file.h"
#include "geo/error.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

std::string line_feature(const std::string& coordinates, const std::string& type = "LineString") {
    return R"({"type":"Feature","properties":{},"geometry":{"type":")" + type + R"(","coordinates":)" + coordinates +
           "}}";
}
std::string collection(const std::vector<std::string>& features) {
    std::string s = R"({"type":"FeatureCollection","features":[)";
    for (std::size_t i = 0; i < features.size(); ++i) s += (i ? "," : "") + features[i];
    return s + "]}";
}
const std::string kGood = line_feature("[[-9.51,46.2],[-9.5,46.2]]");

files::RoadsRead read_roads(const std::string& path) { return files::read_roads({{path, "", "", "", ""}, {}}, Task()); }
files::DemandRead read_demand(const std::string& path) {
    return files::read_demand({{path, "", "", "", ""}, {}, {}}, Task());
}

/// The message of the error that a file must give; it must name the file.
template <class Read>
std::string complaint(Read&& read, const std::string& path) {
    try {
        read(path);
    } catch (const InputError& e) {
        CHECK(e.parts().file == path);
        CHECK_FALSE(e.parts().remedy.empty());
        return e.what();
    }
    return "(no error)";
}

}  // namespace

TEST_CASE("Files that cannot be roads get an error that says why") {
    const Folder folder;
    const auto roads = [&](const std::string& name, const std::string& text) {
        return complaint(read_roads, folder.write(name, text));
    };
    CHECK_THAT(complaint(read_roads, folder.file("missing.gpkg")), Catch::Contains("no such file"));
    CHECK_THAT(roads("empty.geojson", ""), Catch::Contains("empty"));
    CHECK_THAT(roads("noise.gpkg", std::string(5000, 'x')),
               Catch::Contains("no format that is read here") || Catch::Contains("cannot be read"));
    CHECK_THAT(roads("page.html", "<html>not a map</html>"), Catch::Contains("format"));
    CHECK_THAT(roads("cut.geojson", test::kCrossRoads == nullptr ? "" : std::string(test::kCrossRoads).substr(0, 300)),
               Catch::Contains("cannot be read") || Catch::Contains("format"));
    CHECK_THAT(roads("none.geojson", collection({})), Catch::Contains("no ") || Catch::Contains("empty"));
    CHECK_THAT(
        roads("points.geojson",
              collection(
                  {R"({"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[-9.5,46.2]}})"})),
        Catch::Contains("no lines") && Catch::Contains("points"));
    CHECK_THAT(roads("areas.geojson", collection({line_feature("[[[0,0],[1,0],[1,1],[0,0]]]", "Polygon")})),
               Catch::Contains("polygons"));
    CHECK_THAT(roads("nan.geojson", collection({line_feature("[[500,46.2],[501,46.2]]")})),
               Catch::Contains("not on the globe"));
    CHECK_THAT(roads("zero.geojson", collection({line_feature("[[-9.5,46.2],[-9.5,46.2]]")})),
               Catch::Contains("record 1") && Catch::Contains("no length"));
    CHECK_THAT(roads("packed.zip", "PK\x03\x04 not really"), Catch::Contains("archive"));
    CHECK_THAT(complaint(read_roads, std::filesystem::path(folder.file("x")).parent_path().string()),
               Catch::Contains("not an ordinary file"));
    CHECK_THAT(complaint(read_roads, std::string("/vsicurl/http://localhost/roads.gpkg")),
               Catch::Contains("no such file"));
    CHECK_THAT(complaint(read_roads, collection({kGood})), Catch::Contains("no such file"));
}

TEST_CASE("Single bad lines are set aside with their record and reason, and the rest is read") {
    const Folder folder;
    const auto r =
        read_roads(folder.write("mixed.geojson", collection({kGood, line_feature("[[-9.5,46.2],[-9.5,46.2]]"),
                                                             line_feature("[[-9.5,46.2],[-9.5,146.2]]"), kGood,
                                                             R"({"type":"Feature","properties":{},"geometry":null})",
                                                             line_feature("[[-170,46.2],[170,46.2]]")})));
    CHECK(r.records == 6);
    CHECK(r.lines.count() == 2);
    REQUIRE(r.flaws.size() == 4);
    CHECK(r.flaws[0].record == 1);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("no length"));
    CHECK(r.flaws[1].record == 2);
    CHECK_THAT(r.flaws[1].wrong, Catch::Contains("not on the globe"));
    CHECK(r.flaws[2].record == 4);
    CHECK_THAT(r.flaws[3].wrong, Catch::Contains("long"));
    for (const auto& f : r.flaws) CHECK(f.set_aside);
}

TEST_CASE("A shapefile, GeoPackage or FlatGeobuf that breaks off is refused whole") {
    const Folder folder;
    namespace fs = std::filesystem;
    const fs::path saltmere(OTORO_SALTMERE);
    const auto whole = test::contents((saltmere / "roads.gpkg").string());
    CHECK(complaint(read_roads, folder.write("cut.gpkg", whole.substr(0, whole.size() / 2))) != "(no error)");
    CHECK(complaint(read_roads, folder.write("stub.gpkg", whole.substr(0, 2000))) != "(no error)");
    std::string scrambled = whole;
    for (std::size_t i = 200'000; i < 400'000; ++i) scrambled[i] = static_cast<char>(i * 31);
    CHECK(complaint(read_roads, folder.write("scrambled.gpkg", scrambled)) != "(no error)");
}

TEST_CASE("Tables without places get an error that lists their columns") {
    const Folder folder;
    const auto demand = [&](const std::string& text) { return complaint(read_demand, folder.write("t.csv", text)); };
    CHECK_THAT(demand("id,name\n1,a\n"), Catch::Contains("no columns for longitude") && Catch::Contains("id, name"));
    CHECK_THAT(demand("id,lon,lat\n"), Catch::Contains("no records"));
    CHECK_THAT(demand("id,lon,lat\n1,abc,def\n"), Catch::Contains("record 1") && Catch::Contains("not numbers"));
    CHECK_THAT(demand("id,lon,lat\n1,,\n2,,\n"), Catch::Contains("none of its 2 records"));
    CHECK_THAT(demand("id,lon,lat\n1,nan,inf\n"), Catch::Contains("not numbers"));
    CHECK_THAT(complaint(
                   [](const std::string& p) {
                       return files::read_demand({{p, "", "", "", ""}, {}, "people"}, Task());
                   },
                   folder.write("w.csv", "id,lon,lat\n1,-9.5,46.2\n")),
               Catch::Contains("'people'"));
    CHECK_THAT(complaint(
                   [](const std::string& p) {
                       return files::read_demand({{p, "nowhere", "", "", ""}, {}, {}}, Task());
                   },
                   folder.write("l.csv", "id,lon,lat\n1,-9.5,46.2\n")),
               Catch::Contains("no layer 'nowhere'"));
}

TEST_CASE("Lines where points are needed are refused") {
    const Folder folder;
    CHECK_THAT(complaint(read_demand, folder.write("lines.geojson", collection({kGood}))),
               Catch::Contains("no points") && Catch::Contains("lines"));
}

TEST_CASE("What is no study is refused, and what is damaged says so") {
    const Folder folder;
    const auto open = [](const std::string& p) { return files::open_study(p, Task()); };
    CHECK_THAT(complaint(open, std::string(OTORO_SALTMERE "/roads.gpkg")), Catch::Contains("not a study"));
    CHECK(complaint(open, folder.write("x.gpkg", "nothing")) != "(no error)");
    CHECK_FALSE(files::is_study(OTORO_SALTMERE "/roads.gpkg"));
    CHECK_FALSE(files::is_study(folder.file("missing.gpkg")));
}
