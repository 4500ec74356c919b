#pragma once
#include <QEvent>
#include <QScrollArea>

#include "desktop/theme.h"

namespace otoro::desktop {

/// A part of a page that is as high as it likes while there is room, and scrolls where there is not.
class Scrolled : public QScrollArea {
public:
    Scrolled(QWidget* inside, QWidget* parent) : QScrollArea(parent) {
        setWidget(inside);
        setWidgetResizable(true);
        setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        setFocusPolicy(Qt::NoFocus);
        viewport()->setAutoFillBackground(false);
        inside->setAutoFillBackground(false);
    }
    [[nodiscard]] QSize sizeHint() const override { return widget()->sizeHint(); }
    [[nodiscard]] QSize minimumSizeHint() const override {
        return {std::min(widget()->minimumSizeHint().width(), theme::scaled_column(440)),
                std::min(widget()->sizeHint().height(), theme::scaled(110))};
    }

protected:
    /// The room that is wanted follows what is inside.
    bool eventFilter(QObject* watched, QEvent* e) override {
        if (watched == widget() && e->type() == QEvent::LayoutRequest) updateGeometry();
        return QScrollArea::eventFilter(watched, e);
    }
};

}  // namespace otoro::desktop
