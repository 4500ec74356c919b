#include "desktop/map/ground_overlay.h"

#include <QPainter>
#include <cmath>

namespace otoro::desktop {
namespace {

constexpr double kMargin = 0.35;  // of the map's width and height, on every side
constexpr double kStale = 0.35;   // how much is seen of what is out of date

}  // namespace

GroundOverlay::GroundOverlay(QObject* parent) : QObject(parent), work_(this) {}

const GroundDrawing& GroundOverlay::Content::drawing() const {
    std::call_once(once_, [this] { drawing_ = drawing_of(*found, style, world, GroundParts::beside_live); });
    return drawing_;
}

void GroundOverlay::set_found(const GroundFoundPtr& found, const MapStyle& style, const FlatWorld& world, bool stale) {
    if (!found || !draws_beside_live(*found, style)) {
        if (!content_) return;
        content_.reset();
        shown_.reset();
        emit changed();
        return;
    }
    const bool same = content_ && content_->found == found && content_->style.look == style.look &&
                      content_->style.limit == style.limit && content_->style.reach == style.reach &&
                      content_->world == world;
    if (same && stale == stale_) return;
    stale_ = stale;
    // What is out of date stays as it was drawn.
    if (!same && !(stale && content_ && content_->found == found && content_->world == world)) {
        auto next = std::make_shared<Content>();
        next->found = found;
        next->style = style;
        next->world = world;
        content_ = std::move(next);
        wish();
    }
    emit changed();
}

void GroundOverlay::look_at(const Viewport& view, double device_pixel_ratio) {
    if (view == view_ && device_pixel_ratio == ratio_) return;
    view_ = view;
    ratio_ = device_pixel_ratio;
    wish();
}

bool GroundOverlay::shows_all(const Picture& picture) const {
    return picture.view.pixels_per_metre == view_.pixels_per_metre && picture.ratio == ratio_ &&
           picture.view.world_rect().contains(view_.world_rect());
}

bool GroundOverlay::settled() const {
    return !content_ || (!painting_ && shown_ && shown_->content == content_ && shows_all(*shown_));
}

void GroundOverlay::wish() {
    if (!content_ || painting_ || view_.size.isEmpty() || settled()) return;
    painting_ = true;
    Picture next{content_, view_, ratio_, {}};
    next.view.size = QSizeF((view_.size * (1 + 2 * kMargin)).toSize());
    work_.run(
        [this, next](const Task&) -> Background::Then {
            auto done = std::make_shared<Picture>(next);
            done->image = QImage((next.view.size * next.ratio).toSize(), QImage::Format_ARGB32_Premultiplied);
            if (done->image.isNull()) throw std::bad_alloc();
            done->image.setDevicePixelRatio(next.ratio);
            done->image.fill(Qt::transparent);
            QPainter painter(&done->image);
            desktop::paint(painter, next.view, next.content->drawing());
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

void GroundOverlay::paint(QPainter& painter, const Viewport& view) const {
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
