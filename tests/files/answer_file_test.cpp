#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <catch2/catch.hpp>
#include <sstream>

#include "files/add_data.h"
#include "files/atomic_file.h"
#include "files/fields_beside.h"
#include "files/write_answer.h"
#include "geo/error.h"
#include "support/asking.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

test::Answered street() {
    auto demand =
        std::make_shared<places::DemandSet>(*test::households({{{100, 10}, 2}, {{800, 0}, 3}, {{100, 900}, 1}}));
    demand->places[1].id = "quote\" and, comma";
    demand->places.push_back({"lost", std::nullopt, Weight::of(4)});
    auto q = test::question_at_36();
    q.limit = Millimetres::metres(500);
    q.standard = service::Standard{Share::percent(90), Millis::minutes(1)};
    return test::ask(test::Town().draw({{0, 0}, {1000, 0}}), demand, test::posts({{0, 0}}), q);
}

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);)
        out.push_back(line.ends_with('\r') ? line.substr(0, line.size() - 1) : line);
    return out;
}

}  // namespace

TEST_CASE("The answer as CSV: one row a place, in file order, empty where there is none") {
    const Folder folder;
    const auto a = street();
    write_answer(*a.ready, a.outcome, folder.file("a.csv"), files::AnswerShape::points, Task());
    const auto rows = lines_of(test::contents(folder.file("a.csv")));
    REQUIRE(rows.size() == 5);
    CHECK(rows[0] ==
          "demand_id,rank,site_id,status,minutes,metres,off_road_m,straight_m,weight,within_standard,note,site_name");
    CHECK_THAT(rows[1], Catch::StartsWith("h0,1,s0,served,0.16667,100.00") && Catch::EndsWith(",2,yes,,"));
    CHECK_THAT(
        rows[2],
        Catch::StartsWith("\"quote\"\" and, comma\",,,beyond_limit,,,0.000,,3,no,\"The nearest site, s0, is 1.33 min"));
    CHECK(rows[3] == "h2,,,no_road_near,,,,,1,no,No road that this traveller may use is within 250 m.,");
    CHECK(rows[4] == "lost,,,bad_location,,,,,4,no,Its record gives no place on the globe.,");
}

TEST_CASE("The answer as points and as lines, with the question kept beside it") {
    const Folder folder;
    const auto a = street();
    for (const char* name : {"a.gpkg", "a.geojson"}) {
        for (const auto shape : {files::AnswerShape::points, files::AnswerShape::lines}) {
            INFO(name);
            const auto path = folder.file(name);
            write_answer(*a.ready, a.outcome, path, shape, Task());
            const std::unique_ptr<GDALDataset> in(GDALDataset::Open(path.c_str(), GDAL_OF_VECTOR));
            REQUIRE(in);
            auto* layer = in->GetLayer(0);
            CHECK(layer->GetFeatureCount() == 4);
            int shapes = 0;
            for (const auto& f : *layer) {
                if (!f->GetGeometryRef() || f->GetGeometryRef()->IsEmpty()) continue;
                ++shapes;
                CHECK(wkbFlatten(f->GetGeometryRef()->getGeometryType()) ==
                      (shape == files::AnswerShape::points ? wkbPoint : wkbLineString));
            }
            CHECK(shapes == (shape == files::AnswerShape::points ? 3 : 1));
            layer->ResetReading();
            const OGRFeatureUniquePtr first(layer->GetNextFeature());
            CHECK(std::string(first->GetFieldAsString("demand_id")) == "h0");
            CHECK(first->GetFieldAsDouble("metres") == Approx(100).margin(0.01));
            CHECK(first->GetFieldAsInteger("rank") == 1);
        }
    }
    CHECK_THAT(test::contents(folder.file("a.geojson")),
               Catch::Contains("are each served by the nearest by time of the open posts"));
}

TEST_CASE("Loads as CSV") {
    const Folder folder;
    files::write_loads(street().outcome, folder.file("l.csv"));
    CHECK(lines_of(test::contents(folder.file("l.csv"))).at(1) == "s0,,open,yes,1,2,,0.16667,,");
}

TEST_CASE("The fields of each place's own record go beside, whatever its ids, its filter and its file are") {
    const Folder folder;
    const auto csv = folder.write(
        "a.csv", "ref,lon,lat,note\n007,-9.47,46.21,first\n7,-9.48,46.21,\n,-9.49,46.21,\n7,-9.5,46.21,last\n");
    const auto json = folder.write("b.geojson", R"({"type":"FeatureCollection","features":[
        {"type":"Feature","id":12,"properties":{"note":"no","people":1.5},
         "geometry":{"type":"Point","coordinates":[-9.47,46.2]}},
        {"type":"Feature","id":15,"properties":{"note":"yes","people":2},"geometry":null},
        {"type":"Feature","id":13,"properties":{"note":"yes","people":3},
         "geometry":{"type":"Point","coordinates":[-9.47,46.2]}}]})");
    const auto first = files::add_demand({{csv, "", ""}, "ref", "", {}, {}, {}, {}}, "", Task());
    const auto second = files::add_demand({{json, "", "", "", "", "note = 'yes'"}, {}, {}, {}, {}, {}, {}}, "", Task());
    REQUIRE(first.set->count() == 4);
    REQUIRE(second.set->count() == 2);
    const places::Demand demand(std::vector{first.set, second.set});
    const std::vector of{files::fields_of(first.origin), files::fields_of(second.origin)};
    const auto beside = files::fields_beside(demand, of, Task());
    const auto told = [&](std::uint32_t place) {
        std::string out;
        const auto cells = beside.of(DemandIndex(place));
        for (std::size_t k = 0; k < cells.size(); ++k) {
            if (beside.columns[k].name != "note" && beside.columns[k].name != "people") continue;
            if (const auto* text = std::get_if<std::string>(&cells[k])) out += *text + ";";
            if (const auto* number = std::get_if<double>(&cells[k]))
                out += std::to_string(static_cast<int>(*number)) + ";";
        }
        return out;
    };
    CHECK(told(0) == "first;");
    CHECK(told(0) == "first;");
    CHECK(told(3) == "last;");
    CHECK(told(1) == ";");  // back again, and an empty one
    CHECK(told(4) == "yes;2;");
    CHECK(told(5) == "yes;3;");
    (void)folder.write("a.csv", "ref,lon,lat,note\n007,-9.47,46.21,first\n8,-9.48,46.21,\n");
    CHECK_THROWS_WITH(files::fields_beside(demand, of, Task()).of(DemandIndex(1U)),
                      Catch::Contains("record 2") && Catch::Contains("has the id '8', and had '7'"));
    CHECK_THROWS_WITH(files::fields_beside(demand, of, Task()).of(DemandIndex(2U)),
                      Catch::Contains("is not there any more"));
    (void)folder.write("a.csv", "id,lon,lat\n007,-9.47,46.21\n");
    CHECK_THROWS_WITH(files::fields_beside(demand, of, Task()), Catch::Contains("ref"));
}

TEST_CASE("The summary says sentence, verdict and counts") {
    const auto a = street();
    const auto text = files::summary(*a.ready, a.outcome);
    CHECK_THAT(text, Catch::Contains("The households, counted by residents") &&
                         Catch::Contains("Verdict: 20 % within 1 min, 90 % wanted: not met") &&
                         Catch::Contains("weight 2 of 10 (25 % of places: 1 of 4)") && Catch::Contains("no_road_near"));
}

TEST_CASE("Where the answer cannot be written the error says so and leaves nothing behind") {
    const Folder folder;
    const auto a = street();
    const auto write = [&](const std::string& path) {
        write_answer(*a.ready, a.outcome, path, files::AnswerShape::points, Task());
    };
    CHECK_THROWS_WITH(write(folder.file("a.doc")), Catch::Contains(".csv, .ods, .xlsx"));
    CHECK_THROWS_WITH(write(folder.file("no/such/folder.csv")), Catch::Contains("no such folder"));
    CHECK_THROWS_WITH(write(folder.file("no/such/folder.gpkg")), Catch::Contains("no such folder"));
    CHECK(folder.count() == 0);
}

TEST_CASE("A file is replaced whole or not at all") {
    const Folder folder;
    const auto path = folder.write("kept.txt", "old");
    CHECK_THROWS_AS(files::write_atomically(path,
                                            [](const std::string& temporary) {
                                                std::ofstream(temporary) << "half";
                                                throw std::runtime_error("the power went");
                                            }),
                    std::runtime_error);
    CHECK(test::contents(path) == "old");
    CHECK(folder.count() == 1);
    files::write_text(path, "new");
    CHECK(test::contents(path) == "new");
    CHECK(folder.count() == 1);
}
