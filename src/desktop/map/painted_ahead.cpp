#include "desktop/map/painted_ahead.h"

#include <QPainter>
#include <cmath>
#include <new>

namespace otoro::desktop {
namespace {

constexpr double kMarginPart = 0.35;  // of the map's width and height, on every side
constexpr double kStale = 0.35;       // how much is seen of what is out of date

}  // namespace

PaintedAhead::PaintedAhead(QObject* parent) : QObject(parent), work_(this) {}

void PaintedAhead::set_content(Paint paint) {
    if (!paint) {
        if (!content_) return;
        content_.reset();
        shown_.reset();
    } else {
        content_ = std::make_shared<const Paint>(std::move(paint));
        wish();
    }
    emit changed();
}

void PaintedAhead::set_stale(bool stale) {
    if (stale == stale_) return;
    stale_ = stale;
    emit changed();
}

void PaintedAhead::look_at(const Viewport& view, double device_pixel_ratio) {
    if (view == view_ && device_pixel_ratio == ratio_) return;
    view_ = view;
    ratio_ = device_pixel_ratio;
    wish();
}

bool PaintedAhead::shows_all(const Picture& picture) const {
    return picture.view.pixels_per_metre == view_.pixels_per_metre && picture.ratio == ratio_ &&
           picture.view.world_rect().contains(view_.world_rect());
}

bool PaintedAhead::settled() const {
    return !content_ || (!painting_ && shown_ && shown_->content == content_ && shows_all(*shown_));
}

void PaintedAhead::wish() {
    if (!content_ || painting_ || view_.size.isEmpty() || settled()) return;
    painting_ = true;
    Picture next{content_, view_, ratio_, {}};
    next.view.size = QSizeF((view_.size * (1 + 2 * kMarginPart)).toSize());
    work_.run(
        [this, next](const Task&) -> Background::Then {
            auto done = std::make_shared<Picture>(next);
            done->image = QImage((next.view.size * next.ratio).toSize(), QImage::Format_ARGB32_Premultiplied);
            if (done->image.isNull()) throw std::bad_alloc();
            done->image.setDevicePixelRatio(next.ratio);
            done->image.fill(Qt::transparent);
            QPainter painter(&done->image);
            (*next.content)(painter, next.view);
            painter.end();
            return [this, done] {
                painting_ = false;
                if (content_) shown_ = std::move(*done);
                emit changed();
                wish();
            };
        },
        [this](const QString& why) {
            painting_ = false;
            if (!why.isEmpty()) emit failed(why);
        });
}

void PaintedAhead::paint(QPainter& painter, const Viewport& view) const {
    if (!content_ || !shown_) return;
    painter.save();
    const QRectF world = shown_->view.world_rect();
    const QRectF at(view.to_screen(world.topLeft()), view.to_screen(world.bottomRight()));
    painter.setOpacity(stale_ || shown_->content != content_ ? kStale : 1.0);
    if (shown_->view.pixels_per_metre == view.pixels_per_metre) {
        // To whole pixels, so that it stays sharp.
        const double ratio = shown_->ratio;
        const QPointF corner(std::round(at.left() * ratio) / ratio, std::round(at.top() * ratio) / ratio);
        painter.drawImage(corner, shown_->image);
    } else {
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(at, shown_->image);
    }
    painter.restore();
}

}  // namespace otoro::desktop
