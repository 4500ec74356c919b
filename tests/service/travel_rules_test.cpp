/// Closures, turning, slopes, off-road legs and attach rules, as an answer shows them.
#include <catch2/catch.hpp>
#include <random>

#include "geo/ellipsoid.h"
#include "support/closing.h"

using namespace otoro;
using roads::Closure;
using roads::ClosureEffect;
using roads::ClosureShape;
using service::Status;
using namespace otoro::test;

namespace {

Closure at(At p, ClosureEffect effect = ClosureEffect::closed) { return closed_at(p, effect); }

}  // namespace

TEST_CASE("A household across the river is served by the far station when the bridge is shut") {
    const Town town = Town()
                          .draw({{0, 0}, {0, 100}})
                          .draw({{0, 100}, {500, 100}})
                          .draw({{0, 0}, {-300, 0}})
                          .draw({{500, 100}, {800, 100}});
    const auto demand = households({{{5, 100}, 1}});
    const auto sites = posts({{-50, 0}, {800, 100}});
    CHECK(ask(town, demand, sites, question_at_36()).site_of(0) == "s0");
    const auto shut = ask(town, demand, sites, question_at_36(), with({at({0, 50})}));
    CHECK(shut.site_of(0) == "s1");
    CHECK(shut.place(0).distance.metres() == Approx(795).margin(0.1));
}

TEST_CASE("Those who live on a shut road are reached up to where it is shut") {
    const auto a = ask(Town().draw({{0, 0}, {1000, 0}}), households({{{300, 5}, 1}, {{700, 5}, 1}}), posts({{0, 0}}),
                       question_at_36(), with({at({500, 0})}));
    CHECK(a.place(0).status == Status::served);
    CHECK(a.place(1).status == Status::cut_off);
}

TEST_CASE("A slowed stretch takes so many times as long, a delay once so much longer") {
    const Town town = Town().draw({{0, 0}, {1000, 0}}).draw({{1000, 0}, {2000, 0}});
    const auto demand = households({{{300, 0}, 1}, {{2000, 0}, 1}});
    Closure area{"works",
                 ClosureShape::area,
                 {place({200, -20}), place({600, -20}), place({600, 20}), place({200, 20})},
                 ClosureEffect::slowed,
                 3000,
                 {}};
    const auto slowed = ask(town, demand, posts({{0, 0}}), question_at_36(), with({area}));
    CHECK(slowed.place(0).time.count() == Approx(20'000 + 3 * 10'000).margin(20));
    CHECK(slowed.place(1).time.count() == Approx(200'000 + 2 * 40'000).margin(20));
    CHECK(slowed.place(1).distance.metres() == Approx(2000).margin(0.01));
    const auto delayed =
        ask(town, demand, posts({{0, 0}}), question_at_36(), with({at({500, 0}, ClosureEffect::delay)}));
    CHECK(delayed.place(0).time == Millis(30'000));
    CHECK(delayed.place(1).time == Millis(260'000));
}

TEST_CASE("A plan with a closure has another digest and leaves Today as it was") {
    const Town town = Town().draw({{0, 0}, {1000, 0}});
    const auto demand = households({{{700, 0}, 1}});
    const auto ready = prepare({town.network(), demand, posts({{0, 0}})}, question_at_36(), nullptr, Task());
    const auto today = answer(*ready, {}, Task());
    const auto plan = answer(*ready, with({at({500, 0})}), Task());
    CHECK(today.digest != plan.digest);
    CHECK(answer(*ready, {}, Task()).places[0].time == today.places[0].time);
    CHECK(plan.places[0].status == Status::cut_off);
}

TEST_CASE("Turning costs are paid at every crossing, and may send people another way") {
    // North by the direct road means a left turn at the crossroads; round the block there are rights only.
    const Town cross =
        Town().draw({{-200, 0}, {0, 0}}).draw({{0, 0}, {0, 200}}).draw({{0, 0}, {200, 0}}).draw({{0, 0}, {0, -200}});
    const auto demand = households({{{0, 150}, 1}, {{150, 0}, 1}, {{0, -150}, 1}});
    const auto a = ask(cross, demand, posts({{-100, 0}}), turning(Millis(9000), Millis(4000)));
    CHECK(a.place(0).time == Millis(25'000 + 9000));
    CHECK(a.place(1).time == Millis(25'000));
    CHECK(a.place(2).time == Millis(25'000 + 4000));
    auto q = turning(Millis(9000), Millis(4000));
    q.towards = service::Towards::site;
    // From the north towards the west is a right turn.
    CHECK(ask(cross, demand, posts({{-100, 0}}), q).place(0).time == Millis(25'000 + 4000));
}

TEST_CASE("A forbidden turn sends people round") {
    Town town = Town()
                    .draw({{-200, 0}, {0, 0}})
                    .draw({{0, 0}, {0, 200}})
                    .draw({{0, 0}, {300, 0}})
                    .draw({{300, 0}, {300, 200}, {0, 200}});
    town.lines().bans = {{roads::LineWay::along(0), roads::LineWay::along(1)}};
    auto q = question_at_36();
    // They drive on to the next crossing, turn back there and come to the turn from the other side...
    CHECK(ask(town, households({{{0, 150}, 1}}), posts({{-100, 0}}), q).place(0).distance.metres() ==
          Approx(100 + 300 + 300 + 150).margin(0.1));
    // ...or, where that is not allowed, go round the block.
    q.profile.turning = travel::Turning{{}, {}, {}, {}, {}, travel::TurningBack::never, true};
    CHECK(ask(town, households({{{0, 150}, 1}}), posts({{-100, 0}}), q).place(0).distance.metres() ==
          Approx(100 + 300 + 200 + 300 + 50).margin(0.1));
    q.profile.turning = travel::Turning{};
    CHECK(ask(town, households({{{0, 150}, 1}}), posts({{-100, 0}}), q).place(0).distance.metres() ==
          Approx(250).margin(0.1));
}

namespace {

/// The slow, obvious way with turning: Bellman and Ford over ways of links, until nothing changes.
class PlainTurning {
public:
    PlainTurning(const roads::Network& net, const travel::Profile& profile)
        : net_(net),
          crossings_(travel::traversal_times(net, profile, Task())),
          turns_(net, crossings_, travel::turning_of(profile)) {}

    /// Least time from a point of one link to a point of another.
    std::optional<std::int64_t> time(LinkId from, Millimetres at, LinkId to, Millimetres end) {
        const std::uint32_t ways = 2 * net_.link_count();
        std::vector<std::int64_t> cost(ways, kNone);  // until one may start along the way
        std::optional<std::int64_t> best;
        const auto take = [&](std::int64_t v) { best = best ? std::min(*best, v) : v; };
        for (const auto w : {routing::LinkWay::along(from), routing::LinkWay::against(from)}) {
            const Millimetres off = w.is_against() ? Millimetres(0) : net_.length(from);
            if (from == to && at == end) take(0);
            if (shut(w) && at != off) continue;
            if (!shut(w) && from == to && (at == end || (at < end) != w.is_against())) take(part(w, at, end));
            const std::int64_t out = at == off ? 0 : part(w, at, off);
            for (std::uint32_t n = 0; n < ways; ++n) {
                if (at == off && routing::start_of(net_, {n}) == routing::end_of(net_, w))
                    cost[n] = 0;  // on the junction: no road travelled yet
                else
                    step(w, {n}, out, cost);
            }
        }
        for (bool changed = true; changed;) {
            changed = false;
            for (std::uint32_t w = 0; w < ways; ++w) {
                if (cost[w] == kNone || shut({w})) continue;
                for (std::uint32_t n = 0; n < ways; ++n) changed = step({w}, {n}, cost[w] + full({w}), cost) || changed;
            }
        }
        for (const auto w : {routing::LinkWay::along(to), routing::LinkWay::against(to)})
            if (const Millimetres begin = w.is_against() ? net_.length(to) : Millimetres(0);
                cost[w.bits] != kNone && (!shut(w) || begin == end))
                take(cost[w.bits] + (begin == end ? 0 : part(w, begin, end)));
        // A place on a junction is come to over any road that leads there.
        for (const auto end_way : {routing::LinkWay::along(to), routing::LinkWay::against(to)}) {
            if (end != (end_way.is_against() ? Millimetres(0) : net_.length(to))) continue;
            for (std::uint32_t w = 0; w < ways; ++w) {
                const routing::LinkWay way{w};
                if (!(routing::end_of(net_, way) == routing::end_of(net_, end_way))) continue;
                const Millimetres off = way.is_against() ? Millimetres(0) : net_.length(way.link());
                if (way.link() == from && (!shut(way) || at == off)) take(at == off ? 0 : part(way, at, off));
                if (cost[w] != kNone && !shut(way)) take(cost[w] + full(way));
            }
        }
        return best;
    }

private:
    static constexpr std::int64_t kNone = -1;
    [[nodiscard]] std::uint64_t whole(routing::LinkWay w) const {
        return w.is_against() ? crossings_[w.link().value()].against : crossings_[w.link().value()].along;
    }
    [[nodiscard]] bool shut(routing::LinkWay w) const { return whole(w) == travel::kNotAllowed; }
    [[nodiscard]] std::int64_t full(routing::LinkWay w) const { return static_cast<std::int64_t>(whole(w)); }
    [[nodiscard]] std::int64_t part(routing::LinkWay w, Millimetres a, Millimetres b) const {
        const std::int64_t length = net_.length(w.link()).count();
        const auto until = [&](Millimetres x) { return (full(w) * x.count() + length / 2) / length; };
        return std::abs(until(a) - until(b));
    }
    bool step(routing::LinkWay w, routing::LinkWay n, std::int64_t before, std::vector<std::int64_t>& cost) {
        if (start_of(net_, n) != end_of(net_, w)) return false;
        const std::uint32_t turn = turns_.cost(w, n);
        if (turn == routing::kForbidden) return false;
        auto& known = cost[n.bits];
        if (known != kNone && known <= before + turn) return false;
        known = before + turn;
        return true;
    }

    const roads::Network& net_;
    std::vector<travel::TraversalTime> crossings_;
    routing::TurnCosts turns_;
};

}  // namespace

TEST_CASE("Random towns with turning, against a plain method: exact to the millisecond, both directions") {
    for (int seed = 0; seed < 60; ++seed) {
        std::mt19937 dice(static_cast<unsigned>(seed));
        const auto below = [&](int n) { return static_cast<int>(dice() % static_cast<unsigned>(n)); };
        Town town;
        std::vector<At> corners;
        for (int i = 0; i < 9; ++i) corners.push_back({100.0 * (i % 3) + below(30), 100.0 * (i / 3) + below(30)});
        for (int i = 0; i < 14; ++i) {
            const At a = corners[static_cast<std::size_t>(below(9))], b = corners[static_cast<std::size_t>(below(9))];
            if (a.x == b.x && a.y == b.y) continue;
            town.draw({a, b}, below(4) == 0 ? test::one_way() : test::road());
        }
        const auto net = town.network();
        for (int i = 0; i < 4; ++i) {
            const routing::LinkWay w{static_cast<std::uint32_t>(below(static_cast<int>(2 * net->link_count())))};
            for (std::uint32_t n = 0; n < 2 * net->link_count(); ++n)
                if (routing::start_of(*net, {n}) == routing::end_of(*net, w) && below(2) == 0)
                    town.lines().bans.push_back({{w.bits}, {n}});
        }
        std::sort(town.lines().bans.begin(), town.lines().bans.end());
        auto q = question_at_36();
        q.profile.turning = travel::Turning{Millis(below(9000)),
                                            Millis(below(2000)),
                                            Millis(below(5000)),
                                            Millis(below(20'000)),
                                            {},
                                            static_cast<travel::TurningBack>(below(3)),
                                            true};
        q.towards = below(2) == 0 ? service::Towards::demand : service::Towards::site;
        places::DemandSet demand = *households({});
        for (int i = 0; i < 12; ++i)
            demand.places.push_back({std::to_string(i), place({below(300) * 1.0, below(300) * 1.0}), Weight::one()});
        const auto sites = posts({{below(300) * 1.0, below(300) * 1.0}, {below(300) * 1.0, below(300) * 1.0}});
        const auto a = ask(town, std::make_shared<const places::DemandSet>(demand), sites, q);
        const auto prepared = town.network();
        PlainTurning plain(*prepared, q.profile);
        for (std::size_t i = 0; i < 12; ++i) {
            const auto& where = (*a.ready->attached)[i];
            if (!where) continue;
            std::optional<std::int64_t> best;
            for (const auto& s : a.outcome.sites) {
                if (!s.attachment) continue;
                const bool out = q.towards == service::Towards::demand;
                const auto t = out ? plain.time(s.attachment->link, s.attachment->offset, where->link, where->offset)
                                   : plain.time(where->link, where->offset, s.attachment->link, s.attachment->offset);
                if (t) best = best ? std::min(*best, *t) : *t;
            }
            INFO("seed " << seed << " place " << i);
            REQUIRE(best.has_value() == a.place(i).site.has_value());
            if (best) CHECK(a.place(i).time.count() == *best);
        }
    }
}

TEST_CASE("Where turning is paid for, the drawn route is as long as the answer says") {
    const Town town = Town()
                          .draw({{-200, 0}, {0, 0}})
                          .draw({{0, 0}, {0, 200}})
                          .draw({{0, 0}, {200, 0}})
                          .draw({{200, 0}, {200, 200}})
                          .draw({{0, 200}, {200, 200}});
    const auto a = ask(town, households({{{0, 150}, 1}, {{200, 100}, 1}}), posts({{-100, 0}}),
                       turning(Millis(9000), Millis(4000)));
    for (const std::uint32_t i : {0U, 1U}) {
        const auto r = read_place(*a.ready, a.outcome, DemandIndex(i));
        CHECK(geo::line_length(r.route).metres() ==
              Approx(a.place(i).distance.metres() + r.attachment->off_road.metres()).margin(0.5));
    }
}

TEST_CASE("Walking up costs more than walking down, by Tobler's function") {
    Town town = Town().draw({{0, 0}, {1000, 0}});
    town.lines().heights = {0, 100};  // one in ten
    auto q = question_at_36();
    q.profile = {travel::Mode::walk, std::nullopt};
    q.profile.slope = true;
    const auto up = ask(town, households({{{1000, 0}, 1}}), posts({{0, 0}}), q).place(0).time;
    q.towards = service::Towards::site;
    const auto down = ask(town, households({{{1000, 0}, 1}}), posts({{0, 0}}), q).place(0).time;
    CHECK(up.count() == Approx(750'000 * std::exp(3.5 * 0.1)).epsilon(1e-4));
    CHECK(down.count() == Approx(750'000.0).epsilon(1e-4));  // |-0.1 + 0.05| is as far from level as 0 + 0.05
    q.profile.slope = false;
    CHECK(ask(town, households({{{1000, 0}, 1}}), posts({{0, 0}}), q).place(0).time == Millis(750'000));
}

TEST_CASE("Off-road legs count only if the question says so, at the stated speed") {
    const Town town = Town().draw({{0, 0}, {1000, 0}});
    auto q = question_at_36();
    CHECK(ask(town, households({{{500, 50}, 1}}), posts({{0, 20}}), q).place(0).time == Millis(50'000));
    q.off_road_speed = Speed::km_per_hour(3.6);  // a metre a second
    const auto a = ask(town, households({{{500, 50}, 1}, {{10, 50}, 1}}), posts({{0, 20}}), q);
    CHECK(a.place(0).time.count() == Approx(50'000 + 50'000 + 20'000).margin(30));
    CHECK(a.place(0).distance.metres() == Approx(570).margin(0.1));
    CHECK(a.place(1).time.count() == Approx(1000 + 70'000).margin(30));  // also on one road
}

TEST_CASE("A place is attached as its layer says: limit, classes, pieces, by name, by hand") {
    auto named = test::road();
    Town town;
    named.name = town.lines().names.add("Weir Lane");
    town.draw({{0, 0}, {1000, 0}}).draw({{0, 40}, {60, 40}}).draw({{0, -60}, {1000, -60}}, named);
    auto demand = *households({{{30, 30}, 1}});
    const auto q = question_at_36();
    const auto link = [&] {
        const auto a = ask(town, std::make_shared<const places::DemandSet>(demand), posts({{900, 0}}), q);
        return (*a.ready->attached)[0] ? std::optional((*a.ready->attached)[0]->link.value()) : std::nullopt;
    };
    CHECK(link() == 1U);  // the stray driveway is nearest
    demand.attaching.rule.least_piece = Millimetres::metres(500);
    CHECK(link() == 0U);
    demand.attaching.road_names = {"weir lane"};
    CHECK(link() == 2U);
    demand.attaching.by_hand[0] = place({900, 2});
    CHECK(link() == 0U);
    demand.attaching = {};
    demand.attaching.rule.classes = 0;
    CHECK_FALSE(link());
    demand.attaching = {};
    demand.attaching.rule.limit = Millimetres::metres(5);
    CHECK_FALSE(link());
}
