#include <catch2/catch.hpp>
#include <map>
#include <random>

#include "geo/ellipsoid.h"
#include "service/candidate.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::test;
using service::Plan;

namespace {

/// A store in memory that counts.
class Orders : public service::OrderStore {
public:
    std::optional<std::vector<std::uint32_t>> find(const std::string& name) override {
        const auto at = kept.find(name);
        if (at == kept.end()) return std::nullopt;
        ++found;
        return at->second;
    }
    void keep(const std::string& name, std::span<const std::uint32_t> turns) override {
        kept[name].assign(turns.begin(), turns.end());
    }
    std::map<std::string, std::vector<std::uint32_t>> kept;
    int found = 0;
};

struct Case {
    Town town;
    std::shared_ptr<const places::DemandSet> demand;
    std::shared_ptr<const places::SiteSet> sites;
};

/// A town of 24 by 24 crossings with streets missing, some one-way, and places beside them.
Case random_town(std::mt19937& dice) {
    Case c;
    constexpr int kSide = 24;
    const auto at = [](int x, int y) { return At{100.0 * x, 100.0 * y}; };
    const auto street = [&](At a, At b) {
        if (dice() % 8 != 0)
            c.town.draw({a, b}, dice() % 5 == 0 ? one_way()
                                                : road(dice() % 4 == 0 ? roads::RoadClass::primary
                                                                       : roads::RoadClass::residential));
    };
    for (int y = 0; y < kSide; ++y)
        for (int x = 0; x < kSide; ++x) {
            if (x + 1 < kSide) street(at(x, y), at(x + 1, y));
            if (y + 1 < kSide) street(at(x, y), at(x, y + 1));
        }
    const auto somewhere = [&] { return At{static_cast<double>(dice() % 2300), static_cast<double>(dice() % 2300)}; };
    std::vector<std::pair<At, double>> homes;
    for (int i = 0; i < 150; ++i) homes.push_back({somewhere(), 1.0 + static_cast<double>(dice() % 4)});
    std::vector<At> posts_at;
    for (int i = 0; i < 4; ++i) posts_at.push_back(somewhere());
    c.demand = households(homes);
    c.sites = posts(posts_at);
    return c;
}

double length_of(const std::vector<geo::LonLat>& line) {
    double metres = 0;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) metres += geo::distance(line[i], line[i + 1]).metres();
    return metres;
}

/// Whether the same question has the same answer, to the unit, with searches prepared and without.
void check_same(const service::Ready& plain, const service::Ready& fast, const Plan& plan) {
    const auto expected = answer(plain, plan, Task()), found = answer(fast, plan, Task());
    REQUIRE_FALSE(expected.traces->labels.prepared());
    REQUIRE(found.traces->labels.prepared());
    CHECK(found.searched != expected.searched);
    CHECK(found.digest == expected.digest);
    for (std::uint32_t i = 0; i < expected.places.size(); ++i) {
        const auto &a = expected.places[i], &b = found.places[i];
        REQUIRE(a.status == b.status);
        REQUIRE(a.site == b.site);
        if (!a.site) continue;
        REQUIRE(a.time == b.time);
        REQUIRE(a.distance == b.distance);
        if (i % 10 != 0) continue;
        const auto reading = read_place(fast, found, DemandIndex(i));
        CHECK(reading.outcome.time == a.time);
        const auto off_road =
            reading.attachment->off_road.metres() + found.sites[b.site->value()].attachment->off_road.metres();
        CHECK(length_of(reading.route) == Approx(b.distance.metres() + off_road).margin(1));
    }
}

}  // namespace

TEST_CASE("Prepared searches give the answer of plain ones, under every direction, measure, way of turning and plan") {
    std::mt19937 dice(31);
    for (int i = 0; i < 8; ++i) {
        INFO("town " << i);
        const Case c = random_town(dice);
        auto q = question_at_36();
        q.profile = {travel::Mode::drive, {}};
        q.towards = i % 2 == 0 ? service::Towards::demand : service::Towards::site;
        q.serving = service::Nearest{i % 4 < 2 ? routing::Measure::time : routing::Measure::distance};
        if (i % 3 == 0)
            q.profile.turning = travel::Turning{
                Millis(8000), Millis(2000), Millis(4000), Millis(20'000), {}, travel::TurningBack::dead_ends, true};
        const auto plain = prepare({c.town.network(), c.demand, c.sites}, q, nullptr, Task());
        auto fast = std::make_shared<service::Ready>(*plain);
        fast->prepared = prepare_searches(*plain, nullptr, nullptr, Task(), 0);
        REQUIRE(fast->prepared != nullptr);
        check_same(*plain, *fast, {});
        const auto at = [](double x, double y) { return place({x, y}); };
        Plan works{"Works", {}, {}};
        works.closures.push_back(
            {"", roads::ClosureShape::point, {at(1150, 1100)}, roads::ClosureEffect::closed, 2000, Millis(0)});
        works.closures.push_back({"",
                                  roads::ClosureShape::area,
                                  {at(400, 400), at(900, 420), at(880, 900), at(410, 890)},
                                  roads::ClosureEffect::slowed,
                                  3000,
                                  Millis(0)});
        works.closures.push_back({"",
                                  roads::ClosureShape::line,
                                  {at(1500, 1000), at(1500, 1900)},
                                  roads::ClosureEffect::delay,
                                  2000,
                                  Millis(45'000)});
        check_same(*plain, *fast, works);
    }
}

TEST_CASE(
    "The order of a network is found once: kept in the store, and shared by the other direction, another speed "
    "and other places") {
    std::mt19937 dice(32);
    const Case c = random_town(dice);
    auto q = question_at_36();
    Orders orders;
    const auto net = c.town.network();
    const auto ready = prepare({net, c.demand, c.sites}, q, nullptr, Task());
    const auto first = prepare_searches(*ready, nullptr, &orders, Task(), 0);
    CHECK(orders.kept.size() == 1);
    CHECK(orders.found == 0);
    const auto again = prepare_searches(*ready, nullptr, &orders, Task(), 0);
    CHECK(orders.found == 1);
    CHECK(again->costs->hierarchy().positions() == first->costs->hierarchy().positions());

    q.towards = service::Towards::site;
    const auto turned = prepare({net, c.demand, c.sites}, q, ready.get(), Task());
    CHECK(prepare_searches(*turned, first.get(), &orders, Task(), 0)->costs->shared_hierarchy() ==
          first->costs->shared_hierarchy());
    q.profile = {travel::Mode::walk, {}};
    const auto walking = prepare({net, c.demand, c.sites}, q, ready.get(), Task());
    CHECK(prepare_searches(*walking, nullptr, &orders, Task(), 0)->costs->hierarchy().positions() ==
          first->costs->hierarchy().positions());
    CHECK(orders.kept.size() == 1);

    // What somebody else put there is not trusted: another order is found.
    for (auto& [name, turns] : orders.kept) std::reverse(turns.begin(), turns.end());
    CHECK(prepare_searches(*ready, nullptr, &orders, Task(), 0)->costs->hierarchy().positions() ==
          first->costs->hierarchy().positions());
}

TEST_CASE("A district is not worth preparing, and says so") {
    std::mt19937 dice(33);
    const Case c = random_town(dice);
    const auto ready = prepare({c.town.network(), c.demand, c.sites}, question_at_36(), nullptr, Task());
    CHECK(prepare_searches(*ready, nullptr, nullptr, Task()) == nullptr);
    CHECK(answer(*ready, {}, Task()).searched.find("nothing to gain from preparing") != std::string::npos);
}

TEST_CASE("What a candidate would change is what asking again with it would say, place by place and in the verdict") {
    std::mt19937 dice(34);
    std::uint32_t changed = 0;
    for (int i = 0; i < 10; ++i) {
        INFO("town " << i);
        const Case c = random_town(dice);
        auto sites = *c.sites;
        sites.sites[1].state = places::SiteState::candidate;
        auto q = question_at_36();
        q.profile = {travel::Mode::drive, {}};
        q.towards = i % 2 == 0 ? service::Towards::demand : service::Towards::site;
        q.serving = service::Nearest{i % 4 < 2 ? routing::Measure::time : routing::Measure::distance};
        if (i % 3 == 0)
            q.profile.turning = travel::Turning{
                Millis(8000), Millis(2000), Millis(4000), Millis(20'000), {}, travel::TurningBack::dead_ends, true};
        const auto plain =
            prepare({c.town.network(), c.demand, std::make_shared<const places::SiteSet>(sites)}, q, nullptr, Task());
        auto ready = std::make_shared<service::Ready>(*plain);
        if (i % 4 != 0) ready->prepared = prepare_searches(*plain, nullptr, nullptr, Task(), 0);
        Plan works{"Works", {}, {}};
        if (i % 2 == 1)
            works.closures.push_back(
                {"", roads::ClosureShape::point, {place({1150, 1100})}, roads::ClosureEffect::closed, 2000, Millis(0)});
        const auto base = std::make_shared<const service::Outcome>(answer(*ready, works, Task()));
        service::Candidates candidates(ready, base);
        const service::Standard standard{Share::percent(50), Millis(60'000)},
            by_distance{Share::percent(50), Millimetres::metres(700)};
        const auto check = [&](const service::Candidates::Effect& effect, const Plan& plan) {
            const auto asked = answer(*plain, plan, Task());
            auto places = base->places;
            for (const auto& change : effect.changed) places[change.place.value()] = change.outcome;
            changed += static_cast<std::uint32_t>(effect.changed.size());
            for (std::uint32_t k = 0; k < places.size(); ++k) {
                REQUIRE(places[k].status == asked.places[k].status);
                REQUIRE(places[k].site == asked.places[k].site);
                REQUIRE(places[k].time == asked.places[k].time);
                REQUIRE(places[k].distance == asked.places[k].distance);
            }
            for (const auto& s : {standard, by_distance}) {
                CHECK(candidates.judge(effect, s).inside.weight == judge(asked, s).inside.weight);
                CHECK(candidates.judge(effect, s).met == judge(asked, s).met);
            }
        };
        auto with = works;
        with.changes.push_back({service::Change::open, "s1", {}});
        check(candidates.add(SiteIndex(1U)), with);
        for (int k = 0; k < 3; ++k) {
            const auto spot = place({static_cast<double>(dice() % 2300), static_cast<double>(dice() % 2300)});
            with = works;
            with.changes.push_back({service::Change::add, "new", spot});
            check(candidates.add(spot), with);
            // Within a limit, what the verdict needs is known.
            if (q.measure() == routing::Measure::time)
                CHECK(candidates.judge(candidates.add(spot, standard.limit), standard).inside.weight ==
                      judge(answer(*plain, with, Task()), standard).inside.weight);
        }
    }
    CHECK(changed > 500);
}
