#pragma once
/// \file
/// The route over stops on the map.
#include <QPainter>

#include "desktop/map/viewport.h"
#include "service/study.h"

namespace otoro::desktop {

inline constexpr double kStopRadius = 10;  ///< px

/// The way, with arrows along it. \param faint it is that of other stops, another is being found
void paint_way(QPainter& painter, const Viewport& view, const FlatWorld& world, const std::vector<geo::LonLat>& way,
               bool faint);
/// Its stops as numbered discs, the first one filled.
void paint_stops(QPainter& painter, const Viewport& view, const FlatWorld& world, const service::Route& route);

/// One of several ways that are shown together, thin.
void paint_journey(QPainter& painter, const Viewport& view, const FlatWorld& world,
                   const std::vector<geo::LonLat>& way);

}  // namespace otoro::desktop
