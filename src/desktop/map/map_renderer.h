#pragma once
/// \file
/// Draws the ground of the map on a thread of its own; the latest wish wins.
#include <QImage>
#include <QObject>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

#include "desktop/map/map_painter.h"

namespace otoro::desktop {

/// A picture and the part of the world it shows.
struct GroundPicture {
    QImage image;
    Viewport view;
};

class MapRenderer : public QObject {
    Q_OBJECT
public:
    struct Wish {
        Viewport view;
        double device_pixel_ratio = 1;
        std::shared_ptr<const MapScene> scene;
        PlanAnswerPtr answer;
        MapStyle style;
    };

    explicit MapRenderer(QObject* parent = nullptr);
    ~MapRenderer() override;
    void draw(Wish wish);
    /// Draws at once, on the calling thread.
    static GroundPicture drawn(const Wish& wish);

signals:
    void drawn_picture(const otoro::desktop::GroundPicture& picture, quint64 number);

private:
    void run(const std::stop_token& ending);
    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::optional<Wish> next_;
    quint64 count_ = 0;
    std::jthread thread_;
};

}  // namespace otoro::desktop

Q_DECLARE_METATYPE(otoro::desktop::GroundPicture)
