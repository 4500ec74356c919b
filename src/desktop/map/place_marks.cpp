/// The marks of demand places, served and not.
#include <algorithm>

#include "desktop/map/map_painter.h"
#include "desktop/theme.h"

namespace otoro::desktop {

void paint_place_mark(QPainter& p, QPointF at, double r, const QColor& colour, PlaceMark mark) {
    p.setPen(QPen(colour.darker(135), 0.6));
    p.setBrush(colour);
    const double w = kWidestMark * r;
    switch (mark) {
        case PlaceMark::dot:
            return p.drawEllipse(at, r, r);
        case PlaceMark::speck:
            p.setPen(Qt::NoPen);
            return p.drawEllipse(at, 0.6 * r, 0.6 * r);
        case PlaceMark::up:
            p.drawPolygon(QPolygonF({at + QPointF(0, -w), at + QPointF(w, 0.8 * w), at + QPointF(-w, 0.8 * w)}));
            return;
        case PlaceMark::down:
            p.drawPolygon(QPolygonF({at + QPointF(0, w), at + QPointF(w, -0.8 * w), at + QPointF(-w, -0.8 * w)}));
            return;
        case PlaceMark::square:
            return p.drawRect(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r));
        case PlaceMark::plus:
            p.setPen(QPen(colour, std::max(1.6, 0.8 * r), Qt::SolidLine, Qt::FlatCap));
            p.drawLine(at + QPointF(-w, 0), at + QPointF(w, 0));
            p.drawLine(at + QPointF(0, -w), at + QPointF(0, w));
            return;
        case PlaceMark::cross:
            p.setPen(QPen(colour, std::max(1.4, 0.7 * r), Qt::SolidLine, Qt::FlatCap));
            p.drawLine(at + QPointF(-w, -w), at + QPointF(w, w));
            p.drawLine(at + QPointF(-w, w), at + QPointF(w, -w));
            return;
    }
}

void paint_unserved_mark(QPainter& painter, QPointF at, double r, service::Status status) {
    const QPen ink(theme::kInk, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::MiterJoin);
    const QPen halo(QColor(theme::kPaper), 3.6, Qt::SolidLine, Qt::RoundCap, Qt::MiterJoin);
    for (const QPen& pen : {halo, ink}) {
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        switch (status) {
            case service::Status::cut_off:
                painter.drawPolygon(
                    QPolygonF({at + QPointF(0, -r), at + QPointF(r, 0), at + QPointF(0, r), at + QPointF(-r, 0)}));
                break;
            case service::Status::beyond_limit:
                painter.drawPolygon(
                    QPolygonF({at + QPointF(0, -r), at + QPointF(r, 0.8 * r), at + QPointF(-r, 0.8 * r)}));
                break;
            case service::Status::site_full:
                painter.drawRect(QRectF(at.x() - 0.8 * r, at.y() - 0.8 * r, 1.6 * r, 1.6 * r));
                break;
            default:
                painter.drawEllipse(at, 0.85 * r, 0.85 * r);
        }
    }
}

}  // namespace otoro::desktop
