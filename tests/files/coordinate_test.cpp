#include "files/coordinate.h"

#include <catch2/catch.hpp>

#include "files/add_data.h"
#include "support/files.h"

using namespace otoro;
using namespace otoro::files;

namespace {

double east(const char* text, Decimals decimals = Decimals::point) {
    const auto c = coordinate_in(text, decimals, Axis::east, true);
    INFO(text << ": " << c.wrong);
    REQUIRE(c.value);
    return *c.value;
}
double north(const char* text, Decimals decimals = Decimals::point) {
    const auto c = coordinate_in(text, decimals, Axis::north, true);
    INFO(text << ": " << c.wrong);
    REQUIRE(c.value);
    return *c.value;
}
std::string why(const char* text, Axis axis = Axis::east, bool degrees = true) {
    const auto c = coordinate_in(text, Decimals::point, axis, degrees);
    INFO(text);
    REQUIRE_FALSE(c.value);
    return c.wrong;
}

service::DemandIn demand_of(const test::Folder& folder, const std::string& text) {
    DemandChoice choice;
    choice.layer.path = folder.write("homes.csv", text);
    return add_demand(choice, "", Task());
}

}  // namespace

TEST_CASE("West is west and south is south, as letters, words and signs, before and behind") {
    for (const char* text : {"0.014 W", "0.014W", "W 0.014", "w0.014", "0.014 West", "0.014 west", "-0.014",
                             "\xE2\x88\x92"
                             "0.014",
                             "0.014\xC2\xB0 W", "0.014\xC2\xB0W", "0.014 Ouest", "0.014 W."})
        CHECK(east(text) == Approx(-0.014));
    for (const char* text : {"0.014 E", "E 0.014", "0.014 East", "0.014", "+0.014", "0.014\xC2\xB0", "0.014 ost"})
        CHECK(east(text) == Approx(0.014));
    for (const char* text : {"51.5 S", "51.5\xC2\xB0 S", "S51.5", "51.5 south", "-51.5"}) CHECK(north(text) == -51.5);
    for (const char* text : {"51.5\xC2\xB0 N", "51.5 N", "N 51.5", "51.5 Nord"}) CHECK(north(text) == 51.5);
    CHECK(east("0,014 W", Decimals::comma) == Approx(-0.014));
}

TEST_CASE("Degrees, minutes and seconds are read as they are written") {
    const double at = 51 + 30 / 60.0 + 15.5 / 3600;
    for (const char* text :
         {"51 30 15.5 N",
          "51\xC2\xB0"
          "30'15.5\"N",
          "51\xC2\xB0 30\xE2\x80\xB2 15.5\xE2\x80\xB3 N", "51:30:15.5", "N 51\xC2\xB0 30' 15.5''", "51d30m15.5 N"})
        CHECK(north(text) == Approx(at).epsilon(1e-12));
    CHECK(north("-51 30 15.5") == Approx(-at).epsilon(1e-12));
    CHECK(north("51 30.25 S") == Approx(-(51 + 30.25 / 60)).epsilon(1e-12));
    CHECK(east("0 0 50.4 W") == Approx(-0.014));
    CHECK_THAT(why("51 75 N", Axis::north), Catch::Contains("is not a number"));
    CHECK_THAT(why("51.5 30 N", Axis::north), Catch::Contains("is not a number"));
    CHECK_THAT(why("51'30\xC2\xB0 N", Axis::north), Catch::Contains("is not a number"));
}

TEST_CASE("What could mean two things, or stands where it cannot, is no coordinate and is said") {
    CHECK_THAT(why("0.014 O"), Catch::Contains("the letter O, which is east to some and west to others"));
    CHECK_THAT(why("-0.014 W"), Catch::Contains("both a sign and a direction"));
    CHECK_THAT(why("W 0.014 W"), Catch::Contains("direction twice"));
    CHECK_THAT(why("51.5 N"), Catch::Contains("one to the east or west is looked for"));
    CHECK_THAT(why("0.014 W", Axis::north), Catch::Contains("one to the north or south is looked for"));
    CHECK_THAT(why("0.014 m"), Catch::Contains("'0.014 m'"));
    CHECK_THAT(why("0.014 km"), Catch::Contains("has 'km' beside it"));
    CHECK_THAT(why("0.014 rad"), Catch::Contains("not the degree sign"));
    CHECK_THAT(why("west"), Catch::Contains("is not a number"));
}

TEST_CASE("Where the coordinate system counts in metres, a letter of direction is a sign too") {
    CHECK(*coordinate_in("400 000 E", Decimals::point, Axis::east, false).value == 400'000);
    CHECK(*coordinate_in("400000", Decimals::point, Axis::east, false).value == 400'000);
    CHECK(*coordinate_in("1200.5 W", Decimals::point, Axis::east, false).value == -1200.5);
    CHECK_THAT(why("400000 m", Axis::east, false), Catch::Contains("has 'm' beside it"));
}

TEST_CASE("A file of places in the west is in the west, in one row or in all, and how it was taken is said") {
    const test::Folder folder;
    const auto read = [&](const char* text) { return demand_of(folder, text); };
    const auto all = read("id,lat,lon\n1,51.5 N,0.014 W\n2,51.6 N,0.015 W\n");
    REQUIRE(all.set->places.size() == 2);
    CHECK(all.set->places[0].position->lon == Approx(-0.014));
    CHECK(all.set->places[1].position->lon == Approx(-0.015));
    CHECK(all.set->places[0].position->lat == Approx(51.5));
    CHECK_THAT(all.origin.description, Catch::Contains("letters of direction, such as '51.5 N'"));
    REQUIRE(all.origin.taken.size() == 1);
    const auto one = read("id,lat,lon\n1,51.5,0.014\n2,51.6,0.015 West\n3,51 36 0 N,0.015\n");
    CHECK(one.set->places[0].position->lon == Approx(0.014));
    CHECK(one.set->places[1].position->lon == Approx(-0.015));
    CHECK(one.set->places[2].position->lat == Approx(51.6));
    // What could be either is set aside as having no place, and asked about.
    const auto open = read("id,lat,lon\n1,51.5 N,0.014 O\n2,51.6 N,0.015 E\n");
    CHECK_FALSE(open.set->places[0].position);
    REQUIRE(open.origin.flaws.size() == 1);
    CHECK_THAT(open.origin.flaws[0].wrong, Catch::Contains("east to some and west to others"));
}

TEST_CASE("What makes a weight another number is no unit to be left aside") {
    const test::Folder folder;
    for (const char* behind : {"k", " %", "-", " Mio"}) {
        const std::string text =
            std::string("id,lat,lon,residents\n1,51.5,0.1,5") + behind + "\n2,51.6,0.1,6" + behind + "\n";
        const auto in = demand_of(folder, text);
        INFO(behind);
        CHECK(in.set->places[0].weight == Weight());
        REQUIRE(in.origin.flaws.size() == 2);
        CHECK_THAT(in.origin.flaws[0].wrong, Catch::Contains("behind the number, which makes it another"));
    }
    const auto in = demand_of(folder, "id,lat,lon,residents\n1,51.5,0.1,5 people\n");
    CHECK(in.set->places[0].weight == Weight::of(5));
}
