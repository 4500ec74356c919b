#include "desktop/parts/reach_bar.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPaintEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "desktop/parts/announce.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "service/reach.h"

namespace otoro::desktop {
namespace {
constexpr double kGrip = 8;  // px
}

ReachBar::ReachBar(MapView& map, QWidget* parent) : QWidget(parent), map_(map) {
    setFixedHeight(22 + QFontMetrics(theme::type(0.85)).height());
    setMinimumWidth(theme::scaled_column(160));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Limits of reach"));
    setAccessibleDescription(
        tr("Left and right move the limit that is chosen, up and down choose another, Insert adds "
           "one, Delete takes it away"));
    setToolTip(tr("Pull a limit to move its edge on the map. Double press to add one, right press to take one away."));
    connect(&map_, &MapView::style_changed, this, qOverload<>(&ReachBar::update));
}

QRectF ReachBar::bar() const { return QRectF(6, 8, width() - 12, 11); }
std::size_t ReachBar::first_shown() const {
    const auto& style = map_.style_now().reach;
    return is_banded(style) || style.limits.empty() ? 0 : style.limits.size() - 1;
}
bool ReachBar::movable() const { return &reach_look() == map_.style_now().look; }

double ReachBar::most() const {
    if (dragged_) return held_most_;
    const auto colours = map_.ground_colours();
    if (!colours || colours->limits.empty()) return 1;
    return std::max(service::count_of(colours->limits.back()) * 1.25, 1.0);
}
double ReachBar::value_at(double x) const { return std::clamp((x - bar().left()) / bar().width(), 0.0, 1.0) * most(); }
double ReachBar::step() const {
    const auto& limits = map_.style_now().reach.limits;
    return limits.empty() || service::measure_of(limits.front()) == service::ValueOf::time ? 6'000 : 10'000;
}

QPointF ReachBar::handle(std::size_t limit) const {
    const double value = service::count_of(map_.style_now().reach.limits.at(limit));
    return {bar().left() + bar().width() * std::min(value / most(), 1.0), bar().top() - 1};
}

std::optional<std::size_t> ReachBar::handle_at(QPointF at) const {
    if (!movable()) return std::nullopt;
    std::optional<std::size_t> best;
    double least = kGrip;
    for (std::size_t i = first_shown(); i < map_.style_now().reach.limits.size(); ++i)
        if (const double away = std::abs(handle(i).x() - at.x()); away < least) {
            least = away;
            best = i;
        }
    return best;
}

void ReachBar::paintEvent(QPaintEvent*) {
    const auto colours = map_.ground_colours();
    if (!colours) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(theme::type(0.85));
    paint_ground_legend(p, QRectF(bar().left(), bar().top(), bar().width(), height() - bar().top()), *colours, most());
    if (!movable()) return;
    for (std::size_t i = first_shown(); i < map_.style_now().reach.limits.size(); ++i) {
        const QPointF at = handle(i);
        const bool chosen = hasFocus() && i == chosen_;
        p.setPen(QPen(theme::kPaper, 1));
        p.setBrush(chosen || dragged_ == i ? theme::kAccent : theme::kInk);
        p.drawPolygon(QPolygonF({at + QPointF(-5, -7), at + QPointF(5, -7), at + QPointF(0, 2)}));
    }
}

void ReachBar::move(std::size_t limit, double value) {
    ReachStyle style = map_.style_now().reach;
    if (limit >= style.limits.size()) return;
    const double by = step();
    double low = by, high = 1e12;
    if (limit > 0) low = service::count_of(style.limits[limit - 1]) + by;
    if (limit + 1 < style.limits.size()) high = service::count_of(style.limits[limit + 1]) - by;
    if (low > high) return;
    const double rounded = std::clamp(std::round(value / by) * by, low, high);
    style.limits[limit] = service::amount_of(rounded, service::measure_of(style.limits[limit]));
    map_.set_reach(style);
    if (!dragged_) map_.keep_reach();
}

void ReachBar::add(double value) {
    ReachStyle style = map_.style_now().reach;
    if (style.limits.size() >= service::kMostLimits) return;
    const double by = step(), rounded = std::max(by, std::round(value / by) * by);
    const auto measure = style.limits.empty() ? service::ValueOf::time : service::measure_of(style.limits.front());
    const auto at = std::find_if(style.limits.begin(), style.limits.end(),
                                 [&](const Amount& a) { return service::count_of(a) >= rounded; });
    if (at != style.limits.end() && service::count_of(*at) == rounded) return;
    chosen_ = static_cast<std::size_t>(at - style.limits.begin());
    style.limits.insert(at, service::amount_of(rounded, measure));
    map_.set_reach(style);
    map_.keep_reach();
}

void ReachBar::remove(std::size_t limit) {
    ReachStyle style = map_.style_now().reach;
    if (style.limits.size() < 2 || limit >= style.limits.size()) return;  // one stays
    style.limits.erase(style.limits.begin() + static_cast<std::ptrdiff_t>(limit));
    chosen_ = std::min(chosen_, style.limits.size() - 1);
    map_.set_reach(style);
    map_.keep_reach();
}

void ReachBar::mousePressEvent(QMouseEvent* e) {
    const auto at = handle_at(e->position());
    if (e->button() == Qt::RightButton) {
        if (at) remove(*at);
        return;
    }
    if (e->button() != Qt::LeftButton || !at) return;
    held_most_ = most();
    dragged_ = at;
    chosen_ = *at;
    update();
}

void ReachBar::mouseMoveEvent(QMouseEvent* e) {
    if (dragged_) return move(*dragged_, value_at(e->position().x()));
    setCursor(handle_at(e->position()) ? Qt::SplitHCursor : Qt::ArrowCursor);
}

void ReachBar::mouseReleaseEvent(QMouseEvent*) {
    if (dragged_) {
        dragged_.reset();
        map_.keep_reach();
    }
    update();
}

void ReachBar::mouseDoubleClickEvent(QMouseEvent* e) {
    if (movable() && e->button() == Qt::LeftButton && !handle_at(e->position())) add(value_at(e->position().x()));
}

void ReachBar::keyPressEvent(QKeyEvent* e) {
    const auto& limits = map_.style_now().reach.limits;
    if (!movable() || limits.empty()) return QWidget::keyPressEvent(e);
    chosen_ = std::clamp(chosen_, first_shown(), limits.size() - 1);
    const double now = service::count_of(limits[chosen_]);
    const double by = step() * (e->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1);
    switch (e->key()) {
        case Qt::Key_Left:
            move(chosen_, now - by);
            break;
        case Qt::Key_Right:
            move(chosen_, now + by);
            break;
        case Qt::Key_Up:
            chosen_ = std::min(chosen_ + 1, limits.size() - 1);
            break;
        case Qt::Key_Down:
            chosen_ = std::max(chosen_, first_shown() + 1) - 1;
            break;
        case Qt::Key_Insert:
        case Qt::Key_Plus:
            add(chosen_ + 1 < limits.size() ? (now + service::count_of(limits[chosen_ + 1])) / 2 : now * 1.25);
            break;
        case Qt::Key_Delete:
            remove(chosen_);
            break;
        default:
            return QWidget::keyPressEvent(e);
    }
    announce(*this, QString::fromStdString(describe(map_.style_now().reach.limits[chosen_])));
    update();
}

bool ReachBar::event(QEvent* e) {
    // Delete and Insert are the bar's while it has the keyboard, not the window's.
    if (e->type() == QEvent::ShortcutOverride) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if (key == Qt::Key_Delete || key == Qt::Key_Insert || key == Qt::Key_Plus) {
            e->accept();
            return true;
        }
    }
    return QWidget::event(e);
}

}  // namespace otoro::desktop
