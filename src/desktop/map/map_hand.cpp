/// What the hand does on the map: picks, drags, draws, and the keys.
#include <QApplication>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <utility>

#include "desktop/map/map_view.h"
#include "desktop/theme.h"

namespace otoro::desktop {

void MapView::start_drawing(roads::ClosureShape shape) {
    drawing_ = shape;
    drawn_.clear();
    clear_reading();
    setCursor(Qt::CrossCursor);
    setFocus();
    update();
}

void MapView::finish_drawing() {
    const auto shape = *drawing_;
    auto vertices = std::move(drawn_);
    vertices.erase(std::unique(vertices.begin(), vertices.end()), vertices.end());
    give_up_drawing();
    if (vertices.size() >= static_cast<std::size_t>(shape) + 1)
        emit closure_drawn(shape, vertices);
    else
        emit drawing_ended(shape == roads::ClosureShape::area
                               ? tr("An area needs three points at least; nothing was closed.")
                               : tr("A line needs two points at least; nothing was closed."));
}

void MapView::give_up_drawing() {
    drawing_.reset();
    drawn_.clear();
    unsetCursor();
    update();
}

QString MapView::drawing_hint() const {
    if (!drawing_) return {};
    return *drawing_ == roads::ClosureShape::area
               ? tr("Press at the corners of the area. A double click or Enter ends it, Backspace takes the "
                    "last corner back, Esc gives up.")
               : tr("Press along the line. A double click or Enter ends it, Backspace takes the last point "
                    "back, Esc gives up.");
}

bool MapView::event(QEvent* e) {
    // Another window in front, a menu over it, or the map gone: the hand is empty.
    if (e->type() == QEvent::WindowDeactivate || e->type() == QEvent::Hide || e->type() == QEvent::UngrabMouse)
        give_up_drag();
    return QWidget::event(e);
}

void MapView::forget_drag() {
    if (dragged_ || panning_) unsetCursor();
    pressed_ = panning_ = drag_moved_ = false;
    dragged_.reset();
    update();
}

void MapView::give_up_drag() {
    const bool tried = dragged_ && drag_moved_;
    forget_drag();
    if (tried) session_.answers.try_out(std::nullopt);
}

void MapView::paint_drawing(QPainter& painter) const {
    if (!drawing_) return;
    painter.setRenderHint(QPainter::Antialiasing);
    QPolygonF line;
    for (const auto& p : drawn_) line.append(screen_of(p));
    line.append(last_at_);
    painter.setPen(QPen(theme::kAccent, 3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
    if (*drawing_ == roads::ClosureShape::area && line.size() > 2) {
        painter.setPen(QPen(theme::kAccent, 1.5, Qt::DashLine));
        painter.drawLine(line.last(), line.first());
    }
}

void MapView::mousePressEvent(QMouseEvent* e) {
    if (drawing_) {
        last_at_ = e->position();
        if (e->button() == Qt::LeftButton) drawn_.push_back(place_of(e->position()));
        if (*drawing_ == roads::ClosureShape::point && !drawn_.empty()) finish_drawing();
        return update();
    }
    pressed_road_.reset();
    give_up_drag();  // a second button while a site is in the hand puts it back
    if (e->button() != Qt::LeftButton) return;
    pressed_ = true;
    pressed_at_ = last_at_ = e->position();
    const auto site = site_at(e->position());
    const auto sites = sites_now();
    if (site && site->value() < sites.size()) dragged_ = Dragged{sites[site->value()].planned, *site};
    panning_ = !dragged_;
}

void MapView::mouseMoveEvent(QMouseEvent* e) {
    const QPointF moved = e->position() - last_at_;
    last_at_ = e->position();
    if (drawing_) return update();
    if (!(e->buttons() & Qt::LeftButton)) {
        hover_.start();
        return;
    }
    if (!pressed_) return;  // what this press began was given up
    if ((e->position() - pressed_at_).manhattanLength() > 4) drag_moved_ = true;
    if (!drag_moved_) return;
    clear_reading();
    if (panning_) {
        setCursor(Qt::ClosedHandCursor);
        view_.centre -= moved / view_.pixels_per_metre;
        moved_ = true;
        wish();
        update();
    } else if (dragged_ && session_.answers.shown()) {
        session_.answers.try_out(change_of(dragged_->site, service::Change::move, place_of(e->position())));
        update();  // the site is under the mouse at once
    }
}

void MapView::mouseReleaseEvent(QMouseEvent* e) {
    if (drawing_ || !pressed_ || e->button() != Qt::LeftButton) return;
    const auto dragged = dragged_;
    const bool moved = drag_moved_;
    forget_drag();
    if (!moved) {
        pick(e->position(), e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
    } else if (dragged && session_.answers.shown()) {
        const auto& site = dragged->site.site;
        session_.document.change_plan(tr("%1 moved").arg(QString::fromStdString(service::label(site))),
                                      change_of(dragged->site, service::Change::move, place_of(e->position())));
    }
}

void MapView::mouseDoubleClickEvent(QMouseEvent* e) {
    pressed_road_.reset();
    if (drawing_) {
        if (e->button() == Qt::LeftButton) finish_drawing();
        return;
    }
    forget_drag();
    if (e->button() != Qt::LeftButton || !session_.answers.shown() || site_at(e->position())) return;
    std::vector<std::string> taken;
    for (const auto& s : sites_now()) taken.push_back(s.planned.site.id);
    const auto id = service::free_name(tr("New site").toStdString(), taken);
    session_.document.change_plan(QString::fromStdString(id),
                                  {service::Change::add, id, scene_->world().place(view_.to_world(e->position()))});
}

void MapView::contextMenuEvent(QContextMenuEvent* e) {
    if (drawing_) return;
    if (const auto site = site_at(e->pos()))
        emit site_menu_wanted(*site, e->globalPos());
    else if (scene_ && scene_->network())
        emit spot_menu_wanted(place_of(e->pos()), e->globalPos());
}

void MapView::pick(QPointF at, bool more) {
    Picked s = more ? session_.selection.picked() : Picked{};
    if (const auto site = site_at(at)) {
        s.site = site;
        session_.selection.pick(s);
        emit site_menu_wanted(*site, mapToGlobal(at.toPoint()));
        return;
    }
    const auto place = place_at(at);
    if (!place && !more && s.places.empty())
        if (const auto road = road_near(at)) {
            pressed_road_ = PressedRoad{*road, place_of(at), mapToGlobal(at.toPoint())};
            one_click_.start(QApplication::doubleClickInterval());
        }
    if (place) {
        const auto known = std::find(s.places.begin(), s.places.end(), *place);
        if (known == s.places.end())
            s.places.push_back(*place);
        else
            s.places.erase(known);
    }
    session_.selection.pick(s);
}

void MapView::keyPressEvent(QKeyEvent* e) {
    const double step = 80 / view_.pixels_per_metre;
    switch (e->key()) {
        case Qt::Key_Left:
            view_.centre.rx() -= step;
            break;
        case Qt::Key_Right:
            view_.centre.rx() += step;
            break;
        case Qt::Key_Up:
            view_.centre.ry() -= step;
            break;
        case Qt::Key_Down:
            view_.centre.ry() += step;
            break;
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            return zoom_by(1.4, rect().center());
        case Qt::Key_Minus:
            return zoom_by(1 / 1.4, rect().center());
        case Qt::Key_0:
            return fit();
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (drawing_) finish_drawing();
            return;
        case Qt::Key_Backspace:
            if (drawing_ && !drawn_.empty()) drawn_.pop_back();
            return update();
        case Qt::Key_Escape:
            if (drawing_) {
                give_up_drawing();
                emit drawing_ended(tr("Drawing was given up; nothing was closed."));
                return;
            }
            if (dragged_ && drag_moved_) return give_up_drag();  // the site stays where it was
            set_marks({});
            session_.selection.pick({});
            return;
        default:
            return QWidget::keyPressEvent(e);
    }
    moved_ = true;
    wish();
    update();
}

}  // namespace otoro::desktop
