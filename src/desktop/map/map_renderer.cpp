#include "desktop/map/map_renderer.h"

namespace otoro::desktop {

MapRenderer::MapRenderer(QObject* parent) : QObject(parent) {
    qRegisterMetaType<GroundPicture>();
    thread_ = std::jthread([this](const std::stop_token& ending) { run(ending); });
}

MapRenderer::~MapRenderer() {
    thread_.request_stop();
    wake_.notify_all();
}

void MapRenderer::draw(Wish wish) {
    const std::lock_guard lock(mutex_);
    next_ = std::move(wish);
    ++count_;
    wake_.notify_all();
}

GroundPicture MapRenderer::drawn(const Wish& wish) {
    GroundPicture out;
    out.view = wish.view;
    out.image = QImage((wish.view.size * wish.device_pixel_ratio).toSize(), QImage::Format_RGB32);
    out.image.setDevicePixelRatio(wish.device_pixel_ratio);
    QPainter painter(&out.image);
    paint_ground(painter, wish.view, *wish.scene, wish.answer.get(), wish.style);
    return out;
}

void MapRenderer::run(const std::stop_token& ending) {
    while (!ending.stop_requested()) {
        Wish wish;
        quint64 number = 0;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return next_.has_value(); })) return;
            wish = std::move(*next_);
            next_.reset();
            number = count_;
        }
        emit drawn_picture(drawn(wish), number);
    }
}

}  // namespace otoro::desktop
