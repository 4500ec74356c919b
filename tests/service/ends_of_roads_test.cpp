/// Places, sites and closures just at the end of something.
#include <catch2/catch.hpp>
#include <functional>
#include <map>
#include <random>

#include "service/candidate.h"
#include "service/itinerary.h"
#include "service/road_reading.h"
#include "support/closing.h"

using namespace otoro;
using roads::Closure;
using roads::ClosureEffect;
using roads::ClosureShape;
using service::Status;
using namespace otoro::test;

namespace {

Closure point(At p, ClosureEffect effect = ClosureEffect::closed) { return closed_at(p, effect); }
Closure line(At a, At b, ClosureEffect effect = ClosureEffect::closed) {
    return drawn(ClosureShape::line, {a, b}, effect);
}

/// A road with its time the other way round, and its shape and rules with it.
Town turned_round(const Town& town, std::uint32_t which) {
    Town out;
    for (std::uint32_t l = 0; l < town.lines().count(); ++l) {
        const auto shape = town.lines().shape(l);
        std::vector<geo::LonLat> points(shape.begin(), shape.end());
        auto a = town.lines().attributes[l];
        if (l == which) {
            std::reverse(points.begin(), points.end());
            const auto turned = [](roads::OneWay w) {
                return w == roads::OneWay::along     ? roads::OneWay::against
                       : w == roads::OneWay::against ? roads::OneWay::along
                                                     : w;
            };
            a.set_one_way(turned(a.drive_one_way()), turned(a.cycle_one_way()));
        }
        out.lines().add(points, a);
    }
    return out;
}

}  // namespace

// -------------------------------------------------------------------------------------------------------------
// closures

TEST_CASE("A line along a road of any shortness closes it") {
    for (const double length : {1.0, 3.0, 9.0, 20.0, 31.0, 60.0}) {
        INFO(length);
        const Town town =
            Town().draw({{-200, 0}, {0, 0}}).draw({{0, 0}, {length, 0}}).draw({{length, 0}, {length + 200, 0}});
        const auto demand = households({{{length + 100, 0}, 1}, {{-100, 0}, 1}});
        const auto a =
            ask(town, demand, posts({{-150, 0}}), question_at_36(), with({line({0.2 * length, 1}, {0.8 * length, 1})}));
        CHECK(a.place(0).status == Status::cut_off);
        CHECK(a.place(1).status == Status::served);
    }
}

TEST_CASE("A line across a road closes it where it crosses, and not the roads beside") {
    const Town town = Town().draw({{-200, 0}, {0, 0}}).draw({{0, 0}, {200, 0}}).draw({{0, 0}, {0, 200}});
    const auto a = ask(town, households({{{60, 0}, 1}, {{140, 0}, 1}, {{0, 100}, 1}}), posts({{-150, 0}}),
                       question_at_36(), with({line({100, -20}, {100, 20})}));
    CHECK(a.place(0).status == Status::served);
    CHECK(a.place(1).status == Status::cut_off);
    CHECK(a.place(2).status == Status::served);
}

TEST_CASE("A point on a crossing closes the crossing, and it is said") {
    const Town town = Town()
                          .draw({{-200, 0}, {0, 0}}, "West Row")
                          .draw({{0, 0}, {200, 0}}, "East Row")
                          .draw({{0, 0}, {0, 200}}, "North Row")
                          .draw({{200, 0}, {200, 200}}, "Far Row");
    const auto demand = households({{{-50, 0}, 1}, {{100, 0}, 1}, {{0, 100}, 1}, {{200, 100}, 1}});
    const auto a = ask(town, demand, posts({{-150, 0}}), question_at_36(), with({point({0.5, 0.5})}));
    CHECK(a.place(0).status == Status::served);
    for (const std::size_t i : {1, 2, 3}) CHECK(a.place(i).status == Status::cut_off);
    const auto said = service::describe_point(*town.network(), point({0.5, 0.5}));
    CHECK_THAT(said, Catch::Contains("crossing of") && Catch::Contains("West Row") && Catch::Contains("East Row") &&
                         Catch::Contains("North Row") && !Catch::Contains("Far Row"));
    CHECK(service::describe_point(*town.network(), point({100, 1})).empty());
}

TEST_CASE("A point that could mean several roads says which it took") {
    const Town town = Town().draw({{0, 0}, {200, 0}}, "Mill Row").draw({{0, 6}, {200, 6}}, "Quay Road");
    CHECK(service::describe_point(*town.network(), point({100, 2})) == "Mill Row; Quay Road is hardly farther away.");
    CHECK(service::describe_point(*town.network(), point({100, -3})).empty());
}

TEST_CASE("The mouth of a cul-de-sac closes the cul-de-sac") {
    const Town town = Town().draw({{-200, 0}, {0, 0}}).draw({{0, 0}, {200, 0}}).draw({{0, 0}, {0, 100}});
    for (std::uint32_t which = 0; which < 3; ++which) {
        const Town t = turned_round(town, which);
        const auto demand = households({{{0, 50}, 1}, {{0, 100}, 1}});
        for (const auto towards : {service::Towards::demand, service::Towards::site}) {
            auto q = question_at_36();
            q.towards = towards;
            const auto a = ask(t, demand, posts({{-150, 0}}), q, with({line({-3, 0.01}, {3, 0.01})}));
            CHECK(a.place(0).status == Status::cut_off);
            CHECK(a.place(1).status == Status::cut_off);
            const auto at_mouth = ask(t, demand, posts({{-150, 0}}), q, with({point({0, 0})}));
            CHECK(at_mouth.place(0).status == Status::cut_off);
        }
    }
}

TEST_CASE("A delay is paid the same whichever way the road was drawn, at its very ends too, and once") {
    const Town town = Town().draw({{0, 0}, {400, 0}}).draw({{400, 0}, {800, 0}});
    for (const auto& works : {point({0, 0}, ClosureEffect::delay), point({200, 0}, ClosureEffect::delay),
                              point({400, 0}, ClosureEffect::delay), line({390, 2}, {410, 2}, ClosureEffect::delay)})
        for (std::uint32_t which = 0; which < 3; ++which)
            for (const auto towards : {service::Towards::demand, service::Towards::site}) {
                auto q = question_at_36();
                q.towards = towards;
                const auto demand = households({{{100, 0}, 1}, {{300, 0}, 1}, {{600, 0}, 1}});
                const auto plain = ask(town, demand, posts({{50, 0}, {750, 0}}), q, with({works}));
                const auto turned =
                    ask(turned_round(town, which), demand, posts({{50, 0}, {750, 0}}), q, with({works}));
                for (std::size_t i = 0; i < 3; ++i) CHECK(plain.place(i).time == turned.place(i).time);
            }
    // Through the crossing it is paid once, and not by who turns off before it.
    const auto through = ask(town, households({{{600, 0}, 1}, {{399, 0}, 1}}), posts({{50, 0}}), question_at_36(),
                             with({point({400, 0}, ClosureEffect::delay)}));
    CHECK(through.place(0).time.count() == Approx(55'000 + 60'000).margin(2));
    CHECK(through.place(1).time.count() == Approx(34'900).margin(2));
    // A line that touches a road three times delays those on it once.
    Closure zigzag{"c", ClosureShape::line, {}, ClosureEffect::delay, 2000, Millis(60'000)};
    for (const At p : {At{100, -20}, At{120, 20}, At{140, -20}, At{160, 20}}) zigzag.vertices.push_back(place(p));
    const auto a = ask(town, households({{{300, 0}, 1}}), posts({{0, 0}}), question_at_36(), with({zigzag}));
    CHECK(a.place(0).time == Millis(90'000));
}

TEST_CASE("Holes of an area are outside it") {
    const Town town = Town().draw({{0, 0}, {1000, 0}});
    Closure area = drawn(ClosureShape::area, {{200, -50}, {800, -50}, {800, 50}, {200, 50}}, ClosureEffect::slowed);
    area.more_rings = {{place({400, -40}), place({600, -40}), place({600, 40}), place({400, 40})}};
    const auto a = ask(town, households({{{1000, 0}, 1}}), posts({{0, 0}}), question_at_36(), with({area}));
    CHECK(a.place(0).time.count() == Approx(100'000 + 2 * 40'000).margin(20));
}

TEST_CASE("A slowed line across a road, and a slowed point, slow the road beside them") {
    const Town town = Town().draw({{0, 0}, {1000, 0}});
    for (const auto& works :
         {line({500, -20}, {500, 20}, ClosureEffect::slowed), point({500, 0}, ClosureEffect::slowed)}) {
        const auto a = ask(town, households({{{1000, 0}, 1}}), posts({{0, 0}}), question_at_36(), with({works}));
        CHECK(a.place(0).time.count() == Approx(100'000 + 2 * 1600).margin(450));
        CHECK(a.place(0).time > Millis(102'000));
    }
}

// ------------------------------------------------------------------------------------------------------------
// junctions

TEST_CASE("A place exactly on a junction has come along no road") {
    // From the crossing to the north; no turn is made, whichever road the place is attached to.
    const std::vector<std::pair<At, At>> arms{
        {{-200, 0}, {0, 0}}, {{0, 0}, {200, 0}}, {{0, 0}, {0, 200}}, {{0, 0}, {0, -200}}};
    std::vector<std::size_t> order{0, 1, 2, 3};
    do {
        Town town;
        for (const std::size_t i : order) town.draw({arms[i].first, arms[i].second});
        for (const auto towards : {service::Towards::demand, service::Towards::site}) {
            auto q = turning(Millis(9000), Millis(4000), Millis(30'000));
            q.towards = towards;
            const auto from = ask(town, households({{{0, 150}, 1}, {{150, 0}, 1}, {{0, 0}, 1}}), posts({{0, 0}}), q);
            CHECK(from.place(0).time.count() == Approx(15'000).margin(2));
            CHECK(from.place(1).time.count() == Approx(15'000).margin(2));
            CHECK(from.place(2).time == Millis(0));
            const auto to = ask(town, households({{{0, 0}, 1}}), posts({{-100, 0}}), q);
            CHECK(to.place(0).time.count() == Approx(10'000).margin(2));
            const auto way = read_place(*to.ready, to.outcome, DemandIndex(0u));
            CHECK(way.route.size() >= 2);
            CHECK(way.route.front() == (towards == service::Towards::demand ? place({-100, 0}) : place({0, 0})));
        }
    } while (std::next_permutation(order.begin(), order.end()));
}

TEST_CASE("Onto a road that lies along the one travelled is turning back") {
    auto t = travel::Turning{
        Millis(9000), Millis(1000), Millis(4000), Millis(20'000), {}, travel::TurningBack::anywhere, true};
    // Two roads side by side, one each way, drawn over one another.
    const Town town = Town()
                          .draw({{0, 0}, {333.3, 77.7}}, test::one_way())
                          .draw({{333.3, 77.7}, {0, 0}}, test::one_way())
                          .draw({{333.3, 77.7}, {500, 77.7}});
    const auto net = town.network();
    const std::vector<travel::TraversalTime> all(net->link_count(), travel::TraversalTime{1, 1});
    CHECK(routing::TurnCosts(*net, all, t)
              .cost(routing::LinkWay::along(LinkId(0u)), routing::LinkWay::along(LinkId(1u))) == 20'000);
}

TEST_CASE("Two vertices at one position do not spoil a bearing") {
    auto t = travel::Turning{
        Millis(9000), Millis(1000), Millis(4000), Millis(20'000), {}, travel::TurningBack::anywhere, true};
    const Town plain = Town().draw({{-100, 0}, {0, 0}}).draw({{0, 0}, {100, 0}}).draw({{0, 0}, {0, 100}});
    const Town doubled = Town()
                             .draw({{-100, 0}, {0, 0}, {0, 0}})
                             .draw({{0, 0}, {0, 0}, {100, 0}})
                             .draw({{0, 0}, {0, 0}, {0, 0}, {0, 100}});
    for (const Town* town : {&plain, &doubled}) {
        const auto net = town->network();
        const std::vector<travel::TraversalTime> all(net->link_count(), travel::TraversalTime{1, 1});
        const routing::TurnCosts costs(*net, all, t);
        CHECK(costs.cost(routing::LinkWay::along(LinkId(0u)), routing::LinkWay::along(LinkId(1u))) == 1000);
        CHECK(costs.cost(routing::LinkWay::along(LinkId(0u)), routing::LinkWay::along(LinkId(2u))) == 9000);
    }
}

TEST_CASE("From or onto a road without a length nobody turns") {
    auto t = travel::Turning{
        Millis(9000), Millis(1000), Millis(4000), Millis(20'000), {}, travel::TurningBack::anywhere, true};
    Town town =
        Town().draw({{-100, 0}, {0, 0}}).draw({{0, 0}, {0, 0}}).draw({{0, 0}, {0, 100}}).draw({{0, 0}, {100, 0}});
    town.lines().named_ends = {{1, 2}, {2, 3}, {3, 4}, {2, 5}};
    const auto net = town.network();
    const std::vector<travel::TraversalTime> all(net->link_count(), travel::TraversalTime{1, 1});
    const routing::TurnCosts costs(*net, all, t);
    CHECK(costs.cost(routing::LinkWay::along(LinkId(0u)), routing::LinkWay::along(LinkId(1u))) == 1000);
    CHECK(costs.cost(routing::LinkWay::along(LinkId(1u)), routing::LinkWay::along(LinkId(2u))) == 1000);
}

// ------------------------------------------------------------------------------------------------------ forbidden
// paths

namespace {

/// West, middle and east roads in a line, one more that joins before the middle and one that leaves after it; a long
/// way round from west to east.
Town over_a_way() {
    Town town = Town()
                    .draw({{-100, 0}, {0, 0}})
                    .draw({{0, 0}, {100, 0}})
                    .draw({{100, 0}, {200, 0}})
                    .draw({{0, 0}, {0, 100}})
                    .draw({{100, 0}, {100, 100}})
                    .draw({{-100, 0}, {-100, -500}, {200, -500}, {200, 0}});
    town.lines().banned_paths = {{roads::LineWay::along(0), roads::LineWay::along(1), roads::LineWay::along(2)}};
    return town;
}

}  // namespace

TEST_CASE("A forbidden path is not travelled as a whole, and every part of it is") {
    const Town town = over_a_way();
    auto q = question_at_36();
    q.profile.turning = travel::Turning{{}, {}, {}, {}, {}, travel::TurningBack::never, true};
    for (const auto towards : {service::Towards::demand, service::Towards::site}) {
        const bool out = towards == service::Towards::demand;
        q.towards = towards;
        const auto time = [&](At from, At to) {
            const auto a = ask(town, households({{out ? to : from, 1}}), posts({out ? from : to}), q);
            // The route that is drawn is as long as the table says.
            const auto way = read_place(*a.ready, a.outcome, DemandIndex(0u));
            double drawn = 0;
            for (const auto& s : way.steps) drawn += s.distance.metres();
            CHECK(drawn == Approx(a.place(0).distance.metres()).margin(0.1));
            if (out)
                CHECK(service::itinerary(*a.ready, nullptr, {place(from), place(to)}, {}, Task()).time.count() ==
                      a.place(0).time.count());
            auto fast = std::make_shared<service::Ready>(*a.ready);
            fast->prepared = prepare_searches(*a.ready, nullptr, nullptr, Task(), 0);
            const auto swept = answer(*fast, {}, Task());
            CHECK(swept.places[0] == a.place(0));
            if (out)
                CHECK(service::itinerary(*fast, fast->prepared.get(), {place(from), place(to)}, {}, Task())
                          .time.count() == a.place(0).time.count());
            return a.place(0).time.count() / 1000.0;
        };
        CHECK(time({-50, 0}, {50, 0}) == Approx(10));                 // a part
        CHECK(time({50, 0}, {150, 0}) == Approx(10));                 // the other part, begun on the middle road
        CHECK(time({-50, 0}, {100, 50}) == Approx(20));               // off the path at its end
        CHECK(time({0, 50}, {150, 0}) == Approx(20));                 // onto the middle road from elsewhere
        CHECK(time({-50, 0}, {150, 0}) == Approx(140).margin(0.01));  // all of it: round
        CHECK(time({150, 0}, {-50, 0}) == Approx(20));                // the other way
    }
    q.profile.turning = travel::Turning{};
    CHECK(ask(town, households({{{150, 0}, 1}}), posts({{-50, 0}}), q).place(0).time == Millis(20'000));
}

TEST_CASE("Random towns with forbidden paths, against a search that remembers every road travelled") {
    std::mt19937 dice(71);
    int banned_ways = 0;
    for (int round = 0; round < 60; ++round) {
        Town town;
        for (int x = 0; x < 4; ++x)
            for (int y = 0; y < 3; ++y) {
                if (x < 3 && dice() % 6 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x + 100, 100.0 * y}});
                if (y < 2 && dice() % 6 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x, 100.0 * y + 100}});
            }
        if (town.lines().count() < 4) continue;
        const auto net = town.network();
        const routing::WaysByNode ways(*net);
        std::vector<roads::BannedPath> paths;
        for (int i = 0; i < 6; ++i) {
            roads::BannedPath path{{static_cast<std::uint32_t>(dice() % (2 * net->link_count()))}};
            const std::size_t length = 3 + dice() % 2;
            while (path.size() < length) {
                const auto next = ways.from(end_of(*net, routing::LinkWay{path.back().bits}));
                path.push_back({next[dice() % next.size()].bits});
            }
            paths.push_back(path);
        }
        std::sort(paths.begin(), paths.end());
        town.lines().banned_paths = paths;
        auto q = question_at_36();
        q.profile.turning =
            travel::Turning{Millis(3000), {}, Millis(1000), Millis(7000), {}, travel::TurningBack::anywhere, true};
        q.towards = round % 2 == 0 ? service::Towards::demand : service::Towards::site;
        std::vector<std::pair<At, double>> homes;
        for (int i = 0; i < 8; ++i)
            homes.push_back({{static_cast<double>(dice() % 300), static_cast<double>(dice() % 200)}, 1});
        const At post{static_cast<double>(dice() % 300), static_cast<double>(dice() % 200)};
        const auto a = ask(town, households(homes), posts({post}), q);
        const auto& site = a.outcome.sites[0].attachment;
        if (!site) continue;
        // All walks of up to nine roads, in the order of travel, with all they remember.
        const routing::TurnCosts& turns = a.ready->costed->turns;
        const auto least = [&](const places::Attachment& from, const places::Attachment& to) {
            std::int64_t best = -1;
            const auto take = [&](std::int64_t v) { best = best < 0 ? v : std::min(best, v); };
            const auto ms = [&](Millimetres mm) { return (mm.count() + 5) / 10; };
            struct Walk {
                std::vector<std::uint32_t> ways;
                std::int64_t cost;  // until one may start along the last
            };
            std::vector<Walk> walks;
            if (from.link == to.link) take(std::abs(ms(from.offset) - ms(to.offset)));
            for (const auto w : {routing::LinkWay::along(from.link), routing::LinkWay::against(from.link)})
                walks.push_back({{w.bits}, 0});
            while (!walks.empty()) {
                const Walk walk = walks.back();
                walks.pop_back();
                if (walk.ways.size() > 8) continue;
                const routing::LinkWay w{walk.ways.back()};
                const Millimetres finish = w.is_against() ? Millimetres(0) : a.ready->inputs.network->length(w.link());
                const Millimetres start = walk.ways.size() == 1 ? from.offset
                                          : w.is_against()      ? a.ready->inputs.network->length(w.link())
                                                                : Millimetres(0);
                const std::int64_t at_end = walk.cost + std::abs(ms(finish) - ms(start));
                const bool on_junction = walk.ways.size() == 1 && start == finish;
                if (walk.ways.size() > 1 || on_junction)
                    for (const auto e : {std::pair(Millimetres(0), net->ends(to.link).from),
                                         std::pair(net->length(to.link), net->ends(to.link).to)})
                        if (to.offset == e.first && end_of(*net, w) == e.second) take(at_end);
                for (const auto n : ways.from(end_of(*net, w))) {
                    auto longer = walk.ways;
                    longer.push_back(n.bits);
                    const std::uint32_t turn = on_junction ? 0 : turns.cost(w, n);
                    if (turn == routing::kForbidden) continue;
                    if (on_junction) longer.erase(longer.begin());
                    const bool banned = std::any_of(paths.begin(), paths.end(), [&](const roads::BannedPath& p) {
                        return longer.size() >= p.size() &&
                               std::equal(p.begin(), p.end(), longer.end() - static_cast<std::ptrdiff_t>(p.size()),
                                          [](roads::LineWay x, std::uint32_t y) { return x.bits == y; });
                    });
                    banned_ways += banned ? 1 : 0;
                    if (banned) continue;
                    const std::int64_t until = at_end + turn;
                    if (best >= 0 && until > best) continue;
                    if (n.link() == to.link)
                        take(until +
                             std::abs(ms(to.offset) - ms(n.is_against() ? net->length(n.link()) : Millimetres(0))));
                    // A walk that begins on a junction starts with a whole road.
                    if (on_junction)
                        walks.push_back({{n.bits ^ 1U, n.bits}, until});
                    else
                        walks.push_back({longer, until});
                }
            }
            return best;
        };
        for (std::uint32_t i = 0; i < homes.size(); ++i) {
            const auto& home = (*a.ready->attached)[i];
            if (!home) continue;
            const bool out = q.towards == service::Towards::demand;
            const std::int64_t expected = out ? least(*site, *home) : least(*home, *site);
            INFO("round " << round << " home " << i);
            if (expected < 0) continue;  // farther than nine roads, or not at all
            if (a.place(i).time.count() < expected)
                CHECK(a.place(i).time.count() >= expected - 20);  // a longer walk of more roads
            else
                CHECK(a.place(i).time.count() == Approx(expected).margin(20));
        }
    }
    CHECK(banned_ways > 100);
}

// -----------------------------------------------------------------------------------------------------------
// candidates

TEST_CASE("A candidate says the same as the plan that opens it, at the ends of one-way roads, on nodes and on loops") {
    std::mt19937 dice(72);
    int changed = 0;
    for (int round = 0; round < 120; ++round) {
        INFO("round " << round);
        Town town;
        const auto corner = [&] { return At{100.0 * (dice() % 4), 100.0 * (dice() % 3)}; };
        for (int i = 0; i < 14; ++i) {
            const At a = corner(), b = corner();
            const auto way = dice() % 3 == 0   ? roads::OneWay::along
                             : dice() % 4 == 0 ? roads::OneWay::against
                                               : roads::OneWay::both;
            if (a.x == b.x && a.y == b.y)
                town.draw({a, {a.x + 30, a.y + 20}, {a.x - 10, a.y + 40}, a},
                          test::road(roads::RoadClass::residential, way));
            else
                town.draw({a, b}, test::road(roads::RoadClass::residential, way));
        }
        std::vector<std::pair<At, double>> homes;
        for (int i = 0; i < 20; ++i)
            homes.push_back(
                {dice() % 2 == 0 ? corner() : At{static_cast<double>(dice() % 300), static_cast<double>(dice() % 200)},
                 1});
        auto sites = std::make_shared<places::SiteSet>(
            *posts({corner(), corner(), corner(), {static_cast<double>(dice() % 300), 100}}));
        for (std::size_t i = 1; i < sites->sites.size(); ++i) sites->sites[i].state = places::SiteState::candidate;
        auto q = round % 3 == 0 ? turning(Millis(9000), Millis(4000), Millis(20'000)) : question_at_36();
        q.towards = round % 2 == 0 ? service::Towards::demand : service::Towards::site;
        service::Plan plan;
        if (round % 5 == 4) plan.closures = {point(corner()), line({50, 20}, {250, 130}, ClosureEffect::delay)};
        const auto ready = prepare({town.network(), households(homes), sites}, q, nullptr, Task());
        const auto base = std::make_shared<const service::Outcome>(answer(*ready, plan, Task()));
        service::Candidates candidates(ready, base);
        for (std::uint32_t s = 1; s < sites->count(); ++s) {
            auto opened = plan;
            opened.changes = {{service::Change::open, sites->sites[s].id, {}}};
            const auto asked = answer(*ready, opened, Task());
            auto expected = base->places;
            for (const auto& c : candidates.add(SiteIndex(s)).changed) expected[c.place.value()] = c.outcome;
            for (std::uint32_t i = 0; i < homes.size(); ++i) {
                REQUIRE(expected[i] == asked.places[i]);
                changed += expected[i] == base->places[i] ? 0 : 1;
            }
        }
    }
    CHECK(changed > 500);
}

// --------------------------------------------------------------------------------------------- limits, reasons,
// digests

TEST_CASE("Both measures are right, or there is no route") {
    Town town;
    // A thousand kilometres at a speed at which that takes months, and a short road on.
    std::vector<At> far;
    for (int i = 0; i <= 100; ++i) far.push_back({9000.0 * i, 0});
    std::vector<geo::LonLat> shape;
    for (const At p : far) shape.push_back(place(p));
    town.lines().add(shape, test::road());
    auto q = question_at_36();
    q.profile.one_speed = Speed::km_per_hour(0.5);
    const auto demand = households({{{10, 0}, 1}, {{9000, 0}, 1}, {{800'000, 0}, 1}});
    const auto a = ask(town, demand, posts({{0, 0}}), q);
    // A part of a road that takes longer than any route costs its part.
    CHECK(a.place(0).time.count() == Approx(72'000).margin(20));
    CHECK(a.place(0).distance.metres() == Approx(10).margin(0.01));
    CHECK(a.place(1).time.minutes() == Approx(9.0 / 0.5 * 60).epsilon(1e-3));
    CHECK(a.place(2).status == Status::cut_off);
    // By distance the way is short enough, but its time cannot be told: no route, rather than one held at a limit.
    q.serving = service::Nearest{routing::Measure::distance};
    const auto b = ask(town, demand, posts({{0, 0}}), q);
    CHECK(b.place(2).status == Status::cut_off);
    CHECK(b.place(1).time == a.place(1).time);
    q.off_road_speed = Speed::km_per_hour(0.1);
    q.attach_limit = Millimetres::metres(100'000);
    const auto leg = ask(town, households({{{10, 90'000}, 1}}), posts({{0, 0}}), q);
    CHECK(leg.place(0).status == Status::cut_off);  // 900 hours off the road
}

TEST_CASE("A hovered spot goes by the attach rule of the set, and a reason names the limit that applied") {
    const Town town = Town()
                          .draw({{0, 0}, {500, 0}}, test::road(roads::RoadClass::motorway))
                          .draw({{0, 30}, {500, 30}})
                          .draw({{0, 0}, {0, 30}});
    auto set = std::make_shared<places::DemandSet>(*households({{{200, 5}, 1}, {{200, 120}, 1}}));
    set->attaching.rule.classes &= ~(1U << static_cast<unsigned>(roads::RoadClass::motorway));
    set->attaching.rule.limit = Millimetres::metres(50);
    const auto a = ask(town, set, posts({{0, 15}}), question_at_36());
    const auto spot = read_spot(*a.ready, a.outcome, place({200, 5}));
    CHECK(spot.outcome == a.place(0));
    CHECK(spot.attachment->link == LinkId(1u));
    CHECK(a.place(1).status == Status::no_road_near);
    CHECK_FALSE(read_spot(*a.ready, a.outcome, place({200, 120})).attachment);
    CHECK_THAT(reason(a.outcome, DemandIndex(1u)),
               Catch::Contains("within 50 m") && Catch::Contains("may be attached to"));
}

TEST_CASE("Whatever can change an answer is in its digest: each input in turn") {
    const auto town = [] {
        Town t = Town()
                     .draw({{0, 0}, {300, 0}}, "Mill Row")
                     .draw({{300, 0}, {600, 0}}, "Quay Road")
                     .draw({{300, 0}, {300, 200}});
        t.lines().attributes[2].drive_speed = Speed::km_per_hour(20);
        return t;
    };
    struct Case {
        Town town;
        places::DemandSet demand;
        places::SiteSet sites;
        service::Question question;
        service::Plan plan;
    };
    const auto base = [&] {
        Case c{town(), *households({{{100, 5}, 1}, {{400, 5}, 2}}), *posts({{0, 0}, {600, 0}}), question_at_36(),
               with({point({500, 0}, ClosureEffect::delay)})};
        c.question.profile.one_speed.reset();
        c.demand.attaching.road_names = {"Mill Row", ""};
        c.plan.changes = {{service::Change::move, "s0", place({10, 0})}};
        return c;
    };
    const auto digest = [](const Case& c) {
        return ask(c.town, std::make_shared<places::DemandSet>(c.demand), std::make_shared<places::SiteSet>(c.sites),
                   c.question, c.plan)
            .outcome.digest;
    };
    const std::string before = digest(base());
    CHECK(digest(base()) == before);
    using Change = std::function<void(Case&)>;
    const std::vector<std::pair<const char*, Change>> changes{
        {"a vertex", [](Case& c) { c.town.lines().vertices[1].lat += 1e-6; }},
        {"a class", [](Case& c) { c.town.lines().attributes[0].road_class = roads::RoadClass::primary; }},
        {"who is barred", [](Case& c) { c.town.lines().attributes[0].barred = roads::kBarredWalk; }},
        {"a flag", [](Case& c) { c.town.lines().attributes[0].flags = roads::kRamp; }},
        {"one way",
         [](Case& c) { c.town.lines().attributes[1].set_one_way(roads::OneWay::along, roads::OneWay::along); }},
        {"a speed", [](Case& c) { c.town.lines().attributes[2].drive_speed = Speed::km_per_hour(21); }},
        {"stated minutes", [](Case& c) { c.town.lines().attributes[2].fixed_ms = 5; }},
        {"minutes back",
         [](Case& c) {
             c.town.lines().against_ms = {0, 0, 7};
         }},
        {"whose minutes", [](Case& c) { c.town.lines().times_of = roads::TimesOf::walkers; }},
        {"a road's name", [](Case& c) { c.town.lines().attributes[0].name = c.town.lines().names.add("Weir Row"); }},
        {"heights", [](Case& c) { c.town.lines().heights.assign(c.town.lines().vertices.size(), 3.0F); }},
        {"signals",
         [](Case& c) {
             c.town.lines().traffic_signals = {place({300, 0})};
         }},
        {"a forbidden turn",
         [](Case& c) {
             c.town.lines().bans = {{roads::LineWay::along(0), roads::LineWay::along(1)}};
         }},
        {"a forbidden path",
         [](Case& c) {
             c.town.lines().banned_paths = {
                 {roads::LineWay::along(0), roads::LineWay::along(1), roads::LineWay::against(1)}};
         }},
        {"a demand id", [](Case& c) { c.demand.places[0].id = "x"; }},
        {"a demand place", [](Case& c) { c.demand.places[0].position->lon += 1e-6; }},
        {"a weight", [](Case& c) { c.demand.places[0].weight = Weight::of(1.5); }},
        {"the named road", [](Case& c) { c.demand.attaching.road_names[0] = "Quay Road"; }},
        {"a place set by hand",
         [](Case& c) {
             c.demand.attaching.by_hand[0] = place({200, 0});
         }},
        {"the demand's limit", [](Case& c) { c.demand.attaching.rule.limit = Millimetres::metres(77); }},
        {"the demand's classes", [](Case& c) { c.demand.attaching.rule.classes = 0b11; }},
        {"the demand's slip roads", [](Case& c) { c.demand.attaching.rule.ramps = 0b11; }},
        {"the demand's least piece", [](Case& c) { c.demand.attaching.rule.least_piece = Millimetres::metres(5); }},
        {"a site's id", [](Case& c) { c.sites.sites[1].id = "x"; }},
        {"a site's place", [](Case& c) { c.sites.sites[1].position->lat += 1e-6; }},
        {"a site's state", [](Case& c) { c.sites.sites[1].state = places::SiteState::closed; }},
        {"a site's turnout", [](Case& c) { c.sites.sites[1].turnout = Millis(1); }},
        {"a site's capacity", [](Case& c) { c.sites.sites[1].capacity = Weight::of(5); }},
        {"the sites' limit", [](Case& c) { c.sites.attaching.rule.limit = Millimetres::metres(77); }},
        {"the measure", [](Case& c) { c.question.serving = service::Nearest{routing::Measure::distance}; }},
        {"the direction", [](Case& c) { c.question.towards = service::Towards::site; }},
        {"the limit", [](Case& c) { c.question.limit = Millis(60'000); }},
        {"the attach limit", [](Case& c) { c.question.attach_limit = Millimetres::metres(100); }},
        {"the off-road speed", [](Case& c) { c.question.off_road_speed = Speed::km_per_hour(4); }},
        {"the turnout", [](Case& c) { c.question.turnout = Millis(1); }},
        {"who counts", [](Case& c) { c.question.by_weight = !c.question.by_weight; }},
        {"which sites", [](Case& c) { c.question.use = service::SiteUse::open_and_candidate; }},
        {"the traveller", [](Case& c) { c.question.profile.mode = travel::Mode::respond; }},
        {"one speed", [](Case& c) { c.question.profile.one_speed = Speed::km_per_hour(36); }},
        {"stated speeds", [](Case& c) { c.question.profile.heeds_stated_speed = false; }},
        {"one-way rules", [](Case& c) { c.question.profile.one_way = false; }},
        {"slopes", [](Case& c) { c.question.profile.slope = true; }},
        {"a class's speed",
         [](Case& c) {
             c.question.profile.table = travel::standard_table(travel::Mode::drive);
             (*c.question.profile.table)[0].speed = Speed::km_per_hour(99);
         }},
        {"turning",
         [](Case& c) {
             c.question.profile.turning =
                 travel::Turning{Millis(5), {}, {}, {}, {}, travel::TurningBack::anywhere, true};
         }},
        {"where a site is moved", [](Case& c) { c.plan.changes[0].position->lon += 1e-6; }},
        {"which site is moved", [](Case& c) { c.plan.changes[0].site = "s1"; }},
        {"a further change",
         [](Case& c) {
             c.plan.changes.push_back({service::Change::close, "s1", {}});
         }},
        {"a closure's effect", [](Case& c) { c.plan.closures[0].effect = ClosureEffect::slowed; }},
        {"a closure's delay", [](Case& c) { c.plan.closures[0].delay = Millis(1); }},
        {"a closure's factor", [](Case& c) { c.plan.closures[0].factor_per_mille = 1500; }},
        {"a closure's place", [](Case& c) { c.plan.closures[0].vertices[0].lon += 1e-6; }},
        {"a further closure",
         [](Case& c) {
             c.plan.closures.push_back(point({100, 0}));
         }},
    };
    std::map<std::string, std::string> known{{before, "nothing"}};
    for (const auto& [what, change] : changes) {
        Case c = base();
        change(c);
        const auto [at, fresh] = known.try_emplace(digest(c), what);
        INFO(what << " and " << at->second);
        CHECK(fresh);
    }
}

TEST_CASE("Weights of a thousand million on a million places are added up right, or refused by name") {
    const Town town = Town().draw({{0, 0}, {300, 0}});
    auto set = std::make_shared<places::DemandSet>();
    set->name = "properties";
    for (int i = 0; i < 9000; ++i) set->places.push_back({std::to_string(i), place({100, 0}), Weight::of(1e9)});
    const auto a = ask(town, set, posts({{0, 0}}), question_at_36());
    CHECK(a.outcome.all.weight.value() == 9e12);
    CHECK(within(a.outcome, Millis(60'000)).weight == a.outcome.all.weight);
    CHECK(share_of(a.outcome.all.weight, a.outcome.all.weight).percent() == 100);
    CHECK(a.outcome.time_statistics->mean == Approx(10'000).margin(2));
    set = std::make_shared<places::DemandSet>(*set);
    set->places.push_back({"one", place({100, 0}), Weight::of(1)});
    CHECK_THROWS_WITH(ask(town, set, posts({{0, 0}}), question_at_36()),
                      Catch::Contains("properties") && Catch::Contains("million million"));
}
