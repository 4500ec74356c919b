#include "desktop/map/map_tiles.h"

#include <chrono>
#include <cmath>

#include "desktop/models/background.h"
#include "desktop/models/behind_the_window.h"

namespace otoro::desktop {
namespace {
constexpr int kRing = 1;                    // tiles drawn ahead on every side
constexpr qsizetype kMostKept = 160 << 20;  // bytes, however many pixels a point
constexpr double kWholeSide = 1024;         // points of the picture of the whole study
constexpr std::chrono::milliseconds kPause{300};

/// The same picture, whatever is picked or out of date: that is painted live.
bool same_ground(const MapStyle& a, const MapStyle& b) {
    return a.look == b.look && a.hidden == b.hidden && a.limit == b.limit && a.base == b.base && a.access == b.access;
}
}  // namespace

MapTiles::MapTiles(QObject* parent) : QObject(parent) {
    const unsigned threads = std::clamp(std::thread::hardware_concurrency(), 2U, 4U) - 1;  // one is for the window
    for (unsigned i = 0; i < threads; ++i)
        threads_.emplace_back([this](const std::stop_token& ending) { draw_loop(ending); });
}

MapTiles::~MapTiles() {
    for (auto& t : threads_) t.request_stop();
    wake_.notify_all();
    threads_.clear();
}

void MapTiles::set_content(std::shared_ptr<const MapScene> scene, PlanAnswerPtr answer, const MapStyle& style) {
    if (scene == scene_ && same_ground(style, style_)) {
        style_ = style;
        if (answer == answer_) {
            waiting_.reset();
        } else if (answer && answer_ && !complete(view_, version_)) {
            waiting_ = std::move(answer);
        } else {
            change_to(std::move(answer));
        }
        return;
    }
    if (scene != scene_ &&
        (!scene_ || !scene || scene->world() != scene_->world())) {  // another world: what was drawn is nowhere
        kept_.clear();
        whole_ = {};
        before_scale_ = 0;
    }
    scene_ = std::move(scene);
    answer_ = std::move(answer);
    before_answer_.reset();
    waiting_.reset();
    style_ = style;
    ++version_;
    ask();
}

void MapTiles::change_to(PlanAnswerPtr answer) {
    waiting_.reset();
    before_answer_ = std::move(answer_);
    before_answer_version_ = version_;
    answer_ = std::move(answer);
    ++version_;
    ask();
}

void MapTiles::look_at(const Viewport& view, double device_pixel_ratio) {
    if (view == view_ && device_pixel_ratio == ratio_) return;
    if (device_pixel_ratio != ratio_) {
        ratio_ = device_pixel_ratio;
        before_answer_.reset();
        ++version_;
    }
    view_ = view;
    ask();
}

Viewport MapTiles::view_of(const Key& key) {
    const double metres = kSide / key.scale;
    return {{(key.x + 0.5) * metres, (key.y + 0.5) * metres}, key.scale, {kSide, kSide}};
}

MapTiles::Range MapTiles::in_sight(const Viewport& view, int ring) {
    const QRectF world = view.world_rect();
    const double metres = kSide / view.pixels_per_metre;
    const auto tile = [&](double at) { return static_cast<int>(std::floor(at / metres)); };
    return {tile(world.left()) - ring, tile(world.top()) - ring, tile(world.right()) + ring,
            tile(world.bottom()) + ring};
}

bool MapTiles::complete(const Viewport& view, quint64 version) const {
    const Range r = in_sight(view, 0);
    for (int y = r.top; y <= r.bottom; ++y)
        for (int x = r.left; x <= r.right; ++x)
            if (!kept_.contains({view.pixels_per_metre, x, y, version})) return false;
    return true;
}

void MapTiles::ask() {
    if (!scene_) return;
    const auto content = std::make_shared<const Content>(
        Content{scene_, answer_, style_, ratio_, version_, before_answer_, before_answer_version_});
    const Range sight = in_sight(view_, 0), around = in_sight(view_, kRing);
    const double middle_x = (sight.left + sight.right) / 2.0, middle_y = (sight.top + sight.bottom) / 2.0;
    std::vector<std::pair<double, Key>> wanted;
    for (int y = around.top; y <= around.bottom; ++y)
        for (int x = around.left; x <= around.right; ++x) {
            const Key key{view_.pixels_per_metre, x, y, version_};
            if (kept_.contains(key)) continue;
            const bool seen = x >= sight.left && x <= sight.right && y >= sight.top && y <= sight.bottom;
            wanted.emplace_back(std::hypot(x - middle_x, y - middle_y) + (seen ? 0 : 1000), key);
        }
    std::sort(wanted.begin(), wanted.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    const std::lock_guard lock(mutex_);
    jobs_.clear();
    for (const auto& [distance, key] : wanted)
        if (std::find(under_way_.begin(), under_way_.end(), key) == under_way_.end())
            jobs_.push_back(
                {content, key, false,
                 content->before ? kept_.value({key.scale, key.x, key.y, content->before_version}).image : QImage()});
    // The whole comes last, and first only where there is nothing at all to show yet.
    if (whole_version_ != version_) {
        const Job whole{content, {}, true, {}};
        if (whole_.isNull())
            jobs_.push_front(whole);
        else
            jobs_.push_back(whole);
    }
    wake_.notify_all();
}

QImage MapTiles::draw(const Content& content, const Viewport& view, const QImage& before) {
    if (!before.isNull() && content.before && content.answer &&
        same_picture(view, *content.scene, *content.style.look, *content.before, *content.answer))
        return before;
    QImage image((view.size * content.device_pixel_ratio).toSize(), QImage::Format_RGB32);
    image.setDevicePixelRatio(content.device_pixel_ratio);
    QPainter painter(&image);
    paint_ground(painter, view, *content.scene, content.answer.get(), content.style);
    return image;
}

void MapTiles::draw_loop(const std::stop_token& ending) {
    stand_behind_the_window(Behind::closely);
    while (!ending.stop_requested()) {
        Job job;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, ending, [this] { return !jobs_.empty(); })) return;
            // With all in sight there the whole is in no hurry, and something else may come.
            const auto number = jobs_.front().content->version;
            const auto only_whole = [&] {
                return !jobs_.empty() && jobs_.front().whole && jobs_.size() == 1 &&
                       jobs_.front().content->version == number;
            };
            if (only_whole()) wake_.wait_for(lock, ending, kPause, [&] { return !only_whole(); });
            if (jobs_.empty()) continue;
            job = std::move(jobs_.front());
            jobs_.pop_front();
            ++drawing_;
            if (!job.whole) under_way_.push_back(job.key);
        }
        Viewport view;
        if (job.whole) {
            const QRectF all = job.content->scene->extent();
            const double scale = kWholeSide / std::max({all.width(), all.height(), 1.0});
            view = {all.center(), scale,
                    QSizeF(std::max(1.0, all.width() * scale), std::max(1.0, all.height() * scale))};
        } else {
            view = view_of(job.key);
        }
        QImage image;
        try {
            image = draw(*job.content, view, job.before);
        } catch (...) {
            emit failed(what_went_wrong());
            image = QImage(1, 1, QImage::Format_RGB32);  // not tried again and again
            image.fill(Qt::white);
        }
        job.key.version = job.content->version;
        {
            const std::lock_guard lock(mutex_);
            std::erase(under_way_, job.key);
        }
        QMetaObject::invokeMethod(
            this,
            [this, key = job.key, image, whole = job.whole, world = view.world_rect()] {
                take(key, image, whole, world);
            },
            Qt::QueuedConnection);
    }
}

void MapTiles::take(const Key& key, const QImage& image, bool whole, QRectF whole_world) {
    ++drawn_;
    {
        const std::lock_guard lock(mutex_);
        --drawing_;
    }
    if (whole) {
        whole_ = image;
        whole_world_ = whole_world;
        whole_version_ = key.version;
    } else {
        kept_.insert(key, {image, ++clock_});
        forget_old();
        if (complete(view_, version_)) {
            show_this(view_.pixels_per_metre);
            if (waiting_) change_to(std::move(waiting_));
        }
    }
    emit changed();
}

bool MapTiles::idle() {
    const std::lock_guard lock(mutex_);
    return jobs_.empty() && drawing_ == 0 && !waiting_ && (scene_ == nullptr || whole_version_ == version_);
}

void MapTiles::show_this(double scale) {
    shown_ = version_;
    before_scale_ = scale;
    before_version_ = version_;
}

void MapTiles::forget_old() {
    const auto bytes = [this] {
        qsizetype n = 0;
        for (const Kept& k : std::as_const(kept_)) n += k.image.sizeInBytes();
        return n;
    };
    // A quarter goes at a time; what is in sight was used last.
    if (bytes() <= kMostKept) return;
    std::vector<quint64> used;
    for (const Kept& k : std::as_const(kept_)) used.push_back(k.used);
    const auto middle = used.begin() + static_cast<std::ptrdiff_t>(used.size() / 4);
    std::nth_element(used.begin(), middle, used.end());
    const quint64 oldest = *middle;
    kept_.removeIf([&](const auto& at) { return at.value().used < oldest; });
}

QRegion MapTiles::paint_layer(QPainter& painter, const Viewport& view, double scale, quint64 version,
                              const QRegion& where) {
    const double factor = view.pixels_per_metre / scale;
    const Viewport at_scale{view.centre, scale, view.size / factor};
    const Range r = in_sight(at_scale, 0);
    const QPointF origin = view.to_screen({0, 0});
    // Whole points, and the same for all, so that there are no seams.
    const bool exact = std::abs(factor - 1) < 1e-9;
    const QPoint corner = origin.toPoint();
    const auto edge = [&](int n) { return exact ? n * kSide : static_cast<int>(std::lround(n * kSide * factor)); };
    QRegion left = where;
    painter.setClipRegion(where);
    for (int y = r.top; y <= r.bottom; ++y)
        for (int x = r.left; x <= r.right; ++x) {
            const QRect on_screen(corner + QPoint(edge(x), edge(y)),
                                  corner + QPoint(edge(x + 1), edge(y + 1)) - QPoint(1, 1));
            if (!where.intersects(on_screen)) continue;
            const auto tile = kept_.find({scale, x, y, version});
            if (tile == kept_.end()) continue;
            tile->used = ++clock_;
            if (exact)
                painter.drawImage(on_screen.topLeft(), tile->image);
            else
                painter.drawImage(on_screen, tile->image);
            left -= on_screen;
        }
    painter.setClipping(false);
    return left;
}

void MapTiles::paint(QPainter& painter, const Viewport& view) {
    if (!scene_) return;
    const double scale = view.pixels_per_metre;
    const QRegion all(QRect(QPoint(0, 0), view.size.toSize()));
    if (complete(view, version_)) {
        show_this(scale);
        paint_layer(painter, view, scale, version_, all);
        return;
    }
    // Tiles of the latest content, unless some in sight still show the one before: then those.
    if (shown_ != version_) {
        const Range r = in_sight(view, 0);
        bool before = false;
        for (int y = r.top; y <= r.bottom && !before; ++y)
            for (int x = r.left; x <= r.right && !before; ++x) before = kept_.contains({scale, x, y, shown_});
        if (!before) shown_ = version_;
    }
    QRegion left = paint_layer(painter, view, scale, shown_, all);
    // Where there is none yet: the scale before, stretched, and under it the whole study.
    if (!left.isEmpty() && before_scale_ > 0 && before_scale_ != scale)
        left = paint_layer(painter, view, before_scale_, before_version_, left);
    if (left.isEmpty() || whole_.isNull()) return;
    painter.setClipRegion(left);
    painter.drawImage(QRectF(view.to_screen(whole_world_.topLeft()), view.to_screen(whole_world_.bottomRight())),
                      whole_);
    painter.setClipping(false);
}

}  // namespace otoro::desktop
