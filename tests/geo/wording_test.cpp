#include "geo/wording.h"

#include <catch2/catch.hpp>

#include "geo/amounts.h"

using namespace otoro;

namespace {

/// Puts the usual wording back.
struct Said {
    explicit Said(const Wording& w) { set_wording(w); }
    ~Said() { set_wording({}); }
};

}  // namespace

TEST_CASE("Amounts are said with the decimal mark and the groups of the desktop") {
    const Said german({',', {'.'}, false});
    CHECK(said(12.345, 2) == "12,35");
    CHECK(said_shortly(12.5) == "12,5");
    CHECK(said_whole(1'234'567) == "1.234.567");
    CHECK(said_whole(-1234) == "-1.234");
    CHECK(said_whole(-123) == "-123");
    CHECK(describe(Millis(90'000)) == "1,5 min");
    CHECK(describe(Share::percent(84.1)) == "84,1 %");
    CHECK(describe(Weight::of(12'345)) == "12.345");
    CHECK(describe(Millimetres::metres(2500)) == "2,5 km");
    // What is read, and what files hold, does not go by it.
    CHECK(plain_number(1234.5) == "1234.5");
    CHECK(parse_length("2.5km") == Millimetres::metres(2500));
}

TEST_CASE("Lengths are said in miles, short ones in metres all the same") {
    const Said miles({'.', {','}, true});
    CHECK(long_unit() == "mi");
    CHECK(describe(Millimetres::metres(1609)) == "1 mi");
    CHECK(describe(Millimetres::metres(100)) == "100 m");
    CHECK(said_long(from_long_units(2.5), 2) == "2.50 mi");
    CHECK(in_long_units(from_long_units(7)) == Approx(7));
    CHECK(describe(Speed::km_per_hour(80.4672)) == "50 mph");
}

TEST_CASE("A group mark of several bytes stands between thousands") {
    const Said french({',', {'\xe2', '\x80', '\xaf'}, false});
    CHECK(said_whole(1'234'567) == "1\u202f234\u202f567");
}
