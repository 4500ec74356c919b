#include <algorithm>
#include <catch2/catch.hpp>
#include <map>
#include <random>
#include <tuple>

#include "service/split_link.h"
#include "support/asking.h"

using namespace otoro;
using service::Towards;
using test::At;
using test::Town;

namespace {

struct Cost {
    std::uint64_t main = ~0ULL;
    std::uint64_t other = ~0ULL;
    bool operator<(const Cost& o) const { return std::tie(main, other) < std::tie(o.main, o.other); }
};

/// The slow, obvious way: a new node for every place and site, every road cut at them, and from each site the arcs
/// relaxed until nothing gets better.
class Slowly {
public:
    Slowly(const service::Ready& ready, const std::vector<std::optional<places::Attachment>>& sites)
        : ready_(ready), sites_(sites) {
        const auto& net = *ready.inputs.network;
        std::map<std::uint32_t, std::vector<std::pair<std::int64_t, std::uint32_t>>> cuts;  // link -> (offset, node)
        nodes_ = net.node_count();
        const auto add = [&](const std::optional<places::Attachment>& a) {
            if (!a) return ~0U;
            cuts[a->link.value()].emplace_back(a->offset.count(), nodes_);
            return nodes_++;
        };
        for (const auto& a : *ready.attached) demand_nodes_.push_back(add(a));
        for (const auto& a : sites) site_nodes_.push_back(add(a));
        for (std::uint32_t l = 0; l < net.link_count(); ++l) {
            auto points = cuts[l];
            points.emplace_back(0, net.ends(LinkId(l)).from.value());
            points.emplace_back(net.length(LinkId(l)).count(), net.ends(LinkId(l)).to.value());
            std::stable_sort(points.begin(), points.end(),
                             [](const auto& a, const auto& b) { return a.first < b.first; });
            for (std::size_t i = 0; i < points.size(); ++i)
                for (std::size_t j = i + 1; j < points.size(); ++j) cut(l, points[i], points[j]);
        }
    }

    /// Nearest site by (main, site, other) for one place, or none.
    std::optional<std::tuple<std::uint64_t, std::uint32_t, std::uint64_t>> nearest(std::size_t place) {
        std::optional<std::tuple<std::uint64_t, std::uint32_t, std::uint64_t>> best;
        for (std::uint32_t s = 0; s < sites_.size(); ++s) {
            if (!sites_[s] || demand_nodes_[place] == ~0U) continue;
            const Cost c = from_site(s)[demand_nodes_[place]];
            if (c.main == ~0ULL) continue;
            const auto offer = std::make_tuple(c.main, s, c.other);
            if (!best || offer < *best) best = offer;
        }
        return best;
    }

private:
    struct Arc {
        std::uint32_t from, to;
        Cost cost;
    };

    void cut(std::uint32_t l, const std::pair<std::int64_t, std::uint32_t>& a,
             const std::pair<std::int64_t, std::uint32_t>& b) {
        const auto crossing = ready_.costed->traversal_times[l];
        const std::int64_t length = ready_.inputs.network->length(LinkId(l)).count();
        const auto way = [&](std::uint32_t from, std::uint32_t to, std::uint64_t whole) {
            if (a.first != b.first && whole == travel::kNotAllowed) return;
            const auto until = [&](std::int64_t x) {
                return length == 0 ? 0 : (static_cast<std::int64_t>(whole) * x + length / 2) / length;
            };
            const auto ms = static_cast<std::uint64_t>(a.first == b.first ? 0 : until(b.first) - until(a.first));
            const auto mm = static_cast<std::uint64_t>(b.first - a.first);
            const bool time = ready_.question.measure() == routing::Measure::time;
            arcs_.push_back({from, to, time ? Cost{ms, mm} : Cost{mm, ms}});
        };
        const bool outward = ready_.question.towards == Towards::demand;
        way(outward ? a.second : b.second, outward ? b.second : a.second, crossing.along);
        way(outward ? b.second : a.second, outward ? a.second : b.second, crossing.against);
    }

    const std::vector<Cost>& from_site(std::uint32_t s) {
        auto& costs = trees_[s];
        if (!costs.empty()) return costs;
        costs.resize(nodes_);
        costs[site_nodes_[s]] = {0, 0};
        for (bool changed = true; changed;) {
            changed = false;
            for (const auto& a : arcs_) {
                if (costs[a.from].main == ~0ULL) continue;
                const Cost c{costs[a.from].main + a.cost.main, costs[a.from].other + a.cost.other};
                if (c < costs[a.to]) {
                    costs[a.to] = c;
                    changed = true;
                }
            }
        }
        return costs;
    }

    const service::Ready& ready_;
    const std::vector<std::optional<places::Attachment>>& sites_;
    std::uint32_t nodes_ = 0;
    std::vector<std::uint32_t> demand_nodes_, site_nodes_;
    std::vector<Arc> arcs_;
    std::map<std::uint32_t, std::vector<Cost>> trees_;
};

}  // namespace

TEST_CASE("Random towns: every place has the nearest site, time and distance that the slow way finds, to the unit") {
    int served = 0;
    for (std::uint64_t seed = 0; seed < 250; ++seed) {
        std::mt19937_64 dice(seed);
        const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(dice() % n); };
        const auto corner = [&] { return At{150.0 * below(5), 130.0 * below(4)}; };
        Town town;
        for (std::uint32_t i = 0; i < 6 + below(20); ++i) {
            const At a = corner();
            const At b = corner();
            const auto way = below(3) == 0   ? roads::OneWay::along
                             : below(5) == 0 ? roads::OneWay::against
                                             : roads::OneWay::both;
            auto r = test::road(below(4) == 0 ? roads::RoadClass::primary : roads::RoadClass::residential, way);
            if (a.x == b.x && a.y == b.y)
                town.draw({a, {a.x + 40, a.y + 30}, {a.x - 20, a.y + 50}, a}, r);
            else
                town.draw({a, {(a.x + b.x) / 2 + below(30), (a.y + b.y) / 2}, b}, r);
        }
        auto demand = std::make_shared<places::DemandSet>();
        for (int i = 0; i < 25; ++i) {
            const At p = below(4) == 0 ? corner() : At{below(6000) / 10.0, below(4000) / 10.0};
            demand->places.push_back({std::to_string(i), test::place(p), Weight::one()});
        }
        auto sites = std::make_shared<places::SiteSet>();
        for (std::uint32_t i = 0; i < 1 + below(5); ++i) {
            const At p = below(3) == 0 ? corner() : At{below(6000) / 10.0, below(4000) / 10.0};
            sites->sites.push_back({std::to_string(i), "", test::place(p), places::SiteState::open, std::nullopt});
        }
        service::Question q;
        q.towards = below(2) ? Towards::demand : Towards::site;
        q.serving = service::Nearest{below(2) ? routing::Measure::time : routing::Measure::distance};
        q.profile.mode = below(4) == 0 ? travel::Mode::walk : travel::Mode::drive;
        const auto a = test::ask(town, demand, sites, q);
        std::vector<std::optional<places::Attachment>> attached;
        for (const auto& s : a.outcome.sites) attached.push_back(s.attachment);
        Slowly slowly(*a.ready, attached);
        for (std::size_t i = 0; i < demand->places.size(); ++i) {
            INFO("seed " << seed << ", place " << i);
            const auto expected = slowly.nearest(i);
            const auto& got = a.place(i);
            REQUIRE(got.site.has_value() == expected.has_value());
            if (!expected) continue;
            ++served;
            const auto [main, site, other] = *expected;
            const bool time = q.measure() == routing::Measure::time;
            REQUIRE(static_cast<std::uint64_t>(time ? got.time.count() : got.distance.count()) == main);
            REQUIRE(got.site->value() == site);
            REQUIRE(static_cast<std::uint64_t>(time ? got.distance.count() : got.time.count()) == other);
        }
    }
    CHECK(served > 3000);
}
