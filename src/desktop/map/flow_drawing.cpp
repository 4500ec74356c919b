#include "desktop/map/flow_drawing.h"

#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"

namespace otoro::desktop {
namespace {

constexpr double kWidestFlow = 11, kThinnestFlow = 1.5, kHead = 7, kClear = 12,
                 kBend = 0.16;  // px, and part of the length

}  // namespace

void paint_flows(QPainter& painter, const Viewport& view, const FlatWorld& world, const std::vector<FlowDrawn>& flows) {
    if (flows.empty()) return;
    auto order = flows;
    std::stable_sort(order.begin(), order.end(),
                     [](const FlowDrawn& a, const FlowDrawn& b) { return a.weight < b.weight; });
    const double most = std::max(order.back().weight, 1e-9);
    painter.setRenderHint(QPainter::Antialiasing);
    for (const FlowDrawn& f : order) {
        const QPointF a = view.to_screen(world.flat(f.from)), b = view.to_screen(world.flat(f.to)), d = b - a;
        const double length = std::hypot(d.x(), d.y());
        if (length < 3 * kClear) continue;
        const double width = std::max(kThinnestFlow, kWidestFlow * f.weight / most);
        const QPointF along = d / length, across(-along.y(), along.x());
        const QPointF bend = (a + b) / 2 + across * length * kBend;
        // The head points at the site along the end of the bend.
        const QPointF in = (b - bend) / std::hypot(b.x() - bend.x(), b.y() - bend.y()), side(-in.y(), in.x());
        const double head = kHead + width;
        const QPointF tip = b - in * kClear, neck = tip - in * head * 0.8;
        QPainterPath path(a + (bend - a) / std::hypot(bend.x() - a.x(), bend.y() - a.y()) * kClear);
        path.quadTo(bend, neck);
        const QPolygonF arrow({tip, tip - in * head + side * head * 0.6, tip - in * head - side * head * 0.6});
        for (const bool casing : {true, false}) {
            const QColor colour = casing ? theme::kPaper : theme::kInk;
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, width + (casing ? 3 : 0), Qt::SolidLine, Qt::FlatCap));
            painter.drawPath(path);
            painter.setPen(QPen(colour, casing ? 3 : 0.1, Qt::SolidLine, Qt::SquareCap, Qt::MiterJoin));
            painter.setBrush(colour);
            painter.drawPolygon(arrow);
        }
    }
}

}  // namespace otoro::desktop
