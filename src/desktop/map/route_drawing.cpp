#include "desktop/map/route_drawing.h"

#include <cmath>

#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

constexpr double kBetweenArrows = 110, kArrow = 5;  // px

/// Small arrows on a line, pointing the way it is travelled.
void paint_arrows(QPainter& painter, const QPolygonF& line, const QRectF& seen) {
    double next = kBetweenArrows / 2;
    for (qsizetype i = 1; i < line.size(); ++i) {
        const QPointF d = line[i] - line[i - 1];
        const double length = std::hypot(d.x(), d.y());
        if (length <= 0) continue;
        const QPointF along = d / length, across(-along.y(), along.x());
        for (; next <= length; next += kBetweenArrows) {
            const QPointF tip = line[i - 1] + along * (next + kArrow);
            if (!seen.contains(tip)) continue;
            painter.drawPolygon(QPolygonF({tip, tip - along * 2 * kArrow + across * kArrow, tip - along * 1.3 * kArrow,
                                           tip - along * 2 * kArrow - across * kArrow}));
        }
        next -= length;
    }
}

QPolygonF on_screen(const Viewport& view, const FlatWorld& world, const std::vector<geo::LonLat>& way) {
    QPolygonF line;
    for (const auto& p : way) {
        const QPointF at = view.to_screen(world.flat(p));
        // Points nearer than a third of a pixel make no difference to the eye.
        if (line.isEmpty() || std::abs(at.x() - line.last().x()) + std::abs(at.y() - line.last().y()) > 0.35)
            line.append(at);
    }
    return line;
}

void paint_cased(QPainter& painter, const QPolygonF& line, const QColor& colour, double width) {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::kPaper, width * 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);
    painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(line);
}

}  // namespace

void paint_way(QPainter& painter, const Viewport& view, const FlatWorld& world, const std::vector<geo::LonLat>& way) {
    if (way.size() < 2) return;
    const QPolygonF line = on_screen(view, world, way);
    paint_cased(painter, line, theme::kAccent, 3.5);
    painter.setPen(QPen(theme::kPaper, 1.2));
    painter.setBrush(theme::kAccent);
    paint_arrows(painter, line, QRectF({0, 0}, view.size).adjusted(-20, -20, 20, 20));
}

void paint_journey(QPainter& painter, const Viewport& view, const FlatWorld& world,
                   const std::vector<geo::LonLat>& way) {
    if (way.size() > 1) paint_cased(painter, on_screen(view, world, way), theme::kInk, 1.6);
}

void paint_stops(QPainter& painter, const Viewport& view, const FlatWorld& world, const service::Route& route) {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(theme::type(0.9, QFont::Bold));
    for (std::size_t i = route.stops.size(); i-- > 0;) {
        const QPointF at = view.to_screen(world.flat(route.stops[i].at));
        const bool first = i == 0;
        painter.setPen(QPen(theme::kPaper, 5));
        painter.setBrush(theme::kPaper);
        painter.drawEllipse(at, kStopRadius, kStopRadius);
        painter.setPen(QPen(theme::kAccent, 2.2));
        painter.setBrush(first ? theme::kAccent : theme::kSheet);
        painter.drawEllipse(at, kStopRadius, kStopRadius);
        painter.setPen(first ? theme::kSheet : theme::kAccent);
        painter.drawText(QRectF(at - QPointF(14, 10), QSizeF(28, 20)), Qt::AlignCenter, QString::number(i + 1));
    }
}

}  // namespace otoro::desktop
