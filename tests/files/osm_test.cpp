#include <fmt/format.h>

#include <catch2/catch.hpp>

#include "files/read_roads.h"
#include "geo/error.h"
#include "roads/network.h"
#include "support/files.h"
#include "travel/profile.h"

using namespace otoro;
using roads::OneWay;
using roads::RoadClass;
using test::Folder;
using travel::Mode;

namespace {

/// OpenStreetMap XML with nodes 1 to 9 along a line, 0.001 degrees apart, and the given ways.
std::string osm(const std::string& ways, const std::string& more_nodes = "") {
    std::string s = "<?xml version='1.0' encoding='UTF-8'?>\n<osm version='0.6'>\n";
    for (int i = 1; i <= 9; ++i)
        s += fmt::format("<node id='{}' version='1' lat='46.2' lon='{:.4f}'/>\n", i, -9.5 + 0.001 * i);
    return s + more_nodes + ways + "</osm>\n";
}
std::string way(int id, const std::vector<int>& nodes, const std::vector<std::pair<std::string, std::string>>& tags) {
    std::string s = fmt::format("<way id='{}' version='1'>", id);
    for (const int n : nodes) s += fmt::format("<nd ref='{}'/>", n);
    for (const auto& [k, v] : tags) s += fmt::format("<tag k='{}' v='{}'/>", k, v);
    return s + "</way>\n";
}
files::RoadsRead read(const std::string& text) {
    const Folder folder;
    return files::read_roads({{folder.write("a.osm", text), "", "", "", ""}, {}}, Task());
}
roads::Attributes one(const std::vector<std::pair<std::string, std::string>>& tags) {
    return read(osm(way(1, {1, 2}, tags))).lines.attributes.at(0);
}
bool usable(const roads::Attributes& a, Mode m) {
    return travel::crossing(a, Millimetres::metres(100), {m, {}}).usable();
}

}  // namespace

TEST_CASE("Ways are cut where they share a node, and only there") {
    auto r = read(osm(way(1, {1, 2, 3, 4}, {{"highway", "residential"}, {"name", "Long Row"}}) +
                      way(2, {3, 5}, {{"highway", "service"}})));
    REQUIRE(r.lines.count() == 3);
    CHECK(r.lines.names.at(r.lines.attributes[1].name) == "Long Row");
    const auto net = join(std::move(r.lines), Task());
    CHECK(net.node_count() == 4);
    CHECK(net.ends(LinkId(0u)).to == net.ends(LinkId(2u)).from);
}

TEST_CASE("Nodes at one point with different numbers do not join") {
    const std::string twin =
        "<node id='20' version='1' lat='46.2' lon='-9.498'/><node id='21' version='1' lat='46.3' lon='-9.498'/>\n";
    auto r =
        read(osm(way(1, {1, 2}, {{"highway", "residential"}}) + way(2, {20, 21}, {{"highway", "residential"}}), twin));
    CHECK(join(std::move(r.lines), Task()).node_count() == 4);
}

TEST_CASE("A way that meets itself is cut there") {
    auto r = read(osm(way(1, {1, 2, 3, 4, 2}, {{"highway", "residential"}})));
    CHECK(r.lines.count() == 2);
}

TEST_CASE("What is no road is passed over") {
    const auto ways = way(1, {1, 2}, {{"highway", "residential"}}) + way(2, {2, 3}, {{"building", "yes"}}) +
                      way(3, {3, 4}, {{"highway", "construction"}}) +
                      way(4, {4, 5}, {{"highway", "pedestrian"}, {"area", "yes"}}) +
                      way(5, {5, 6}, {{"railway", "rail"}});
    CHECK(read(osm(ways)).lines.count() == 1);
}

TEST_CASE("Speeds: by class, links 0.7 of their kind, 0.85 of maxspeed") {
    const auto speed = [](const roads::Attributes& a) { return travel::speed_on(a, {Mode::drive, {}}).km_per_hour(); };
    CHECK(speed(one({{"highway", "tertiary"}})) == 48);
    CHECK(speed(one({{"highway", "primary_link"}})) == Approx(45.5));
    CHECK(speed(one({{"highway", "primary"}, {"maxspeed", "50"}})) == Approx(42.5));
    CHECK(speed(one({{"highway", "primary"}, {"maxspeed", "30 mph"}})) == Approx(30 * 1.609344 * 0.85));
    CHECK(speed(one({{"highway", "primary_link"}, {"maxspeed", "60"}})) == Approx(51));
    CHECK(speed(one({{"highway", "primary"}, {"maxspeed", "none"}})) == 65);
    CHECK(speed(one({{"highway", "primary"}, {"maxspeed", "RO:urban"}})) == 65);
}

TEST_CASE("Who may travel: the most specific tag decides") {
    CHECK_FALSE(usable(one({{"highway", "service"}, {"access", "no"}}), Mode::drive));
    CHECK(usable(one({{"highway", "service"}, {"access", "no"}, {"motor_vehicle", "yes"}}), Mode::drive));
    CHECK_FALSE(usable(one({{"highway", "service"}, {"vehicle", "no"}}), Mode::drive));
    CHECK(usable(one({{"highway", "service"}, {"vehicle", "no"}}), Mode::walk));
    CHECK_FALSE(usable(one({{"highway", "service"}, {"vehicle", "no"}}), Mode::cycle));
    CHECK(usable(one({{"highway", "service"}, {"vehicle", "no"}, {"bicycle", "yes"}}), Mode::cycle));
    CHECK(usable(one({{"highway", "service"}, {"access", "private"}}), Mode::drive));
    CHECK_FALSE(usable(one({{"highway", "residential"}, {"foot", "no"}}), Mode::walk));
    CHECK_FALSE(usable(one({{"highway", "residential"}, {"access", "no"}}), Mode::walk));
    CHECK(usable(one({{"highway", "residential"}, {"access", "no"}, {"foot", "yes"}}), Mode::walk));
    CHECK_FALSE(usable(one({{"highway", "footway"}}), Mode::cycle));
    CHECK(usable(one({{"highway", "footway"}, {"bicycle", "designated"}}), Mode::cycle));
    CHECK_FALSE(usable(one({{"highway", "trunk"}}), Mode::walk));
    CHECK_FALSE(usable(one({{"highway", "motorway_link"}}), Mode::cycle));
    CHECK_FALSE(usable(one({{"highway", "track"}}), Mode::drive));
    CHECK(usable(one({{"highway", "track"}}), Mode::cycle));
    CHECK(usable(one({{"highway", "bridleway"}}), Mode::walk));
}

TEST_CASE("One-way: tags, motorways, roundabouts, and bicycles against the flow") {
    CHECK(one({{"highway", "primary"}, {"oneway", "yes"}}).drive_one_way() == OneWay::along);
    CHECK(one({{"highway", "primary"}, {"oneway", "-1"}}).drive_one_way() == OneWay::against);
    CHECK(one({{"highway", "primary"}, {"oneway", "reverse"}}).drive_one_way() == OneWay::against);
    CHECK(one({{"highway", "primary"}, {"oneway", "no"}}).drive_one_way() == OneWay::both);
    CHECK(one({{"highway", "motorway"}}).drive_one_way() == OneWay::along);
    CHECK(one({{"highway", "motorway"}, {"oneway", "no"}}).drive_one_way() == OneWay::both);
    CHECK(one({{"highway", "motorway_link"}}).drive_one_way() == OneWay::both);
    CHECK(one({{"highway", "residential"}, {"junction", "roundabout"}}).drive_one_way() == OneWay::along);
    const auto street = [](const std::string& k, const std::string& v) {
        return one({{"highway", "residential"}, {"oneway", "yes"}, {k, v}});
    };
    CHECK(street("surface", "asphalt").cycle_one_way() == OneWay::along);
    CHECK(street("oneway:bicycle", "no").cycle_one_way() == OneWay::both);
    CHECK(street("cycleway", "opposite_lane").cycle_one_way() == OneWay::both);
    CHECK(street("cycleway:left", "opposite_track").cycle_one_way() == OneWay::both);
    CHECK(street("oneway:bicycle", "no").drive_one_way() == OneWay::along);
}

TEST_CASE("Ferries take their duration, shared by length where the way is cut") {
    for (const auto& [text, minutes] :
         {std::pair{"00:20", 20.0}, {"PT20M", 20.0}, {"20", 20.0}, {"1:05:30", 65.5}, {"PT1H5M", 65.0}}) {
        INFO(text);
        CHECK(one({{"route", "ferry"}, {"duration", text}}).fixed_ms == static_cast<std::uint32_t>(minutes * 60'000));
    }
    CHECK(one({{"route", "ferry"}}).fixed_ms == 0);
    const auto r = read(
        osm(way(1, {1, 2, 4}, {{"route", "ferry"}, {"duration", "00:30"}}) + way(2, {2, 7}, {{"highway", "service"}})));
    REQUIRE(r.lines.count() == 3);
    CHECK(r.lines.attributes[0].fixed_ms == Approx(600'000).margin(2));
    CHECK(r.lines.attributes[0].fixed_ms + r.lines.attributes[1].fixed_ms == 1'800'000);
    CHECK_FALSE(usable(one({{"route", "ferry"}, {"motor_vehicle", "no"}}), Mode::drive));
    CHECK(usable(one({{"route", "ferry"}, {"motor_vehicle", "no"}}), Mode::walk));
}

TEST_CASE("A way whose nodes are not all in the file is cut there, and that is said") {
    const auto r = read(osm(way(1, {1, 2, 99, 3, 4}, {{"highway", "residential"}})));
    CHECK(r.lines.count() == 2);
    REQUIRE(r.flaws.size() == 1);
    CHECK(r.flaws[0].id == "way 1");
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("not in the file"));
}

TEST_CASE("OpenStreetMap files that cannot be read say so") {
    const Folder folder;
    const auto complaint = [&](const std::string& name, const std::string& text) {
        try {
            files::read_roads({{folder.write(name, text), "", "", "", ""}, {}}, Task());
        } catch (const InputError& e) {
            return std::string(e.what());
        }
        return std::string("(no error)");
    };
    CHECK_THAT(complaint("cut.osm", osm(way(1, {1, 2}, {{"highway", "residential"}})).substr(0, 200)),
               Catch::Contains("cannot be read"));
    CHECK_THAT(complaint("noise.pbf", std::string(400, 'x')), Catch::Contains("cannot be read"));
    CHECK_THAT(complaint("noise.osm", "not xml"), Catch::Contains("cannot be read"));
    CHECK_THAT(complaint("none.osm", osm("")), Catch::Contains("none of its 0 ways"));
    CHECK_THAT(complaint("empty.osm", ""), Catch::Contains("empty"));
}

namespace {
std::string restriction(int id, const char* kind, int from, int via, int to, const char* more = "") {
    return fmt::format(
        "<relation id='{}' version='1'><member type='way' ref='{}' role='from'/><member type='node' ref='{}' "
        "role='via'/><member type='way' ref='{}' role='to'/>"
        "<tag k='type' v='restriction'/><tag k='restriction' v='{}'/>{}</relation>\n",
        id, from, via, to, kind, more);
}
/// Three ways that meet at node 2: one to its west, one to its east, one to the north.
std::string junction() {
    const std::string north = "<node id='30' version='1' lat='46.21' lon='-9.498'/>\n";
    return osm("", north).substr(0, osm("", north).size() - 7) + way(1, {1, 2}, {{"highway", "residential"}}) +
           way(2, {2, 3}, {{"highway", "residential"}}) + way(3, {2, 30}, {{"highway", "residential"}});
}
}  // namespace

TEST_CASE("Turn restrictions become forbidden moves") {
    using roads::LineWay;
    const auto no_left = read(junction() + restriction(7, "no_left_turn", 1, 2, 3) + "</osm>");
    CHECK(no_left.lines.bans == std::vector<roads::TurnBan>{{LineWay::along(0), LineWay::along(2)}});
    const auto only_straight = read(junction() + restriction(7, "only_straight_on", 1, 2, 2) + "</osm>");
    CHECK(only_straight.lines.bans == std::vector<roads::TurnBan>{{LineWay::along(0), LineWay::against(0)},
                                                                  {LineWay::along(0), LineWay::along(2)}});
    const auto back = read(junction() + restriction(7, "no_u_turn", 1, 2, 1) + "</osm>");
    CHECK(back.lines.bans == std::vector<roads::TurnBan>{{LineWay::along(0), LineWay::against(0)}});
    CHECK(read(junction() + restriction(7, "no_left_turn", 1, 2, 3, "<tag k='except' v='motorcar'/>") + "</osm>")
              .lines.bans.empty());
    const auto nowhere = read(junction() + restriction(7, "no_left_turn", 1, 9, 3) + "</osm>");
    CHECK(nowhere.lines.bans.empty());
    REQUIRE(nowhere.flaws.size() == 1);
    CHECK_THAT(nowhere.flaws[0].wrong, Catch::Contains("do not meet"));
}

TEST_CASE("Traffic signals count at the crossing they stand at or just before") {
    const auto at =
        read(osm(way(1, {1, 40}, {{"highway", "residential"}}) + way(2, {40, 3}, {{"highway", "residential"}}),
                 "<node id='40' version='1' lat='46.2' lon='-9.498'><tag k='highway' v='traffic_signals'/></node>\n"));
    CHECK(at.lines.traffic_signals == std::vector<geo::LonLat>{{-9.498, 46.2}});
    const auto before =
        read(osm(way(1, {1, 40, 2}, {{"highway", "residential"}}),
                 "<node id='40' version='1' lat='46.2' lon='-9.4982'><tag k='highway' v='traffic_signals'/></node>\n"));
    REQUIRE(before.lines.traffic_signals.size() == 1);
    CHECK(before.lines.traffic_signals[0].lon == Approx(-9.498));
}

TEST_CASE("Deleted and superseded objects are no roads") {
    const auto road = [](int id, int version, const std::string& attributes, const std::string& tags) {
        return fmt::format("<way id='{}' version='{}'{}><nd ref='1'/><nd ref='2'/>{}</way>\n", id, version, attributes,
                           tags);
    };
    const std::string residential = "<tag k='highway' v='residential'/>", service = "<tag k='highway' v='service'/>",
                      house = "<tag k='building' v='yes'/>";
    const std::string keeps = road(9, 1, "", residential);
    CHECK(read(osm(keeps + road(1, 1, " visible='false'", ""))).lines.count() == 1);
    CHECK(read(osm(keeps + road(1, 1, "", residential) + road(1, 2, " visible='false'", ""))).lines.count() == 1);
    CHECK(read(osm(road(1, 1, "", residential) + road(1, 2, "", house) + keeps)).lines.count() == 1);
    const auto changed = read(osm(road(1, 1, "", residential) + road(1, 2, "", service)));
    REQUIRE(changed.lines.count() == 1);
    CHECK(changed.lines.attributes[0].road_class == RoadClass::service);
    CHECK(read(osm(keeps + road(1, 1, " action='delete'", residential))).lines.count() == 1);
    CHECK(read(osm(keeps + road(1, 1, " action='modify'", residential))).lines.count() == 2);
    // A node that was moved is where it is now.
    const auto moved = read(
        osm(way(1, {1, 20}, {{"highway", "residential"}}),
            "<node id='20' version='1' lat='46.3' lon='-9.4'/><node id='20' version='2' lat='46.25' lon='-9.4'/>\n"));
    CHECK(moved.lines.shape(0).back().lat == Approx(46.25));
}

TEST_CASE("What was not understood is listed with counts") {
    const auto r = read(
        osm(way(1, {1, 2}, {{"highway", "residential"}, {"maxspeed", "walk"}}) +
            way(2, {2, 3}, {{"highway", "residential"}, {"maxspeed", "walk"}, {"oneway", "reversible"}}) +
            way(3, {3, 4}, {{"route", "ferry"}, {"duration", "long"}}) + way(4, {4, 5}, {{"highway", "escalator"}})));
    CHECK(r.unknown_tags ==
          std::map<std::string, std::int64_t>{
              {"maxspeed=walk", 2}, {"oneway=reversible", 1}, {"duration=long", 1}, {"highway=escalator", 1}});
}

TEST_CASE("The most specific access counts, motorcar above motor_vehicle") {
    CHECK_FALSE(usable(one({{"highway", "residential"}, {"motorcar", "no"}}), Mode::drive));
    CHECK(usable(one({{"highway", "residential"}, {"motorcar", "no"}}), Mode::walk));
    CHECK(usable(one({{"highway", "residential"}, {"motorcar", "yes"}, {"access", "no"}}), Mode::drive));
    CHECK(usable(one({{"highway", "residential"}, {"motorcar", "yes"}, {"vehicle", "no"}}), Mode::drive));
}

TEST_CASE("Contraflow on one side or both") {
    for (const char* key : {"cycleway:both:oneway", "cycleway:left:oneway", "cycleway:right:oneway"}) {
        const auto a = one({{"highway", "residential"}, {"oneway", "yes"}, {key, "no"}});
        CHECK(a.cycle_one_way() == OneWay::both);
        CHECK(a.drive_one_way() == OneWay::along);
    }
}

TEST_CASE("Durations and speeds as people write them") {
    for (const auto& [text, minutes] : {std::pair{"15 min", 15.0}, std::pair{"1h", 60.0}, std::pair{"1 h 30 min", 90.0},
                                        std::pair{"90 minutes", 90.0}, std::pair{"2 hours", 120.0}})
        CHECK(one({{"route", "ferry"}, {"duration", text}}).fixed_ms == static_cast<std::uint32_t>(minutes * 60'000));
    CHECK(one({{"highway", "primary"}, {"maxspeed", "50;30"}}).drive_speed == Speed::km_per_hour(30).scaled(850));
    CHECK(one({{"highway", "primary"}, {"maxspeed", "30 MPH"}}).drive_speed ==
          Speed::km_per_hour(48.28032).scaled(850));
}

namespace {

std::string relation(int id, const std::string& members, const std::vector<std::pair<std::string, std::string>>& tags) {
    std::string s = fmt::format("<relation id='{}' version='1'>{}<tag k='type' v='restriction'/>", id, members);
    for (const auto& [k, v] : tags) s += fmt::format("<tag k='{}' v='{}'/>", k, v);
    return s + "</relation>\n";
}
std::string member(const char* type, int ref, const char* role) {
    return fmt::format("<member type='{}' ref='{}' role='{}'/>", type, ref, role);
}

}  // namespace

TEST_CASE("Kinds of restriction that are not known are no bans, and those of some hours are listed") {
    const auto ways = way(1, {1, 2}, {{"highway", "residential"}}) + way(2, {2, 3}, {{"highway", "residential"}});
    const auto members = member("way", 1, "from") + member("node", 2, "via") + member("way", 2, "to");
    CHECK(read(osm(ways + relation(1, members, {{"restriction", "no_straight_on"}}))).lines.bans.size() == 1);
    const auto red = read(osm(ways + relation(1, members, {{"restriction", "no_right_turn_on_red"}})));
    CHECK(red.lines.bans.empty());
    CHECK(red.unknown_tags.at("restriction=no_right_turn_on_red") == 1);
    const auto hours =
        read(osm(ways + relation(1, members, {{"restriction:conditional", "no_straight_on @ (Mo-Fr 07:00-09:00)"}})));
    CHECK(hours.lines.bans.empty());
    REQUIRE(hours.flaws.size() == 1);
    CHECK_THAT(hours.flaws[0].wrong, Catch::Contains("at some hours only") && Catch::Contains("07:00"));
    CHECK(read(osm(ways + relation(1, members, {{"restriction", "no_straight_on"}, {"except", "psv;motorcar"}})))
              .lines.bans.empty());
}

TEST_CASE("No U-turn on a way that runs through its node forbids turning back, not going straight on") {
    // Way 2 crosses at node 2, so that way 1 is cut there.
    const auto ways = way(1, {1, 2, 3}, {{"highway", "residential"}}) + way(2, {2, 5}, {{"highway", "residential"}});
    const auto r =
        read(osm(ways + relation(1, member("way", 1, "from") + member("node", 2, "via") + member("way", 1, "to"),
                                 {{"restriction", "no_u_turn"}})));
    REQUIRE(r.lines.bans.size() == 2);
    for (const auto& b : r.lines.bans) CHECK(b.from.line() == b.to.line());
}

TEST_CASE("A restriction over a way forbids the path, and neither of its moves") {
    // 1 --way 1-- 2 --way 2-- 3 --way 3-- 4, way 2 cut at node 8 by way 4.
    const auto ways = way(1, {1, 2}, {{"highway", "primary"}}) + way(2, {2, 8, 3}, {{"highway", "primary"}}) +
                      way(3, {3, 4}, {{"highway", "primary"}}) + way(4, {8, 9}, {{"highway", "service"}});
    const auto r =
        read(osm(ways + relation(1, member("way", 1, "from") + member("way", 2, "via") + member("way", 3, "to"),
                                 {{"restriction", "no_straight_on"}})));
    CHECK(r.lines.bans.empty());
    CHECK(r.flaws.empty());
    REQUIRE(r.lines.banned_paths.size() == 1);
    const auto& path = r.lines.banned_paths[0];
    REQUIRE(path.size() == 4);
    CHECK(path[0] == roads::LineWay::along(0));
    CHECK(path[1] == roads::LineWay::along(1));
    CHECK(path[2] == roads::LineWay::along(2));
    CHECK(path[3] == roads::LineWay::along(3));
}

namespace {

/// A way that comes to nodes 2 and 3 in turn, so often, by a node of its own each time.
std::string winding(int id, int times, std::string& nodes) {
    std::vector<int> through;
    for (int i = 0; i < times; ++i) {
        const int own = id * 10'000 + i;
        nodes += fmt::format("<node id='{}' version='1' lat='{:.5f}' lon='{:.5f}'/>\n", own, 46.2 + 1e-5 * id,
                             -9.5 + 1e-5 * i);
        through.push_back(i % 2 == 0 ? 2 : 3);
        through.push_back(own);
    }
    through.push_back(times % 2 == 0 ? 2 : 3);
    return way(id, through, {{"highway", "primary"}});
}

}  // namespace

TEST_CASE("A restriction over many ways that meet again and again takes little memory, and the fewest roads") {
    std::string nodes, ways = way(1, {1, 2}, {{"highway", "primary"}}) + way(99, {3, 4}, {{"highway", "primary"}});
    std::string members = member("way", 1, "from");
    for (int v = 2; v <= 40; ++v) {  // 2 to the 39th ways through, if each were followed
        ways += winding(v, 5, nodes);
        members += member("way", v, "via");
    }
    members += member("way", 99, "to");
    const auto r = read(osm(ways + relation(1, members, {{"restriction", "no_straight_on"}}), nodes));
    CHECK(r.flaws.empty());
    REQUIRE(r.lines.banned_paths.size() == 1);
    CHECK(r.lines.banned_paths[0].size() == 2 + 39);  // over each way once
}

TEST_CASE("A restriction over ways that meet in too many places is not obeyed, and said") {
    std::string nodes, through = "<way id='5' version='1'>", back = "<way id='6' version='1'>";
    for (int n = 1000; n < 1600; ++n) {
        nodes += fmt::format("<node id='{}' version='1' lat='46.3' lon='{:.5f}'/>\n", n, -9.5 + 1e-5 * n);
        through += fmt::format("<nd ref='{}'/>", n);
        back += fmt::format("<nd ref='{}'/>", 1000 + (n * 7) % 600);
    }
    const std::string end = "<tag k='highway' v='primary'/></way>\n";
    std::string members;
    for (const int v : {5, 6, 5, 6, 5, 6}) members += member("way", v, "via");
    const auto r = read(osm(through + end + back + end +
                                relation(7, member("way", 5, "from") + members + member("way", 6, "to"),
                                         {{"restriction", "no_straight_on"}}),
                            nodes));
    CHECK(r.lines.banned_paths.empty());
    REQUIRE(r.flaws.size() == 1);
    CHECK(r.flaws[0].kind == FlawKind::restriction);
    CHECK_THAT(r.flaws[0].wrong, Catch::Contains("meet in too many places"));
    CHECK(r.flaws[0].id == "relation 7");
    CHECK(r.flaws[0].record == 0);  // it is the first of the relations, whatever its id
}

TEST_CASE(
    "Restrictions that forbid more turns than roads have are refused before they fill memory, and can be stopped") {
    // Ways that come to node 2 again and again: each relation forbids each of 1,000 moves onto each of 1,000.
    std::string nodes;
    std::string ways = winding(1, 1000, nodes) + winding(2, 1000, nodes);
    for (int id = 1; id <= 100; ++id)
        ways += relation(id, member("way", 1, "from") + member("node", 2, "via") + member("way", 2, "to"),
                         {{"restriction", "no_straight_on"}});
    const auto file = osm(ways, nodes);
    CHECK_THROWS_WITH(read(file), Catch::Contains("more turns than any roads have"));
    const Folder folder;
    std::stop_source stop;
    const Task task(stop.get_token(), [&](std::string_view, double done) {
        if (done > 0.9) stop.request_stop();  // all but the relations is read
    });
    CHECK_THROWS_AS(files::read_roads({{folder.write("a.osm", file), "", "", "", ""}, {}}, task), Stopped);
}
