/// A study knows what it held when it was saved: what is gone or changed is found, and named.
#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <limits>
#include <random>

#include "files/add_data.h"
#include "files/study_file.h"
#include "files/study_layers.h"
#include "geo/error.h"
#include "support/asking.h"
#include "support/cases.h"
#include "support/files.h"
#include "support/sql.h"

using namespace otoro;
using test::Folder;
using test::run_sql;

namespace {

/// A study with every kind of layer.
service::Study town() {
    service::Study s;
    auto lines = test::Town().draw({{0, 0}, {1000, 0}}).draw({{1000, 0}, {1000, 500}}, test::one_way());
    s = with_roads(s, test::roads_of(lines));
    auto demand = std::make_shared<places::DemandSet>(*test::households({{{100, 0}, 1}, {{200, 0}, 2}, {{300, 0}, 3}}));
    demand->group = places::TextColumn("kind");
    for (const char* kind : {"old", "young", "old"}) demand->group.push_back(kind);
    s = with_demand(s, {demand, {}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {900, 0}}));
    sites->sites[0].capacity = Weight::of(4);
    sites->sites[1].limit = Millis(60'000);
    s = with_sites(s, {sites, {}});
    auto zones = std::make_shared<places::ZoneSet>();
    zones->name = "wards";
    geo::Area area;
    area.add({test::place({-50, -50}), test::place({600, -50}), test::place({600, 50}), test::place({-50, 50})});
    zones->zones.push_back({"w", "West", area});
    s = with_zones(s, {zones, {}});
    s.water = service::WaterIn{std::make_shared<const std::vector<geo::Area>>(1, area), {}};
    return s;
}

/// What opening it comes to: the refusal, or nothing.
std::string refusal(const std::string& path) {
    try {
        (void)files::open_study(path, Task());
    } catch (const InputError& e) {
        CHECK(e.parts().file == path);
        CHECK(!e.parts().remedy.empty());
        return e.parts().wrong;
    }
    return {};
}

}  // namespace

TEST_CASE("A layer from which rows are gone, or in which a value was changed, is refused by name") {
    const Folder folder;
    const auto whole = folder.file("whole.otoro.gpkg"), path = folder.file("s.otoro.gpkg");
    files::save_study(town(), whole, Task());
    CHECK(refusal(whole).empty());
    for (const auto& [sql, said] : {
             std::pair{"DELETE FROM demand_1 WHERE fid = 2", "layer 'demand_1' has 2 rows, and had 3"},
             std::pair{"DELETE FROM roads WHERE fid = 2", "layer 'roads' has 1 row, and had 2"},
             std::pair{"DELETE FROM water", "layer 'water' has 0 rows, and had 1"},
             std::pair{"UPDATE demand_1 SET weight_millionths = 'many' WHERE fid = 3", "layer 'demand_1' is not what"},
             std::pair{"UPDATE demand_1 SET weight_millionths = 1000001 WHERE fid = 1", "layer 'demand_1' is not what"},
             std::pair{"UPDATE demand_1 SET \"group\" = 'young' WHERE fid = 1", "layer 'demand_1' is not what"},
             std::pair{"UPDATE demand_1 SET geom = (SELECT geom FROM demand_1 WHERE fid = 2) WHERE fid = 1",
                       "layer 'demand_1' is not what"},
             std::pair{"UPDATE sites_1 SET limit_ms = 61000 WHERE fid = 2", "layer 'sites_1' is not what"},
             std::pair{"UPDATE sites_1 SET state = 'closed' WHERE fid = 1", "layer 'sites_1' is not what"},
             std::pair{"UPDATE zones_1 SET name = 'East'", "layer 'zones_1' is not what"},
             std::pair{"UPDATE roads SET one_way = 0", "layer 'roads' is not what"},
             std::pair{"UPDATE roads SET speed_mm_per_hour = 50000000 WHERE fid = 1", "layer 'roads' is not what"},
             std::pair{"UPDATE demand_1 SET fid = 10 WHERE fid = 1", "layer 'demand_1' is not what"},
             std::pair{"UPDATE otoro_study SET value = replace(value, 'Today', 'Then') WHERE key = 'plans'",
                       "its setting 'plans' is not what was saved"},
             std::pair{"DELETE FROM otoro_study WHERE key = 'route'", "its setting 'route' is missing"},
         }) {
        INFO(sql);
        std::filesystem::copy_file(whole, path, std::filesystem::copy_options::overwrite_existing);
        run_sql(path, sql);
        CHECK_THAT(refusal(path), Catch::Contains(said));
    }
    // A database that was tidied up is the same study.
    std::filesystem::copy_file(whole, path, std::filesystem::copy_options::overwrite_existing);
    run_sql(path, "VACUUM");
    CHECK(refusal(path).empty());
}

TEST_CASE("Whatever byte of a study is changed, it is refused, or is the study that was saved") {
    const Folder folder;
    const auto path = folder.file("s.otoro.gpkg");
    const auto study = town();
    files::save_study(study, path, Task());
    const std::string whole = test::contents(path);
    const auto held = files::contents_of(study);
    std::mt19937 random(26);
    int refused = 0, opened = 0;
    for (int round = 0; round < test::cases(300); ++round) {
        std::string text = whole;
        for (int k = 0; k < 1 + round % 4; ++k) text[random() % text.size()] = static_cast<char>(random());
        if (round % 10 == 0)  // two pages swapped
            std::swap_ranges(text.begin() + 4096 * (1 + random() % 10), text.begin() + 4096 * 11,
                             text.begin() + 4096 * 12);
        {
            std::ofstream out(path, std::ios::binary | std::ios::trunc);
            out.write(text.data(), static_cast<std::streamsize>(text.size()));
        }
        try {
            const auto now = files::open_study(path, Task());
            ++opened;
            CHECK(files::contents_of(now) == held);
            CHECK(now.questions == study.questions);
            CHECK(now.plans == study.plans);
        } catch (const InputError&) {
            ++refused;
        }
    }
    CHECK((refused > test::cases(300) / 15 && opened > test::cases(300) / 15));
}

TEST_CASE("Whatever a study holds, what was saved can be opened") {
    const Folder folder;
    const auto path = folder.file("s.otoro.gpkg");
    auto s = town();
    auto demand = std::make_shared<places::DemandSet>(*s.demand[0].set);
    demand->group = places::TextColumn("");  // a column under no heading
    for (const char* kind : {"old", "", "a\xffz"}) demand->group.push_back(kind);
    demand->recorded = places::TextColumn("post");  // named, and of nobody
    demand->places[0].id = std::string("a\0b", 3);
    demand->places[1].id = "\xe9t\xe9 & <i>%1";
    demand->places[1].position.reset();
    demand->places[2].position = geo::LonLat{-0.0, -90};
    s.demand[0].set = demand;
    auto sites = std::make_shared<places::SiteSet>(*s.sites[0].set);
    sites->sites[0].name = std::string(10'000, 'n');
    sites->sites[0].limit = Millimetres(0);
    sites->sites[0].least = Weight();
    sites->sites[0].turnout = Millis(0);
    sites->sites[1].position = geo::LonLat{180, 90};
    s.sites[0].set = sites;
    auto zones = std::make_shared<places::ZoneSet>(*s.zones[0].set);
    auto closed = zones->zones[0].area.rings[0];
    closed.push_back(closed.front());
    zones->zones[0].area.add(closed);
    s.zones[0].set = zones;
    auto lines = std::make_shared<roads::Lines>(*s.roads->lines);
    lines->heights.assign(lines->vertices.size(), 12.3F);
    lines->heights[1] = std::numeric_limits<float>::signaling_NaN();
    lines->heights[2] = -0.0F;
    s.roads = service::roads_in(lines, {}, {}, Task());
    s.name = "\xff";
    // Saved and opened three times over.
    for (int round = 0; round < 3; ++round) {
        files::save_study(s, path, Task());
        REQUIRE(refusal(path).empty());
        s = files::open_study(path, Task());
    }
    CHECK(s.zones[0].set->zones[0].area.rings.size() == 2);
    // One of nothing at all.
    files::save_study({}, path, Task());
    CHECK(refusal(path).empty());
}

TEST_CASE("A study that is broken off is called so, with what is left of it") {
    const Folder folder;
    const auto path = folder.file("s.otoro.gpkg");
    auto s = town();
    std::vector<std::pair<test::At, double>> homes;
    for (int i = 0; i < 3'000; ++i) homes.push_back({{double(i % 900), 0}, 1});
    s.demand[0].set = test::households(homes);
    s.question().demand = {s.demand[0].set->name};
    files::save_study(s, path, Task());
    const auto size = std::filesystem::file_size(path);
    bool whole = false, begun = false;
    for (const double part : {0.999, 0.8, 0.6, 0.4, 0.2, 0.05, 0.01}) {
        INFO(part);
        std::filesystem::resize_file(path, static_cast<std::uintmax_t>(part * static_cast<double>(size)));
        const auto said = refusal(path);
        CHECK_THAT(said, Catch::StartsWith("it is broken off: the last ") && Catch::Contains(" are missing"));
        CHECK(said.find("not a study") == std::string::npos);
        whole = whole || said.find("whole are") != std::string::npos;
        begun = begun || said.find("begun are demand_1") != std::string::npos;
    }
    CHECK(whole);
    CHECK(begun);
}

TEST_CASE("Settings nested without end, and columns that make themselves, are refused by name") {
    const Folder folder;
    const auto path = folder.file("s.otoro.gpkg");
    files::save_study(town(), path, Task());
    const std::string deep(2'000'000, '[');
    run_sql(path, "UPDATE otoro_study SET value = '" + deep + "' WHERE key = 'plans'");
    CHECK_THAT(refusal(path), Catch::Contains("nested without end"));

    files::save_study(town(), path, Task());
    run_sql(path, "ALTER TABLE demand_1 ADD COLUMN shout AS (hex(zeroblob(100000000)))");
    CHECK_THAT(refusal(path), Catch::Contains("'demand_1.shout'") && Catch::Contains("worked out as it is read"));
    CHECK_THROWS_WITH(files::add_demand({{path, "demand_1", ""}, {}, {}}, "", Task()),
                      Catch::Contains("'demand_1.shout'"));
    std::string nested = R"({"type":"FeatureCollection","features":)";
    nested += std::string(1'000'000, '[');
    CHECK_THROWS_AS(files::add_demand({{folder.write("deep.geojson", nested), "", ""}, {}, {}}, "", Task()),
                    InputError);
}

TEST_CASE("Members of a study that this version does not know are remarked on, wherever they stand") {
    const Folder folder;
    const auto path = folder.file("s.otoro.gpkg");
    files::save_study(town(), path, Task());
    std::vector<std::string> remarks;
    (void)files::open_study(path, Task(), &remarks);
    CHECK(remarks.empty());
    // As a later version would have saved it.
    run_sql(path, "DELETE FROM otoro_study WHERE key = 'content'");
    run_sql(path,
            "UPDATE otoro_study SET value = replace(value, '\"attach_limit_mm\"', '\"at_hour\":8,\"attach_limit_mm\"') "
            "WHERE key = 'questions'");
    run_sql(
        path,
        "UPDATE otoro_study SET value = replace(value, '\"changes\"', '\"staff\":{\"a\":1},\"changes\"') WHERE key = "
        "'plans'");
    (void)files::open_study(path, Task(), &remarks);
    REQUIRE(remarks.size() == 2);
    CHECK_THAT(remarks[0], Catch::Contains("'plans[1].staff'"));
    CHECK_THAT(remarks[1], Catch::Contains("'questions[1].at_hour'"));
}
