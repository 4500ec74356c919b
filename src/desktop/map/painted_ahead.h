#pragma once
/// \file
/// Something over the map that takes long to draw, drawn off the interface thread.
#include <QImage>
#include <QObject>
#include <functional>
#include <memory>
#include <optional>

#include "desktop/map/viewport.h"
#include "desktop/models/background.h"

class QPainter;

namespace otoro::desktop {

/// Keeps one picture, somewhat larger than the map; while the next is painted it is moved and stretched along.
class PaintedAhead : public QObject {
    Q_OBJECT
public:
    /// Paints it as a view sees it; called on another thread.
    using Paint = std::function<void(QPainter&, const Viewport&)>;

    explicit PaintedAhead(QObject* parent = nullptr);
    /// Empty: nothing. What was there stays, paler, until the new is painted.
    void set_content(Paint paint);
    /// What is asked for by now is something else: it stands back.
    void set_stale(bool stale);
    [[nodiscard]] bool empty() const { return !content_; }
    void look_at(const Viewport& view, double device_pixel_ratio);
    void paint(QPainter& painter, const Viewport& view) const;
    /// Whether what is painted is of the content and the view there are now.
    [[nodiscard]] bool settled() const;

signals:
    void changed();
    void failed(const QString& why);

private:
    using Content = std::shared_ptr<const Paint>;
    struct Picture {
        Content content;
        Viewport view;  ///< that of the picture, wider than the map's
        double ratio = 1;
        QImage image;
    };
    /// Whether a picture shows all of the view, in its scale.
    [[nodiscard]] bool shows_all(const Picture& picture) const;
    void wish();
    Content content_;
    bool stale_ = false;
    Viewport view_;
    double ratio_ = 1;
    std::optional<Picture> shown_;
    bool painting_ = false;
    Background work_;
};

}  // namespace otoro::desktop
