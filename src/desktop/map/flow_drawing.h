#pragma once
/// \file
/// Flows between sites on the map.
#include <QPainter>
#include <vector>

#include "desktop/map/viewport.h"
#include "geo/position.h"

namespace otoro::desktop {

/// So much goes from one spot to another.
struct FlowDrawn {
    geo::LonLat from, to;
    double weight = 0;
    bool operator==(const FlowDrawn&) const = default;
};

/// Bent arrows, as wide as they are heavy, so that both directions between two sites are seen; the heaviest lie on top.
void paint_flows(QPainter& painter, const Viewport& view, const FlatWorld& world, const std::vector<FlowDrawn>& flows);

}  // namespace otoro::desktop
