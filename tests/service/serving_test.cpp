#include <algorithm>
#include <catch2/catch.hpp>
#include <map>
#include <random>

#include "service/access_legs.h"
#include "service/few_nearest.h"
#include "service/journey_lines.h"
#include "service/serve.h"
#include "service/serving_needs.h"
#include "service/tallies.h"
#include "service/travel_table.h"
#include "support/asking.h"

using namespace otoro;
using service::AsCapacityAllows;
using service::AsRecorded;
using service::SeveralNearest;
using service::Status;
using service::WholeZones;
using test::At;
using test::Town;
using Fill = AsCapacityAllows::Fill;
using routing::Measure;

namespace {

/// One straight road; 10 m a second.
Town road_of(double metres) { return Town().draw({{0, 0}, {metres, 0}}); }

std::shared_ptr<places::SiteSet> schools(const std::vector<std::pair<double, std::optional<double>>>& at) {
    auto set = std::make_shared<places::SiteSet>(*test::posts({}));
    for (const auto& [x, capacity] : at)
        set->sites.push_back({"s" + std::to_string(set->sites.size()), "", test::place({x, 0}), places::SiteState::open,
                              capacity ? std::optional(Weight::of(*capacity)) : std::nullopt});
    return set;
}

std::shared_ptr<places::DemandSet> pupils(const std::vector<std::pair<double, double>>& at) {
    std::vector<std::pair<At, double>> there;
    for (const auto& [x, weight] : at) there.push_back({{x, 0}, weight});
    return std::make_shared<places::DemandSet>(*test::households(there));
}

service::Question asked(const service::Serving& serving) {
    auto q = test::question_at_36();
    q.serving = serving;
    return q;
}

std::vector<std::string> sites_of(const test::Answered& a) {
    std::vector<std::string> out;
    for (const auto& p : a.outcome.places)
        out.push_back(p.served() ? a.outcome.sites[p.site->value()].planned.site.id : std::string(name(p.status)));
    return out;
}

/// Towns of a few crossings with odd streets, some one way, some that cost turning.
struct RandomTown {
    Town town;
    std::shared_ptr<places::DemandSet> demand = std::make_shared<places::DemandSet>();
    std::shared_ptr<places::SiteSet> sites = std::make_shared<places::SiteSet>();
    service::Question question;

    explicit RandomTown(std::uint32_t seed) {
        std::mt19937 dice(seed);
        const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(dice() % n); };
        const auto corner = [&] { return At{150.0 * below(5), 130.0 * below(4)}; };
        for (std::uint32_t i = 0; i < 8 + below(20); ++i) {
            const At a = corner(), b = corner();
            if (a.x == b.x && a.y == b.y) continue;
            town.draw(
                {a, {(a.x + b.x) / 2 + below(30), (a.y + b.y) / 2}, b},
                test::road(roads::RoadClass::residential, below(3) == 0 ? roads::OneWay::along : roads::OneWay::both));
        }
        const auto anywhere = [&] { return below(4) == 0 ? corner() : At{below(6000) / 10.0, below(4000) / 10.0}; };
        for (int i = 0; i < 30; ++i)
            demand->places.push_back(
                {"d" + std::to_string(i), test::place(anywhere()), Weight::of(below(6) == 0 ? 0 : 1 + below(3))});
        // So many, now and then, that they are asked one after another.
        const std::uint32_t count = seed % 10 == 9 ? 30 : 1 + below(7);
        for (std::uint32_t i = 0; i < count; ++i)
            sites->sites.push_back({"s" + std::to_string(i), "", test::place(anywhere()), places::SiteState::open,
                                    below(4) == 0 ? std::nullopt : std::optional(Weight::of(below(15)))});
        for (auto& site : sites->sites)
            if (below(5) == 0) site.turnout = Millis(1'000 * below(20));
        question.demand = {"households"};
        question.sites = {"posts"};
        question.standard.reset();
        question.towards = below(2) == 0 ? service::Towards::demand : service::Towards::site;
        if (below(3) == 0) question.off_road_speed = Speed::km_per_hour(4);
        if (below(3) == 0) question.turnout = Millis(6'000);
        if (below(3) == 0) {
            travel::Turning turning;
            turning.left = Millis::seconds(7);
            turning.right = Millis::seconds(3);
            question.profile.turning = turning;
        }
        measure = below(2) == 0 ? Measure::time : Measure::distance;
        if (below(3) == 0)
            question.limit =
                below(2) == 0 ? Amount(Millis::seconds(20 + below(60))) : Amount(Millimetres::metres(100 + below(800)));
        question.serving = service::Nearest{measure};
    }
    Measure measure = Measure::time;
};

/// What every site means to every place, nearest first: the answer of one site alone, one after another.
std::vector<std::vector<service::ReachableSite>> slowly(const service::Ready& ready) {
    std::vector<std::vector<service::ReachableSite>> out(ready.inputs.demand.count());
    service::Ready alone = ready;
    alone.prepared = nullptr;
    alone.question.serving = service::Nearest{ready.question.measure()};
    const bool by_time = ready.question.measure() == Measure::time;
    for (std::uint32_t site = 0; site < ready.inputs.sites.count(); ++site) {
        service::Plan plan;
        for (std::uint32_t other = 0; other < ready.inputs.sites.count(); ++other)
            if (other != site)
                plan.changes.push_back({service::Change::close, ready.inputs.sites.at(other).id, std::nullopt,
                                        ready.inputs.sites.sets()[0]->name});
        const auto o = answer(alone, plan, Task());
        for (std::size_t i = 0; i < o.places.size(); ++i) {
            if (!o.places[i].site) continue;
            const auto ms = static_cast<std::uint32_t>(o.places[i].time.count()),
                       mm = static_cast<std::uint32_t>(o.places[i].distance.count());
            out[i].push_back({by_time ? ms : mm, site, by_time ? mm : ms});
        }
    }
    for (auto& row : out) std::sort(row.begin(), row.end());
    return out;
}

/// The same where sites have limits of their own.
std::vector<std::vector<service::ReachableSite>> slowly_without_limits(const service::Ready& ready) {
    service::Ready without = ready;
    without.question.own_limits = false;
    return slowly(without);
}

}  // namespace

TEST_CASE("Of several nearest each is told with its rank, and the place counts by those it needs") {
    auto q = asked(SeveralNearest{Measure::time, 2, 1});
    q.standard = service::Standard{Share::percent(90), Millis::seconds(60)};
    const auto at = schools({{0, {}}, {1000, {}}, {4000, {}}});
    const auto one = test::ask(road_of(5000), pupils({{300, 1}, {3900, 1}}), at, q);
    const auto journeys = journeys_of(one.outcome, DemandIndex(0U));
    REQUIRE(journeys.size() == 2);
    CHECK(journeys[0].site == SiteIndex(0U));
    CHECK(journeys[0].rank == 1);
    CHECK(journeys[0].time == Millis::seconds(30));
    CHECK(journeys[1].site == SiteIndex(1U));
    CHECK(journeys[1].rank == 2);
    CHECK(journeys[1].time == Millis::seconds(70));
    CHECK(judge(one.outcome, *q.standard).inside.places == 2);
    // Each place is on the list of two sites.
    CHECK(one.outcome.sites[0].places == 1);
    CHECK(one.outcome.sites[1].places == 2);
    CHECK(one.outcome.sites[2].places == 1);

    q.serving = SeveralNearest{Measure::time, 2, 2};
    const auto backup = test::ask(road_of(5000), pupils({{300, 1}, {3900, 1}}), at, q);
    CHECK(backup.place(0).time == Millis::seconds(70));
    CHECK(backup.place(0).rank == 2);
    CHECK(judge(backup.outcome, *q.standard).inside.places == 0);
    q.standard->limit = Millis::seconds(70);
    CHECK(judge(backup.outcome, *q.standard).inside.places == 1);
}

TEST_CASE("Fewer sites than are needed is no cover, and why is said") {
    auto q = asked(SeveralNearest{Measure::time, 3, 3});
    const auto two = test::ask(road_of(2000), pupils({{300, 1}}), schools({{0, {}}, {1000, {}}}), q);
    CHECK(two.place(0).status == Status::cut_off);
    CHECK(reason(two.outcome, DemandIndex(0U)) == "In reach there are 2 sites, fewer than are needed.");
    CHECK(journeys_of(two.outcome, DemandIndex(0U)).empty());
    q.serving = SeveralNearest{Measure::time, 0, 2};
    q.limit = Millis::seconds(50);
    const auto within = test::ask(road_of(2000), pupils({{300, 1}}), schools({{0, {}}, {1000, {}}}), q);
    CHECK(within.place(0).status == Status::beyond_limit);
    CHECK(reason(within.outcome, DemandIndex(0U)) ==
          "Within the limit of 0.833 min there is 1 site, fewer than are needed.");
}

TEST_CASE("A full school sends on who loses least, and all that is said of it adds up") {
    // Both are nearer to the first: 100 m or 900 m, and 400 m or 600 m.
    const auto town = road_of(1000);
    const auto at = schools({{0, 1}, {1000, 5}});
    const auto least = test::ask(town, pupils({{100, 1}, {400, 1}}), at, asked(AsCapacityAllows{}));
    CHECK(sites_of(least) == std::vector<std::string>{"s0", "s1"});
    const auto& c = *least.outcome.capacity;
    CHECK(c.proven);
    CHECK(c.travel == Wide{70'000} * 1'000'000);
    CHECK(c.nearest_travel == Wide{50'000} * 1'000'000);
    CHECK(c.room == Weight::of(6));
    CHECK(c.no_room.count() == 0);
    CHECK(c.worth[0] == 20'000);
    CHECK(c.worth[1] == 0);
    const auto moved = displaced(least.outcome);
    CHECK(moved.tally.places == 1);
    CHECK(moved.extra == Wide{20'000} * 1'000'000);
    CHECK(least.outcome.sites[0].load == Weight::of(1));
    CHECK(least.outcome.sites[1].load == Weight::of(1));

    // The farther one has priority.
    auto ranked = pupils({{100, 1}, {400, 1}});
    ranked->priority = places::TextColumn("priority");
    ranked->priority.push_back("2");
    ranked->priority.push_back("1");
    AsCapacityAllows first{Measure::time, Fill::nearest_first, false, true};
    CHECK(sites_of(test::ask(town, ranked, at, asked(first))) == std::vector<std::string>{"s1", "s0"});
    first.by_priority = false;
    CHECK(sites_of(test::ask(town, ranked, at, asked(first))) == std::vector<std::string>{"s0", "s1"});
}

TEST_CASE("Where room is short it is said by how much, and every place has a status") {
    const auto town = road_of(1000);
    for (const Fill fill : {Fill::least_travel, Fill::nearest_first}) {
        const auto a = test::ask(town, pupils({{100, 2}, {400, 2}, {500, 2}}), schools({{0, 2}, {1000, 2}}),
                                 asked(AsCapacityAllows{Measure::time, fill, false, false}));
        const auto& o = a.outcome;
        CHECK(o.capacity->no_room == Weight::of(2));
        for (const std::int64_t worth : o.capacity->worth) CHECK(worth == -1);
        CHECK(o.capacity->asked == Weight::of(6));
        CHECK(o.tally(Status::site_full).places == 1);
        CHECK(o.tally(Status::served).weight == Weight::of(4));
        CHECK(o.all.weight == Weight::of(6));
    }
    auto q = asked(AsCapacityAllows{});
    q.limit = Millis::seconds(45);
    const auto far = test::ask(town, pupils({{100, 1}, {450, 1}, {480, 1}}), schools({{0, 1}, {1000, 0}}), q);
    CHECK(sites_of(far) == std::vector<std::string>{"s0", "site_full", "beyond_limit"});
    CHECK(reason(far.outcome, DemandIndex(1U)) == "Every site within the limit is full.");
}

TEST_CASE("Capacities that cannot be added up exactly are refused, and so are more sites than a place can number") {
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    const auto refused = [&](std::size_t count, double capacity, const char* why) {
        auto sites = std::make_shared<places::SiteSet>();
        sites->name = "posts";
        for (std::size_t i = 0; i < count; ++i)
            sites->sites.push_back(
                {"s" + std::to_string(i), "", test::place({1, 0}), places::SiteState::open, Weight::of(capacity)});
        auto question = test::question_at_36();
        question.serving = service::AsCapacityAllows{};
        CHECK_THROWS_WITH(test::ask(town, test::households({{{100, 0}, 1}}), sites, question), Catch::Contains(why));
    };
    refused(9'010, 1e9, "add up to 9.01 million million, more than the nine that can be added up exactly");
    refused(65'600, 1, "65,600 sites are in use; as capacity allows 65,534 at most can serve");
}

TEST_CASE("A site gets its least from whom that costs least, but takes nobody's place away") {
    // All are nearer to the first; the second should have two. The farthest lose least by going there.
    const auto town = road_of(1000);
    auto at = schools({{0, {}}, {1000, {}}});
    at->sites[1].least = Weight::of(2);
    const auto a = test::ask(town, pupils({{100, 1}, {200, 1}, {300, 1}, {400, 1}}), at, asked(AsCapacityAllows{}));
    CHECK(sites_of(a) == std::vector<std::string>{"s0", "s0", "s1", "s1"});
    CHECK(a.outcome.capacity->proven);
    CHECK(a.outcome.capacity->travel - a.outcome.capacity->nearest_travel == Wide{20'000 + 40'000} * 1'000'000);
    CHECK(a.outcome.capacity->worth[1] == 0);
    CHECK(short_of_least(a.outcome).sites == 0);
    CHECK(short_of_least(a.outcome).of == 1);
    // Of a least that cannot be had it is said what lacks; and the claim that no answer lacks less is as much.
    at->sites[0].capacity = Weight::of(3);
    at->sites[0].least = Weight::of(5);
    const auto lacking = test::ask(town, pupils({{100, 1}, {200, 1}, {300, 1}}), at, asked(AsCapacityAllows{}));
    CHECK(lacking.outcome.sites[0].short_of_least() + lacking.outcome.sites[1].short_of_least() == Weight::of(2));
    CHECK(lacking.outcome.capacity->least_short == Weight::of(2));  // a least counts as far as the capacity
    CHECK(lacking.outcome.capacity->proven);
    CHECK(leaves_least(lacking.outcome));
    // Of places that stay whole 4 of 2 and 3 cannot be had, and nothing better is.
    auto four = schools({{0, {}}, {1000, 4}});
    four->sites[1].least = Weight::of(4);
    const auto whole = test::ask(town, pupils({{100, 2}, {400, 3}}), four, asked(AsCapacityAllows{}));
    CHECK(whole.outcome.sites[1].load == Weight::of(3));
    CHECK(whole.outcome.capacity->least_short == Weight::of(1));
    CHECK(leaves_least(whole.outcome));
    CHECK(whole.outcome.capacity->proven);
    // Other rules fill nobody up, and say so.
    const auto nearest = test::ask(town, pupils({{100, 1}, {200, 1}, {300, 1}}), at, asked(service::Nearest{}));
    CHECK(short_of_least(nearest.outcome).weight == Weight::of(2));
    // A site that is closed lacks nothing.
    service::Plan plan;
    plan.changes.push_back({service::Change::close, "s1", {}});
    const auto closed = test::ask(town, pupils({{100, 1}}), at, asked(AsCapacityAllows{}), plan);
    CHECK(short_of_least(closed.outcome).of == 1);
}

TEST_CASE("A place may be split, and its parts add up to it everywhere") {
    const auto a = test::ask(road_of(1000), pupils({{100, 10}, {150, 0}}), schools({{0, 6}, {1000, 3}}),
                             asked(AsCapacityAllows{Measure::time, Fill::least_travel, true, false}));
    const auto rows = rows_of(a.outcome, DemandIndex(0U));
    REQUIRE(rows.size() == 3);
    CHECK(rows[0].weight == Weight::of(6));
    CHECK(rows[0].journey->site == SiteIndex(0U));
    CHECK(rows[1].weight == Weight::of(3));
    CHECK(rows[1].journey->site == SiteIndex(1U));
    CHECK(rows[2].weight == Weight::of(1));
    CHECK(rows[2].status == Status::site_full);
    CHECK(a.outcome.tally(Status::served).places == 2);
    CHECK(a.outcome.tally(Status::served).weight == Weight::of(9));
    CHECK(a.outcome.tally(Status::site_full).weight == Weight::of(1));
    CHECK(a.outcome.time_curve.back().weight == Weight::of(9));
    CHECK(a.outcome.sites[1].load == Weight::of(3));
    CHECK(within(a.outcome, Millis::seconds(30)).weight == Weight::of(6));
}

TEST_CASE("As recorded each place goes where its record says, and who would be nearer elsewhere is counted") {
    auto demand = pupils({{100, 1}, {200, 3}, {900, 1}, {300, 1}});
    demand->recorded = places::TextColumn("school");
    for (const char* id : {"s0", "s1", "s1", "gone"}) demand->recorded.push_back(id);
    const auto a = test::ask(road_of(1000), demand, schools({{0, {}}, {1000, {}}}), asked(AsRecorded{}));
    CHECK(sites_of(a) == std::vector<std::string>{"s0", "s1", "s1", "not_recorded"});
    const auto moved = displaced(a.outcome);
    CHECK(moved.tally.places == 1);
    CHECK(moved.tally.weight == Weight::of(3));
    CHECK(moved.extra == Wide{60'000} * 3'000'000);  // 80 s instead of 20 s
    // Closed by a plan, a site on record is none in use.
    service::Plan plan;
    plan.changes.push_back({service::Change::close, "s1", {}});
    const auto closed = test::ask(road_of(1000), demand, schools({{0, {}}, {1000, {}}}), asked(AsRecorded{}), plan);
    CHECK(sites_of(closed) == std::vector<std::string>{"s0", "not_recorded", "not_recorded", "not_recorded"});
    // The way that is drawn is the one to the site on record.
    CHECK(read_place(*a.ready, a.outcome, DemandIndex(1U)).outcome.site == SiteIndex(1U));
    CHECK(read_place(*a.ready, a.outcome, DemandIndex(1U)).route.back().lon ==
          Approx(test::place({200, 0}).lon).epsilon(1e-9));
}

TEST_CASE("A zone goes as one to the site with the least weighted mean") {
    auto zones = std::make_shared<places::ZoneSet>();
    zones->name = "blocks";
    geo::Area block;
    block.add({test::place({0, -50}), test::place({650, -50}), test::place({650, 50}), test::place({0, 50})});
    zones->zones.push_back({"a", "", block});
    // Two near the first, one heavy one nearer to the second; the last is in no zone.
    const auto ready = prepare({road_of(1000).network(), pupils({{100, 1}, {200, 1}, {600, 9}, {700, 1}}),
                                schools({{0, {}}, {1000, {}}}), zones},
                               asked(WholeZones{}), nullptr, Task());
    const test::Answered a{ready, answer(*ready, {}, Task())};
    CHECK(sites_of(a) == std::vector<std::string>{"s1", "s1", "s1", "s1"});
    const auto light = prepare({road_of(1000).network(), pupils({{100, 1}, {200, 1}, {600, 1}, {700, 1}}),
                                schools({{0, {}}, {1000, {}}}), zones},
                               asked(WholeZones{}), nullptr, Task());
    CHECK(sites_of({light, answer(*light, {}, Task())}) == std::vector<std::string>{"s0", "s0", "s0", "s1"});
}

TEST_CASE("What a rule needs and the data does not say is named") {
    const places::Demand demand(std::shared_ptr<const places::DemandSet>(pupils({{100, 1}})));
    const places::Sites sites(std::shared_ptr<const places::SiteSet>(schools({{0, {}}})));
    const auto wrong = [&](const service::Serving& serving) {
        const auto missing = what_is_missing(serving, demand, sites, nullptr, nullptr);
        return missing ? missing->wrong : std::string();
    };
    CHECK(wrong(service::Nearest{}).empty());
    CHECK(wrong(SeveralNearest{}).empty());
    CHECK(wrong(AsCapacityAllows{}) == "no site has a capacity");
    CHECK(wrong(AsRecorded{}) == "no place has a recorded site");
    CHECK(wrong(WholeZones{}) == "there are no zones");
    CHECK(wrong(service::ByPairs{}) == "there is no table of pairs");
}

TEST_CASE("The few nearest are those of one search a site, on random towns, prepared or not") {
    int found = 0;
    for (std::uint32_t seed = 0; seed < 150; ++seed) {
        INFO("seed " << seed);
        const RandomTown t(seed);
        const auto plain = prepare({t.town.network(), t.demand, t.sites}, t.question, nullptr, Task());
        service::Ready fast = *plain;
        fast.prepared = prepare_searches(*plain, nullptr, nullptr, Task(), 1);
        const auto expected = slowly(*plain);
        for (const service::Ready* ready : {plain.get(), const_cast<const service::Ready*>(&fast)}) {
            const auto sites = attach_sites(*ready, {});
            const service::FewNearest few(*ready, ready->costed, sites);
            for (const std::size_t k : {std::size_t{1}, std::size_t{2}, std::size_t{5}, std::size_t{40}}) {
                std::vector<std::uint32_t> all(expected.size());
                std::iota(all.begin(), all.end(), 0U);
                const std::size_t at_most = std::min<std::size_t>(k, sites.size());
                for (const auto& table : {few.of_all(k, Task()), few.by_junctions(all, at_most, {}, Task()),
                                          few.by_sites(all, at_most, {}, false, Task())})
                    for (std::size_t i = 0; i < expected.size(); ++i) {
                        const auto row = table.of(i);
                        REQUIRE(row.size() == std::min(k, expected[i].size()));
                        REQUIRE(std::equal(row.begin(), row.end(), expected[i].begin()));
                        found += static_cast<int>(row.size());
                    }
            }
        }
    }
    CHECK(found > 10'000);
}

TEST_CASE("Journeys drawn many at once are those drawn one by one, on random towns") {
    std::size_t drawn = 0;
    for (std::uint32_t seed = 0; seed < 60; ++seed) {
        INFO("seed " << seed);
        RandomTown t(seed);
        t.question.serving = SeveralNearest{t.measure, 3, 1};
        const auto ready = prepare({t.town.network(), t.demand, t.sites}, t.question, nullptr, Task());
        const auto o = answer(*ready, {}, Task());
        std::vector<service::Journey> journeys;
        for (std::uint32_t i = 0; i < o.places.size(); ++i)
            each_journey(o, DemandIndex(i), [&](const service::Journey& j) { journeys.push_back(j); });
        const auto lines = journey_lines(*ready, o, journeys, Task());
        REQUIRE(lines.size() == journeys.size());
        for (std::size_t k = 0; k < lines.size(); ++k) {
            const auto alone = read_journey(*ready, o, journeys[k].place, journeys[k].site);
            REQUIRE(lines[k] == alone.route);
            REQUIRE(alone.outcome.time == journeys[k].time);
            drawn += lines[k].size();
        }
    }
    CHECK(drawn > 5'000);
}

TEST_CASE("Places go to the nearest site within whose own limit they are, as one search a site says") {
    int turned = 0;
    for (std::uint32_t seed = 0; seed < 80; ++seed) {
        INFO("seed " << seed);
        RandomTown t(seed);
        std::mt19937 dice(seed);
        for (auto& site : t.sites->sites)
            if (dice() % 3 != 0)
                site.limit = dice() % 2 == 0 ? Amount(Millis::seconds(10 + dice() % 60))
                                             : Amount(Millimetres::metres(50 + dice() % 500));
        t.question.own_limits = true;
        t.question.limit.reset();
        const auto ready = prepare({t.town.network(), t.demand, t.sites}, t.question, nullptr, Task());
        const auto rows = slowly_without_limits(*ready);
        const auto o = answer(*ready, {}, Task());
        for (std::size_t i = 0; i < rows.size(); ++i) {
            const bool by_time = t.measure == Measure::time;
            const auto within = std::find_if(rows[i].begin(), rows[i].end(), [&](const service::ReachableSite& r) {
                return !service::is_beyond(Millis(by_time ? r.cost : r.other), Millimetres(by_time ? r.other : r.cost),
                                           t.sites->sites[r.site].limit);
            });
            if (rows[i].empty()) {
                REQUIRE(!o.places[i].site);
            } else if (within == rows[i].end()) {
                REQUIRE(o.places[i].status == Status::beyond_limit);
                REQUIRE(o.places[i].site == SiteIndex(rows[i].front().site));
            } else {
                REQUIRE(o.places[i].status == Status::served);
                REQUIRE(o.places[i].site == SiteIndex(within->site));
                turned += within != rows[i].begin() ? 1 : 0;
                REQUIRE(read_place(*ready, o, DemandIndex(static_cast<std::uint32_t>(i))).outcome == o.places[i]);
            }
        }
    }
    CHECK(turned > 50);
}

TEST_CASE("Capacities keep to rooms and limits, and knowing few pairs at first finds the same, on random towns") {
    int full = 0, split = 0, added = 0, lacked = 0;
    for (std::uint32_t seed = 0; seed < 200; ++seed) {
        INFO("seed " << seed);
        RandomTown t(seed);
        const AsCapacityAllows rule{t.measure, seed % 2 == 0 ? Fill::least_travel : Fill::nearest_first, seed % 3 == 0,
                                    false};
        t.question.serving = rule;
        std::mt19937 dice(seed + 1'000);
        if (seed % 5 > 1)
            for (auto& site : t.sites->sites)
                if (dice() % 2 == 0) site.least = Weight::of(dice() % 12);
        const auto ready = prepare({t.town.network(), t.demand, t.sites}, t.question, nullptr, Task());
        const auto o = answer(*ready, {}, Task());
        const auto rows = slowly(*ready);
        std::vector<Weight> loads(o.sites.size());
        Weight all;
        each_part(o, [&](std::uint32_t i, const service::PlaceOutcome& p, Weight weight, bool) {
            all += weight;
            if (!p.served()) return;
            loads[p.site->value()] += weight;
            const bool by_time = t.measure == Measure::time;
            const service::ReachableSite r{static_cast<std::uint32_t>(by_time ? p.time.count() : p.distance.count()),
                                           static_cast<std::uint32_t>(p.site->value()),
                                           static_cast<std::uint32_t>(by_time ? p.distance.count() : p.time.count())};
            REQUIRE(std::find(rows[i].begin(), rows[i].end(), r) != rows[i].end());
            REQUIRE_FALSE(service::is_beyond(p.time, p.distance, t.question.limit));
        });
        REQUIRE(all == o.all.weight);
        for (std::size_t s = 0; s < loads.size(); ++s) {
            REQUIRE(loads[s] == o.sites[s].load);
            if (const auto& capacity = t.sites->sites[s].capacity) REQUIRE(loads[s] <= *capacity);
        }
        full += static_cast<int>(o.tally(Status::site_full).places);
        split += static_cast<int>(o.further.size());
        if (rule.fill == Fill::nearest_first) {
            // Held or searched for again and again: the same.
            service::Outcome searched = o;
            searched.further.clear();
            serve_as_capacity_allows(rule, *ready, searched, 0, 1, 0, Task());
            REQUIRE(searched.places == o.places);
            REQUIRE(searched.further == o.further);
            continue;
        }
        service::Outcome few = o;
        few.further.clear();
        serve_as_capacity_allows(rule, *ready, few, 0, 1, seed % 4 == 0 ? 0 : 1'000, Task());
        // With all pairs at hand the best of whole places is proven, which is no better than that of those split.
        REQUIRE(few.capacity->least_no_room <= o.capacity->least_no_room);
        if (few.capacity->least_no_room == o.capacity->least_no_room)
            REQUIRE(few.capacity->least_short <= o.capacity->least_short);
        lacked += o.capacity->least_short.count() > 0 ? 1 : 0;
        if (!rule.split) continue;
        REQUIRE(few.capacity->proven);
        REQUIRE(few.capacity->travel == o.capacity->travel);
        ++added;
    }
    CHECK(full > 100);
    CHECK(split > 10);
    CHECK(added > 20);
    CHECK(lacked > 20);
}
