#pragma once
/// \file
/// The map as a picture or a drawing.
#include <QByteArray>
#include <QSize>
#include <QString>
#include <memory>
#include <vector>

#include "desktop/map/desire_lines.h"
#include "desktop/map/flow_drawing.h"
#include "desktop/map/map_painter.h"
#include "desktop/models/ground_finder.h"
#include "desktop/models/route_planner.h"

namespace otoro::desktop {

/// All that a drawing of the map shows, as it stood when it was taken: it can be drawn on any thread while the window
/// goes on.
struct MapPicture {
    std::shared_ptr<const MapScene> scene;
    PlanAnswerPtr answer;
    Viewport view;
    MapStyle style;
    std::optional<GroundAsked> ground;  ///< what is drawn of exact shapes, worked out for the drawing
    std::vector<service::SiteOutcome> sites;
    std::vector<roads::Closure> closures;
    std::vector<DesireLine> desire;
    std::vector<FlowDrawn> flows;
    std::vector<std::vector<geo::LonLat>> journeys;
    service::Route route;
    std::shared_ptr<const RoutePlanner::Found> way;  ///< null: there is none
    QSize size;                                      ///< of the window's map, in points
    QString title;
    QString plan;
    QString question;  ///< its sentence
    QString verdict;   ///< "84.1 %, not met"; empty without a standard

    /// Works the ground out that is drawn of exact shapes, so that it can be stopped; else `paint` does. \throws
    /// Stopped
    void find_ground(const Task& task);

    /// The whole sheet: the plan, the question and its verdict above the map, the legend below it.
    [[nodiscard]] QSize sheet() const;
    /// Everything drawn afresh, also onto vectors. Takes seconds for a county.
    void paint(QPainter& painter) const;
    /// The map alone, as large as the window's.
    void paint_map(QPainter& painter) const;
    /// A file's bytes; empty if it cannot be drawn. \param scale pixels a point
    [[nodiscard]] QImage image(double scale = 2.0) const;
    [[nodiscard]] QByteArray png(double scale = 2.0) const;
    [[nodiscard]] QByteArray svg() const;

private:
    GroundFoundPtr found_;
    void paint_head(QPainter& painter, const QRectF& where) const;
    void paint_legend(QPainter& painter, const QRectF& where) const;
    [[nodiscard]] double head_height() const;
};

}  // namespace otoro::desktop
