// Standards of several steps as a question's own, and the time before anybody sets out.
#include "service/standard.h"

#include <catch2/catch.hpp>
#include <random>

#include "service/candidate.h"
#include "service/few_nearest.h"
#include "service/sentence.h"
#include "service/steps.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::service;
using test::Town;

namespace {

/// Two posts on a street of three kilometres at ten metres a second; homes at 100, 200, 900 and 2,000 m.
Inputs street() {
    Town town;
    town.draw({{0, 0}, {3000, 0}});
    auto homes = std::make_shared<places::DemandSet>(
        *test::households({{{100, 0}, 1}, {{200, 0}, 1}, {{900, 0}, 1}, {{2000, 0}, 2}}));
    for (const char* group : {"young", "young", "old", "old"}) homes->group.push_back(group);
    return {town.network(), homes, test::posts({{0, 0}, {1000, 0}})};
}
Outcome asked(const Inputs& inputs, const Question& q) {
    return answer(*prepare(inputs, q, nullptr, Task()), {}, Task());
}

}  // namespace

TEST_CASE("A standard is met when each of its steps is, and says which is not") {
    Question q = test::question_at_36();
    q.standard =
        parse_standard("all within 2min for young, 60% within 25s, 50% within 95s by 2, 75% within 99s for old");
    // The first that is for all leads.
    CHECK_THAT(sentence(q, ""), Catch::Contains("60 % must be within 0.417 min, and all within 2 min for young, "
                                                "50 % within 1.583 min by 2 and 75 % within 1.65 min for old."));
    const Inputs inputs = street();
    const Outcome o = asked(inputs, q);
    Verdict v = judge(o, *q.standard);
    REQUIRE(v.steps.size() == 4);
    CHECK(v.share == Share::percent(60));  // three of five at 100, 200 and 900 m
    CHECK(v.steps[0].met);
    CHECK(v.steps[1].met);
    CHECK(v.steps[1].all.places == 2);
    CHECK(v.steps[2].inside.places == 3);  // second sites are 90, 80, 90 and 200 s away
    CHECK(v.steps[2].met);
    CHECK(v.steps[3].inside.weight == Weight::of(1));  // of three
    CHECK(v.steps[3].missed == Weight::of(1.25));
    CHECK(!v.met);
    REQUIRE(v.first_missed() == &v.steps[3]);
    CHECK(first_missed_words(v, "people") == "75 % within 1.65 min for old: 33.3 %, 1.3 people short");
    // Other limits and shares of the same steps are judged without asking again.
    Question other = q;
    other.standard->further[2].limit = Millis(100'000);
    CHECK(same_answer(q, other));
    CHECK(judge(o, *other.standard).met);
    // A step of another kind is not.
    other.standard->further[2].scope.part = "young";
    CHECK(!same_answer(q, other));
    // Nobody is of that name: that is no standard met.
    other.standard = parse_standard("1% within 1h, 1% within 1h for Nowhere");
    v = judge(asked(inputs, other), *other.standard);
    CHECK((!v.met && !v.steps[1].known));
    CHECK_THAT(first_missed_words(v, "people"), Catch::Contains("no zone or group of that name"));
    CHECK_THROWS_WITH(parse_standard("90% within 8min by 2"), Catch::Contains("says nothing of all places"));
    CHECK(parse_standard("90%within8min") == Standard{});
}

TEST_CASE("A standard's steps are judged as place by place, as a table of steps is, and with one more site too") {
    std::mt19937 random(31);
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(random() % n); };
    for (int round = 0; round < 30; ++round) {
        Town town;
        for (int x = 0; x < 4; ++x)
            for (int y = 0; y < 4; ++y) {
                if (x < 3 && below(6) != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x + 100, 100.0 * y}});
                if (y < 3 && below(6) != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x, 100.0 * y + 100}});
            }
        std::vector<std::pair<test::At, double>> homes;
        for (int i = 0; i < 20; ++i) homes.push_back({{double(below(300)), 100.0 * below(4)}, 1.0 + below(4)});
        auto demand = std::make_shared<places::DemandSet>(*test::households(homes));
        for (int i = 0; i < 20; ++i) demand->group.push_back(std::string(1, static_cast<char>('a' + below(3))));
        auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {300, 300}, {100, 200}, {200, 0}}));
        sites->sites[2].state = sites->sites[3].state = places::SiteState::candidate;
        Question q = test::question_at_36();
        q.turnout = Millis(below(3) * 2'000);
        sites->sites[1].turnout = Millis(below(4) * 3'000);
        sites->sites[3].turnout = Millis(1'000);
        const Inputs inputs{town.network(), demand, sites};
        const auto limit = [&] { return std::to_string(5 + below(40)) + "s"; };
        const std::string text = "70% within " + limit() + ", 90% within " + limit() + " for a, 50% within " + limit() +
                                 " by 2, 60% within 300m for b";
        q.standard = parse_standard(text);
        const auto ready = prepare(inputs, q, nullptr, Task());
        const auto o = std::make_shared<const Outcome>(answer(*ready, {}, Task()));
        // What each site alone takes, turning out added by hand.
        Question at_once = q;
        at_once.turnout = {};
        auto quick = std::make_shared<places::SiteSet>(*sites);
        for (auto& site : quick->sites) site.turnout.reset();
        const Inputs same{inputs.network, demand, quick};
        std::vector<Outcome> alone;
        for (const std::uint32_t site : {0U, 1U}) {
            Plan plan;
            plan.changes = {{Change::close, quick->sites[1 - site].id, {}}};
            alone.push_back(answer(*prepare(same, at_once, nullptr, Task()), plan, Task()));
        }
        const auto times_of = [&](std::uint32_t i) {
            std::vector<std::int64_t> times;
            for (std::uint32_t site = 0; site < 2; ++site)
                if (alone[site].places[i].served())
                    times.push_back(alone[site].places[i].time.count() +
                                    sites->sites[site].turnout.value_or(q.turnout).count());
            std::sort(times.begin(), times.end());
            return times;
        };

        StepsAsked table;
        table.steps = parse_steps(text);
        table.by_group = true;
        const auto by_table = judge_steps(*ready, *o, table, Task());
        const Verdict got = judge(*o, *q.standard);
        REQUIRE(got.met == by_table.met);
        for (std::size_t k = 0; k < 4; ++k) {
            INFO("round " << round << ", step " << k);
            const Step& step = got.steps[k].step;
            Tally inside, all;
            for (std::uint32_t i = 0; i < o->places.size(); ++i) {
                if (!step.scope.part.empty() && demand->group.at(i) != step.scope.part) continue;
                const auto times = times_of(i);
                all = {all.places + 1, all.weight + o->weights[i]};
                if (times.size() < step.scope.needed) continue;
                const std::int64_t takes = k == 3 ? o->places[i].distance.count() : times[step.scope.needed - 1];
                if (takes <= limit_of(step)) inside = {inside.places + 1, inside.weight + o->weights[i]};
            }
            REQUIRE(got.steps[k].inside.weight == inside.weight);
            REQUIRE(got.steps[k].inside.places == inside.places);
            REQUIRE(got.steps[k].all.weight == all.weight);
            const double wanted = all.weight.value() * step.share.percent() / 100;
            REQUIRE(got.steps[k].met == (inside.weight.value() >= wanted - 1e-9));
            REQUIRE(got.steps[k].missed.value() == Approx(std::max(0.0, wanted - inside.weight.value())).margin(1e-5));
            REQUIRE(by_table.of_step[k].inside.weight == inside.weight);
            REQUIRE(by_table.of_step[k].missed == got.steps[k].missed);
            // At the least limit at which it would be met it is, and a little below it is not.
            if (const auto& at = by_table.of_step[k].met_at; at && got.steps[k].known) {
                Standard there = *q.standard;
                Amount limit = k == 3 ? Amount(Millimetres(*at)) : Amount(Millis(*at));
                (k == 0 ? there.limit : there.further[k - 1].limit) = limit;
                CHECK(judge(*o, there).steps[k].met);
                limit = k == 3 ? Amount(Millimetres(*at - 1)) : Amount(Millis(*at - 1));
                (k == 0 ? there.limit : there.further[k - 1].limit) = limit;
                if (*at > 0) CHECK(!judge(*o, there).steps[k].met);
            }
        }
        // Rows by group add up to all, step by step.
        Weight by_group;
        for (const auto& part : by_table.parts)
            if (part.by) by_group += part.steps[0].inside.weight;
        CHECK(by_group == got.steps[0].inside.weight);
        Candidates candidates(ready, o);
        for (const std::uint32_t more : {2U, 3U}) {
            const auto with = candidates.judge(candidates.add(SiteIndex(more)), *q.standard);
            const auto then = judge(answer(*ready, plan_with(*o, SiteIndex(more)), Task()), *q.standard);
            for (const std::size_t k : {std::size_t{0}, std::size_t{1}, std::size_t{3}}) {
                REQUIRE(with.steps[k].inside.weight == then.steps[k].inside.weight);
                REQUIRE(with.steps[k].met == then.steps[k].met);
            }
            CHECK(!with.steps[2].known);  // a second site is more than one candidate's effect tells
        }

        // Turning out is part of every time: who is nearest, and the second nearest, are so by it.
        const auto few = FewNearest(*ready, o->traces->costed, o->sites).of_all(2, Task());
        for (std::uint32_t i = 0; i < o->places.size(); ++i) {
            const auto times = times_of(i);
            REQUIRE(o->places[i].served() == !times.empty());
            REQUIRE(few.of(i).size() == times.size());
            for (std::size_t k = 0; k < times.size(); ++k) REQUIRE(few.of(i)[k].cost == times[k]);
            if (!times.empty()) REQUIRE(o->places[i].time.count() == times[0]);
        }
    }
}

TEST_CASE("A site that turns out late serves whom it reaches first all the same") {
    Inputs inputs = street();
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {1000, 0}}));
    sites->sites[0].turnout = Millis::minutes(1);  // as far as 600 m
    inputs.sites = places::Sites(sites);
    Question q = test::question_at_36();
    q.turnout = Millis(5'000);
    const Outcome o = asked(inputs, q);
    CHECK(o.places[0].time == Millis(70'000));  // from the first
    CHECK(*o.places[1].site == SiteIndex(0U));  // 80 s against 85
    CHECK(*o.places[2].site == SiteIndex(1U));
    CHECK(o.places[3].time == Millis(105'000));
    CHECK(o.places[3].distance == Millimetres::metres(1000));  // lengths know nothing of it
    CHECK_THAT(sentence(q, ""), Catch::Contains("on all roads, 0.083 min to turn out"));
    // What a spot reads and its drawn way are those of the place that stands there.
    const auto ready = prepare(inputs, q, nullptr, Task());
    const Outcome again = answer(*ready, {}, Task());
    const auto spot = read_place(*ready, again, DemandIndex(1U));
    CHECK(spot.outcome.time == Millis(80'000));
    CHECK(spot.route.size() >= 2);
    // By distance the first is nearer to the second home, and its time says the turnout too.
    q.serving = Nearest{routing::Measure::distance};
    const Outcome by_way = asked(inputs, q);
    CHECK(by_way.places[1].time == Millis(80'000));
    CHECK(by_way.digest != asked(street(), q).digest);
}
