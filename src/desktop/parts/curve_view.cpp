#include "desktop/parts/curve_view.h"

#include <QKeyEvent>
#include <QLocale>
#include <QMouseEvent>
#include <cmath>
#include <utility>

#include "desktop/parts/quiet_plot.h"
#include "desktop/theme.h"
#include "desktop/words.h"

namespace otoro::desktop {

CurveView::CurveView(Session& session, QWidget* parent) : QCustomPlot(parent), session_(session) {
    setAccessibleName(tr("Curve: share of weight by time or distance. Arrow keys move the standard"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(theme::scaled(140));
    setMaximumHeight(theme::scaled(240));
    make_quiet(*this);
    setNoAntialiasingOnDrag(false);
    yAxis->setRange(0, 104);
    yAxis->setLabel(tr("% of weight"));
    today_ = addGraph();
    today_->setPen(QPen(theme::kFaintInk, 1.6, Qt::DashLine));
    plan_ = addGraph();
    plan_->setPen(QPen(theme::kInk, 2.2));
    plan_->setBrush(QColor(0x2B, 0x86, 0x9E, 34));
    limit_line_ = new QCPItemStraightLine(this);
    share_line_ = new QCPItemStraightLine(this);
    for (auto* line : {limit_line_, share_line_}) line->setPen(QPen(theme::kAccent, 1, Qt::DotLine));
    steps_ = addGraph();
    steps_->setLineStyle(QCPGraph::lsNone);
    steps_->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDiamond, QPen(theme::kAccent, 1.6), QBrush(theme::kPaper), 9));
    cross_ = addGraph();
    cross_->setLineStyle(QCPGraph::lsNone);
    cross_->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, QPen(theme::kAccent, 2.4), QBrush(theme::kPaper), 11));
    connect(&session_.document, &Document::study_replaced, this, [this] { dragging_ = false; });
    connect(&session_.answers, &Answers::changed, this, &CurveView::refresh);
    connect(&session_.document, &Document::plans_changed, this, &CurveView::refresh);
    connect(&session_.document, &Document::question_changed, this, &CurveView::refresh);
    QLocale plain;
    plain.setNumberOptions(QLocale::OmitGroupSeparator);
    setLocale(plain);
    refresh();
}

bool CurveView::by_time() const {
    const auto& standard = session_.answers.question().standard;
    return !standard || std::holds_alternative<Millis>(standard->limit);
}

bool CurveView::may_move() const {
    return &session_.answers.question() == &session_.document.question() &&
           session_.document.question().standard.has_value();
}

double CurveView::counts_per_unit() const {
    return desktop::counts_per_unit(by_time() ? routing::Measure::time : routing::Measure::distance);
}

void CurveView::set_curve(QCPGraph& graph, const service::Outcome* outcome) const {
    QVector<double> x{0}, y{0};
    if (outcome && outcome->all.weight.count() > 0) {
        const double unit = counts_per_unit();
        const double all = outcome->all.weight.value();
        const auto& curve = outcome->curve(by_time() ? routing::Measure::time : routing::Measure::distance);
        const std::size_t stride = std::max<std::size_t>(1, curve.size() / 1500);
        for (std::size_t i = 0; i < curve.size(); i += stride) {
            x << static_cast<double>(curve[i].value) / unit;
            y << 100 * curve[i].weight.value() / all;
        }
        if (!curve.empty()) {
            x << static_cast<double>(curve.back().value) / unit;
            y << 100 * curve.back().weight.value() / all;
        }
    }
    graph.setData(x, y, true);
}

void CurveView::refresh() {
    const auto answer = session_.answers.shown();
    const auto today = base_answer_ ? base_answer_ : session_.answers.of_plan(base_);
    set_curve(*plan_, answer ? &answer->outcome : nullptr);
    set_curve(*today_, today && today != answer ? &today->outcome : nullptr);
    xAxis->setLabel(by_time() ? tr("minutes") : long_unit());
    double most = 12;
    const bool has_standard = session_.answers.question().standard.has_value();
    limit_line_->setVisible(has_standard);
    share_line_->setVisible(has_standard);
    cross_->setVisible(has_standard);
    steps_->setVisible(has_standard);
    if (const auto& standard = session_.answers.question().standard) {
        const double limit = by_time() ? std::get<Millis>(standard->limit).minutes()
                                       : in_long_units(std::get<Millimetres>(standard->limit));
        const double share = standard->share.percent();
        limit_line_->point1->setCoords(limit, 0);
        limit_line_->point2->setCoords(limit, 1);
        share_line_->point1->setCoords(0, share);
        share_line_->point2->setCoords(1, share);
        cross_->setData({limit}, {share});
        most = limit * 2;
        QVector<double> at, wanted;
        for (const auto& step : standard->further) {
            if (!step.scope.of_all() || std::holds_alternative<Millis>(step.limit) != by_time()) continue;
            at << static_cast<double>(limit_of(step)) / counts_per_unit();
            wanted << step.share.percent();
            most = std::max(most, at.back() * 1.1);
        }
        steps_->setData(at, wanted);
    }
    if (answer && !dragging_) {
        const auto& curve = answer->outcome.curve(by_time() ? routing::Measure::time : routing::Measure::distance);
        if (!curve.empty())
            most = std::max(most, std::min(static_cast<double>(curve.back().value) / counts_per_unit(), most * 2));
    }
    if (!dragging_) xAxis->setRange(0, most * 1.02);
    plan_->setPen(QPen(session_.answers.up_to_date() ? theme::kInk : theme::kFaintInk, 2.2));
    replot(QCustomPlot::rpQueuedReplot);
}

QPointF CurveView::cross() const {
    const auto it = cross_->data()->constBegin();
    if (it == cross_->data()->constEnd()) return {};
    return {xAxis->coordToPixel(it->key), yAxis->coordToPixel(it->value)};
}

void CurveView::move_standard(double limit, double share) {
    if (!may_move()) return;
    const double step = by_time() ? 10 : 20;  // tenths of a minute, twentieths of a kilometre or mile
    limit = std::max(1.0, std::round(limit * step)) / step;
    share = std::clamp(std::round(share), 1.0, 100.0);
    const Amount amount = by_time() ? Amount(Millis(std::llround(limit * 60'000))) : Amount(from_long_units(limit));
    session_.document.edit(tr("standard"), [&](service::Study& s) {
        auto& standard = s.question().standard;
        if (!standard) return;
        standard->share = Share::percent(share);
        standard->limit = amount;
    });
}

void CurveView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (dragging_) return put_back();  // a second button
    dragging_ = e->button() == Qt::LeftButton && may_move() && (e->position() - cross()).manhattanLength() < 16;
    before_ = session_.document.question().standard;
}

void CurveView::put_back() {
    if (!std::exchange(dragging_, false)) return;
    if (session_.document.question().standard != before_)
        session_.document.edit(tr("standard"), [this](service::Study& s) { s.question().standard = before_; });
    refresh();
}

bool CurveView::event(QEvent* e) {
    if (e->type() == QEvent::WindowDeactivate || e->type() == QEvent::Hide || e->type() == QEvent::UngrabMouse)
        put_back();
    return QCustomPlot::event(e);
}

void CurveView::mouseMoveEvent(QMouseEvent* e) {
    setCursor((e->position() - cross()).manhattanLength() < 16 ? Qt::SizeAllCursor : Qt::ArrowCursor);
    if (dragging_) move_standard(xAxis->pixelToCoord(e->position().x()), yAxis->pixelToCoord(e->position().y()));
}

void CurveView::mouseReleaseEvent(QMouseEvent*) {
    dragging_ = false;
    refresh();
}

void CurveView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && dragging_) return put_back();
    const auto& standard = session_.document.question().standard;
    if (!may_move()) return QCustomPlot::keyPressEvent(e);
    const double limit =
        by_time() ? std::get<Millis>(standard->limit).minutes() : in_long_units(std::get<Millimetres>(standard->limit));
    const double share = standard->share.percent();
    const double step = by_time() ? 0.5 : 0.1;
    switch (e->key()) {
        case Qt::Key_Left:
            return move_standard(limit - step, share);
        case Qt::Key_Right:
            return move_standard(limit + step, share);
        case Qt::Key_Up:
            return move_standard(limit, share + 1);
        case Qt::Key_Down:
            return move_standard(limit, share - 1);
        default:
            QCustomPlot::keyPressEvent(e);
    }
}

}  // namespace otoro::desktop
