// The best set of sites, standards of several steps, what hurts most and two plans held together, on small towns.
#include "service/best_set.h"

#include <algorithm>
#include <bit>
#include <catch2/catch.hpp>
#include <random>

#include "service/candidate_spots.h"
#include "service/compare.h"
#include "service/more_sets.h"
#include "service/pace.h"
#include "service/steps.h"
#include "service/weakest.h"
#include "support/closing.h"

using namespace otoro;
using namespace otoro::service;
using test::At;
using test::Town;

namespace {

/// Streets 100 m apart, some of them missing, one-way or off by themselves; an island that no road leads to.
Town random_town(std::mt19937& random) {
    Town town;
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(random() % n); };
    for (int x = 0; x < 5; ++x)
        for (int y = 0; y < 5; ++y) {
            const At here{100.0 * x, 100.0 * y};
            const auto kind = below(6) == 0 ? test::one_way() : test::road();
            if (x < 4 && below(7) != 0) town.draw({here, {here.x + 100, here.y}}, kind);
            if (y < 4 && below(7) != 0) town.draw({here, {here.x, here.y + 100}}, kind);
        }
    town.draw({{3000, 0}, {3100, 0}});
    return town;
}
At somewhere(std::mt19937& random) {
    if (random() % 12 == 0) return {3000.0 + static_cast<double>(random() % 100), 0};
    return {static_cast<double>(random() % 400), 100.0 * static_cast<double>(random() % 5)};
}

struct Case {
    std::shared_ptr<const Ready> ready;
    std::uint32_t candidates = 0;
};
Case random_case(std::mt19937& random, routing::Measure measure) {
    std::vector<std::pair<At, double>> homes;
    for (int i = 0; i < 25; ++i) homes.push_back({somewhere(random), 1.0 + static_cast<double>(random() % 5)});
    homes.push_back({{0, 5000}, 3});  // no road near
    std::vector<At> spots;
    for (int i = 0; i < 8; ++i) spots.push_back(somewhere(random));
    auto sites = std::make_shared<places::SiteSet>(*test::posts(spots));
    Case c;
    for (auto& site : sites->sites) {
        site.cost = Weight::of(1 + static_cast<double>(random() % 5));
        if (random() % 4 == 0) continue;
        site.state = places::SiteState::candidate;
        ++c.candidates;
    }
    auto q = test::question_at_36();
    q.serving = Nearest{measure};
    c.ready = prepare({random_town(random).network(), test::households(homes), sites}, q, nullptr, Task());
    return c;
}

/// The goal of an answer under the plan with this set, by what the answer says; lost ones first.
std::pair<Wide, Wide> by_answer(const Case& c, const BestSetAsked& asked, const std::vector<SiteOutcome>& sites,
                                const BestSet& set) {
    const Outcome o = answer(*c.ready, plan_with({}, sites, set, "p"), Task());
    if (has_limit(asked.goal)) return {0, within(o, *asked.within).weight.count()};
    Wide lost = 0, travel = 0, worst = 0;
    for (std::size_t i = 0; i < o.places.size(); ++i) {
        if (!o.places[i].served()) {
            lost += o.weights[i].count();
            continue;
        }
        const std::int64_t cost =
            o.question.measure() == routing::Measure::time ? o.places[i].time.count() : o.places[i].distance.count();
        travel += static_cast<Wide>(cost) * o.weights[i].count();
        worst = std::max<Wide>(worst, cost);
    }
    return {lost, asked.goal == Goal::travel ? travel : worst};
}

}  // namespace

TEST_CASE("The best set is that of answering under every set, by either measure, whatever is kept") {
    std::mt19937 random(21);
    int compared = 0, limited = 0;
    for (int n = 0; n < 60; ++n) {
        INFO("case " << n);
        const Case c = random_case(random, n % 2 == 0 ? routing::Measure::time : routing::Measure::distance);
        SetChooser chooser(c.ready, {}, Task());
        BestSetAsked asked;
        asked.goal = std::array{Goal::cover, Goal::travel, Goal::worst}[static_cast<std::size_t>(n % 3)];
        if (asked.goal == Goal::cover) {
            if (n % 2 == 0)
                asked.within = Millis(12'000);
            else
                asked.within = Millimetres::metres(120);
        }
        asked.keep_open = n % 4 != 0;
        asked.choose = 1 + static_cast<std::uint32_t>(n % 3);
        std::vector<SiteIndex> may, kept;
        for (std::uint32_t i = 0; i < chooser.sites().size(); ++i) {
            const SiteIndex site(i);
            if (asked.keep_open && chooser.is_open(site))
                kept.push_back(site);
            else if (chooser.in_question(site))
                may.push_back(site);
        }
        if (may.size() < asked.choose) {
            CHECK_THROWS_AS(chooser.best(asked, {}, Task()), InputError);
            continue;
        }
        const auto closes = [&](const std::vector<SiteIndex>& chosen) {
            return std::count_if(may.begin(), may.end(), [&](SiteIndex s) {
                return chooser.is_open(s) && std::find(chosen.begin(), chosen.end(), s) == chosen.end();
            });
        };
        // Where they need not be kept, one or two at most are closed.
        if (!asked.keep_open && n % 3 != 0) {
            asked.close_at_most = 1 + static_cast<std::uint32_t>(n % 2);
            if (closes({}) > *asked.close_at_most + asked.choose) {
                CHECK_THROWS_WITH(chooser.best(asked, {}, Task()), Catch::Contains("open ones stay"));
                continue;
            }
            ++limited;
        }
        const BestSet best = chooser.best(asked, {}, Task());
        REQUIRE(closed_by(chooser.sites(), best).size() == static_cast<std::size_t>(closes(best.chosen)));
        if (asked.close_at_most) REQUIRE(closes(best.chosen) <= *asked.close_at_most);
        REQUIRE(best.proven());
        REQUIRE(best.chosen.size() + best.spare == asked.choose);
        const auto said = by_answer(c, asked, chooser.sites(), best);
        REQUIRE(said.second == best.value);
        // Everybody is in one count.
        REQUIRE(best.reached + best.not_reached + best.beyond_all.weight + best.unreachable.weight == best.all);
        if (asked.goal != Goal::cover)
            REQUIRE(said.first == (best.not_reached + best.unreachable.weight).count());
        else
            REQUIRE(best.reached.count() == static_cast<std::int64_t>(best.value));
        // Left off at once there is a set nevertheless, and its bound holds.
        const BestSet at_once = chooser.best(asked, {}, Task().leaving_off(Task::Clock::now()));
        REQUIRE((asked.goal == Goal::cover ? at_once.bound >= best.value : at_once.bound <= best.value));
        REQUIRE((at_once.left_off || at_once.proven()));
        for (std::uint32_t bits = 0; bits < 1U << may.size(); ++bits) {
            if (std::popcount(bits) != static_cast<int>(asked.choose)) continue;
            BestSet other = best;
            other.chosen.clear();
            for (std::uint32_t k = 0; k < may.size(); ++k)
                if ((bits >> k & 1U) != 0) other.chosen.push_back(may[k]);
            if (asked.close_at_most && closes(other.chosen) > *asked.close_at_most) continue;
            const auto found = by_answer(c, asked, chooser.sites(), other);
            if (asked.goal == Goal::cover)
                REQUIRE(found.second <= said.second);
            else
                REQUIRE(said <= found);
            ++compared;
        }
    }
    CHECK(compared > 500);
    CHECK(limited > 5);
}

TEST_CASE("Work is left off at the first moment that is set for it, and by whoever wants no more of it") {
    std::stop_source one, other;
    const auto later = Task::Clock::now() + std::chrono::hours(1);
    const Task task = Task().leaving_off(later, one.get_token()).leaving_off(std::nullopt, other.get_token());
    CHECK_FALSE(task.leave_off());
    CHECK(task.leaving_off(Task::Clock::now()).leave_off());
    CHECK(task.leaving_off(Task::Clock::now()).leaving_off(later).leave_off());
    one.request_stop();
    CHECK(task.leave_off());
    CHECK_FALSE(task.to_the_end().leave_off());
    const Task by_other = Task().leaving_off(later, std::stop_token()).leaving_off(std::nullopt, other.get_token());
    CHECK_FALSE(by_other.leave_off());
    other.request_stop();
    CHECK(by_other.leave_off());
}

TEST_CASE("What cannot be asked for is refused with its reason") {
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {400, 0}, {450, 0}, {1000, 0}}));
    for (std::size_t i = 1; i < 4; ++i) sites->sites[i].state = places::SiteState::candidate;
    const auto ready = prepare({town.network(), test::households({{{100, 0}, 2}, {{900, 0}, 3}}), sites},
                               test::question_at_36(), nullptr, Task());
    SetChooser chooser(ready, {}, Task());
    BestSetAsked asked;
    asked.within = Millis(20'000);
    const auto refused = [&](const BestSetAsked& a, const std::string& why) {
        CHECK_THROWS_WITH(chooser.best(a, {}, Task()), Catch::Contains(why));
    };
    BestSetAsked a = asked;
    a.choose = 4;
    refused(a, "4 are to be chosen, and there are 3 to choose from");
    a = asked;
    a.required = {SiteIndex(1U), SiteIndex(2U)};
    refused(a, "1 are to be chosen, and 2 are required");
    a.choose = 2;
    a.apart = Millimetres::metres(100);
    refused(a, "sites s1 and s2 are to be open and nearer to one another than 100 m");
    a = asked;
    a.required = {SiteIndex(1U)};
    a.forbidden = {SiteIndex(1U)};
    refused(a, "site s1 is required and forbidden");
    a = asked;
    a.forbidden = {SiteIndex(0U)};
    refused(a, "site s0 is forbidden and open");
    a = asked;
    a.budget = Weight::of(10);
    refused(a, "site s1 may be chosen and has no cost");
    a = asked;
    a.within.reset();
    refused(a, "not said within what");
    a = asked;
    a.goal = Goal::fewest;
    a.within = Millis(5'000);
    a.share = Share::percent(90);
    refused(a, "no set brings 90 % within 0.083 min: all sites in question together bring 0 %");
    a = asked;
    a.keep_open = false;
    a.close_at_most = 0;
    a.forbidden = {SiteIndex(0U)};
    refused(a, "open sites are forbidden (s0), and no more than 0 may be closed");
    a.forbidden = {};
    a.required = {SiteIndex(1U)};
    refused(a, "1 are to be chosen, at least 1 of the 1 open ones stay, and 1 others are required");
    // What contradicts what is looked at to the end, even where the search had none.
    a = asked;
    a.choose = 2;
    a.one_of = {{SiteIndex(1U)}, {SiteIndex(2U)}, {SiteIndex(3U)}};
    a.conflicts = {{SiteIndex(1U), SiteIndex(2U)}, {SiteIndex(2U), SiteIndex(3U)}};
    const std::string only = "asked: s1 and s2 are not both open; one of s1 is open; one of s2 is open.";
    CHECK_THROWS_WITH(chooser.best(a, {}, Task()), Catch::Contains("no set keeps to everything that is " + only));
    CHECK_THROWS_WITH(chooser.best(a, {}, Task().leaving_off(Task::Clock::now())),
                      Catch::Contains("no set keeps to everything that is " + only));
    // Two that are near one another are not both chosen.
    a = asked;
    a.choose = 2;
    a.apart = Millimetres::metres(100);
    const BestSet apart = chooser.best(a, {}, Task());
    CHECK(apart.chosen.size() + apart.spare == 2);
    CHECK(apart.chosen.back() == SiteIndex(3U));
}

TEST_CASE("The plan of a set opens what is chosen and closes what is neither chosen nor kept") {
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {500, 0}}));
    sites->sites[1].state = places::SiteState::candidate;
    const auto ready =
        prepare({town.network(), test::households({{{500, 0}, 2}}), sites}, test::question_at_36(), nullptr, Task());
    SetChooser chooser(ready, {}, Task());
    BestSetAsked asked;
    asked.goal = Goal::travel;
    asked.keep_open = false;
    const BestSet best = chooser.best(asked, {}, Task());
    const Plan plan = plan_with({}, chooser.sites(), best, "Best one");
    REQUIRE(plan.changes.size() == 2);
    CHECK(plan.changes[0].change == Change::close);
    CHECK(plan.changes[0].site == "s0");
    CHECK(plan.changes[1].change == Change::open);
    CHECK(plan.changes[1].site == "s1");
    CHECK(best.value == 0);
}

TEST_CASE("With room for only so many the best set is another, and its value what finds room") {
    // A street: three homes of four by the first candidate, one of five by the second, which takes all.
    Town town;
    town.draw({{0, 0}, {2000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{100, 0}, {1500, 0}}));
    for (auto& s : sites->sites) s.state = places::SiteState::candidate;
    sites->sites[0].capacity = Weight::of(4.5);
    const auto ready =
        prepare({town.network(), test::households({{{0, 0}, 4}, {{50, 0}, 4}, {{150, 0}, 4}, {{1500, 0}, 5}}), sites},
                test::question_at_36(), nullptr, Task());
    SetChooser chooser(ready, {}, Task());
    BestSetAsked asked;
    asked.within = Millis(15'000);
    CHECK(chooser.best(asked, {}, Task()).chosen == std::vector{SiteIndex(0U)});
    asked.heed_room = true;
    const BestSet best = chooser.best(asked, {}, Task());
    CHECK(best.chosen == std::vector{SiteIndex(1U)});
    CHECK(best.value == Weight::of(5).count());
    CHECK(best.proven());
    CHECK_THAT(sentence(ready->inputs, ready->question, asked), Catch::Contains("within 0.25 min and find room."));
    asked.choose = 2;
    CHECK(chooser.best(asked, {}, Task()).value == Weight::of(9.5).count());
    asked.goal = Goal::backup;
    CHECK_THROWS_WITH(chooser.best(asked, {}, Task()), Catch::Contains("room is heeded by most cover alone"));
}

TEST_CASE("Others nearly as good are all there are, in their order, and a step's price is its best set") {
    std::mt19937 random(53);
    int shut = 0;
    for (int round = 0; round < 12; ++round) {
        const Case c = random_case(random, routing::Measure::time);
        if (c.candidates < 3) continue;
        BestSetAsked asked;
        asked.goal = round % 2 == 0 ? Goal::cover : Goal::travel;
        if (asked.goal == Goal::cover) asked.within = Millis(20'000);
        asked.choose = 2;
        SetChooser chooser(c.ready, {}, Task());
        const BestSet best = chooser.best(asked, {}, Task());
        if (best.chosen.size() != 2) continue;
        // Every pair, asked for by requiring it.
        std::vector<SiteIndex> candidates;
        for (std::uint32_t i = 0; i < chooser.sites().size(); ++i)
            if (chooser.in_question(SiteIndex(i)) && !chooser.is_open(SiteIndex(i))) candidates.emplace_back(i);
        std::vector<std::pair<double, std::vector<SiteIndex>>> expected;
        for (std::size_t a = 0; a < candidates.size(); ++a)
            for (std::size_t b = a + 1; b < candidates.size(); ++b) {
                BestSetAsked both = asked;
                both.required = {candidates[a], candidates[b]};
                const BestSet set = chooser.best(both, {}, Task());
                // Travel of fewer is no travel of all.
                if (set.chosen == best.chosen ||
                    (asked.goal == Goal::travel &&
                     set.not_reached + set.unreachable.weight != best.not_reached + best.unreachable.weight))
                    continue;
                if (const double worse = worse_by(best, set); worse <= 0.2) expected.emplace_back(worse, set.chosen);
            }
        // Of a pair of which one brings nothing, the other alone is listed.
        const auto alone = [&](SiteIndex site) {
            BestSetAsked one = asked;
            one.choose = 1;
            one.required = {site};
            return chooser.best(one, {}, Task());
        };
        const auto as_good_alone = [&](double worse, SiteIndex site) {
            const BestSet set = alone(site);
            return lost(set) == lost(best) && worse_by(best, set) == worse;
        };
        const auto all = nearly_as_good(chooser, asked, best, 0.2, 1'000, {}, Task());
        CHECK(all.complete);
        const auto& near = all.sets;
        const auto both_help =
            static_cast<std::size_t>(std::count_if(expected.begin(), expected.end(), [&](const auto& e) {
                return !as_good_alone(e.first, e.second[0]) && !as_good_alone(e.first, e.second[1]);
            }));
        const auto pairs = static_cast<std::size_t>(
            std::count_if(near.begin(), near.end(), [](const BestSet& s) { return s.chosen.size() == 2; }));
        REQUIRE(pairs == both_help);
        for (const auto& e : expected) {
            const auto& pair = e.second;
            if (std::any_of(near.begin(), near.end(), [&](const BestSet& s) { return s.chosen == pair; })) continue;
            CHECK(std::any_of(near.begin(), near.end(), [&](const BestSet& s) {
                return s.chosen.size() == 1 && worse_by(best, s) == e.first &&
                       (s.chosen[0] == pair[0] || s.chosen[0] == pair[1]);
            }));
        }
        double before = 0;
        for (const BestSet& set : near) {
            const double worse = worse_by(best, set);
            CHECK(worse >= before);
            before = worse;
            if (set.chosen.size() == 1)
                CHECK(as_good_alone(worse, set.chosen[0]));
            else
                CHECK(std::any_of(expected.begin(), expected.end(),
                                  [&](const auto& e) { return e.second == set.chosen && e.first == worse; }));
        }
        const auto few = nearly_as_good(chooser, asked, best, 0.2, 1, {}, Task());
        CHECK(few.sets.size() == std::min<std::size_t>(1, near.size()));
        if (few.complete) CHECK(near.size() <= 1);

        const auto steps = price_of_steps(chooser, asked, {}, Task()).sets;
        REQUIRE(steps.size() == 2);  // the second brings something, or the best would be one
        CHECK(steps.back().value == best.value);
        CHECK(steps.back().chosen == best.chosen);
        const Task over = Task().leaving_off(Task::Clock::now());
        CHECK_FALSE(nearly_as_good(chooser, asked, best, 0.2, 1'000, {}, over).complete);
        CHECK(price_of_steps(chooser, asked, {}, over).left_off_from == 1);
        CHECK(price_of_steps(chooser, asked, {}, over).enough == 0);
        const auto sure =
            how_sure(chooser, c.ready, {}, asked, best, {Share::percent(50), Share::percent(200)}, {}, Task());
        const auto equal = std::count_if(expected.begin(), expected.end(), [](const auto& e) { return e.first == 0; });
        CHECK(sure.as_good == static_cast<std::size_t>(equal));
        CHECK(sure.as_good_complete);
        for (const Variant& v : sure.variants) {
            if (!v.set.any || !v.chosen.any) continue;
            CHECK(v.chosen.chosen == best.chosen);
            CHECK((asked.goal == Goal::cover ? v.chosen.value <= v.set.value : true));
        }
        CHECK(how_sure(chooser, c.ready, {}, asked, best, {Share::percent(50)}, {}, over).left_off > 0);
        REQUIRE(sure.variants.size() >= 4);
        CHECK(sure.variants[1].what == "at 50 % of the speed");
        SetChooser slow(at_pace(*c.ready, Share::percent(50), Task()), {}, Task());
        CHECK(sure.variants[1].set.chosen == slow.best(asked, {}, Task()).chosen);
        // With the busiest road of each shut.
        const auto then = answer(*c.ready, plan_with({}, chooser.sites(), best, ""), Task());
        const auto busiest = busiest_roads(*c.ready, then, best.chosen, asked.within, Task());
        REQUIRE(sure.variants.size() == 4 + busiest.size());
        for (std::size_t k = 0; k < busiest.size(); ++k) {
            Plan plan;
            plan.closures.push_back({"shut", roads::ClosureShape::point, {busiest[k].middle}});
            SetChooser without(c.ready, plan, Task());
            CHECK(sure.variants[4 + k].set.chosen == without.best(asked, {}, Task()).chosen);
            shut += 1;
        }
        std::uint32_t times = 0;
        for (const std::uint32_t t : sure.times) times += t;
        std::size_t chosen = 0;
        for (const auto& v : sure.variants) chosen += v.set.chosen.size();
        CHECK(times == chosen);
    }
    CHECK(shut > 5);
}

TEST_CASE("Candidates on a grid, at junctions and where demand stands") {
    Town town;
    town.draw({{0, 0}, {500, 0}}).draw({{500, 0}, {1000, 0}}).draw({{500, 0}, {500, 400}});
    const places::Demand demand(test::households({{{0, 0}, 1}, {{1000, 400}, 1}, {{0, 0}, 2}}));
    const auto grid = grid_candidates(demand, Millimetres::metres(250));
    CHECK(grid.sites.size() == 10);  // five by two
    CHECK(grid.sites.front().id == "grid-1");
    CHECK(grid.sites.front().state == places::SiteState::candidate);
    CHECK(junction_candidates(*town.network()).sites.size() == 1);
    CHECK(demand_candidates(demand).sites.size() == 2);
    CHECK_THROWS_WITH(grid_candidates(demand, Millimetres(100)), Catch::Contains("more than"));
}

TEST_CASE("Steps are judged without rounding, for all, by group, and for a second site") {
    Town town;
    town.draw({{0, 0}, {3000, 0}});
    auto homes = std::make_shared<places::DemandSet>(
        *test::households({{{100, 0}, 1}, {{200, 0}, 1}, {{900, 0}, 1}, {{2000, 0}, 0.000001}}));
    for (const char* group : {"young", "young", "old", "old"}) homes->group.push_back(group);
    const auto ready =
        prepare({town.network(), homes, test::posts({{0, 0}, {1000, 0}})}, test::question_at_36(), nullptr, Task());
    const Outcome o = answer(*ready, {}, Task());
    StepsAsked asked;
    asked.by_group = true;
    asked.steps = parse_steps("60% within 30s, all within 2min, 50% within 95s by 2, all within 25s for young");
    const auto r = judge_steps(*ready, o, asked, Task());
    CHECK(describe(asked.steps[2]) == "50 % within 1.583 min by 2");
    // Three of three and a millionth are within 30 s: at 100, 200 and 900 m.
    CHECK(r.of_step[0].met);
    CHECK(r.of_step[0].inside.places == 3);
    // Two at 100 m from a site would do.
    CHECK(std::abs(*r.of_step[0].met_at - 10'000) <= 2);
    CHECK(r.of_step[1].met);
    // Second sites are 90, 80, 90 and 200 s away.
    CHECK(r.of_step[2].inside.places == 3);
    CHECK(r.of_step[3].met);
    CHECK(r.met);
    asked.steps = parse_steps("all within 30s");
    const auto missed = judge_steps(*ready, o, asked, Task());
    CHECK(!missed.met);  // by a millionth, although the share is said as 99.9 %
    CHECK(missed.of_step[0].missed.count() == 1);
    REQUIRE(missed.most_missed);
    CHECK(missed.parts[*missed.most_missed].row.name == "old");
    // Both sites are free with three in four, one alone with a half.
    asked.busy = Share::percent(50);
    asked.steps = parse_steps("60% within 90s");
    CHECK(judge_steps(*ready, o, asked, Task()).of_step[0].expected == Approx(2.25));
    CHECK_THROWS_WITH(parse_steps("90% within 8"), Catch::Contains("is no step of a standard"));
    CHECK_THROWS_WITH(parse_steps("90% within 8min,"), Catch::Contains("a step is empty"));
    asked.steps = parse_steps("90% within 8min for nobody");
    CHECK_THROWS_WITH(judge_steps(*ready, o, asked, Task()), Catch::Contains("no zone and no group"));
}

TEST_CASE("A step for whom nobody is is neither met nor missed, and a step for one zone is judged there in every row") {
    // East are the two farther ones; of the young one is there, and of those that count nothing none.
    Town town;
    town.draw({{0, 0}, {3000, 0}});
    auto homes = std::make_shared<places::DemandSet>(
        *test::households({{{100, 0}, 1}, {{200, 0}, 2}, {{900, 0}, 4}, {{2000, 0}, 8}, {{50, 0}, 0}}));
    for (const char* group : {"young", "old", "young", "old", "gone"}) homes->group.push_back(group);
    auto zones = std::make_shared<places::ZoneSet>();
    const auto box = [](double west, double east) {
        geo::Area area;
        area.add(
            {test::place({west, -50}), test::place({east, -50}), test::place({east, 50}), test::place({west, 50})});
        return area;
    };
    zones->zones = {{"w", "West", box(-10, 500)}, {"e", "East", box(500, 2500)}};
    auto ready =
        prepare({town.network(), homes, test::posts({{0, 0}}), zones}, test::question_at_36(), nullptr, Task());
    const Outcome o = answer(*ready, {}, Task());
    StepsAsked asked;
    asked.by_zone = asked.by_group = true;
    asked.steps = parse_steps("all within 30s for gone, 30% within 100s for East");
    const auto r = judge_steps(*ready, o, asked, Task());
    CHECK(r.of_step[0].judged() == Judged::nobody);
    CHECK(r.of_step[1].judged() == Judged::met);  // four of twelve
    CHECK(r.met);
    const auto row = [&](const std::string& name) -> const PartResult& {
        return *std::find_if(r.parts.begin(), r.parts.end(), [&](const auto& p) { return p.row.name == name; });
    };
    CHECK(row("West").steps[1].judged() == Judged::nobody);
    CHECK(row("East").steps[1].all.weight == Weight::of(12));
    CHECK(row("young").steps[1].all.weight == Weight::of(4));
    CHECK(row("young").steps[1].judged() == Judged::met);
    CHECK(row("old").steps[1].all.weight == Weight::of(8));
    CHECK(row("old").steps[1].judged() == Judged::missed);
    CHECK(words(row("West").steps[1].judged()) == "nobody there");
    // Where no step has anybody, nothing at all is met or missed.
    asked.steps = parse_steps("all within 30s for gone");
    CHECK_THAT(verdict_words(judge_steps(*ready, o, asked, Task()), "residents"), Catch::Contains("Nobody there"));
}

TEST_CASE("At half the speed everything takes twice as long") {
    std::mt19937 random(22);
    const Case c = random_case(random, routing::Measure::time);
    const Outcome now = answer(*c.ready, {}, Task()),
                  then = answer(*at_pace(*c.ready, Share::percent(50), Task()), {}, Task());
    for (std::size_t i = 0; i < now.places.size(); ++i) {
        REQUIRE(now.places[i].status == then.places[i].status);
        CHECK(std::abs(then.places[i].time.count() - 2 * now.places[i].time.count()) <= 20);
    }
}

TEST_CASE("The road that hurts most is that of closing every road in turn") {
    std::mt19937 random(23);
    for (int n = 0; n < 12; ++n) {
        INFO("case " << n);
        const Case c = random_case(random, routing::Measure::time);
        const Standard standard{Share::percent(90), Millis(25'000)};
        const Outcome o = answer(*c.ready, {}, Task());
        const auto found = weakest_roads(*c.ready, o, standard, 5, Task());
        const auto& net = *c.ready->inputs.network;
        std::vector<std::int64_t> losses;
        for (std::uint32_t l = 0; l < net.link_count(); ++l) {
            const auto shape = net.shape(LinkId(l));
            const geo::LonLat middle = geo::between(shape[0], shape[1], 0.5);
            Plan plan;
            plan.closures.push_back({"c", roads::ClosureShape::point, {middle}});
            const auto then = judge(answer(*c.ready, plan, Task()), standard);
            losses.push_back(judge(o, standard).inside.weight.count() - then.inside.weight.count());
        }
        std::sort(losses.rbegin(), losses.rend());
        for (std::size_t k = 0; k < 5; ++k) {
            if (k >= found.size()) {
                CHECK(losses[k] == 0);
                continue;
            }
            CHECK(found[k].lost.weight.count() == losses[k]);
        }
    }
}

TEST_CASE("How sure a set is goes by the nearest, whatever rule the question itself has") {
    std::mt19937 random(61);
    int roads = 0;
    for (int round = 0; round < 6; ++round) {
        const Case c = random_case(random, routing::Measure::time);
        if (c.candidates < 3) continue;
        BestSetAsked asked;
        asked.within = Millis(20'000);
        asked.choose = 2;
        const auto by = [&](const Serving& serving, SiteUse use) {
            auto q = c.ready->question;
            q.serving = serving;
            q.use = use;
            const auto ready = prepare(c.ready->inputs, q, nullptr, Task());
            SetChooser chooser(ready, {}, Task());
            const auto sure = how_sure(chooser, ready, {}, asked, chooser.best(asked, {}, Task()), {}, {}, Task());
            std::vector<std::pair<std::string, std::vector<SiteIndex>>> out;
            for (const auto& v : sure.variants) out.emplace_back(v.what, v.set.chosen);
            return out;
        };
        const auto nearest = by(Nearest{}, SiteUse::open);
        CHECK(by(AsRecorded{}, SiteUse::open) == nearest);
        CHECK(by(AsCapacityAllows{}, SiteUse::open) == nearest);
        CHECK(by(Nearest{}, SiteUse::open_and_candidate) == nearest);
        roads += static_cast<int>(nearest.size()) - 2;
    }
    CHECK(roads > 2);
}

TEST_CASE("The busiest road of a site is the one that most come over") {
    // A crossing with a site beside it: one come from the north, two from the east, five from beyond the far crossing.
    Town town;
    town.draw({{0, 0}, {0, 400}}).draw({{0, 0}, {400, 0}}).draw({{0, 0}, {-400, 0}}).draw({{-400, 0}, {-800, 0}});
    const auto ready =
        prepare({town.network(), test::households({{{0, 400}, 1}, {{400, 0}, 2}, {{-790, 0}, 3}, {{-410, 0}, 2}}),
                 test::posts({{0, 0}, {3000, 3000}})},
                test::question_at_36(), nullptr, Task());
    const Outcome o = answer(*ready, {}, Task());
    const std::vector both{SiteIndex(0U), SiteIndex(1U)};
    const auto found = busiest_roads(*ready, o, both, std::nullopt, Task());
    REQUIRE(found.size() == 1);  // nobody comes to the other
    CHECK(found[0].link == LinkId(2U));
    CHECK(found[0].over_it.weight == Weight::of(5));
    CHECK(found[0].over_it.places == 2);
    // Within the limit only those from the near end of that road, and from the east.
    const auto near = busiest_roads(*ready, o, both, Amount(Millis(41'500)), Task());
    REQUIRE(near.size() == 1);
    CHECK(near[0].over_it.weight == Weight::of(2));
    CHECK(near[0].link == LinkId(1U));  // of equals the first
}

TEST_CASE("Who gains and who loses between two plans") {
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {1000, 0}}));
    sites->sites[1].state = places::SiteState::candidate;
    auto q = test::question_at_36();
    q.standard = Standard{Share::percent(90), Millis(30'000)};
    const auto ready = prepare({town.network(), test::households({{{100, 0}, 1}, {{600, 0}, 2}, {{800, 0}, 4}}), sites},
                               q, nullptr, Task());
    const Outcome today = answer(*ready, {}, Task());
    const Outcome both = answer(*ready, {"both", {{Change::open, "s1", {}}}, {}}, Task());
    const Outcome moved = answer(*ready, {"moved", {{Change::open, "s1", {}}, {Change::close, "s0", {}}}, {}}, Task());
    const auto gained = differences(today, both);
    CHECK(gained[0].kind == Difference::same);
    CHECK(gained[1].kind == Difference::nearer);  // from 60 to 40 s, and both are beyond 30
    CHECK(gained[2].kind == Difference::newly_within);
    CHECK(gained[2].farther_by() == -60'000);
    const auto sums = sum_up(both, gained);
    CHECK(sums.of(Difference::newly_within).weight == Weight::of(4));
    CHECK(sums.changes_site.weight == Weight::of(6));
    CHECK(sums.saved == Wide{20'000} * 2'000'000 + Wide{60'000} * 4'000'000);
    CHECK(differences(today, moved)[0].kind == Difference::newly_beyond);
    // Beyond the standard before; reached by nobody after: not farther by nothing.
    const Outcome none = answer(*ready, {"none", {{Change::close, "s0", {}}}, {}}, Task());
    CHECK(differences(today, none)[1].kind == Difference::cut_off);
    CHECK(differences(none, today)[1].kind == Difference::newly_reached);
    CHECK_FALSE(differences(today, none)[1].farther_by());
    const auto figures = figures_of(both);
    CHECK(figures.sites_open == 2);
    CHECK(!figures.cost);
    CHECK(figures.verdict->inside.weight == Weight::of(5));
}

TEST_CASE("A place that is split counts part by part, as the verdict does") {
    // Seats for two at the near school and for four at the far one; five come from one place.
    Town town;
    town.draw({{0, 0}, {2000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {1000, 0}}));
    sites->sites[0].capacity = Weight::of(2);
    sites->sites[1].capacity = Weight::of(2);
    auto q = test::question_at_36();
    q.serving = AsCapacityAllows{routing::Measure::time, AsCapacityAllows::Fill::least_travel, true};
    const auto ready = prepare({town.network(), test::households({{{100, 0}, 5}}), sites}, q, nullptr, Task());
    const Outcome o = answer(*ready, {}, Task());
    for (const auto limit : {20'000, 100'000}) {
        StepsAsked asked;
        asked.steps = {{Share::percent(90), Millis(limit)}};
        const auto judged = judge_steps(*ready, o, asked, Task()).of_step[0];
        const auto verdict = judge(o, {Share::percent(90), Millis(limit)});
        CHECK(judged.inside.weight == verdict.inside.weight);
        CHECK(judged.inside.weight == Weight::of(limit == 20'000 ? 2 : 4));
        CHECK(judged.all.weight == Weight::of(5));
    }
}

TEST_CASE("Of a set no site can be left out at no loss, and of a number no smaller set is as good") {
    std::mt19937 random(77);
    int fewer = 0, none_needed = 0;
    for (int n = 0; n < 90; ++n) {
        INFO("case " << n);
        const Case c = random_case(random, n % 2 == 0 ? routing::Measure::time : routing::Measure::distance);
        if (c.candidates == 0) continue;
        SetChooser chooser(c.ready, {}, Task());
        BestSetAsked asked;
        asked.goal = std::array{Goal::cover, Goal::travel, Goal::worst, Goal::backup, Goal::expected}[n % 5];
        if (has_limit(asked.goal)) asked.within = Millis(n % 3 == 0 ? 60'000 : 12'000);
        asked.keep_open = n % 4 != 0;
        std::vector<SiteIndex> may;
        for (std::uint32_t i = 0; i < chooser.sites().size(); ++i)
            if (chooser.in_question(SiteIndex(i)) && !(asked.keep_open && chooser.is_open(SiteIndex(i))))
                may.emplace_back(i);
        if (may.size() < 2) continue;
        asked.choose = static_cast<std::uint32_t>(may.size());
        if (n % 7 == 0) asked.required = {may.front()};
        if (n % 11 == 0) asked.budget = Weight::of(1'000);
        const BestSet best = chooser.best(asked, {}, Task());
        REQUIRE(best.proven());
        if (!asked.budget) REQUIRE(best.chosen.size() + best.spare == may.size());
        fewer += best.spare > 0 ? 1 : 0;
        none_needed += best.chosen.empty() ? 1 : 0;
        for (const SiteIndex r : asked.required) REQUIRE(std::binary_search(best.chosen.begin(), best.chosen.end(), r));
        // What a set is worth: required, all others forbidden; by itself, and with everything.
        BestSetLimits exact;
        exact.as_few_as_help = false;
        const auto worth = [&](const std::vector<SiteIndex>& chosen) {
            BestSet set = best;
            set.chosen = chosen;
            if (asked.goal == Goal::cover || asked.goal == Goal::travel || asked.goal == Goal::worst) {
                const auto [lost, value] = by_answer(c, asked, chooser.sites(), set);
                return std::pair(lost, asked.goal == Goal::cover ? -value : value);
            }
            BestSetAsked just = asked;
            just.budget.reset();
            just.choose = static_cast<std::uint32_t>(chosen.size());
            just.required = chosen;
            return std::pair<Wide, Wide>(0, -chooser.best(just, exact, Task()).value);
        };
        // What none at all are worth is told by an answer alone.
        const bool told_by_answer = asked.goal != Goal::backup && asked.goal != Goal::expected;
        if (best.chosen.empty() && !told_by_answer) continue;
        const auto of_best = worth(best.chosen);
        REQUIRE(of_best == worth(may));
        for (std::uint32_t bits = 0; bits < 1U << may.size(); ++bits) {
            std::vector<SiteIndex> other;
            for (std::uint32_t k = 0; k < may.size(); ++k)
                if ((bits >> k & 1U) != 0) other.push_back(may[k]);
            const bool part = std::includes(best.chosen.begin(), best.chosen.end(), other.begin(), other.end());
            const bool smaller =
                asked.budget ? part && other.size() + 1 == best.chosen.size() : other.size() < best.chosen.size();
            if (!smaller || (other.empty() && !told_by_answer) ||
                std::any_of(asked.required.begin(), asked.required.end(),
                            [&](SiteIndex r) { return std::find(other.begin(), other.end(), r) == other.end(); }))
                continue;
            REQUIRE(worth(other) > of_best);
        }
    }
    CHECK(fewer > 20);
    CHECK(none_needed > 0);
}

TEST_CASE("The price of every step ends where gain ends") {
    // Two hamlets, and a candidate in each; two more stand beside the first.
    Town town;
    town.draw({{0, 0}, {2000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {10, 0}, {20, 0}, {2000, 0}}));
    for (auto& site : sites->sites) site.state = places::SiteState::candidate;
    auto q = test::question_at_36();
    const auto ready =
        prepare({town.network(), test::households({{{5, 0}, 1}, {{1990, 0}, 2}}), sites}, q, nullptr, Task());
    SetChooser chooser(ready, {}, Task());
    BestSetAsked asked;
    asked.within = Millis(10'000);
    asked.choose = 4;
    const BestSet best = chooser.best(asked, {}, Task());
    CHECK(best.chosen.size() == 2);
    CHECK(best.spare == 2);
    const auto steps = price_of_steps(chooser, asked, {}, Task());
    CHECK(steps.sets.size() == 2);
    CHECK(steps.enough == 2);
    asked.choose = 2;
    CHECK(price_of_steps(chooser, asked, {}, Task()).enough == 0);
    CHECK(chooser.best(asked, {}, Task()).spare == 0);
}

TEST_CASE("With capacities too no site of a set can be left out, and of a budget none") {
    std::mt19937 random(91);
    int fewer = 0, all_out = 0;
    for (int n = 0; n < 60; ++n) {
        INFO("case " << n);
        Case c = random_case(random, routing::Measure::time);
        auto sites = std::make_shared<places::SiteSet>(*c.ready->inputs.sites.sets().front());
        for (auto& site : sites->sites)
            if (random() % 3 != 0) site.capacity = Weight::of(1 + static_cast<double>(random() % 40));
        auto inputs = c.ready->inputs;
        inputs.sites = sites;
        SetChooser chooser(prepare(inputs, c.ready->question, nullptr, Task()), {}, Task());
        BestSetAsked asked;
        asked.within = Millis(n % 3 == 0 ? 8'000 : 60'000);
        asked.heed_room = true;
        asked.keep_open = n % 2 == 0;
        std::vector<SiteIndex> may;
        for (std::uint32_t i = 0; i < chooser.sites().size(); ++i)
            if (chooser.in_question(SiteIndex(i)) && !(asked.keep_open && chooser.is_open(SiteIndex(i))))
                may.emplace_back(i);
        if (may.size() < 2) continue;
        asked.choose = static_cast<std::uint32_t>(may.size());
        if (n % 5 == 0) asked.budget = Weight::of(1'000);
        const BestSet best = chooser.best(asked, {}, Task());
        REQUIRE(best.proven());
        const BestSet again = chooser.of_just(asked, best.chosen, Task());
        REQUIRE(again.any);
        REQUIRE(again.value == best.value);
        REQUIRE(again.reached == best.reached);
        REQUIRE(chooser.of_just(asked, may, Task()).value == best.value);
        fewer += best.chosen.size() < may.size() ? 1 : 0;
        for (std::size_t out = 0; out < best.chosen.size(); ++out) {
            auto others = best.chosen;
            others.erase(others.begin() + static_cast<std::ptrdiff_t>(out));
            const BestSet left = chooser.of_just(asked, others, Task());
            REQUIRE((!left.any || left.value < best.value));
            ++all_out;
        }
    }
    CHECK(fewer > 10);
    CHECK(all_out > 30);
}

TEST_CASE("How sure a set is goes by its own sites, whatever else might have been chosen") {
    // At the usual speed the site in the middle reaches all; at half of it the two at the ends would help.
    Town town;
    town.draw({{0, 0}, {2000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{1000, 0}, {0, 0}, {2000, 0}}));
    for (auto& site : sites->sites) site.state = places::SiteState::candidate;
    const auto ready =
        prepare({town.network(), test::households({{{10, 0}, 1}, {{1000, 0}, 1}, {{1990, 0}, 1}}), sites},
                test::question_at_36(), nullptr, Task());
    SetChooser chooser(ready, {}, Task());
    BestSetAsked asked;
    asked.within = Millis(110'000);
    asked.choose = 3;
    const BestSet best = chooser.best(asked, {}, Task());
    REQUIRE(best.chosen == std::vector<SiteIndex>{SiteIndex(0U)});
    REQUIRE(best.spare == 2);
    const auto sure = how_sure(chooser, ready, {}, asked, best, {Share::percent(50)}, {}, Task());
    REQUIRE(sure.variants.size() >= 2);
    CHECK(sure.variants[1].chosen.chosen == best.chosen);
    CHECK(sure.variants[1].chosen.value == Weight::of(1).count());
    CHECK(sure.variants[1].set.value == Weight::of(3).count());
    // And so where none is needed: one that is open reaches all.
    sites = std::make_shared<places::SiteSet>(*sites);
    sites->sites[0].state = places::SiteState::open;
    const auto open = prepare({ready->inputs.network, ready->inputs.demand, sites}, ready->question, nullptr, Task());
    SetChooser with_open(open, {}, Task());
    asked.choose = 2;
    const BestSet none = with_open.best(asked, {}, Task());
    CHECK(none.chosen.empty());
    CHECK(none.spare == 2);
    const auto still = how_sure(with_open, open, {}, asked, none, {Share::percent(50)}, {}, Task());
    REQUIRE(still.variants.size() >= 2);
    CHECK(still.variants[1].chosen.any);
    CHECK(still.variants[1].chosen.value == Weight::of(1).count());
    CHECK(nearly_as_good(with_open, asked, none, 0.5, 10, {}, Task()).sets.empty());
}
