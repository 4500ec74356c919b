#include "desktop/map/map_picture.h"

#include <QBuffer>
#include <QImage>
#include <QPainter>
#include <QSvgGenerator>
#include <algorithm>

namespace otoro::desktop {

void MapPicture::paint(QPainter& painter, const QSizeF& on) const {
    Viewport scaled = view;
    scaled.size = on;
    scaled.pixels_per_metre = view.pixels_per_metre * on.width() / std::max(1.0, view.size.width());
    paint_ground(painter, scaled, *scene, answer.get(), style);
    if (style.stale && answer) paint_veil(painter, scaled);
    paint_picked(painter, scaled, *scene, style.picked);
    paint_closures(painter, scaled, scene->world(), closures);
    paint_sites(painter, scaled, scene->world(), sites, style);
    paint_scale_bar(painter, scaled);
}

QByteArray MapPicture::png(double scale) const {
    QImage image((QSizeF(size) * scale).toSize(), QImage::Format_RGB32);
    if (image.isNull()) return {};
    image.setDevicePixelRatio(scale);
    QPainter painter(&image);
    paint(painter, size);
    painter.end();
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    return image.save(&out, "PNG") ? bytes : QByteArray();
}

QByteArray MapPicture::svg() const {
    QByteArray bytes;
    QBuffer out(&bytes);
    out.open(QIODevice::WriteOnly);
    QSvgGenerator drawing;
    drawing.setOutputDevice(&out);
    drawing.setSize(size);
    drawing.setViewBox(QRect({0, 0}, size));
    drawing.setTitle(title);
    QPainter painter;
    if (!painter.begin(&drawing)) return {};
    paint(painter, size);
    return painter.end() ? bytes : QByteArray();
}

}  // namespace otoro::desktop
