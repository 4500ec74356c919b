#include "files/study_file.h"

#include <catch2/catch.hpp>

#include "files/add_data.h"
#include "files/source.h"
#include "geo/error.h"
#include "support/asking.h"
#include "support/files.h"
#include "support/small_disk.h"

using namespace otoro;
using test::Folder;

namespace {

service::Study saltmere() {
    service::Study s;
    s.name = "Saltmere";
    s = with_roads(s, files::add_roads({{OTORO_SALTMERE "/roads.gpkg", "", ""}, {}}, {}, Task()));
    s = with_demand(s, files::add_demand({{OTORO_SALTMERE "/households.csv", "", ""}, {}, {}}, "", Task()));
    s = with_sites(s,
                   files::add_sites({{OTORO_SALTMERE "/ambulance-posts.geojson", "", ""}, {}, {}, {}, {}}, "", Task()));
    s.water = files::add_water({OTORO_SALTMERE "/water.geojson", "", ""}, Task());
    s.profiles.push_back({travel::Mode::walk, std::nullopt, "slow", travel::standard_table(travel::Mode::walk)});
    s.profiles.back().turning =
        travel::Turning{Millis(1), Millis(2), Millis(3), Millis(4), Millis(5), travel::TurningBack::never, true};
    s.accepted["gaps:roads"] = "the weir";
    s.gap_tolerance = Millimetres::metres(4);
    const auto gaps = check_study(s, Task())->gaps;
    s = fixed(std::move(s), service::CloseGaps{{gaps.at(0).closing}}, Task());
    s.question().off_road_speed = Speed::km_per_hour(4.8);
    s.question().profile.mode = travel::Mode::respond;
    s.question().limit = Millimetres::metres(9000);
    s.plans.push_back(
        {"Quay \"opens\"",
         {{service::Change::open, "C1", {}}, {service::Change::move, "A1", geo::LonLat{-9.4912345678, 46.2012345678}}},
         {{"works",
           roads::ClosureShape::line,
           {{-9.5, 46.2}, {-9.49, 46.21}},
           roads::ClosureEffect::delay,
           2000,
           Millis(90'000)}}});
    return s;
}

service::Outcome answered(const service::Study& s, std::size_t plan) {
    return answer(*prepare(*s.inputs(), s.question(), nullptr, Task()), s.plans[plan], Task());
}

service::Study small() {
    service::Study s;
    s = with_roads(s, test::roads_of(test::Town().draw({{0, 0}, {1000, 0}}, test::one_way())));
    s = with_demand(s, {test::households({{{100, 0}, 1}}), {}});
    return with_sites(s, {test::posts({{0, 0}}), {}});
}

}  // namespace

TEST_CASE("A study opened again is the study that was saved, with the same answers to the last digit") {
    const Folder folder;
    const auto before = saltmere();
    files::save_study(before, folder.file("s.otoro.gpkg"), Task());
    CHECK(files::is_study(folder.file("s.otoro.gpkg")));
    const auto after = files::open_study(folder.file("s.otoro.gpkg"), Task());
    CHECK(after.name == before.name);
    CHECK(after.question() == before.question());
    CHECK(after.plans == before.plans);
    CHECK(after.profiles == before.profiles);
    CHECK(after.accepted == before.accepted);
    CHECK(after.gap_tolerance == before.gap_tolerance);
    CHECK(after.roads->preparation == before.roads->preparation);
    CHECK(*after.water->areas == *before.water->areas);
    CHECK(after.demand[0].set->attaching == before.demand[0].set->attaching);
    CHECK(after.roads->network->digest() == before.roads->network->digest());
    CHECK(after.roads->network->name(LinkId(100u)) == before.roads->network->name(LinkId(100u)));
    CHECK(after.demand[0].origin.flaws == before.demand[0].origin.flaws);
    for (const std::size_t plan : {0, 1}) {
        const auto a = answered(before, plan);
        const auto b = answered(after, plan);
        CHECK(a.digest == b.digest);
        for (std::size_t i = 0; i < a.places.size(); ++i) {
            REQUIRE(a.places[i].status == b.places[i].status);
            REQUIRE(a.places[i].time == b.places[i].time);
        }
    }
}

TEST_CASE("An empty study, and one with odd names, survive saving") {
    const Folder folder;
    service::Study s;
    s.name = "A \xC3\xA9tude, with; \"quotes\"";
    files::save_study(s, folder.file("e.gpkg"), Task());
    const auto back = files::open_study(folder.file("e.gpkg"), Task());
    CHECK(back.name == s.name);
    CHECK(back.empty());
    CHECK(back.plans.size() == 1);
}

TEST_CASE("Joints that the source named stay named") {
    const Folder folder;
    roads::Lines lines;
    const geo::LonLat a{1, 46}, b{1.01, 46}, c{1.02, 46};
    lines.add(std::array{a, b}, {});
    lines.add(std::array{b, c}, {});
    lines.named_ends = {{7, 8}, {9, 10}};
    service::Study s;
    s = with_roads(s, service::roads_in(std::make_shared<const roads::Lines>(lines), {}, {}, Task()));
    files::save_study(s, folder.file("n.gpkg"), Task());
    const auto back = files::open_study(folder.file("n.gpkg"), Task());
    CHECK(back.roads->network->node_count() == 4);
    CHECK(back.roads->network->digest() == s.roads->network->digest());
}

TEST_CASE("The study file is a GeoPackage that others can read") {
    const Folder folder;
    files::save_study(small(), folder.file("s.gpkg"), Task());
    const auto info = files::describe_file(folder.file("s.gpkg"));
    CHECK(info.format == "GeoPackage");
    std::vector<std::string> names;
    for (const auto& l : info.layers) names.push_back(l.name);
    for (const char* wanted : {"roads", "demand_1", "sites_1", "otoro_study"})
        CHECK(std::find(names.begin(), names.end(), wanted) != names.end());
}

TEST_CASE("Saving that fails leaves the old study as it was") {
    const Folder folder;
    const auto path = folder.file("s.gpkg");
    files::save_study(small(), path, Task());
    const auto before = test::contents(path);

    std::stop_source stop;
    stop.request_stop();
    CHECK_THROWS_AS(files::save_study(saltmere(), path, Task(stop.get_token())), Stopped);
    CHECK(test::contents(path) == before);
    CHECK(folder.count() == 1);
    CHECK_THROWS_AS(files::save_study(small(), folder.file("no/folder/s.gpkg"), Task()), InputError);
}

TEST_CASE("A disk that fills up at any point leaves the old study as it was") {
    const Folder folder;
    const auto path = folder.file("s.gpkg");
    files::save_study(small(), path, Task());
    const auto before = test::contents(path);
    const auto study = saltmere();
    for (const rlim_t room : {0, 4'096, 50'000, 200'000, 1'000'000}) {
        INFO("room for " << room << " bytes");
        {
            const test::SmallDisk disk(room);
            CHECK_THROWS_AS(files::save_study(study, path, Task()), InputError);
        }
        CHECK(test::contents(path) == before);
        CHECK(folder.count() == 1);
    }
}

TEST_CASE("A study with nonsense inside is refused, not believed") {
    const Folder folder;
    auto s = small();
    s.question().attach_limit = Millimetres(-5);
    files::save_study(s, folder.file("bad.gpkg"), Task());
    CHECK_THROWS_WITH(files::open_study(folder.file("bad.gpkg"), Task()),
                      Catch::Contains("bad.gpkg") && Catch::Contains("attach limit"));
    s = small();
    s.plans.push_back({"p", {{service::Change::move, "s0", geo::LonLat{500, 46}}}});
    files::save_study(s, folder.file("bad2.gpkg"), Task());
    CHECK_THROWS_WITH(files::open_study(folder.file("bad2.gpkg"), Task()), Catch::Contains("not on the globe"));
}
