#include "generator/people.h"

#include <fmt/format.h>

#include <algorithm>

namespace demo {
namespace {

bool lived_on(const Street& s) {
    return !s.fixed && (s.road_class == "residential" || s.road_class == "living_street" ||
                        s.road_class == "unclassified" || s.road_class == "tertiary");
}

/// Homes a metre of street.
double density(Kind kind) {
    switch (kind) {
        case Kind::old_town:
            return 1.5;
        case Kind::estate:
            return 1.0;
        case Kind::village:
            return 0.7;
        case Kind::country:
            return 0.045;
    }
    return 0;
}

Point beside(const Street& s, double u, double off) {
    const double at = u * static_cast<double>(s.shape.size() - 1);
    const auto i = std::min(static_cast<std::size_t>(at), s.shape.size() - 2);
    const Point a = s.shape[i];
    const Point d = s.shape[i + 1] - a;
    const Point side = Point{-d.y, d.x} * (1 / std::max(1e-9, length(d)));
    return a + d * (at - static_cast<double>(i)) + side * off;
}

}  // namespace

std::vector<Dwelling> settle(const Terrain& terrain, const StreetPlan& plan, std::size_t count,
                             const std::string& prefix, int most_people, Dice& dice) {
    std::vector<double> until;
    std::vector<std::size_t> street;
    double total = 0;
    for (std::size_t i = 0; i < plan.streets.size(); ++i) {
        const Street& s = plan.streets[i];
        if (!lived_on(s)) continue;
        const Point middle = s.shape[s.shape.size() / 2];
        total += density(terrain.kind(middle)) * length(s.shape.back() - s.shape.front());
        until.push_back(total);
        street.push_back(i);
    }
    std::vector<Dwelling> out;
    while (out.size() < count) {
        const auto at = std::lower_bound(until.begin(), until.end(), dice.unit() * total) - until.begin();
        const Street& s = plan.streets[street[static_cast<std::size_t>(
            std::min<std::ptrdiff_t>(at, static_cast<std::ptrdiff_t>(street.size()) - 1))]];
        const bool country = terrain.kind(s.shape.front()) == Kind::country;
        const double far = country && dice.chance(0.3) ? dice.between(40, 160) : dice.between(7, 22);
        const Point p = beside(s, dice.between(0.04, 0.96), dice.chance(0.5) ? far : -far);
        const int people = 1 + static_cast<int>(dice.unit() * dice.unit() * most_people);
        if (terrain.water(p)) continue;
        out.push_back({fmt::format("{}{:05}", prefix, out.size() + 1), p, people, false});
    }
    return out;
}

void plant_flaws(const Terrain& terrain, std::vector<Dwelling>& dwellings, Dice& dice) {
    Dwelling& at_sea = dwellings[dice.below(dwellings.size())];
    at_sea.at = {terrain.coast(-1500) - 1700, -1500};
    const std::size_t twice = 1000 + dice.below(1000);
    dwellings[twice].id = dwellings[twice - 700].id;
    dwellings[3000 + dice.below(1000)].weight_missing = true;
}

std::vector<Post> put_beside_streets(const StreetPlan& plan, std::vector<Post> wishes) {
    for (auto& post : wishes) {
        double least = 1e300;
        Point best;
        for (const auto& s : plan.streets)
            if (lived_on(s))
                if (const Point p = beside(s, 0.4, 14); length(p - post.near) < least) {
                    least = length(p - post.near);
                    best = p;
                }
        post.near = best;
    }
    return wishes;
}

void record_posts(std::vector<Dwelling>& dwellings, const std::vector<Post>& posts) {
    for (std::size_t i = 0; i < dwellings.size(); ++i) {
        std::vector<std::pair<double, std::string>> by_distance;
        for (const auto& post : posts)
            if (post.state == "open") by_distance.emplace_back(length(post.near - dwellings[i].at), post.id);
        std::sort(by_distance.begin(), by_distance.end());
        dwellings[i].recorded = i % 97 == 40    ? ""
                                : i % 211 == 90 ? "S0"
                                : i % 11 == 5   ? by_distance[1].second
                                                : by_distance[0].second;
    }
}

}  // namespace demo
