#include "geo/amounts.h"

#include <catch2/catch.hpp>

#include "geo/error.h"

using namespace otoro;

TEST_CASE("Amounts carry their unit") {
    CHECK(std::get<Millis>(parse_amount("90s")) == Millis(90'000));
    CHECK(std::get<Millis>(parse_amount("8min")) == Millis::minutes(8));
    CHECK(std::get<Millis>(parse_amount(" 1 h ")) == Millis::minutes(60));
    CHECK(std::get<Millimetres>(parse_amount("500m")) == Millimetres::metres(500));
    CHECK(std::get<Millimetres>(parse_amount("2 km")) == Millimetres::metres(2000));
    CHECK(std::get<Millimetres>(parse_amount("1.5mi")) == Millimetres(2'414'016));
    CHECK(std::get<Millis>(parse_amount("1,5min")) == Millis(90'000));
}

TEST_CASE("What is no amount is refused by name") {
    for (const char* text :
         {"8", "", "min", "8 parsecs", "-3min", "8min later", "nanmin", "1e30km", "8 m in", "infm"}) {
        INFO(text);
        CHECK_THROWS_AS(parse_amount(text), InputError);
    }
    CHECK_THROWS_WITH(parse_amount("8"), Catch::Contains("'8'") && Catch::Contains("unit"));
    CHECK_THROWS_AS(parse_time("2km"), InputError);
    CHECK_THROWS_AS(parse_length("2min"), InputError);
}

TEST_CASE("Speeds and shares") {
    CHECK(parse_speed("40km/h") == Speed::km_per_hour(40));
    CHECK(parse_speed("25 mph") == Speed::miles_per_hour(25));
    CHECK_THROWS_AS(parse_speed("40"), InputError);
    CHECK_THROWS_AS(parse_speed("4000km/h"), InputError);
    CHECK(parse_share("92.5 %") == Share::percent(92.5));
    CHECK_THROWS_AS(parse_share("0%"), InputError);
    CHECK_THROWS_AS(parse_share("101%"), InputError);
}

TEST_CASE("Amounts are said in minutes, metres and kilometres") {
    CHECK(describe(Millis::minutes(8)) == "8 min");
    CHECK(describe(Millis(90'000)) == "1.5 min");
    CHECK(describe(Millimetres::metres(250)) == "250 m");
    CHECK(describe(Millimetres::metres(1500)) == "1.5 km");
    CHECK(describe(Share::percent(90)) == "90 %");
    CHECK(describe(Share(899'999)) == "89.9 %");
    // Six of 33,990 are not all.
    CHECK(describe(share_of(Weight::of(33'984), Weight::of(33'990))) == "99.9 %");
    // What is lacking is rounded up: less would not do.
    CHECK(describe_lack(Weight::of(498.5)) == "499");
    CHECK(describe_lack(Weight::of(498)) == "498");
    CHECK(describe_lack(Weight(1)) == "0.1");
    CHECK(describe_lack(Weight::of(9.91)) == "10");
    CHECK(describe(Weight::of(12345.5)) == "12,345.5");
    CHECK(describe(Weight::of(999)) == "999");
    CHECK(describe(Weight::of(1'000'000)) == "1,000,000");
}

TEST_CASE("Numbers are read whatever the locale, and nothing but numbers") {
    double v = 0;
    CHECK((parse_number("3.25", v) && v == 3.25));
    CHECK((parse_number(" +3,25 ", v) && v == 3.25));
    for (const char* text : {"", " ", "3x", "1,2,3", "nan", "inf", "1e999", "--1"}) {
        INFO(text);
        CHECK_FALSE(parse_number(text, v));
    }
}
