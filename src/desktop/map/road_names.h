#pragma once
/// \file
/// Names of roads along the roads, at the scales of streets.
///
/// Where names stand is worked out for somewhat more than what is in sight, when the map has moved out of that or its
/// scale has changed; painting is then a few pictures. A name stands along a stretch of road that is nearly straight
/// and long enough for it; main roads and longer stretches come first, and no name stands over another or near its
/// like.
#include <QPainter>
#include <QString>
#include <memory>
#include <vector>

#include "desktop/map/map_scene.h"

namespace otoro::desktop {

struct RoadName {
    QPointF at;    ///< its middle, flat world metres
    double angle;  ///< degrees clockwise, read from left to right
    QString text;
};

/// The names that have room in a view. O(vertices of the roads in it).
std::vector<RoadName> place_road_names(const Viewport& view, const MapScene& scene);

/// Paints them as they stand.
void paint_road_names(QPainter& painter, const Viewport& view, const std::vector<RoadName>& names);

/// Those of a map that moves.
class RoadNames {
public:
    void look_at(const Viewport& view, const std::shared_ptr<const MapScene>& scene);
    void paint(QPainter& painter, const Viewport& view) const { paint_road_names(painter, view, names_); }
    [[nodiscard]] const std::vector<RoadName>& names() const { return names_; }

private:
    std::vector<RoadName> names_;
    QRectF placed_;  ///< the world that they were placed for
    double scale_ = 0;
    std::shared_ptr<const MapScene> scene_;
};

}  // namespace otoro::desktop
