#pragma once
/// \file
/// The map as a picture or a drawing.
#include <QByteArray>
#include <QSize>
#include <QString>
#include <memory>
#include <vector>

#include "desktop/map/map_painter.h"

namespace otoro::desktop {

/// All that a drawing of the map shows, as it stood when it was taken: it can be drawn on any thread while the window
/// goes on.
struct MapPicture {
    std::shared_ptr<const MapScene> scene;
    PlanAnswerPtr answer;
    Viewport view;
    MapStyle style;
    std::vector<service::SiteOutcome> sites;
    std::vector<roads::Closure> closures;
    QSize size;  ///< of the window's map, in points
    QString title;

    /// Everything drawn afresh, also onto vectors. Takes seconds for a county.
    void paint(QPainter& painter, const QSizeF& on) const;
    /// A file's bytes; empty if it cannot be drawn. \param scale pixels a point
    [[nodiscard]] QByteArray png(double scale = 2.0) const;
    [[nodiscard]] QByteArray svg() const;
};

}  // namespace otoro::desktop
