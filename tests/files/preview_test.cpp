#include "files/preview.h"

#include <algorithm>
#include <catch2/catch.hpp>

#include "support/files.h"

using namespace otoro;
using namespace otoro::files;

TEST_CASE("A preview has the first records as they stand and shapes of records spread over the file") {
    test::Folder folder;
    std::string csv = "id,lon,lat,people\n";
    for (int i = 0; i < 1000; ++i)
        csv +=
            "P" + std::to_string(i) + "," + std::to_string(-9.5 + i * 0.0001) + ",46.2," + std::to_string(i % 7) + "\n";
    const auto path = folder.write("people.csv", csv);
    const auto seen = preview({path}, Shape::point, 3, 100, Task());
    CHECK(seen.fields == std::vector<std::string>{"id", "lon", "lat", "people"});
    REQUIRE(seen.rows.size() == 3);
    CHECK(seen.rows[2][0] == "P2");
    CHECK(seen.rows[2][3] == "2");
    // Spread over all of them, from the first to the last few.
    CHECK(seen.shapes.size() > 50);
    CHECK(seen.shapes.size() <= 100);
    CHECK(seen.shapes.front()[0].lon == Approx(-9.5));
    CHECK(seen.shapes.back()[0].lon > -9.5 + 970 * 0.0001);
    CHECK(std::is_sorted(seen.shapes.begin(), seen.shapes.end(),
                         [](const auto& a, const auto& b) { return a[0].lon < b[0].lon; }));
    CHECK(seen.wrong.empty());
    // Only the records that are wanted.
    LayerChoice choice{path};
    choice.filter = "people = 6";
    CHECK(preview(choice, Shape::point, 5, 100, Task()).rows[0][0] == "P6");
}

TEST_CASE("A preview says why a record has no place, and goes on") {
    test::Folder folder;
    const auto path = folder.write("people.csv", "id,lon,lat\nA,-9.5,46.2\nB,nowhere,46.2\nC,-9.4,46.2\n");
    const auto seen = preview({path}, Shape::point, 5, 5, Task());
    CHECK(seen.rows.size() == 3);
    CHECK(seen.shapes.size() == 2);
    CHECK_FALSE(seen.wrong.empty());
}

TEST_CASE("Lines and outer rings are previewed in longitude and latitude") {
    test::Folder folder;
    const auto path = folder.write(
        "zones.geojson",
        R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"name":"Z"},)"
        R"("geometry":{"type":"Polygon",)"
        R"("coordinates":[[[0,0],[1,0],[1,1],[0,1],[0,0]],[[0.2,0.2],[0.4,0.2],[0.4,0.4],[0.2,0.2]]]}}]})");
    const auto seen = preview({path}, Shape::polygon, 5, 5, Task());
    REQUIRE(seen.shapes.size() == 1);
    CHECK(seen.shapes[0].size() == 5);
    CHECK(seen.shapes[0][2] == geo::LonLat{1, 1});
    CHECK_THROWS_AS(preview({folder.file("none.csv")}, Shape::point, 5, 5, Task()), InputError);
}
