/// Every field of every part of a study, through save and open.
///
/// Each part is taken apart by structured bindings, so that this file stops compiling when a field is added: give it a
/// value that is not its default here, and save it.
#include <catch2/catch.hpp>
#include <cmath>
#include <nlohmann/json.hpp>

#include "files/study_file.h"
#include "files/study_json.h"
#include "support/asking.h"
#include "support/files.h"

using namespace otoro;

namespace {

template <class T>
bool both(const std::optional<T>& a, const std::optional<T>& b) {
    return a.has_value() && a == b;
}

bool same(const std::vector<float>& a, const std::vector<float>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                      [](float x, float y) { return x == y || (std::isnan(x) && std::isnan(y)); });
}

service::Origin origin(const std::string& word) {
    return {word + ".shp",
            word + " layer",
            "id from '" + word + "'",
            {{word + ".shp", 7, "id 7", "its weight is odd", true, FlawKind::capacity, 3U, 41}},
            "/data/" + word + ".shp",
            "EPSG:3035",
            "a > 1",
            {{4'321'000.5, 3'210'000.25}, {1, 2}}};
}

void check_same(const service::Origin& a, const service::Origin& b) {
    const auto& [file, layer, description, flaws, path, crs, filter, raw_sample, fields, taken] = a;
    (void)taken;  // said when it is read; the description has it too
    CHECK(file == b.file);
    CHECK(layer == b.layer);
    CHECK(description == b.description);
    REQUIRE(flaws.size() == 1);
    CHECK(flaws == b.flaws);
    CHECK(path == b.path);
    CHECK(crs == b.crs);
    CHECK(filter == b.filter);
    CHECK(raw_sample == b.raw_sample);
    CHECK(fields == b.fields);
    const auto& [f_file, f_record, f_id, f_wrong, f_set_aside, f_kind, f_place, f_more] = b.flaws[0];
    CHECK((f_file == flaws[0].file && f_record == 7 && f_id == "id 7" && f_wrong == flaws[0].wrong && f_set_aside &&
           f_kind == FlawKind::capacity && f_place == 3U && f_more == 41));
}

places::Attaching attaching() {
    places::Attaching a;
    a.rule = {Millimetres::metres(321), 0b1011, 0b0110, Millimetres::metres(77)};
    a.by_hand[1] = test::place({3, 4});
    a.road_names = {"West Row", ""};
    return a;
}

void check_same(const places::Attaching& a, const places::Attaching& b) {
    const auto& [rule, by_hand, road_names] = b;
    const auto& [limit, classes, ramps, least_piece] = rule;
    CHECK(a.rule.ramps == ramps);
    CHECK(both(a.rule.limit, limit));
    CHECK(a.rule.classes == classes);
    CHECK(a.rule.least_piece == least_piece);
    CHECK(a.by_hand == by_hand);
    CHECK(a.road_names == road_names);
}

/// A bridge, a tunnel, forbidden turns, signals, heights that are not known, times both ways, joints that the source
/// names.
roads::Lines lines() {
    roads::Lines l;
    roads::Attributes bridge;
    bridge.road_class = roads::RoadClass::tertiary;
    bridge.barred = roads::kBarredWalk | roads::kBarredCycle;
    bridge.flags = roads::kRamp | roads::kCycleAllowed;
    bridge.set_one_way(roads::OneWay::against, roads::OneWay::along);
    bridge.set_level(7);
    bridge.drive_speed = Speed::km_per_hour(47.25);
    bridge.fixed_ms = 12'345;
    bridge.name = l.names.add("Weir Bridge");
    roads::Attributes tunnel;
    tunnel.set_level(-8);
    tunnel.set_one_way(roads::OneWay::both, roads::OneWay::against);
    tunnel.name = l.names.add("\xC3\x85 tunnel");
    const auto a = test::place({0, 0}), b = test::place({500, 0.1234567}), c = test::place({500, 600});
    l.add(std::array{a, b}, bridge, std::array{1.5F, std::nanf("")});
    l.add(std::array{b, test::place({512, 300}), c}, tunnel, std::array{-2.25F, 3.0F, 4.0F});
    l.named_ends = {{70, 4'000'000'000}, {4'000'000'000, 3}};
    l.against_ms = {0, 9'876};
    l.traffic_signals = {b, c};
    l.bans = {{roads::LineWay::along(0), roads::LineWay::along(1)},
              {roads::LineWay::against(1), roads::LineWay::against(0)}};
    l.banned_paths = {{roads::LineWay::along(0), roads::LineWay::along(1), roads::LineWay::against(1)}};
    l.times_of = roads::TimesOf::walkers;
    return l;
}

void check_same(const roads::Lines& a, const roads::Lines& b) {
    const auto& [vertices, first, attributes, named_ends, against_ms, heights, traffic_signals, bans, banned_paths,
                 cut_from, times_of, names] = b;
    CHECK(vertices == a.vertices);
    CHECK(first == a.first);
    REQUIRE(attributes.size() == a.attributes.size());
    for (std::size_t i = 0; i < attributes.size(); ++i) {
        const auto& [road_class, barred, flags, one_way, drive_speed, fixed_ms, name] = attributes[i];
        const auto& o = a.attributes[i];
        CHECK(road_class == o.road_class);
        CHECK(barred == o.barred);
        CHECK(flags == o.flags);
        CHECK(one_way == o.one_way);
        CHECK(attributes[i].level() == o.level());
        CHECK(drive_speed == o.drive_speed);
        CHECK(fixed_ms == o.fixed_ms);
        CHECK(names.at(name) == a.names.at(o.name));
        CHECK(named_ends[i].from == a.named_ends[i].from);
        CHECK(named_ends[i].to == a.named_ends[i].to);
    }
    CHECK(against_ms == a.against_ms);
    CHECK(same(heights, a.heights));
    CHECK(traffic_signals == a.traffic_signals);
    CHECK(bans == a.bans);
    CHECK(banned_paths == a.banned_paths);
    CHECK(times_of == a.times_of);
    CHECK(cut_from.empty());  // lines as read
}

travel::Profile profile(const std::string& name) {
    travel::Profile p;
    p.mode = travel::Mode::cycle;
    p.one_speed = Speed::km_per_hour(17.5);
    p.name = name;
    p.table = travel::standard_table(travel::Mode::walk);
    (*p.table)[2] = {true, Speed::km_per_hour(3.25)};
    p.heeds_stated_speed = false;
    p.one_way = true;
    p.slope = true;
    p.turning =
        travel::Turning{Millis(1), Millis(2), Millis(3), Millis(4), Millis(5), travel::TurningBack::never, true};
    return p;
}

void check_same(const travel::Profile& a, const travel::Profile& b) {
    const auto& [mode, one_speed, name, table, heeds_stated_speed, one_way, slope, turning] = b;
    CHECK(mode == a.mode);
    CHECK(both(a.one_speed, one_speed));
    CHECK(name == a.name);
    CHECK(both(a.table, table));
    CHECK(heeds_stated_speed == a.heeds_stated_speed);
    CHECK(both(a.one_way, one_way));
    CHECK(slope == a.slope);
    REQUIRE(turning);
    const auto& [left, straight, right, back, signal, where_back, obeys_bans] = *turning;
    CHECK(
        (left == Millis(1) && straight == Millis(2) && right == Millis(3) && back == Millis(4) && signal == Millis(5)));
    CHECK((where_back == travel::TurningBack::never && obeys_bans));
}

service::Question question() {
    service::Question q;
    q.name = "On foot";
    q.demand = {"pupils", "others"};
    q.sites = {"schools"};
    q.zones = "wards";
    q.by_weight = false;
    q.use = service::SiteUse::open_and_candidate;
    q.profile = profile("slow");
    q.towards = service::Towards::site;
    q.serving = service::Nearest{routing::Measure::distance};
    q.limit = Millimetres::metres(9'001);
    q.own_limits = true;
    q.standard = service::Standard{Share::percent(77.7),
                                   Millimetres::metres(2'500),
                                   {{Share::percent(99.9), Millis::minutes(21), {3, "Old Town"}}}};
    q.turnout = Millis(93'000);
    q.attach_limit = Millimetres::metres(123);
    q.off_road_speed = Speed::km_per_hour(4.8);
    q.reach = {{Millis::minutes(3), Millis::minutes(11)},
               service::Overlap::count,
               true,
               true,
               true,
               true,
               true,
               true,
               true,
               Speed::km_per_hour(33),
               service::CoverList::own_zones};
    return q;
}

void check_same(const service::Question& a, const service::Question& b) {
    const auto& [name, demand, sites, by_weight, use, serving, profile, towards, limit, own_sites, standard,
                 attach_limit, off_road_speed, turnout, zones, reach] = b;
    CHECK(name == a.name);
    CHECK(zones == a.zones);
    CHECK(demand == a.demand);
    CHECK(sites == a.sites);
    CHECK(by_weight == a.by_weight);
    CHECK(use == a.use);
    check_same(a.profile, profile);
    CHECK(towards == a.towards);
    CHECK(serving == a.serving);
    CHECK(both(a.limit, limit));
    CHECK(own_sites == a.own_limits);
    REQUIRE(standard);
    const auto& [share, standard_limit, further] = *standard;
    CHECK((share == a.standard->share && standard_limit == a.standard->limit));
    REQUIRE(further.size() == a.standard->further.size());
    for (std::size_t i = 0; i < further.size(); ++i) {
        const auto& [step_share, step_limit, scope] = further[i];
        const auto& [needed, part] = scope;
        const auto& was = a.standard->further[i];
        CHECK((step_share == was.share && step_limit == was.limit));
        CHECK((needed == was.scope.needed && part == was.scope.part));
    }
    CHECK(turnout == a.turnout);
    CHECK(attach_limit == a.attach_limit);
    CHECK(both(a.off_road_speed, off_road_speed));
    const auto& [limits, overlap, full, own_limits, off_water, in_zones, roads, lines, circles, circle_speed, cover] =
        reach;
    CHECK(limits == a.reach.limits);
    CHECK((overlap == a.reach.overlap && full == a.reach.full && own_limits == a.reach.own_limits));
    CHECK((off_water == a.reach.off_water && in_zones == a.reach.in_zones && roads == a.reach.roads));
    CHECK((lines == a.reach.lines && circles == a.reach.circles && cover == a.reach.cover));
    CHECK(circle_speed == a.reach.circle_speed);
}

void check_same(const service::Plan& a, const service::Plan& b) {
    const auto& [name, changes, closures, note] = b;
    CHECK((name == a.name && note == a.note));
    REQUIRE(changes.size() == a.changes.size());
    for (std::size_t i = 0; i < changes.size(); ++i) {
        const auto& [change, site, position, set, nth, added] = changes[i];
        CHECK((change == a.changes[i].change && site == a.changes[i].site && position == a.changes[i].position &&
               set == a.changes[i].set && nth == a.changes[i].nth && added == a.changes[i].added));
    }
    REQUIRE(closures.size() == a.closures.size());
    for (std::size_t i = 0; i < closures.size(); ++i) {
        const auto& [c_name, shape, vertices, effect, factor_per_mille, delay, more_rings] = closures[i];
        const auto& o = a.closures[i];
        CHECK((c_name == o.name && shape == o.shape && vertices == o.vertices && more_rings == o.more_rings &&
               effect == o.effect && factor_per_mille == o.factor_per_mille && delay == o.delay));
    }
}

service::Study study() {
    service::Study s;
    s.name = "Every field; \"quoted\", \xE2\x82\xAC";
    roads::Preparation preparation;
    preparation.rule = roads::JoinRule::shared_vertices;
    preparation.closed = {{test::place({0, 0}), test::place({500, 600}), 0, 1}};
    preparation.by_speed = {0, 1};
    s.roads = service::roads_in(std::make_shared<const roads::Lines>(lines()), preparation, origin("roads"), Task());
    geo::Area lake;
    lake.add({test::place({0, 0}), test::place({90, 0}), test::place({90, 90}), test::place({0, 0})});
    lake.add({test::place({20, 10}), test::place({30, 10}), test::place({30, 20}), test::place({20, 10})});
    s.water = service::WaterIn{std::make_shared<const std::vector<geo::Area>>(std::vector{lake}), origin("water")};
    auto demand = std::make_shared<places::DemandSet>();
    demand->name = "pupils";
    demand->weight_name = "children";
    demand->places = {{"007", test::place({1, 2}), Weight::of(2.125)}, {"", std::nullopt, Weight()}};
    demand->attaching = attaching();
    demand->group = places::TextColumn("year");
    demand->recorded = places::TextColumn("goes_to");
    for (const char* text : {"Year 1", ""}) demand->group.push_back(text);
    for (const char* text : {"", "S 1"}) demand->recorded.push_back(text);
    demand->priority = places::TextColumn("siblings");
    for (const char* text : {"2", ""}) demand->priority.push_back(text);
    auto others = std::make_shared<places::DemandSet>();
    others->name = "others";
    others->places = {{"1", test::place({3, 3}), Weight::one()}};
    s.demand = {{demand, origin("demand")}, {others, origin("others")}};
    auto wards = std::make_shared<places::ZoneSet>();
    wards->name = "wards";
    wards->zones = {{"w1", "North \"ward\"", lake}, {"w2", "", lake}};
    s.zones = {{wards, origin("zones")}};
    auto sites = std::make_shared<places::SiteSet>();
    sites->name = "schools";
    sites->sites = {{"S 1", "Quay", test::place({5, 6}), places::SiteState::candidate, Weight::of(30), "w1",
                     Weight::of(1.5), Millis(481'234), Weight::of(12)},
                    {"S 1", "", std::nullopt, places::SiteState::closed, std::nullopt, "", std::nullopt,
                     Millimetres(2'500'001), std::nullopt, Millis(61'000)}};
    sites->attaching = attaching();
    s.sites = {{sites, origin("sites")}};
    s.question() = question();
    s.questions.push_back({});
    s.questions.back().name = "A second";
    s.questions.back().standard.reset();
    s.in_sight = 1;
    s.plans.front().note = "as of the last count";
    s.plans.push_back({"Quay \"opens\"",
                       {{service::Change::move, "S 1", geo::LonLat{-9.4912345678901, 46.2012345678901}, "schools"},
                        {service::Change::close, "S 1", std::nullopt, "schools", 2},
                        {service::Change::add, "N", geo::LonLat{-9.4, 46.2}, "schools"},
                        {service::Change::close, "N", std::nullopt, "schools", 1, true}},
                       {{"works",
                         roads::ClosureShape::line,
                         {{-9.5, 46.2}, {-9.49, 46.21}},
                         roads::ClosureEffect::delay,
                         2'500,
                         Millis(90'000)},
                        {"fair",
                         roads::ClosureShape::area,
                         {{-9.5, 46.2}, {-9.49, 46.21}, {-9.49, 46.2}},
                         roads::ClosureEffect::slowed,
                         3'000,
                         Millis(1)}},
                       "as the \"committee\" asked"});
    s.profiles = {profile("slow"), profile("other")};
    s.accepted = {{"gaps:roads", "the weir"}, {"ids:pupils", ""}};
    s.gap_tolerance = Millimetres(4'321);
    auto pairs = std::make_shared<places::PairValues>();
    pairs->name = "visits";
    pairs->demand = places::TextColumn("who");
    pairs->sites = places::TextColumn("where");
    for (const auto& [who, where, value] : {std::tuple{"1", "S 1", 3'500'000}, std::tuple{"\"odd\"", "", 0}}) {
        pairs->demand.push_back(who);
        pairs->sites.push_back(where);
        pairs->values.emplace_back(value);
    }
    s.pairs = service::PairsIn{pairs, origin("pairs")};
    s.route = {{{"Quay", {-9.4912345678901, 46.2012345678901}}, {"", {-9.4, 46.2}}}, true};
    s.questions.back().serving = service::ByPairs{routing::Measure::distance, true, Share::percent(70)};
    return s;
}

}  // namespace

TEST_CASE("Every field of every part of a study comes back from its file") {
    const test::Folder folder;
    const auto before = study();
    files::save_study(before, folder.file("all.otoro.gpkg"), Task());
    const auto after = files::open_study(folder.file("all.otoro.gpkg"), Task());
    const auto& [name, roads, water, demand, sites, zones, pairs, route, questions, in_sight, plans, profiles, accepted,
                 gap_tolerance] = after;
    CHECK(name == before.name);
    REQUIRE(roads);
    const auto& [roads_lines, preparation, network, roads_origin] = *roads;
    check_same(*before.roads->lines, *roads_lines);
    const auto& [rule, closed, by_speed] = preparation;
    CHECK(by_speed == std::vector<std::uint32_t>{0, 1});
    CHECK(rule == before.roads->preparation.rule);
    REQUIRE(closed.size() == 1);
    const auto& [from, to, from_line, to_line] = closed[0];
    CHECK((from == before.roads->preparation.closed[0].from && to == before.roads->preparation.closed[0].to &&
           from_line == 0 && to_line == 1));
    CHECK(network->digest() == before.roads->network->digest());
    check_same(before.roads->origin, roads_origin);
    REQUIRE(water);
    const auto& [areas, water_origin] = *water;
    CHECK(*areas == *before.water->areas);
    check_same(before.water->origin, water_origin);
    REQUIRE(demand.size() == 2);
    const auto& [d_name, d_weight_name, d_places, d_attaching, d_group, d_recorded, d_priority] = *demand[0].set;
    CHECK(d_group == before.demand[0].set->group);
    CHECK(d_recorded == before.demand[0].set->recorded);
    CHECK(d_priority == before.demand[0].set->priority);
    CHECK(demand[1].set->group.empty());
    REQUIRE(zones.size() == 1);
    const auto& [z_name, z_zones] = *zones[0].set;
    CHECK(z_name == "wards");
    REQUIRE(z_zones.size() == 2);
    for (std::size_t i = 0; i < 2; ++i) {
        const auto& [z_id, title, area] = z_zones[i];
        const auto& o = before.zones[0].set->zones[i];
        CHECK((z_id == o.id && title == o.name && area == o.area));
    }
    check_same(before.zones[0].origin, zones[0].origin);
    CHECK(d_name == "pupils");
    CHECK(d_weight_name == "children");
    REQUIRE(d_places.size() == 2);
    for (std::size_t i = 0; i < 2; ++i) {
        const auto& [id, position, weight] = d_places[i];
        const auto& o = before.demand[0].set->places[i];
        CHECK((id == o.id && position == o.position && weight == o.weight));
    }
    check_same(before.demand[0].set->attaching, d_attaching);
    check_same(before.demand[0].origin, demand[0].origin);
    REQUIRE(sites.size() == 1);
    const auto& [s_name, s_sites, s_attaching] = *sites[0].set;
    CHECK(s_name == "schools");
    REQUIRE(s_sites.size() == 2);
    for (std::size_t i = 0; i < 2; ++i) {
        const auto& [id, site_name, position, state, capacity, zone, cost, limit, least, turnout] = s_sites[i];
        const auto& o = before.sites[0].set->sites[i];
        CHECK((id == o.id && site_name == o.name && position == o.position && state == o.state &&
               capacity == o.capacity && zone == o.zone && cost == o.cost && limit == o.limit && least == o.least &&
               turnout == o.turnout));
    }
    check_same(before.sites[0].set->attaching, s_attaching);
    check_same(before.sites[0].origin, sites[0].origin);
    REQUIRE(questions.size() == 2);
    check_same(before.questions[0], questions[0]);
    CHECK(questions[1] == before.questions[1]);
    CHECK(in_sight == 1);
    REQUIRE(plans.size() == 2);
    check_same(before.plans[0], plans[0]);
    check_same(before.plans[1], plans[1]);
    REQUIRE(profiles.size() == 2);
    check_same(before.profiles[0], profiles[0]);
    CHECK(accepted == before.accepted);
    CHECK(gap_tolerance == before.gap_tolerance);
    REQUIRE(pairs);
    CHECK(*pairs->values == *before.pairs->values);
    check_same(before.pairs->origin, pairs->origin);
    CHECK(route == before.route);
}

TEST_CASE("A study saved, opened and saved again is the same study") {
    const test::Folder folder;
    files::save_study(study(), folder.file("a.gpkg"), Task());
    files::save_study(files::open_study(folder.file("a.gpkg"), Task()), folder.file("b.gpkg"), Task());
    const auto back = files::open_study(folder.file("b.gpkg"), Task());
    check_same(lines(), *back.roads->lines);
    check_same(question(), back.questions[0]);
}

TEST_CASE("A route that was tampered with is refused and says so") {
    using nlohmann::json;
    const json good = files::to_json(study().route);
    CHECK(files::route_from(good) == study().route);
    auto bad = good;
    bad["stops"][0]["at"] = {-9.4, 95.0};
    CHECK_THROWS_AS(files::route_from(bad), InputError);
    bad = good;
    bad["stops"][1].erase("name");
    CHECK_THROWS_AS(files::route_from(bad), InputError);
    bad = good;
    bad["round"] = "yes";
    CHECK_THROWS_AS(files::route_from(bad), InputError);
    bad["stops"] = 3;
    CHECK_THROWS_AS(files::route_from(bad), InputError);
}
