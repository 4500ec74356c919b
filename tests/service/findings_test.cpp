#include "service/findings.h"

#include <catch2/catch.hpp>
#include <random>

#include "service/join_report.h"
#include "service/network_summary.h"
#include "service/road_reading.h"
#include "support/asking.h"

using namespace otoro;
using service::Finding;
using service::FindingKind;
using test::households;
using test::posts;
using test::study_of;
using test::Town;

namespace {

std::vector<Finding> look(const service::Study& s) { return findings_of(s, *check_study(s, Task())); }

const Finding* find(const std::vector<Finding>& all, FindingKind kind, const std::string& about = "") {
    for (const auto& f : all)
        if (f.kind == kind && (about.empty() || f.about == about)) return &f;
    return nullptr;
}

/// Two streets that miss each other by four metres; the post stands on the first, most people live on the second.
service::Study divided() {
    return study_of(Town().draw({{0, 0}, {300, 0}}).draw({{304, 0}, {600, 0}}),
                    households({{{100, 5}, 2}, {{400, 5}, 7}, {{500, 5}, 3}}), posts({{20, 5}}));
}

service::Outcome answer_of(const service::Study& s) {
    return answer(*prepare(*s.inputs(), s.question(), nullptr, Task()), {}, Task());
}

}  // namespace

TEST_CASE("A sound study has no findings") {
    const auto s = study_of(Town().draw({{0, 0}, {300, 0}}).draw({{300, 0}, {600, 0}}), households({{{100, 5}, 2}}),
                            posts({{20, 5}}));
    CHECK(look(s).empty());
}

TEST_CASE("A gap says how many people closing it brings within reach, and closing it does") {
    auto s = divided();
    CHECK(answer_of(s).tally(service::Status::cut_off).weight == Weight::of(10));
    const auto found = look(s);
    const auto* gaps = find(found, FindingKind::gaps);
    REQUIRE(gaps);
    CHECK(gaps->weight == Weight::of(10));
    CHECK(gaps->places == 2);
    CHECK_THAT(gaps->sentence, Catch::Contains("1 gap under 10 m") && Catch::Contains("joins 2 pieces") &&
                                   Catch::Contains("10 residents come within reach"));
    REQUIRE(gaps->items.size() == 1);
    CHECK_THAT(gaps->items[0].text, Catch::Contains("4.0 m") && Catch::Contains("10 residents"));
    CHECK(find(found, FindingKind::cut_off_pieces)->weight == Weight::of(10));
    CHECK(find(found, FindingKind::cut_off_places)->count == 2);

    const auto before = s.roads->lines;
    s = fixed(s, *gaps->fix, Task());
    CHECK(look(s).empty());
    CHECK(answer_of(s).tally(service::Status::served).weight == Weight::of(12));
    CHECK(s.roads->lines == before);  // what was read is not changed
}

TEST_CASE("Findings come in order of the weight they touch, accepted ones last with their note") {
    auto s = divided();
    auto demand = *s.demand[0].set;
    demand.places.push_back({"h9", test::place({100, 900}), Weight::of(100)});
    s = with_demand(s, {std::make_shared<const places::DemandSet>(demand), {}});
    auto found = look(s);
    CHECK(found[0].kind == FindingKind::no_road_near);
    for (std::size_t i = 1; i < found.size(); ++i) CHECK(found[i - 1].weight >= found[i].weight);
    s.accepted[found[0].key()] = "it is the lighthouse";
    found = look(s);
    CHECK(found.back().kind == FindingKind::no_road_near);
    CHECK(found.back().accepted == "it is the lighthouse");
    CHECK(service::count_open(found) == found.size() - 1);
}

TEST_CASE("A place with no road near can be attached to the nearest road anyway") {
    auto s = study_of(Town().draw({{0, 0}, {300, 0}}), households({{{100, 700}, 4}}), posts({{20, 5}}));
    const auto found = look(s);
    const auto* f = find(found, FindingKind::no_road_near);
    REQUIRE(f);
    CHECK_THAT(f->items[0].text, Catch::Contains("700 m off"));
    s = fixed(s, *f->fix, Task());
    CHECK_FALSE(find(look(s), FindingKind::no_road_near));
    const auto o = answer_of(s);
    CHECK(o.places[0].status == service::Status::served);
    CHECK(o.places[0].distance.metres() == Approx(80).margin(0.1));
}

TEST_CASE("Axes the wrong way round are seen and turned, for all places or for some") {
    auto demand = *households({{{100, 5}, 1}, {{200, 5}, 1}, {{250, 5}, 1}});
    for (const std::size_t i : {0, 2}) std::swap(demand.places[i].position->lon, demand.places[i].position->lat);
    auto s =
        study_of(Town().draw({{0, 0}, {300, 0}}), std::make_shared<const places::DemandSet>(demand), posts({{20, 5}}));
    const auto found = look(s);
    const auto* f = find(found, FindingKind::swapped_axes);
    REQUIRE(f);
    CHECK(f->count == 2);
    s = fixed(s, *f->fix, Task());
    CHECK(look(s).empty());
    CHECK(answer_of(s).tally(service::Status::served).places == 3);
}

TEST_CASE("Repeated and missing ids are made distinct, the first of each kept") {
    auto demand = *households({{{100, 5}, 1}, {{200, 5}, 1}, {{250, 5}, 1}, {{260, 5}, 1}});
    demand.places[1].id = demand.places[2].id = "h0";
    demand.places[3].id = "";
    auto s =
        study_of(Town().draw({{0, 0}, {300, 0}}), std::make_shared<const places::DemandSet>(demand), posts({{20, 5}}));
    const auto found = look(s);
    const auto* f = find(found, FindingKind::ids);
    REQUIRE(f);
    CHECK(f->count == 3);
    s = fixed(s, *f->fix, Task());
    std::vector<std::string> ids;
    for (const auto& p : s.demand[0].set->places) ids.push_back(p.id);
    CHECK(ids == std::vector<std::string>{"h0", "h0-2", "h0-3", "3"});
    CHECK(look(s).empty());
}

TEST_CASE("A missing weight is weighed as 0 until it is given") {
    auto demand = *households({{{100, 5}, 3}, {{200, 5}, 0}});
    auto s =
        study_of(Town().draw({{0, 0}, {300, 0}}), std::make_shared<const places::DemandSet>(demand), posts({{20, 5}}));
    s.demand[0].origin.flaws = {{"f.csv", 1, "h1", "its weight is empty; it counts as 0", false, FlawKind::weight, 1U}};
    const auto found = look(s);
    const auto* f = find(found, FindingKind::weights);
    REQUIRE(f);
    s = fixed(s, *f->fix, Task());
    CHECK(s.demand[0].set->places[1].weight == Weight::one());
    CHECK(look(s).empty());
}

TEST_CASE("A site that nobody can drive away from is found") {
    // The lane leads in and never out.
    auto s = study_of(Town().draw({{0, 0}, {300, 0}}).draw({{300, 0}, {400, 0}}, test::one_way()),
                      households({{{100, 5}, 3}}), posts({{380, 5}}));
    const auto found = look(s);
    CHECK(find(found, FindingKind::one_way_roads)->count == 1);
    REQUIRE(find(found, FindingKind::idle_sites));
    CHECK_THAT(find(found, FindingKind::idle_sites)->sentence, Catch::Contains("drive away"));
}

TEST_CASE("Places stacked on one point, far from a road, outside the roads, and on a motorway are found") {
    Town town = Town().draw({{0, 0}, {3000, 0}}).draw({{0, 0}, {0, 600}}, test::road(roads::RoadClass::motorway));
    auto demand = *households(
        {{{100, 5}, 1}, {{100, 5}, 1}, {{100, 5}, 1}, {{100, 5}, 1}, {{100, 5}, 1}, {{300, 180}, 1}, {{20, 500}, 1}});
    demand.places.push_back({"away", geo::LonLat{-8.0, 46.2}, Weight::one()});
    auto s = study_of(town, std::make_shared<const places::DemandSet>(demand), posts({{20, 5}}));
    const auto found = look(s);
    CHECK(find(found, FindingKind::stacked)->count == 5);
    CHECK(find(found, FindingKind::far_from_road)->count == 1);
    CHECK(find(found, FindingKind::outside)->count == 1);
    CHECK(find(found, FindingKind::unreal_roads)->count == 1);  // three kilometres without a bend
    const auto* motorway = find(found, FindingKind::on_motorway);
    REQUIRE(motorway);
    s = fixed(s, *motorway->fix, Task());
    CHECK_FALSE(find(look(s), FindingKind::on_motorway));
}

TEST_CASE("After one gap is closed the findings are those of a whole new check") {
    for (int seed = 0; seed < 25; ++seed) {
        std::mt19937 dice(static_cast<unsigned>(seed));
        std::uniform_real_distribution<double> place(0, 500), miss(1, 9);
        Town town;
        for (int i = 0; i < 10; ++i) {
            const double x = place(dice), y = place(dice);
            town.draw({{x, y}, {x + place(dice) / 3, y}});
            town.draw({{x + 2, y + miss(dice)}, {x + place(dice) / 3, y + 90}});
        }
        places::DemandSet demand = *households({});
        for (int i = 0; i < 60; ++i)
            demand.places.push_back(
                {"h" + std::to_string(i), test::place({place(dice), place(dice)}), Weight::of(1 + i % 5)});
        auto s = study_of(town, std::make_shared<const places::DemandSet>(demand), posts({{100, 100}, {300, 300}}));
        s.question().attach_limit = Millimetres::metres(60);
        auto checked = check_study(s, Task());
        for (int step = 0; step < 4 && !checked->gaps.empty(); ++step) {
            const auto gap = checked->gaps[checked->gaps.size() / 2];
            const auto quick = after_closing(*checked, s, gap);
            s = fixed(s, service::CloseGaps{{gap.closing}}, Task());
            const auto whole = check_study(s, Task());
            const auto a = findings_of(s, *quick);
            const auto b = findings_of(s, *whole);
            for (const auto kind :
                 {FindingKind::cut_off_pieces, FindingKind::cut_off_places, FindingKind::no_road_near}) {
                INFO("seed " << seed << " step " << step << " kind " << name(kind));
                const auto* x = find(a, kind);
                const auto* y = find(b, kind);
                REQUIRE((x != nullptr) == (y != nullptr));
                if (!x) continue;
                CHECK(x->count == y->count);
                CHECK(x->weight == y->weight);
                CHECK(x->places == y->places);
            }
            // Where a road was cut there is a new node, which may be near yet another road: only the next whole check
            // sees that.
            const bool new_gap = std::any_of(whole->gaps.begin(), whole->gaps.end(),
                                             [&](const roads::Gap& g) { return g.from == gap.to; });
            if (!new_gap)
                CHECK((find(a, FindingKind::gaps) ? find(a, FindingKind::gaps)->weight : Weight()) ==
                      (find(b, FindingKind::gaps) ? find(b, FindingKind::gaps)->weight : Weight()));
            checked = whole;
        }
    }
}

TEST_CASE("The rules of joining are compared on evidence") {
    const auto s = study_of(Town().draw({{-100, 0}, {100, 0}}).draw({{0, -100}, {0, 100}}),
                            households({{{5, 60}, 4}, {{50, 5}, 1}}), posts({{80, 5}}));
    const auto rules = compare_join_rules(s, Task());
    REQUIRE(rules.size() == 3);
    CHECK(rules[0].pieces == 2);
    CHECK(rules[0].dead_ends == 4);
    CHECK(rules[0].cut_off.weight == Weight::of(4));
    CHECK(rules[2].pieces == 1);
    CHECK(rules[2].links == 4);
    CHECK(rules[2].cut_off.places == 0);
    CHECK_THAT(describe(rules[0]), Catch::Contains("2 links in 2 pieces, 4 dead ends, 1 places (4) cut off"));
}

TEST_CASE("The network summary says what everything rests on") {
    auto s = divided();
    s.accepted["gaps:roads"] = "the weir";
    const auto text = network_summary(s, *check_study(s, Task()));
    for (const char* wanted : {"where road ends touch", "Gaps closed by hand: 0", "2 links, 4 nodes", "2 pieces",
                               "one-way", "residential", "within 250 m", "accepted: the weir", "geodesic"})
        CHECK_THAT(text, Catch::Contains(wanted));
    // Every question with its traveller, every plan with all that it does, zones.
    auto walking = s.question();
    walking.name = "On foot";
    walking.profile = travel::Profile();
    walking.profile.mode = travel::Mode::walk;
    walking.off_road_speed = parse_speed("4km/h");
    s.questions.push_back(walking);
    Plan plan{"The bridge is shut", {{Change::close, "s0", {}}}};
    plan.closures.push_back({"bridge", roads::ClosureShape::point, {test::place({302, 0})}});
    roads::Closure slow{"snow", roads::ClosureShape::line, {test::place({10, -5}), test::place({10, 5})}};
    slow.effect = roads::ClosureEffect::slowed;
    slow.factor_per_mille = 1'500;
    plan.closures.push_back(slow);
    s.plans.push_back(plan);
    auto zones = std::make_shared<places::ZoneSet>();
    zones->name = "wards";
    zones->zones = {{"1", "Quay", {}}};
    s = with_zones(std::move(s), {zones, {}});
    const auto all = network_summary(s, *check_study(s, Task()));
    for (const char* wanted :
         {"(in sight): ", "Question On foot: ", "Traveller: walk", "off-road legs count, at 4 km/h",
          "Plan The bridge is shut: closes s0; 'bridge' at a point: shut; 'snow' across a line: slowed, 1.5 times as "
          "long.",
          "Zones: wards (1 zone,"})
        CHECK_THAT(all, Catch::Contains(wanted));
}

TEST_CASE("A road is read out: what it is, what it costs, what joins it and what nearly does") {
    auto named = test::road(roads::RoadClass::tertiary);
    Town town;
    named.name = town.lines().names.add("Kelp Row");
    town.draw({{0, 0}, {200, 0}}, named).draw({{200, 0}, {200, 100}}, test::one_way()).draw({{-5, 4}, {-5, 90}});
    auto s = study_of(town, households({{{100, 5}, 1}}), posts({{20, 5}}));
    const auto ready = prepare(*s.inputs(), s.question(), nullptr, Task());
    const auto r = read_road(*s.roads->network, *ready->costed, LinkId(0u));
    CHECK(r.length.metres() == Approx(200).margin(0.01));
    CHECK(r.along == Millis(20'000));
    CHECK(r.against == Millis(20'000));
    CHECK(r.piece == 0U);
    CHECK(r.pieces == 2);
    CHECK(r.joined_at_start.empty());
    CHECK(r.joined_at_end == std::vector<LinkId>{LinkId(1u)});
    REQUIRE(r.nearly.size() == 1);
    CHECK(r.nearly[0].second.metres() == Approx(6.4).margin(0.1));
    CHECK_THAT(describe(r, *s.roads->network), Catch::StartsWith("Kelp Row\ntertiary, 200.0 m long") &&
                                                   Catch::Contains("starts at nothing: a dead end") &&
                                                   Catch::Contains("nearly meets"));
    CHECK_FALSE(read_road(*s.roads->network, *ready->costed, LinkId(1u)).against);
    CHECK(service::road_at(*s.roads->network, test::place({100, 8}), Millimetres::metres(10)) == LinkId(0u));
}

TEST_CASE("A layer serves as demand and as sites") {
    const auto s = divided();
    const auto sites = sites_from(s.demand[0]);
    CHECK(sites.set->count() == 3);
    CHECK(sites.set->sites[1].state == places::SiteState::open);
    const auto demand = demand_from(s.sites[0]);
    CHECK(demand.set->places[0].weight == Weight::one());
    const auto more = with_place(s, "households", test::place({50, 5}), Weight::of(2));
    CHECK(more.demand[0].set->count() == 4);
    CHECK(more.demand[0].set->places[3].id == "drawn 4");
}

TEST_CASE("Roads that run over water are found, but for bridges and ferries") {
    auto bridge = test::road();
    bridge.set_level(1);
    auto s = study_of(Town()
                          .draw({{0, 0}, {300, 0}})
                          .draw({{300, 0}, {500, 0}})
                          .draw({{300, 0}, {500, 60}}, bridge)
                          .draw({{300, 0}, {500, -60}}, test::road(roads::RoadClass::ferry)),
                      households({{{100, 5}, 2}}), posts({{20, 5}}));
    geo::Area lake;
    lake.add({test::place({310, -200}), test::place({600, -200}), test::place({600, 200}), test::place({310, 200})});
    s.water = service::WaterIn{std::make_shared<const std::vector<geo::Area>>(std::vector{lake}), {}};
    const auto found = look(s);
    const auto* f = find(found, FindingKind::roads_on_water);
    REQUIRE(f);
    CHECK(f->count == 1);
}

TEST_CASE("A piece that no other road comes near is unreal until somebody says otherwise") {
    const auto near = study_of(Town().draw({{0, 0}, {300, 0}}).draw({{0, 400}, {300, 400}}),
                               households({{{100, 5}, 2}}), posts({{20, 5}}));
    CHECK_FALSE(find(look(near), FindingKind::unreal_roads));
    const auto lonely = study_of(Town().draw({{0, 0}, {300, 0}}).draw({{0, 1400}, {200, 1400}}),
                                 households({{{100, 5}, 2}}), posts({{20, 5}}));
    const auto found = look(lonely);
    REQUIRE(find(found, FindingKind::unreal_roads));
    CHECK(find(found, FindingKind::unreal_roads)->sentence == "1 piece of the roads lies far from any other road");
    CHECK_THAT(find(found, FindingKind::cut_off_pieces)->items[0].text, Catch::Contains("no other road within 500 m"));
}

TEST_CASE("Times that are hard to believe are weighed by who comes over them, and fixed by going by speed") {
    // Three streets on from the post, 300 m each, with minutes: sound, in seconds, sound. Another way round is none.
    auto timed = [](std::uint32_t ms) {
        auto a = test::road();
        a.fixed_ms = ms;
        return a;
    };
    auto s = study_of(Town()
                          .draw({{0, 0}, {300, 0}}, timed(36'000))
                          .draw({{300, 0}, {600, 0}}, timed(36 * 60'000))
                          .draw({{600, 0}, {900, 0}}, timed(36'000)),
                      households({{{100, 5}, 2}, {{700, 5}, 7}, {{800, 5}, 3}}), posts({{20, 5}}));
    s.question().profile = {};  // drives, and heeds what the file states
    auto origin = s.roads->origin;
    origin.flaws.push_back(
        {"r.csv", 2, "", "its minutes back '0' are no time at all; its speed is used", false, FlawKind::no_time, 2});
    s.roads->origin = origin;
    const auto found = look(s);
    const auto* f = find(found, FindingKind::stated_times);
    REQUIRE(f);
    CHECK(f->count == 2);
    CHECK(f->weight == Weight::of(10));  // each once, though both come over both
    CHECK(f->places == 2);
    CHECK(f->sentence ==
          "1 road has a time hard to believe, 0.5 km/h; 1 road has minutes that are no time; "
          "10 residents come over them");
    REQUIRE(f->items.size() == 2);
    CHECK(f->items[0].weight == Weight::of(10));
    CHECK(f->items[0].text == "a road without a name: 36 min for 300 m are 0.5 km/h, against 30 km/h otherwise");
    CHECK(f->items[1].weight == Weight::of(3));  // whose journeys come over its middle
    CHECK_FALSE(f->items[1].fix);
    CHECK(f->fix_label == "Use its speed instead");

    CHECK(answer_of(s).places[1].time > Millis::minutes(36));
    const auto read = s.roads->lines;
    const auto fixed_study = fixed(s, *f->fix, Task());
    CHECK(fixed_study.roads->lines == read);
    // 280 m at the stated times' pace, 300 m at 30 km/h, 100 m at the stated pace again.
    CHECK(answer_of(fixed_study).places[1].time == Millis(33'600 + 36'000 + 12'000));
    const auto after = look(fixed_study);
    REQUIRE(find(after, FindingKind::stated_times));
    CHECK(find(after, FindingKind::stated_times)->count == 1);
    CHECK_THAT(network_summary(fixed_study, *check_study(fixed_study, Task())),
               Catch::Contains("left aside by hand for 1 road") && Catch::Contains("stated by the file for 2 roads"));

    // Nobody is touched where the traveller does not go by them.
    s.question().profile.one_speed = Speed::km_per_hour(36);
    CHECK(find(look(s), FindingKind::stated_times)->weight == Weight());
}
