/// Studies that earlier versions saved, kept for good: each opens, means what it meant, and gives the answers it gave.
#include <catch2/catch.hpp>

#include "files/study_file.h"
#include "geo/error.h"
#include "service/findings.h"
#include "support/asking.h"
#include "support/files.h"
#include "support/sql.h"

using namespace otoro;
using service::Change;
using service::Status;
using test::run_sql;

namespace {

std::string kept(const char* name) { return std::string(OTORO_KEPT "/") + name; }

service::Outcome answered(const service::Study& s, std::size_t plan) {
    return answer(*prepare(*s.inputs(), s.question(), nullptr, Task()), s.plans[plan], Task());
}

/// What version 1 answered for a place: status, site by its place in the list, milliseconds, millimetres.
struct Was {
    Status status;
    int site;
    std::int64_t ms, mm;
};

void check_places(const service::Outcome& o, const std::vector<Was>& was) {
    REQUIRE(o.places.size() == was.size());
    for (std::size_t i = 0; i < was.size(); ++i) {
        CAPTURE(i);
        CHECK(o.places[i].status == was[i].status);
        CHECK((o.places[i].site ? static_cast<int>(o.places[i].site->value()) : -1) == was[i].site);
        CHECK(o.places[i].time == Millis(was[i].ms));
        CHECK(o.places[i].distance == Millimetres(was[i].mm));
    }
}

}  // namespace

TEST_CASE("A study of version 1 opens with its one question, and its sites named for good") {
    std::vector<std::string> remarks;
    const auto s = files::open_study(kept("version-1-every-field.otoro.gpkg"), Task(), &remarks);
    CHECK(remarks.empty());
    CHECK(s.name == "Every field; \"quoted\", \xE2\x82\xAC");
    REQUIRE(s.questions.size() == 1);
    CHECK(s.question().name == "pupils");
    CHECK(s.question().demand == std::vector<std::string>{"pupils"});
    CHECK(s.question().sites == std::vector<std::string>{"schools"});
    CHECK(s.question().serving == service::Serving(service::Nearest{routing::Measure::distance}));
    CHECK(s.question().limit == Amount(Millimetres::metres(9'001)));
    CHECK(s.zones.empty());
    CHECK(s.demand[0].set->group.empty());
    REQUIRE(s.plans.size() == 2);
    REQUIRE(s.plans[1].changes.size() == 2);
    CHECK(s.plans[1].changes[1].set == "schools");  // it was left open
    CHECK(answered(s, 0).digest == "1e3e79dc83fdc3f6bb3501b605d34b7b");
}

TEST_CASE("A study of version 1 gives the answers that it gave, to the last digit") {
    const auto s = files::open_study(kept("version-1-town.otoro.gpkg"), Task());
    CHECK(answered(s, 0).digest == "f835d69f82f0c8f2ba52df42a1202b2e");
    check_places(answered(s, 0), {{Status::served, 0, 10'000, 100'000},
                                  {Status::served, 1, 80'000, 800'000},
                                  {Status::served, 1, 30'000, 300'000},
                                  {Status::served, 1, 59'994, 599'936},
                                  {Status::served, 0, 30'000, 300'001},
                                  {Status::no_road_near, -1, 0, 0}});
    check_places(answered(s, 1), {{Status::served, 0, 10'000, 100'000},
                                  {Status::served, 2, 40'000, 400'000},
                                  {Status::served, 1, 30'000, 300'000},
                                  {Status::served, 1, 59'994, 599'936},
                                  {Status::served, 0, 30'000, 300'001},
                                  {Status::no_road_near, -1, 0, 0}});
    // A site added, moved, and another closed.
    check_places(answered(s, 2), {{Status::served, 3, 110'000, 1'100'000},
                                  {Status::served, 3, 30'000, 300'000},
                                  {Status::served, 3, 20'000, 200'000},
                                  {Status::served, 1, 59'994, 599'936},
                                  {Status::beyond_limit, 3, 150'000, 1'500'001},
                                  {Status::no_road_near, -1, 0, 0}});
    CHECK(s.plans[2].changes[1].added);
    CHECK_FALSE(s.plans[2].changes[2].added);
}

TEST_CASE("A study of version 1, saved now, is the same study") {
    const test::Folder folder;
    const auto before = files::open_study(kept("version-1-town.otoro.gpkg"), Task());
    files::save_study(before, folder.file("now.otoro.gpkg"), Task());
    const auto after = files::open_study(folder.file("now.otoro.gpkg"), Task());
    CHECK(after.questions == before.questions);
    CHECK(after.plans == before.plans);
    for (std::size_t p = 0; p < after.plans.size(); ++p) CHECK(answered(after, p).digest == answered(before, p).digest);
}

TEST_CASE("Studies of version 2 open without a remark, and give the answers that they gave") {
    // Within the standard, today and under the plan.
    const double within[2][2] = {{139, 139}, {177, 211}};
    for (const char* file : {"version-2-without-digests.otoro.gpkg", "version-2-town.otoro.gpkg"}) {
        INFO(file);
        std::vector<std::string> remarks;
        auto s = files::open_study(kept(file), Task(), &remarks);
        CHECK(remarks.empty());
        REQUIRE(s.questions.size() == 2);
        CHECK(s.questions[1].name == "By capacity");
        CHECK(s.questions[1].serving == service::Serving(service::AsCapacityAllows{routing::Measure::distance}));
        CHECK(s.plans[1].changes == std::vector<service::SiteChange>{{Change::open, "C", std::nullopt, "posts"}});
        REQUIRE(s.plans[1].closures.size() == 1);
        for (s.in_sight = 0; s.in_sight < 2; ++s.in_sight) {
            const auto today = answered(s, 0), then = answered(s, 1);
            CHECK(judge(today, *s.question().standard).inside.weight == Weight::of(within[s.in_sight][0]));
            CHECK(judge(then, *s.question().standard).inside.weight == Weight::of(within[s.in_sight][1]));
        }
    }
}

TEST_CASE("A study of version 3 leaves aside the times that it left aside") {
    std::vector<std::string> remarks;
    const auto s = files::open_study(kept("version-3-times-aside.otoro.gpkg"), Task(), &remarks);
    CHECK(remarks.empty());
    CHECK(s.roads->preparation.by_speed == std::vector<std::uint32_t>{0});
    CHECK(answered(s, 0).places[0].time < Millis(10'000));  // the file said a minute from end to end
}

TEST_CASE("What a later version put into a study is said and left alone, and a later format is refused") {
    const test::Folder folder;
    const std::string path = folder.file("later.otoro.gpkg");
    files::save_study(
        test::study_of(test::Town().draw({{0, 0}, {100, 0}}), test::households({{{10, 0}, 1}}), test::posts({{0, 0}})),
        path, Task());
    run_sql(path, "INSERT INTO otoro_study (key, value) VALUES ('timetables', '[1, 2]')");
    std::vector<std::string> remarks;
    CHECK(files::open_study(path, Task(), &remarks).roads);
    REQUIRE(remarks.size() == 1);
    CHECK(remarks[0].find("'timetables'") != std::string::npos);
    run_sql(path, "UPDATE otoro_study SET value = '4' WHERE key = 'format'");
    CHECK_THROWS_WITH(files::open_study(path, Task()), Catch::Contains("later version of Otoro"));
}

TEST_CASE("A study whose times are left aside is of a format that earlier versions refuse, and another of theirs") {
    const test::Folder folder;
    auto timed = test::road();
    timed.fixed_ms = 60'000;
    auto s = test::study_of(test::Town().draw({{0, 0}, {100, 0}}, timed), test::households({{{10, 0}, 1}}),
                            test::posts({{0, 0}}));
    const std::string path = folder.file("s.otoro.gpkg");
    const auto is_of_format = [&](const char* number) {
        files::save_study(s, path, Task());
        // A later one is refused: so is told which it is.
        const auto raised =
            std::string("UPDATE otoro_study SET value = '9' WHERE key = 'format' AND value = '") + number + "'";
        run_sql(path, raised.c_str());
        try {
            (void)files::open_study(path, Task());
            return false;
        } catch (const InputError&) {
            return true;
        }
    };
    CHECK(is_of_format("2"));
    s = fixed(s, service::UseSpeeds{{0}}, Task());
    CHECK(is_of_format("3"));
    files::save_study(s, path, Task());
    CHECK(files::open_study(path, Task()).roads->preparation.by_speed == std::vector<std::uint32_t>{0});
    // A file that names roads without end is refused, and takes no memory.
    run_sql(path, "UPDATE otoro_study SET value = replace(value, '[[0,0]]', '[[0,2000000000]]') WHERE key = 'roads'");
    CHECK_THROWS_AS(files::open_study(path, Task()), InputError);
}

TEST_CASE("Questions that cannot be told apart, or that are not there, are damage") {
    const test::Folder folder;
    auto s =
        test::study_of(test::Town().draw({{0, 0}, {100, 0}}), test::households({{{10, 0}, 1}}), test::posts({{0, 0}}));
    const std::string path = folder.file("s.otoro.gpkg");
    const auto refused = [&](const char* why) {
        files::save_study(s, path, Task());
        CHECK_THROWS_WITH(files::open_study(path, Task()), Catch::Contains(why));
    };
    s.questions.push_back(s.question());
    refused("two of its questions have one name");
    s.questions[1].name = "other";
    s.in_sight = 2;
    refused("question in sight is not there");
    s.in_sight = 0;
    s.questions[1].demand = {"households", "households"};
    refused("names one set twice");
    s.questions.clear();
    files::save_study(s, path, Task());
    CHECK_THROWS_WITH(files::open_study(path, Task()), Catch::Contains("no question"));
}
