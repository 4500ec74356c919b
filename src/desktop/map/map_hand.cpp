/// What the hand does on the map: picks, drags and draws. What the keys do is in map_keys.cpp.
#include <QApplication>
#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

#include "desktop/map/map_view.h"
#include "desktop/map/route_drawing.h"
#include "desktop/parts/announce.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {

void MapView::start_drawing(Sketch sketch) {
    give_up_drag();
    sketch_ = std::move(sketch);
    drawn_.clear();
    clear_reading();
    setCursor(Qt::CrossCursor);
    setFocus();
    announce(*this, drawing_hint());
    update();
}

void MapView::finish_drawing() {
    const Sketch sketch = *sketch_;
    auto vertices = std::move(drawn_);
    vertices.erase(std::unique(vertices.begin(), vertices.end()), vertices.end());
    give_up_drawing();
    if (vertices.size() >= sketch.least_points()) return sketch.done(vertices);
    const QString why = sketch.form == Sketch::Form::area  ? tr("An area needs three points at least.")
                        : sketch.form == Sketch::Form::box ? tr("A box needs two corners.")
                                                           : tr("A line needs two points at least.");
    emit remark(why + " " + sketch.otherwise);
}

bool MapView::draw_at(QPointF at) {
    if (!sketch_) return false;
    last_at_ = at;
    drawn_.push_back(place_of(at));
    if (sketch_->form == Sketch::Form::box && drawn_.size() == 2)
        finish_drawing();
    else
        announce(*this, drawing_hint());
    update();
    return true;
}

void MapView::give_up_drawing() {
    sketch_.reset();
    drawn_.clear();
    unsetCursor();
    update();
}

QString MapView::drawing_hint() const {
    if (!sketch_) return {};
    QString how;
    switch (sketch_->form) {
        case Sketch::Form::area:
            how =
                tr("Press at its corners; a double click or Enter ends it, Backspace takes the last corner back, "
                   "Esc gives up.");
            break;
        case Sketch::Form::line:
            how =
                tr("Press along it; a double click or Enter ends it, Backspace takes the last point back, Esc gives "
                   "up.");
            break;
        case Sketch::Form::box:
            how = tr("Press one corner, then the opposite one; Esc gives up.");
            break;
    }
    if (sketch_->reading && !drawn_.empty()) {
        auto points = drawn_;
        points.push_back(place_of(last_at_));
        if (const QString reading = sketch_->reading(points); !reading.isEmpty()) return reading + "  " + how;
    }
    return sketch_->what + " " + how;
}

void MapView::start_picking() {
    Sketch box;
    box.form = Sketch::Form::box;
    box.what = tr("Pick the places in a box.");
    box.otherwise = tr("Nothing was picked.");
    box.done = [this](const std::vector<geo::LonLat>& corners) { pick_between(corners[0], corners[1], false); };
    start_drawing(std::move(box));
}

void MapView::pick_between(geo::LonLat a, geo::LonLat b, bool more) {
    if (!scene_ || !scene_is_current()) return;
    Picked s = more ? session_.selection.picked() : Picked{};
    std::vector<std::uint32_t> found;
    const QRectF box = QRectF(scene_->world().flat(a), scene_->world().flat(b)).normalized();
    if (scene_->demand().count() > 0) scene_->places_in(box, found);
    // The index is asked generously.
    std::erase_if(found, [&](std::uint32_t i) {
        const QPointF at = scene_->place(i);
        return at.x() < box.left() || at.x() > box.right() || at.y() < box.top() || at.y() > box.bottom();
    });
    s.places.insert(s.places.end(), found.begin(), found.end());
    std::sort(s.places.begin(), s.places.end());
    s.places.erase(std::unique(s.places.begin(), s.places.end()), s.places.end());
    const auto n = s.places.size();
    session_.selection.pick(std::move(s));
    emit remark(n == 0 ? tr("There are no places in the box.")
                       : tr("%1 picked.").arg(counted(n, tr("place"), tr("places"))));
}

void MapView::show_picked() {
    std::vector<geo::LonLat> where;
    const auto& picked = session_.selection.picked();
    if (scene_ && scene_is_current())
        for (const std::uint32_t i : picked.places)
            if (i < scene_->demand().count() && scene_->has_place(i))
                where.push_back(scene_->world().place(scene_->place(i)));
    const auto sites = sites_now();
    if (picked.site && picked.site->value() < sites.size())
        if (const auto& p = sites[picked.site->value()].planned.site.position) where.push_back(*p);
    if (where.empty()) return emit remark(tr("Nothing is picked. Press a place or a row, or pick in a box."));
    go_to_all(where);
}

void MapView::let_go() {
    if (sketch_) {
        const QString otherwise = sketch_->otherwise;
        give_up_drawing();
        emit remark(tr("Drawing was given up.") + " " + otherwise);
        return;
    }
    if (box_from_) {
        box_from_.reset();
        pressed_ = false;
        return update();
    }
    if (dragged_ || dragged_stop_) return give_up_drag();  // the site, or the stop, stays where it was
    if (reach_from_ && style_.look == &reach_look()) return set_reach_from(std::nullopt);
    if (style_.reach.one_site && style_.look == &reach_look()) return reach_of_site(std::nullopt);
    cursor_.reset();
    clear_reading();
    set_marks({});
    session_.selection.pick({});
}

std::optional<std::size_t> MapView::stop_at(QPointF at) const {
    const auto& stops = session_.route.route().stops;
    for (std::size_t i = 0; scene_ && session_.route.shown() && i < stops.size(); ++i) {
        const QPointF d = screen_of(stops[i].at) - at;
        if (std::hypot(d.x(), d.y()) <= kStopRadius + 2) return i;
    }
    return std::nullopt;
}

bool MapView::event(QEvent* e) {
    // Another window in front, a menu over it, or the map gone: the hand is empty.
    if (e->type() == QEvent::WindowDeactivate || e->type() == QEvent::Hide || e->type() == QEvent::UngrabMouse)
        give_up_drag();
    if (e->type() == QEvent::ScreenChangeInternal) wish();  // another screen may have other pixels
    return QWidget::event(e);
}

void MapView::forget_drag() {
    if (dragged_ || panning_ || dragged_stop_) unsetCursor();
    dragged_stop_.reset();
    pressed_ = panning_ = drag_moved_ = dragging_spot_ = false;
    dragged_.reset();
    box_from_.reset();
    update();
}

void MapView::give_up_drag() {
    const bool tried = dragged_ && drag_moved_;
    if (dragged_stop_) session_.route.give_up_trial();
    forget_drag();
    if (tried) session_.answers.try_out(std::nullopt);
}

void MapView::paint_drawing(QPainter& painter) const {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme::kAccent, 1.5, Qt::DashLine));
    painter.setBrush(QColor(theme::kAccent.red(), theme::kAccent.green(), theme::kAccent.blue(), 30));
    if (box_from_ && drag_moved_) painter.drawRect(QRectF(*box_from_, last_at_).normalized());
    if (!sketch_ || drawn_.empty()) return;
    if (sketch_->form == Sketch::Form::box) {
        painter.drawRect(QRectF(screen_of(drawn_.front()), last_at_).normalized());
        return;
    }
    QPolygonF line;
    for (const auto& p : drawn_) line.append(screen_of(p));
    line.append(last_at_);
    if (sketch_->form == Sketch::Form::area && line.size() > 2) {
        painter.setPen(Qt::NoPen);
        painter.drawPolygon(line);
        painter.setPen(QPen(theme::kAccent, 1.5, Qt::DashLine));
        painter.drawLine(line.last(), line.first());
    }
    painter.setPen(QPen(theme::kAccent, 3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
}

void MapView::mousePressEvent(QMouseEvent* e) {
    cursor_.reset();  // the mouse has it
    if (sketch_) {
        if (e->button() == Qt::LeftButton) draw_at(e->position());
        return;
    }
    pressed_road_.reset();
    give_up_drag();  // a second button while a site is in the hand puts it back
    if (e->button() != Qt::LeftButton) return;
    pressed_ = true;
    pressed_at_ = last_at_ = e->position();
    dragging_spot_ = on_spot(e->position());
    if (!dragging_spot_) dragged_stop_ = stop_at(e->position());
    if (dragging_spot_ || dragged_stop_) return setCursor(Qt::ClosedHandCursor);
    const auto site = site_at(e->position());
    const auto sites = sites_now();
    if (site && site->value() < sites.size()) dragged_ = Dragged{sites[site->value()].planned, *site};
    if (!dragged_ && (e->modifiers() & Qt::ShiftModifier)) box_from_ = e->position();
    panning_ = !dragged_ && !box_from_;
}

void MapView::mouseMoveEvent(QMouseEvent* e) {
    const QPointF moved = e->position() - last_at_;
    last_at_ = e->position();
    if (sketch_) return update();
    if (!(e->buttons() & Qt::LeftButton)) {
        if (!dragged_) {  // by the keyboard
            cursor_.reset();
            hover_.start();
        }
        return;
    }
    if (!pressed_) return;  // what this press began was given up
    if ((e->position() - pressed_at_).manhattanLength() > 4) drag_moved_ = true;
    if (!drag_moved_) return;
    clear_reading();
    if (dragging_spot_) {
        set_reach_from(place_of(e->position()));
    } else if (dragged_stop_) {
        session_.route.try_out(*dragged_stop_, place_of(e->position()));
    } else if (panning_) {
        setCursor(Qt::ClosedHandCursor);
        view_.centre -= moved / view_.pixels_per_metre;
        moved_ = true;
        wish();
        update();
    } else if (box_from_) {
        update();
    } else {
        drag_to(e->position());
    }
}

void MapView::drag_to(QPointF at) {
    last_at_ = at;
    if (dragged_ && session_.answers.shown())
        session_.answers.try_out(change_of(dragged_->site, service::Change::move, place_of(at)));
    update();  // the site is under the hand at once
}

void MapView::drop_at(QPointF at) {
    const auto dragged = dragged_;
    forget_drag();
    if (!dragged || !session_.answers.shown()) return;
    session_.document.change_plan(tr("%1 moved").arg(QString::fromStdString(service::label(dragged->site.site))),
                                  change_of(dragged->site, service::Change::move, place_of(at)));
}

void MapView::mouseReleaseEvent(QMouseEvent* e) {
    if (sketch_ || !pressed_ || e->button() != Qt::LeftButton) return;
    if (std::exchange(dragging_spot_, false)) {
        unsetCursor();
        forget_drag();
        emit style_changed();
        return;
    }
    const bool moved = drag_moved_;
    if (const auto stop = std::exchange(dragged_stop_, std::nullopt)) {
        unsetCursor();
        forget_drag();
        if (moved) return session_.route.move_to(*stop, place_of(e->position()));
        return pick(e->position(), e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
    }
    const auto box = box_from_;
    if (moved && dragged_) return drop_at(e->position());
    forget_drag();
    if (!moved)
        pick(e->position(), e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
    else if (box)
        pick_between(place_of(*box), place_of(e->position()), e->modifiers() & Qt::ControlModifier);
}

void MapView::mouseDoubleClickEvent(QMouseEvent* e) {
    pressed_road_.reset();
    if (sketch_) {
        if (e->button() == Qt::LeftButton) finish_drawing();
        return;
    }
    forget_drag();
    if (e->button() == Qt::LeftButton) add_site_at(e->position());
}

void MapView::add_site_at(QPointF at) {
    if (!session_.answers.shown() || site_at(at)) return;
    std::vector<std::string> taken;
    for (const auto& s : sites_now()) taken.push_back(s.planned.site.id);
    const auto id = service::free_name(tr("New site").toStdString(), taken);
    session_.document.change_plan(QString::fromStdString(id), {service::Change::add, id, place_of(at)});
}

void MapView::contextMenuEvent(QContextMenuEvent* e) {
    if (sketch_) return;
    if (e->reason() != QContextMenuEvent::Keyboard) return show_menu(e->pos(), e->globalPos());
    if (!cursor_) move_cursor({});
    if (const auto at = cursor_at()) show_menu(*at, mapToGlobal(at->toPoint()));
}

void MapView::show_menu(QPointF at, const QPoint& global) {
    if (const auto site = site_at(at))
        emit site_menu_wanted(*site, global);
    else if (scene_ && scene_->network())
        emit spot_menu_wanted(place_of(at), global);
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
    if (!place && !more) {
        if (const auto road = road_near(at)) {
            pressed_road_ = PressedRoad{*road, place_of(at), mapToGlobal(at.toPoint())};
            one_click_.start(QApplication::doubleClickInterval());
        } else if (ground_colours()) {
            emit ground_pressed(place_of(at));
            return;
        }
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

}  // namespace otoro::desktop
