#pragma once
/// \file
/// Small towns drawn in metres, for tests that can be checked by hand.
#include <array>
#include <initializer_list>
#include <memory>
#include <string>
#include <vector>

#include "geo/local_frame.h"
#include "places/demand.h"
#include "roads/prepare.h"

namespace otoro::test {

struct At {
    double x = 0;
    double y = 0;
};

/// Metres east and north of 46.2 N 9.5 W.
inline geo::LonLat place(At p) {
    static const auto scale = geo::MetresPerDegree::at_latitude(46.2);
    return {-9.5 + p.x / scale.east, 46.2 + p.y / scale.north};
}

inline roads::Attributes road(roads::RoadClass c = roads::RoadClass::residential,
                              roads::OneWay way = roads::OneWay::both) {
    roads::Attributes a;
    a.road_class = c;
    a.set_one_way(way, way);
    return a;
}
inline roads::Attributes one_way() { return road(roads::RoadClass::residential, roads::OneWay::along); }

/// Draws roads one by one.
class Town {
public:
    Town& draw(std::initializer_list<At> shape, const roads::Attributes& a = road()) {
        std::vector<geo::LonLat> line;
        for (const At p : shape) line.push_back(place(p));
        lines_.add(line, a);
        return *this;
    }
    /// A named road.
    Town& draw(std::initializer_list<At> shape, const std::string& name, roads::OneWay way = roads::OneWay::both) {
        auto a = road(roads::RoadClass::residential, way);
        a.name = lines_.names.add(name);
        return draw(shape, a);
    }
    [[nodiscard]] std::shared_ptr<const roads::Network> network() const {
        return std::make_shared<const roads::Network>(join(lines_, Task()));
    }
    [[nodiscard]] const roads::Lines& lines() const { return lines_; }
    [[nodiscard]] roads::Lines& lines() { return lines_; }
    /// The network under a preparation.
    [[nodiscard]] std::shared_ptr<const roads::Network> prepared(const roads::Preparation& p) const {
        return std::make_shared<const roads::Network>(
            roads::prepare(std::make_shared<const roads::Lines>(lines_), p, Task()));
    }

private:
    roads::Lines lines_;
};

inline std::shared_ptr<const places::DemandSet> households(const std::vector<std::pair<At, double>>& at) {
    auto set = std::make_shared<places::DemandSet>();
    set->name = "households";
    set->weight_name = "residents";
    for (const auto& [p, weight] : at)
        set->places.push_back({"h" + std::to_string(set->places.size()), place(p), Weight::of(weight)});
    return set;
}

inline std::shared_ptr<const places::SiteSet> posts(const std::vector<At>& at) {
    auto set = std::make_shared<places::SiteSet>();
    set->name = "posts";
    for (const At p : at)
        set->sites.push_back(
            {"s" + std::to_string(set->sites.size()), "", place(p), places::SiteState::open, std::nullopt});
    return set;
}

}  // namespace otoro::test
