#include "service/way.h"

#include <cmath>
#include <numbers>

#include "roads/shape.h"
#include "routing/turn_costs.h"

namespace otoro::service {
namespace {

double bearing(geo::LonLat a, geo::LonLat b) {
    const double shrink = std::cos(a.lat * std::numbers::pi / 180);
    return std::atan2((b.lon - a.lon) * shrink, b.lat - a.lat) * 180 / std::numbers::pi;
}

}  // namespace

std::string_view describe(Turn t) {
    switch (t) {
        case Turn::start:
            return "set out along";
        case Turn::straight:
            return "go on along";
        case Turn::left:
            return "turn left into";
        case Turn::right:
            return "turn right into";
        case Turn::back:
            return "turn back along";
        case Turn::stop:
            return "from the stop go along";
    }
    return "";
}

void WayWriter::begin_leg(bool first) {
    next_ = first ? Turn::start : Turn::stop;
    begun_ = false;
}

void WayWriter::stretch(LinkId link, Millimetres from, Millimetres to, Millis time) {
    const auto shape = roads::shape_between(network_, link, from, to);
    if (shape.size() < 2 || from == to) {
        if (!steps_.empty()) steps_.back().time = steps_.back().time + time;
        return;
    }
    Turn turn = next_;
    if (begun_) {
        const double angle = std::remainder(bearing(shape[0], shape[1]) - arriving_, 360.0);
        constexpr double kStraight = 45, kBack = routing::kBackFrom;
        turn = std::abs(angle) <= kStraight ? Turn::straight
               : std::abs(angle) >= kBack   ? Turn::back
               : angle > 0                  ? Turn::right
                                            : Turn::left;
    }
    const std::string name(network_.name(link));
    const Millimetres length(std::abs((to - from).count()));
    const bool goes_on = begun_ && turn == Turn::straight && !steps_.empty() && steps_.back().road == name;
    if (goes_on)
        steps_.back().distance = steps_.back().distance + length;
    else
        steps_.push_back({turn, name, length, Millis(0), shape.front()});
    steps_.back().time = steps_.back().time + time;
    begun_ = true;
    arriving_ = bearing(shape[shape.size() - 2], shape.back());
    for (const auto& p : shape) point(p);
}

void WayWriter::point(geo::LonLat p) {
    if (line_.empty() || !(line_.back() == p)) line_.push_back(p);
}

}  // namespace otoro::service
