#pragma once
#include <QWidget>
#include <optional>

#include "desktop/map/map_view.h"

namespace otoro::desktop {

/// The legend's scale of reached ground: limits are handles. Pulling one moves the edge on the map, a double press adds
/// one, Delete or a right press takes one away; the arrow keys move the one that is chosen.
class ReachBar : public QWidget {
    Q_OBJECT
public:
    explicit ReachBar(MapView& map, QWidget* parent = nullptr);
    /// Where a handle is, in the widget.
    [[nodiscard]] QPointF handle(std::size_t limit) const;

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;

private:
    [[nodiscard]] QRectF bar() const;
    [[nodiscard]] bool movable() const;
    /// The first limit that has a handle: where fills do not tell them apart the last alone has one.
    [[nodiscard]] std::size_t first_shown() const;
    [[nodiscard]] double most() const;
    [[nodiscard]] double value_at(double x) const;
    [[nodiscard]] std::optional<std::size_t> handle_at(QPointF at) const;
    /// Steps that limits are moved by: a tenth of a minute, ten metres.
    [[nodiscard]] double step() const;
    void move(std::size_t limit, double value);
    void add(double value);
    void remove(std::size_t limit);
    MapView& map_;
    std::optional<std::size_t> dragged_;
    std::size_t chosen_ = 0;
    double held_most_ = 0;  ///< the scale stays while a handle is pulled
};

}  // namespace otoro::desktop
