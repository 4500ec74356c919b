#pragma once
/// \file
/// A drawing of ground over the map, painted off the interface thread.
#include <QImage>
#include <QObject>
#include <memory>
#include <mutex>

#include "desktop/map/ground_drawing.h"
#include "desktop/models/background.h"

namespace otoro::desktop {

/// Keeps one picture, somewhat larger than the map; while the next is painted it is moved and stretched along.
class GroundOverlay : public QObject {
    Q_OBJECT
public:
    explicit GroundOverlay(QObject* parent = nullptr);
    /// What was found, as a style draws it beside the live layer. Null: nothing. \param stale what is asked for by now
    /// is something else: it stands back
    void set_found(const GroundFoundPtr& found, const MapStyle& style, const FlatWorld& world, bool stale);
    void look_at(const Viewport& view, double device_pixel_ratio);
    void paint(QPainter& painter, const Viewport& view) const;
    /// Whether what is painted is of the drawing and the view there are now.
    [[nodiscard]] bool settled() const;

signals:
    void changed();
    void failed(const QString& why);

private:
    /// Made a drawing once, by the first who paints it.
    struct Content {
        GroundFoundPtr found;
        MapStyle style;
        FlatWorld world;
        [[nodiscard]] const GroundDrawing& drawing() const;

    private:
        mutable std::once_flag once_;
        mutable GroundDrawing drawing_;
    };
    using ContentPtr = std::shared_ptr<const Content>;
    struct Picture {
        ContentPtr content;
        Viewport view;  ///< that of the picture, wider than the map's
        double ratio = 1;
        QImage image;
    };
    /// Whether a picture shows all of the view, in its scale.
    [[nodiscard]] bool shows_all(const Picture& picture) const;
    void wish();
    ContentPtr content_;
    bool stale_ = false;
    Viewport view_;
    double ratio_ = 1;
    std::optional<Picture> shown_;
    bool painting_ = false;
    Background work_;
};

}  // namespace otoro::desktop
