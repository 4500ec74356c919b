#pragma once
/// \file
/// A way along roads, as a line and as a list of turns.
///
/// \par Method
/// Stretches of road are put one after another as they are travelled. Where the next begins within 45 degrees of where
/// the last ended the way goes straight on, and on the same road nothing is said; beyond 170 degrees it turns back.
///
/// \par Cost
/// Linear in the vertices.
#include <string>
#include <string_view>
#include <vector>

#include "places/attach.h"
#include "roads/network.h"

namespace otoro::service {

enum class Turn : std::uint8_t { start, straight, left, right, back, stop };
/// Up to the road's name: `turn left into`, `go on along`, ...
std::string_view describe(Turn t);

/// One line of the list: a turn, and the road followed from there.
struct WayStep {
    Turn turn = Turn::start;
    std::string road;      ///< its name; empty if it has none
    Millimetres distance;  ///< along it, until the next step
    Millis time;           ///< the same, turning onto it included; of itineraries
    geo::LonLat at;        ///< where the turn is
};

/// Puts stretches together into a line and its steps.
class WayWriter {
public:
    /// Adds to these.
    WayWriter(const roads::Network& network, std::vector<geo::LonLat>& line, std::vector<WayStep>& steps)
        : network_(network), line_(line), steps_(steps) {}

    /// What follows sets out anew: at the very beginning, or from a stop.
    void begin_leg(bool first);
    /// Part of a link, travelled from one offset to another. \param time what that takes
    void stretch(LinkId link, Millimetres from, Millimetres to, Millis time = Millis(0));
    /// A point off the road.
    void point(geo::LonLat p);

private:
    const roads::Network& network_;
    std::vector<geo::LonLat>& line_;
    std::vector<WayStep>& steps_;
    Turn next_ = Turn::start;
    bool begun_ = false;
    double arriving_ = 0;
};

}  // namespace otoro::service
