/// Across the 180th meridian, near the poles, and lines of a thousand kilometres.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "files/add_data.h"
#include "files/geojson.h"
#include "files/study_file.h"
#include "files/write_answer.h"
#include "geo/ellipsoid.h"
#include "geo/error.h"
#include "service/candidate.h"
#include "support/files.h"

using namespace otoro;
using test::Folder;

namespace {

std::string far_line_feature(const std::vector<geo::LonLat>& line, const std::string& name = "Reef Road") {
    std::string points;
    for (const auto& p : line) points += fmt::format("{}[{},{}]", points.empty() ? "" : ",", p.lon, p.lat);
    return fmt::format(R"({{"type":"Feature","properties":{{"class":"residential","name":"{}"}},)"
                       R"("geometry":{{"type":"LineString","coordinates":[{}]}}}})",
                       name, points);
}
std::string far_collection(const std::vector<std::string>& features) {
    std::string out = R"({"type":"FeatureCollection","features":[)";
    for (std::size_t i = 0; i < features.size(); ++i) out += (i > 0 ? "," : "") + features[i];
    return out + "]}";
}
service::Study study_of(const Folder& folder, const std::string& roads, const std::string& homes,
                        const std::string& posts) {
    service::Study s;
    s = with_roads(std::move(s), files::add_roads({{folder.write("roads.geojson", roads), "", ""}, {}}, {}, Task()));
    s = with_demand(std::move(s), files::add_demand({{folder.write("homes.csv", homes), "", ""}, {}, {}}, "", Task()));
    s = with_sites(std::move(s),
                   files::add_sites({{folder.write("posts.csv", posts), "", ""}, {}, {}, {}, {}}, "", Task()));
    s.question().profile = {travel::Mode::drive, Speed::km_per_hour(36)};
    return s;
}

/// The same small town, its middle at a longitude.
service::Study town_at(const Folder& folder, double lon, bool cut_at_meridian) {
    const auto at = [&](double d) { return geo::normalised({lon + d, -17.0}); };
    const auto up = [&](double d, double n) {
        auto p = at(d);
        p.lat += n;
        return p;
    };
    std::vector<std::string> roads;
    if (cut_at_meridian) {
        roads.push_back(far_line_feature({at(-0.02), {180, -17.0}}));
        roads.push_back(far_line_feature({{-180, -17.0}, at(0.02)}));
    } else {
        roads.push_back(far_line_feature({at(-0.02), at(0), at(0.02)}));
    }
    roads.push_back(far_line_feature({at(0.02), up(0.02, 0.01)}, "Palm Road"));
    const auto row = [](const char* id, geo::LonLat p) { return fmt::format("{},{:.6f},{:.6f}\n", id, p.lon, p.lat); };
    const std::string homes = "id,lon,lat\n" + row("west", up(-0.015, 0.0001)) + row("east", up(0.015, 0.0001)) +
                              row("north", up(0.02, 0.005)) + row("middle", up(0.0001, 0.0002));
    return study_of(folder, far_collection(roads), homes, "id,lon,lat\n" + row("post", at(-0.0199)));
}

}  // namespace

TEST_CASE("A town across the 180th meridian is answered like the same town elsewhere") {
    const Folder folder;
    for (const bool cut : {false, true}) {
        INFO(cut);
        const auto here = town_at(folder, 20, false), there = town_at(folder, 180, cut);
        const auto& network = *there.roads->network;
        CHECK(network.node_count() == (cut ? 4 : 3));
        CHECK(network.extent().east - network.extent().west < 0.1);
        CHECK(network.total_length().metres() == Approx(here.roads->network->total_length().metres()).margin(0.01));
        const auto ready = prepare(*there.inputs(), there.question(), nullptr, Task());
        const auto a = answer(*prepare(*here.inputs(), here.question(), nullptr, Task()), {}, Task()),
                   b = answer(*ready, {}, Task());
        for (std::size_t i = 0; i < a.places.size(); ++i) {
            CHECK(b.places[i].status == service::Status::served);
            CHECK(b.places[i].distance.metres() == Approx(a.places[i].distance.metres()).margin(0.05));
        }
        // A spot on either side, as a map gives it.
        const auto spot = read_spot(*ready, b, {-179.99, -17.0});
        CHECK(spot.outcome.status == service::Status::served);
        CHECK(spot.outcome.distance.metres() ==
              Approx(geo::distance_metres({179.9801, -17}, {-179.99, -17})).margin(0.1));
        // A closure on the other side cuts the east off.
        const auto shut = answer(*ready,
                                 {"p",
                                  {},
                                  {{"c",
                                    roads::ClosureShape::line,
                                    {{-179.995, -17.01}, {-179.995, -16.99}},
                                    roads::ClosureEffect::closed,
                                    2000,
                                    {}}}},
                                 Task());
        CHECK(shut.places[0].status == service::Status::served);
        CHECK(shut.places[1].status == service::Status::cut_off);
        // Saved and opened it is the same.
        files::save_study(there, folder.file("town.gpkg"), Task());
        const auto back = files::open_study(folder.file("town.gpkg"), Task());
        CHECK(answer(*prepare(*back.inputs(), back.question(), nullptr, Task()), {}, Task()).digest == b.digest);
        // No finding says that anything lies elsewhere.
        for (const auto& f : findings_of(there, *check_study(there, Task())))
            CHECK_THAT(f.sentence, !Catch::Contains("outside") && !Catch::Contains("nowhere near"));
        // What is handed out has longitudes as the standard wants them.
        files::write_answer(*ready, b, folder.file("lines.geojson"), files::AnswerShape::lines, Task());
        const auto json = nlohmann::json::parse(test::contents(folder.file("lines.geojson")));
        CHECK(json["features"][1]["geometry"]["type"] == "MultiLineString");
        for (const auto& f : json["features"])
            for (const auto& part : f["geometry"]["type"] == "MultiLineString"
                                        ? f["geometry"]["coordinates"]
                                        : nlohmann::json::array({f["geometry"]["coordinates"]}))
                for (const auto& p : part) CHECK(std::abs(p[0].get<double>()) <= 180);
    }
}

TEST_CASE("A line across the meridian is cut there, others are not") {
    CHECK(files::geojson_shape(std::vector<geo::LonLat>{}) == "null");
    CHECK(files::geojson_shape(std::vector<geo::LonLat>{{181, 5}}) ==
          R"({"type":"Point","coordinates":[-179.0000000,5.0000000]})");
    CHECK(files::geojson_shape(std::vector<geo::LonLat>{{1, 2}, {3, 4}}) ==
          R"({"type":"LineString","coordinates":[[1.0000000,2.0000000],[3.0000000,4.0000000]]})");
    CHECK(files::geojson_shape(std::vector<geo::LonLat>{{179, 0}, {-179, 2}}) ==
          R"({"type":"MultiLineString","coordinates":[[[179.0000000,0.0000000],[180.0000000,1.0000000]],)"
          R"([[-180.0000000,1.0000000],[-179.0000000,2.0000000]]]})");
}

TEST_CASE("Far in the north lengths are right, and at the pole a road is set aside with the reason") {
    const Folder folder;
    const auto r =
        files::read_roads({{folder.write("a.geojson", far_collection({far_line_feature({{10, 88}, {12, 88}}),
                                                                      far_line_feature({{10, 89.5}, {12, 89.5}})})),
                            "", ""},
                           {}},
                          Task());
    REQUIRE(r.lines.count() == 1);
    CHECK(geo::line_length(r.lines.shape(0)).metres() == Approx(7795).margin(2));
    REQUIRE(r.flaws.size() == 1);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("of a pole"));
    CHECK_THROWS_WITH(
        files::read_roads(
            {{folder.write("b.geojson", far_collection({far_line_feature({{10, 89.5}, {12, 89.5}})})), "", ""}, {}},
            Task()),
        Catch::Contains("of a pole"));
    // Close to the limit places are attached where they stand.
    const auto s = study_of(folder, far_collection({far_line_feature({{10, 88.9}, {10.2, 88.9}})}),
                            "id,lon,lat\nh,10.1,88.9002\n", "id,lon,lat\ns,10.02,88.9\n");
    const auto a = answer(*prepare(*s.inputs(), s.question(), nullptr, Task()), {}, Task());
    CHECK(a.places[0].status == service::Status::served);
    CHECK(a.places[0].distance.metres() == Approx(geo::distance_metres({10.02, 88.9}, {10.1, 88.9})).margin(1));
}

TEST_CASE("A line of more than a thousand kilometres is set aside, however it winds") {
    const Folder folder;
    std::vector<geo::LonLat> winding;
    for (int i = 0; i < 30'000; ++i) winding.push_back({-9.5 + 0.0004 * (i % 2), 46.2 + 1e-6 * i});
    const auto short_line = far_line_feature({{-9.5, 46.2}, {-9.49, 46.2}});
    CHECK(
        files::read_roads(
            {{folder.write("a.geojson", far_collection({short_line, far_line_feature(winding)})), "", ""}, {}}, Task())
            .flaws.empty());
    winding.clear();
    for (int i = 0; i < 30'000; ++i) winding.push_back({-9.5 + 0.0005 * (i % 2), 46.2 + 1e-6 * i});
    const auto r = files::read_roads(
        {{folder.write("b.geojson", far_collection({short_line, far_line_feature(winding)})), "", ""}, {}}, Task());
    REQUIRE(r.flaws.size() == 1);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("over 1000 km"));
}
