/// Demand and sites from several sets in one question, plans over them, and sums by zone and group.
#include <catch2/catch.hpp>
#include <random>

#include "service/breakdown.h"
#include "service/findings.h"
#include "service/sentence.h"
#include "support/asking.h"

using namespace otoro;
using service::Change;
using service::SummedBy;
using test::At;
using test::households;
using test::posts;
using test::question_at_36;

namespace {

const test::Town kStreet = test::Town().draw({{0, 0}, {1000, 0}});

template <class Set>
std::shared_ptr<const Set> called(std::shared_ptr<const Set> set, const std::string& name) {
    auto copy = std::make_shared<Set>(*set);
    copy->name = name;
    return copy;
}

/// A study of several sets, asked about all of them.
service::Study study_of(const test::Town& town, std::vector<std::shared_ptr<const places::DemandSet>> demand,
                        std::vector<std::shared_ptr<const places::SiteSet>> sites) {
    service::Study s;
    s = with_roads(std::move(s), test::roads_of(town));
    s.question() = question_at_36();
    s.question().demand.clear();
    s.question().sites.clear();
    for (auto& d : demand) {
        s.question().demand.push_back(d->name);
        s = with_demand(std::move(s), {d, {}});
    }
    for (auto& x : sites) {
        s.question().sites.push_back(x->name);
        s = with_sites(std::move(s), {x, {}});
    }
    return s;
}

std::shared_ptr<const service::Ready> ready_for(const service::Study& s) {
    return prepare(*s.inputs(), s.question(), nullptr, Task());
}

const std::string& site_of(const service::Outcome& o, std::size_t place) {
    return o.sites[o.places[place].site->value()].planned.site.id;
}

}  // namespace

TEST_CASE("Sites from two files serve together, and a tie goes to the first file") {
    auto s = study_of(kStreet, {households({{{400, 0}, 1}, {{500, 0}, 1}, {{900, 0}, 1}})},
                      {posts({{0, 0}}), called(posts({{1000, 0}}), "new posts")});
    const auto ready = ready_for(s);
    const auto o = answer(*ready, {}, Task());
    REQUIRE(o.sites.size() == 2);
    CHECK(o.sites[0].planned.set == "posts");
    CHECK(o.sites[1].planned.set == "new posts");
    CHECK(o.places[0].site == SiteIndex(0U));
    CHECK(o.places[1].site == SiteIndex(0U));  // 500 m from both
    CHECK(o.places[2].site == SiteIndex(1U));
    std::swap(s.question().sites[0], s.question().sites[1]);
    CHECK(answer(*ready_for(s), {}, Task()).sites[0].planned.set == "new posts");
}

TEST_CASE(
    "Demand from two files is one whole, each place keeps its set, and weights that are named twice are named once") {
    auto farms = std::make_shared<places::DemandSet>(*households({{{800, 0}, 5}}));
    farms->name = "farms";
    const auto s = study_of(kStreet, {households({{{100, 0}, 1}, {{200, 0}, 2}}), farms}, {posts({{0, 0}})});
    const auto inputs = *s.inputs();
    CHECK(inputs.demand.count() == 3);
    CHECK(inputs.demand.set_of(2).name == "farms");
    CHECK(inputs.demand.local(2) == 0);
    CHECK(service::weight_name(inputs.demand) == "residents");
    const auto o = answer(*ready_for(s), {}, Task());
    CHECK(o.all.weight == Weight::of(8));
    CHECK(o.places[2].distance == Millimetres::metres(800));
}

TEST_CASE("Each set keeps its own rule of attaching, in the answer and in reasons") {
    auto near = std::make_shared<places::DemandSet>(*households({{{100, 60}, 1}}));
    near->name = "strict";
    near->attaching.rule.limit = Millimetres::metres(50);
    const auto s = study_of(kStreet, {households({{{100, 60}, 1}}), near}, {posts({{0, 0}})});
    const auto o = answer(*ready_for(s), {}, Task());
    CHECK(o.places[0].status == service::Status::served);
    CHECK(o.places[1].status == service::Status::no_road_near);
    CHECK(reason(o, DemandIndex(1U)) == "No road that this traveller may use is within 50 m.");
}

TEST_CASE("Several sets answer as one file with all their records would") {
    std::mt19937 dice(3);
    std::uniform_real_distribution<double> x(0, 900);
    test::Town town;
    for (int i = 0; i < 6; ++i) {
        town.draw({{0, i * 150.0}, {900, i * 150.0}});
        town.draw({{i * 150.0, 0}, {i * 150.0, 900}}, test::one_way());
    }
    for (int round = 0; round < 20; ++round) {
        std::vector<std::pair<At, double>> homes;
        std::vector<At> sites;
        for (int i = 0; i < 30; ++i) homes.push_back({{x(dice), x(dice)}, 1.0 + i % 4});
        for (int i = 0; i < 6; ++i) sites.push_back({x(dice), x(dice)});
        const std::vector first(homes.begin(), homes.begin() + 12), second(homes.begin() + 12, homes.end());
        const std::vector open(sites.begin(), sites.begin() + 2), more(sites.begin() + 2, sites.end());
        auto whole = study_of(town, {households(homes)}, {posts(sites)});
        auto parts = study_of(town, {households(first), called(households(second), "second")},
                              {posts(open), called(posts(more), "more")});
        for (auto* s : {&whole, &parts})
            s->question().towards = round % 2 ? service::Towards::site : service::Towards::demand;
        const auto a = answer(*ready_for(whole), {}, Task()), b = answer(*ready_for(parts), {}, Task());
        CHECK(a.places == b.places);
        CHECK(a.weights == b.weights);
        CHECK(a.digest != b.digest);
    }
}

TEST_CASE("What was worked out for a set is taken over when another joins it") {
    auto s = study_of(kStreet, {households({{{100, 0}, 1}})}, {posts({{0, 0}})});
    const auto alone = ready_for(s);
    s = with_demand(std::move(s), {called(households({{{600, 0}, 1}}), "farms"), {}});
    s.question().demand.push_back("farms");
    const auto both = prepare(*s.inputs(), s.question(), alone.get(), Task());
    CHECK(both->costed == alone->costed);
    CHECK(both->graph == alone->graph);
    CHECK(both->for_demand[0] == alone->for_demand[0]);
    CHECK(answer(*both, {}, Task()).places == answer(*ready_for(s), {}, Task()).places);
}

TEST_CASE("A plan names a site for good: the second of an id, and one it adds, which a file's site of that id is not") {
    auto twice = std::make_shared<places::SiteSet>(*posts({{0, 0}, {1000, 0}}));
    for (auto& site : twice->sites) site.id = "P";
    const places::Sites sites{std::shared_ptr<const places::SiteSet>(twice)};
    const service::Plan plan{"p",
                             {{Change::close, "P", {}, "posts", 2},
                              {Change::add, "P", test::place({500, 0}), "posts"},
                              {Change::move, "P", test::place({600, 0}), "posts", 1, true}},
                             {}};
    const auto under = sites_under(sites, plan, service::SiteUse::open);
    REQUIRE(under.size() == 3);
    CHECK(under[0].in_use);
    CHECK_FALSE(under[1].in_use);
    CHECK(under[2].added);
    CHECK(under[2].site.position == test::place({600, 0}));
    CHECK(under[0].site.position == test::place({0, 0}));
}

TEST_CASE("A plan's net effect tells what it comes to") {
    auto set = std::make_shared<places::SiteSet>(*posts({{0, 0}, {1000, 0}}));
    set->sites[1].state = places::SiteState::candidate;
    const places::Sites sites{std::shared_ptr<const places::SiteSet>(set)};
    const auto effect = [&](std::vector<service::SiteChange> changes) {
        return service::net_effect(sites, {"p", std::move(changes), {}});
    };
    CHECK(effect({{Change::close, "s0", {}}, {Change::open, "s0", {}}}).empty());
    CHECK(effect({{Change::move, "s0", test::place({5, 0})}, {Change::move, "s0", test::place({0, 0})}}).empty());
    const auto opened = effect({{Change::open, "s1", {}}, {Change::move, "s1", test::place({900, 0})}});
    REQUIRE(opened.size() == 2);
    CHECK(opened[0].change == Change::move);
    CHECK(opened[1].change == Change::open);
    CHECK(
        effect({{Change::add, "N", test::place({1, 0}), "posts"}, {Change::close, "N", {}, "posts", 1, true}}).empty());
    REQUIRE(effect({{Change::add, "N", test::place({1, 0}), "posts"}}).size() == 1);
}

TEST_CASE("Sums by zone and by group add up to the whole, with what is in none last") {
    auto demand = std::make_shared<places::DemandSet>(
        *households({{{100, 0}, 1}, {{200, 0}, 2}, {{700, 0}, 4}, {{900, 0}, 8}, {{900, 5000}, 16}}));
    demand->group = places::TextColumn("age");
    for (const char* age : {"old", "young", "old", "", "young"}) demand->group.push_back(age);
    auto s = study_of(kStreet, {demand}, {posts({{0, 0}})});
    auto zones = std::make_shared<places::ZoneSet>();
    zones->name = "wards";
    for (const auto& [id, low, high] :
         {std::tuple("west", At{-1, -10}, At{500, 10}), std::tuple("middle", At{500, -10}, At{800, 10})}) {
        places::Zone z{id, std::string(id) == "west" ? "West end" : "", {}};
        z.area.add({test::place(low), test::place({high.x, low.y}), test::place(high), test::place({low.x, high.y})});
        zones->zones.push_back(z);
    }
    CHECK_FALSE(can_sum_up(*ready_for(s), SummedBy::zone));
    s = with_zones(std::move(s), {zones, {}});
    const auto ready = ready_for(s);
    const auto o = answer(*ready, {}, Task());
    const auto by_zone = sum_up(*ready, o, SummedBy::zone, Amount(Millimetres::metres(150)));
    REQUIRE(by_zone.size() == 3);
    CHECK(by_zone[0].name == "West end");
    CHECK(by_zone[0].all.weight == Weight::of(3));
    CHECK(by_zone[0].inside.weight == Weight::of(1));
    CHECK(by_zone[0].mean_kilometres == Approx((0.1 * 1 + 0.2 * 2) / 3));
    CHECK(by_zone[1].name == "middle");
    CHECK(by_zone[2].none);
    CHECK(by_zone[2].all.places == 2);
    CHECK(by_zone[2].served.places == 1);
    const auto by_group = sum_up(*ready, o, SummedBy::group, std::nullopt);
    REQUIRE(by_group.size() == 3);
    CHECK(by_group[0].name == "old");
    CHECK(by_group[0].all.weight == Weight::of(5));
    CHECK(by_group[1].name == "young");
    CHECK(by_group[1].served.places == 1);
    CHECK(by_group[2].none);
    for (const auto* rows : {&by_zone, &by_group}) {
        Weight all;
        for (const auto& row : *rows) all += row.all.weight;
        CHECK(all == o.all.weight);
    }
    CHECK(name_of(*ready, DemandIndex(0U), SummedBy::zone) == "West end");
    CHECK(name_of(*ready, DemandIndex(3U), SummedBy::group).empty());
}

TEST_CASE("An order of junctions is taken over for its own network only, however alike another is in numbers") {
    const auto a = study_of(test::Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}}).draw({{200, 0}, {300, 0}}),
                            {households({{{10, 0}, 1}})}, {posts({{300, 0}})});
    const auto b = study_of(test::Town().draw({{0, 0}, {100, 0}}).draw({{0, 0}, {0, 100}}).draw({{0, 0}, {-100, 0}}),
                            {households({{{10, 0}, 1}})}, {posts({{-100, 0}})});
    const auto first = ready_for(a), second = ready_for(b);
    const auto prepared = prepare_searches(*first, nullptr, nullptr, Task(), 0);
    const auto other = prepare_searches(*second, prepared.get(), nullptr, Task(), 0);
    REQUIRE((prepared && other));
    CHECK(other->costs->shared_hierarchy() != prepared->costs->shared_hierarchy());
    CHECK(prepare_searches(*first, prepared.get(), nullptr, Task(), 0)->costs->shared_hierarchy() ==
          prepared->costs->shared_hierarchy());
    auto swept = std::make_shared<service::Ready>(*second);
    swept->prepared = other;
    CHECK(answer(*swept, {}, Task()).places == answer(*second, {}, Task()).places);
}

TEST_CASE("Without its traces an answer still has everything that is counted") {
    const auto s = study_of(kStreet, {households({{{400, 0}, 1}})}, {posts({{0, 0}})});
    auto o = answer(*ready_for(s), {}, Task());
    o.traces.reset();
    CHECK(judge(o, {Share::percent(90), Millimetres::metres(500)}).met);
    CHECK(journeys_of(o, DemandIndex(0U)) ==
          std::vector<service::Journey>{{DemandIndex(0U), SiteIndex(0U), 1, Millis(40'000), Millimetres::metres(400)}});
}

TEST_CASE("Ids made distinct: plans go on naming the sites that they named") {
    auto twice = std::make_shared<places::SiteSet>(*posts({{0, 0}, {1000, 0}}));
    for (auto& site : twice->sites) site.id = "P";
    auto s = study_of(kStreet, {households({{{400, 0}, 1}})}, {twice});
    s.plans.push_back({"p", {{Change::close, "P", {}, "posts", 2}, {Change::close, "P", {}, "posts", 1, true}}, {}});
    const auto fixed_study = fixed(s, service::MakeIdsDistinct{{service::SetKind::sites, "posts"}}, Task());
    const auto& after = fixed_study.sites[0].set->sites;
    REQUIRE(after[0].id != after[1].id);
    CHECK(fixed_study.plans[1].changes[0].site == after[1].id);
    CHECK(fixed_study.plans[1].changes[0].nth == 1);
    CHECK(fixed_study.plans[1].changes[1].site == "P");  // one that the plan adds
    const auto in_use = [](const service::Study& study) {
        std::vector<bool> out;
        for (const auto& p : sites_under(study.sites_of(study.question()), study.plans[1], service::SiteUse::open))
            out.push_back(p.in_use);
        return out;
    };
    CHECK(in_use(s) == in_use(fixed_study));
}

TEST_CASE("Two zones of one name are two rows, each with its own places") {
    auto s = study_of(kStreet, {households({{{100, 0}, 1}, {{700, 0}, 2}})}, {posts({{0, 0}})});
    auto zones = std::make_shared<places::ZoneSet>();
    zones->name = "wards";
    for (const double west : {0.0, 500.0}) {
        places::Zone z{"", "", {}};
        z.area.add({test::place({west, -10}), test::place({west + 400, -10}), test::place({west + 400, 10}),
                    test::place({west, 10})});
        zones->zones.push_back(z);
    }
    s = with_zones(std::move(s), {zones, {}});
    const auto ready = ready_for(s);
    const auto rows = sum_up(*ready, answer(*ready, {}, Task()), SummedBy::zone, std::nullopt);
    REQUIRE(rows.size() == 2);
    CHECK(places_of(*ready, SummedBy::zone, rows[0]) == std::vector<std::uint32_t>{0});
    CHECK(places_of(*ready, SummedBy::zone, rows[1]) == std::vector<std::uint32_t>{1});
}
