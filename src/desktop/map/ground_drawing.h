#pragma once
/// \file
/// What was found out about ground, as shapes to be painted.
///
/// The live layer (reach_layer.h) draws what follows the mouse: bands of the nearest site, and what is uncovered.
/// Everything else is drawn of exact shapes; a picture that is exported is, too.
#include <QColor>
#include <QPainterPath>
#include <QString>
#include <vector>

#include "desktop/map/map_painter.h"
#include "desktop/map/map_scene.h"
#include "desktop/map/viewport.h"
#include "desktop/models/ground_finder.h"

namespace otoro::desktop {

/// One shape in the flat world.
struct GroundShape {
    QPainterPath path;
    QRectF box;
    QColor fill = Qt::transparent, edge = Qt::transparent;
    double width = 1.6;          ///< of the edge, in points of the screen
    double width_from_afar = 0;  ///< as thin as that where the whole town is in sight; 0: the same everywhere
    bool hatched = false;
    bool dashed = false;
};

struct GroundDrawing {
    std::vector<GroundShape> shapes;  ///< the lowest first
};

/// Which parts of what was found are drawn.
enum class GroundParts : std::uint8_t {
    all,          ///< as on paper
    beside_live,  ///< without the ground that the live layer draws
};

/// Any thread. \pre `found` was found for `style`
GroundDrawing drawing_of(const GroundFound& found, const MapStyle& style, const FlatWorld& world, GroundParts parts);

/// Whether there is anything to be drawn beside what the live layer draws.
bool draws_beside_live(const GroundFound& found, const MapStyle& style);

void paint(QPainter& painter, const Viewport& view, const GroundDrawing& drawing);

/// Whether the live layer shows the ground of such a style.
bool drawn_live(const MapStyle& style);

/// What fills mean that are no bands, for the legend: "2 sites", "gained". Empty where bands say it all.
struct GroundKey {
    QString text;
    QColor fill, edge;
    bool hatched = false;
};
std::vector<GroundKey> ground_keys(const MapStyle& style);
/// One key after another in a line. \returns where the next thing has room
double paint_ground_keys(QPainter& painter, const QRectF& where, const std::vector<GroundKey>& keys);

}  // namespace otoro::desktop
