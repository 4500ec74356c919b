#pragma once
/// \file
/// Something drawn on the map by hand: a line along which roads close, a box to pick places in, a distance.
///
/// Whoever wants something drawn says what it looks like and what becomes of it; the map takes the presses and keys,
/// says what to do meanwhile, and knows nothing of closures or distances. A new thing to draw is a new Sketch.
#include <QString>
#include <functional>
#include <vector>

#include "geo/position.h"

namespace otoro::desktop {

struct Sketch {
    enum class Form : std::uint8_t {
        line,  ///< two points or more
        area,  ///< three or more, closed by itself
        box,   ///< two opposite corners
    };
    Form form = Form::line;
    QString what;       ///< said first while it is drawn: "Close roads along a line."
    QString otherwise;  ///< said when it ends too short or is given up: "Nothing was closed."
    /// Called with its points when it is done.
    std::function<void(const std::vector<geo::LonLat>&)> done;
    /// What is said of the points so far and the one under the hand; may be empty.
    std::function<QString(const std::vector<geo::LonLat>&)> reading = {};

    [[nodiscard]] std::size_t least_points() const { return form == Form::area ? 3 : 2; }
};

}  // namespace otoro::desktop
