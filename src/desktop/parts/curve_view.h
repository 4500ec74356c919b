#pragma once
#include <qcustomplot.h>

#include "desktop/models/session.h"

namespace otoro::desktop {

/// Share of weight against minutes (or km). The standard is a cross that can be dragged; Today's curve stands behind a
/// plan's.
class CurveView : public QCustomPlot {
    Q_OBJECT
public:
    explicit CurveView(Session& session, QWidget* parent = nullptr);
    /// Where the cross is, in widget pixels.
    [[nodiscard]] QPointF cross() const;
    /// Another plan than Today stands behind.
    void set_base(std::size_t plan) {
        base_ = plan;
        base_answer_ = nullptr;
        refresh();
    }
    /// Another answer than a plan's stands behind.
    void set_base(PlanAnswerPtr answer) {
        base_answer_ = std::move(answer);
        refresh();
    }

protected:
    bool event(QEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    void refresh();
    /// A drag given up: the standard is what it was.
    void put_back();
    void set_curve(QCPGraph& graph, const service::Outcome* outcome) const;
    void move_standard(double limit, double share);
    [[nodiscard]] bool by_time() const;
    /// Whether the standard that is drawn is that of the question in sight.
    [[nodiscard]] bool may_move() const;
    /// Milliseconds or millimetres to what the axis counts: minutes, kilometres or miles.
    [[nodiscard]] double counts_per_unit() const;

    Session& session_;
    QCPGraph* today_;
    QCPGraph* plan_;
    QCPItemStraightLine* limit_line_;
    QCPItemStraightLine* share_line_;
    QCPGraph* cross_;
    QCPGraph* steps_;            ///< further steps of the standard that are for all
    std::size_t base_ = 0;       ///< the plan that stands behind
    PlanAnswerPtr base_answer_;  ///< instead of a plan's
    bool dragging_ = false;
    std::optional<service::Standard> before_;  ///< the standard when the cross was picked up
};

}  // namespace otoro::desktop
