#pragma once
/// \file
/// The route over stops on the map.
#include <QPainter>

#include "desktop/map/viewport.h"
#include "service/study.h"

namespace otoro::desktop {

inline constexpr double kStopRadius = 10;  ///< px

/// The way, with arrows along it. Long ones take longer than a frame.
void paint_way(QPainter& painter, const Viewport& view, const FlatWorld& world, const std::vector<geo::LonLat>& way);
/// Its stops as numbered discs, the first one filled.
void paint_stops(QPainter& painter, const Viewport& view, const FlatWorld& world, const service::Route& route);

/// One of several ways that are shown together, thin.
void paint_journey(QPainter& painter, const Viewport& view, const FlatWorld& world,
                   const std::vector<geo::LonLat>& way);

}  // namespace otoro::desktop
