/// What the keys do on the map: a cursor of their own points at a spot, reads it out, and does there whatever the mouse
/// can.
#include <QKeyEvent>
#include <QPainter>
#include <algorithm>

#include "desktop/map/map_view.h"
#include "desktop/parts/announce.h"
#include "desktop/theme.h"

namespace otoro::desktop {
namespace {
constexpr double kStep = 24, kSmallStep = 3;  // px
constexpr double kPan = 80;                   // px
constexpr double kFromEdge = 30;              // px between the cursor and the map's edge
}  // namespace

std::optional<QPointF> MapView::cursor_at() const {
    if (!cursor_ || !scene_) return std::nullopt;
    return view_.to_screen(*cursor_);
}

void MapView::point_to(geo::LonLat place) {
    if (!scene_) return;
    cursor_ = scene_->world().flat(place);
    if (!QRectF(rect()).adjusted(kFromEdge, kFromEdge, -kFromEdge, -kFromEdge).contains(*cursor_at())) {
        view_.centre = *cursor_;
        moved_ = true;
        wish();
    }
    move_cursor({});
}

void MapView::move_cursor(QPointF by) {
    if (!scene_) return;
    if (!cursor_)
        cursor_ = view_.to_world(QRectF(rect()).center());
    else
        *cursor_ += by / view_.pixels_per_metre;
    const QRectF inside = QRectF(rect()).adjusted(kFromEdge, kFromEdge, -kFromEdge, -kFromEdge);
    const QPointF at = *cursor_at();
    const QPointF held(std::clamp(at.x(), inside.left(), std::max(inside.left(), inside.right())),
                       std::clamp(at.y(), inside.top(), std::max(inside.top(), inside.bottom())));
    if (held != at) {
        view_.centre += (at - held) / view_.pixels_per_metre;
        moved_ = true;
        wish();
    }
    last_at_ = *cursor_at();
    if (dragged_) {
        drag_moved_ = true;
        drag_to(last_at_);
    } else if (sketch_) {
        announce(*this, drawing_hint());
    } else {
        read_at(last_at_);
        announce(*this, readout_.isEmpty() ? tr("nothing here") : readout_);
    }
    update();
}

void MapView::go_to_site(int step) {
    const auto sites = sites_now();
    std::vector<std::uint32_t> there;
    for (std::uint32_t i = 0; i < sites.size(); ++i)
        if (sites[i].planned.site.position) there.push_back(i);
    if (there.empty() || !scene_) return;
    // From the one that is pointed at; without one, the first or the last.
    std::size_t next = step > 0 ? 0 : there.size() - 1;
    if (const auto at = cursor_at())
        if (const auto here = site_at(*at))
            if (const auto it = std::find(there.begin(), there.end(), here->value()); it != there.end())
                next = (static_cast<std::size_t>(it - there.begin()) + there.size() + static_cast<std::size_t>(step)) %
                       there.size();
    point_to(*sites[there[next]].planned.site.position);
}

void MapView::pick_up_or_drop() {
    const auto at = cursor_at();
    if (dragged_) {
        if (at && drag_moved_) return drop_at(*at);
        return forget_drag();
    }
    const auto site = at ? site_at(*at) : std::nullopt;
    const auto sites = sites_now();
    if (!site || site->value() >= sites.size())
        return emit remark(tr("Point at a site first: Page Down goes from one to the next."));
    dragged_ = Dragged{sites[site->value()].planned, *site};
    drag_moved_ = false;
    clear_reading();
    readout_ = tr("%1 is in the hand: arrows move it, Enter puts it down, Esc puts it back.")
                   .arg(QString::fromStdString(service::label(dragged_->site.site)));
    announce(*this, readout_);
    update();
}

void MapView::take_out_picked() {
    const auto sites = sites_now();
    const auto picked = session_.selection.picked().site;
    const auto at = cursor_at();
    const auto site = picked ? picked : at ? site_at(*at) : std::nullopt;
    if (!site || site->value() >= sites.size())
        return emit remark(tr("Nothing to remove: pick a site that this plan adds."));
    const auto& planned = sites[site->value()].planned;
    if (!planned.added)
        return emit remark(tr("%1 is there today. It can be closed in a plan; press it for that.")
                               .arg(QString::fromStdString(service::label(planned.site))));
    session_.document.take_out(change_of(planned, service::Change::add));
}

void MapView::paint_cursor(QPainter& painter) const {
    const auto at = cursor_at();
    if (!at || !hasFocus()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    // Corners of a frame around the spot, which itself stays in sight.
    constexpr double kHalf = 13, kArm = 6;
    for (const QPen& pen : {QPen(theme::kPaper, 5), QPen(theme::kInk, 2)}) {
        painter.setPen(pen);
        for (const double x : {-1.0, 1.0})
            for (const double y : {-1.0, 1.0})
                painter.drawPolyline(
                    QPolygonF({*at + QPointF(x * kHalf, y * (kHalf - kArm)), *at + QPointF(x * kHalf, y * kHalf),
                               *at + QPointF(x * (kHalf - kArm), y * kHalf)}));
    }
}

void MapView::keyPressEvent(QKeyEvent* e) {
    const auto arrow = [&]() -> QPointF {
        switch (e->key()) {
            case Qt::Key_Left:
                return {-1, 0};
            case Qt::Key_Right:
                return {1, 0};
            case Qt::Key_Up:
                return {0, -1};
            case Qt::Key_Down:
                return {0, 1};
            default:
                return {};
        }
    }();
    if (!arrow.isNull()) {
        if (!(e->modifiers() & Qt::ControlModifier))
            return move_cursor(arrow * (e->modifiers() & Qt::ShiftModifier ? kSmallStep : kStep));
        view_.centre += arrow * kPan / view_.pixels_per_metre;
        moved_ = true;
        clear_reading();
        wish();
        return update();
    }
    const auto at = cursor_at();
    const QPointF about = at.value_or(QRectF(rect()).center());
    switch (e->key()) {
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            return zoom_by(1.4, about);
        case Qt::Key_Minus:
            return zoom_by(1 / 1.4, about);
        case Qt::Key_0:
            return fit();
        case Qt::Key_Z:
            return show_picked();
        case Qt::Key_B:
            if (!sketch_ && !dragged_) start_picking();
            return;
        case Qt::Key_PageDown:
            return go_to_site(1);
        case Qt::Key_PageUp:
            return go_to_site(-1);
        case Qt::Key_G:
            return sketch_ ? void() : pick_up_or_drop();
        case Qt::Key_N:
            if (at && !sketch_ && !dragged_) add_site_at(*at);
            return;
        case Qt::Key_Space:
            if (dragged_) return pick_up_or_drop();
            if (at && !draw_at(*at)) pick(*at, e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
            return;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (sketch_) return finish_drawing();
            if (dragged_) return pick_up_or_drop();
            if (at) pick(*at, e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
            return;
        case Qt::Key_Delete:
            return take_out_picked();
        case Qt::Key_Backspace:
            if (sketch_ && !drawn_.empty()) drawn_.pop_back();
            return update();
        case Qt::Key_Escape:
            return let_go();
        default:
            return QWidget::keyPressEvent(e);
    }
}

}  // namespace otoro::desktop
