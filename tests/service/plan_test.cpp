#include "service/plan.h"

#include <catch2/catch.hpp>

#include "service/plan_changes.h"
#include "service/study.h"
#include "support/asking.h"

using namespace otoro;
using service::Change;
using service::Plan;
using test::ask;
using test::households;
using test::posts;
using test::question_at_36;
using test::Town;

namespace {
std::shared_ptr<const places::SiteSet> open_and_candidate() {
    auto sites = std::make_shared<places::SiteSet>(*posts({{0, 0}, {1000, 0}}));
    sites->sites[1].state = places::SiteState::candidate;
    return sites;
}
const Town kStreet = Town().draw({{0, 0}, {1000, 0}});
}  // namespace

TEST_CASE("Opening a candidate moves the households beyond it, and nobody else") {
    const auto demand = households({{{100, 0}, 1}, {{900, 0}, 1}});
    const auto today = ask(kStreet, demand, open_and_candidate(), question_at_36());
    CHECK(today.place(1).distance.metres() == Approx(900).margin(0.01));
    const auto plan =
        ask(kStreet, demand, open_and_candidate(), question_at_36(), {"opens", {{Change::open, "s1", {}}}});
    CHECK(plan.site_of(1) == "s1");
    CHECK(plan.place(1).distance.metres() == Approx(100).margin(0.01));
    CHECK(plan.place(0).time == today.place(0).time);
    CHECK(plan.outcome.sites[1].planned.changed);
}

TEST_CASE("A closed site serves nobody") {
    const auto a = ask(kStreet, households({{{100, 0}, 1}}), posts({{0, 0}, {1000, 0}}), question_at_36(),
                       {"closes", {{Change::close, "s0", {}}}});
    CHECK(a.site_of(0) == "s1");
}

TEST_CASE("A moved site serves from its new place") {
    const auto a = ask(kStreet, households({{{600, 0}, 1}}), posts({{0, 0}}), question_at_36(),
                       {"moves", {{Change::move, "s0", test::place({500, 0})}}});
    CHECK(a.place(0).distance.metres() == Approx(100).margin(0.01));
}

TEST_CASE("A new site stands after those of the file and is open") {
    const auto a = ask(kStreet, households({{{600, 0}, 1}}), posts({{0, 0}}), question_at_36(),
                       {"adds", {{Change::add, "New", test::place({700, 0})}}});
    REQUIRE(a.outcome.sites.size() == 2);
    CHECK(a.site_of(0) == "New");
}

TEST_CASE("Of several changes to one site the last holds, and one to an unknown id is passed over") {
    const auto sites =
        sites_under(places::Sites(open_and_candidate()),
                    {"p", {{Change::open, "s1", {}}, {Change::close, "s1", {}}, {Change::open, "nobody", {}}}},
                    service::SiteUse::open);
    REQUIRE(sites.size() == 2);
    CHECK(sites[1].site.state == places::SiteState::closed);
    CHECK_FALSE(sites[1].in_use);
}

TEST_CASE("Where an id is there twice the first is meant") {
    auto twice = *open_and_candidate();
    twice.sites[1].id = "s0";
    twice.sites[1].state = places::SiteState::open;
    const auto sites = sites_under(places::Sites(std::make_shared<const places::SiteSet>(twice)),
                                   {"p", {{Change::close, "s0", {}}}, {}}, service::SiteUse::open);
    CHECK_FALSE(sites[0].in_use);
    CHECK(sites[1].in_use);
}

TEST_CASE("A study turns its question to what is brought in first") {
    service::Study s;
    CHECK_FALSE(s.inputs());
    s = with_roads(s, test::roads_of(kStreet));
    s = with_demand(s, {households({}), {}});
    s = with_sites(s, {posts({{0, 0}}), {}});
    CHECK(s.question().demand == std::vector<std::string>{"households"});
    CHECK(s.inputs());
    auto pupils = *households({});
    pupils.name = "pupils";
    s = with_demand(s, {std::make_shared<places::DemandSet>(pupils), {}});
    CHECK(s.question().demand == std::vector<std::string>{"households"});
    CHECK(s.demand.size() == 2);
    s = with_demand(s, {std::make_shared<places::DemandSet>(pupils), {}});
    CHECK(s.demand.size() == 2);
}

TEST_CASE("Names are made free by a number") {
    CHECK(service::free_name("Quay", {}) == "Quay");
    CHECK(service::free_name("Quay", {"Quay", "Quay 2"}) == "Quay 3");
}

TEST_CASE("Merged plans do what both do, the other's word counting, and sites of one id stay two") {
    const Plan quay{"Quay", {{Change::open, "C1", {}}, {Change::add, "New", geo::LonLat{1, 1}}}, {}, "for the quay"};
    Plan mill{"Mill",
              {{Change::close, "C1", {}},
               {Change::add, "New", geo::LonLat{2, 2}},
               {Change::move, "New", geo::LonLat{3, 3}, {}, 1, true}},
              {},
              "for the mill"};
    roads::Closure weir;
    weir.name = "weir";
    weir.vertices = {{1, 1}};
    mill.closures = {weir};
    const Plan both = merged(quay, mill);
    CHECK(both.name == "Quay");
    CHECK(both.note == "for the quay for the mill");
    CHECK(both.closures == mill.closures);
    REQUIRE(both.changes.size() == 5);
    CHECK(both.changes[2] == service::SiteChange{Change::close, "C1", {}});  // later, and so it counts
    CHECK(both.changes[3].site == "New 2");
    CHECK(both.changes[4].site == "New 2");
    // Again nothing is added.
    Plan again = merged(both, quay);
    CHECK(again.closures == both.closures);
    CHECK(again.note == "for the quay for the mill for the quay");
    CHECK(merged(quay, quay).changes.size() == 2);
}
