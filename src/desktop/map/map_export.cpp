/// The map as a picture or a drawing, painted afresh.
#include <QBuffer>
#include <QImage>
#include <QPainter>
#include <QSvgGenerator>
#include <algorithm>

#include "desktop/map/map_view.h"

namespace otoro::desktop {

void MapView::paint_whole(QPainter& painter, const QSizeF& size) const {
    Viewport view = view_;
    view.size = size;
    view.pixels_per_metre = view_.pixels_per_metre * size.width() / std::max(1.0, view_.size.width());
    const auto answer = session_.answer();
    paint_ground(painter, view, *scene_, answer.get(), style_);
    if (style_.stale && answer) paint_veil(painter, view);
    paint_picked(painter, view, *scene_, style_.picked);
    paint_closures(painter, view, scene_->world(), session_.plan().closures);
    paint_sites(painter, view, scene_->world(), sites_now(), style_);
    paint_scale_bar(painter, view);
}

QByteArray MapView::as_png(double scale) const {
    QImage image((QSizeF(size()) * scale).toSize(), QImage::Format_RGB32);
    if (image.isNull()) return {};
    image.setDevicePixelRatio(scale);
    QPainter painter(&image);
    paint_whole(painter, size());
    painter.end();
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    return image.save(&out, "PNG") ? bytes : QByteArray();
}

QByteArray MapView::as_svg() const {
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    QSvgGenerator svg;
    svg.setOutputDevice(&out);
    svg.setSize(size());
    svg.setViewBox(QRect({0, 0}, size()));
    svg.setTitle(QString::fromStdString(session_.study().name));
    QPainter painter;
    if (!painter.begin(&svg)) return {};
    paint_whole(painter, size());
    return painter.end() ? bytes : QByteArray();
}

}  // namespace otoro::desktop
