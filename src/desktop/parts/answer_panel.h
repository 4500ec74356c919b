#pragma once
#include <QScrollArea>

#include "desktop/models/session.h"

class QLabel;
class QPushButton;
class QTableWidget;
class QTableView;

namespace otoro::desktop {
class BreakdownView;
class CurveView;
class AccessView;
class FairnessView;
class FirmnessView;
class RankingPanel;
class WeakestPanel;

/// The answer beside the map: the curve, who is not served and why, sums by zone and group, loads per site.
class AnswerPanel : public QScrollArea {
    Q_OBJECT
public:
    explicit AnswerPanel(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] CurveView& curve() const { return *curve_; }
    [[nodiscard]] QTableWidget& statuses() const { return *statuses_; }
    [[nodiscard]] BreakdownView& breakdown() const { return *breakdown_; }
    [[nodiscard]] QTableWidget& loads() const { return *loads_; }
    [[nodiscard]] FairnessView& fairness() const { return *fairness_; }
    [[nodiscard]] FirmnessView& firmness() const { return *firmness_; }
    [[nodiscard]] AccessView& access() const { return *access_; }
    [[nodiscard]] RankingPanel& ranking() const { return *ranking_; }
    [[nodiscard]] WeakestPanel& weakest() const { return *weakest_; }
    [[nodiscard]] QPushButton& rank_button() const { return *rank_; }
    [[nodiscard]] QPushButton& weakest_button() const { return *hurts_; }
    /// Puts a part above all others.
    void put_first(QWidget* part);

private:
    void refresh();
    void refresh_statuses();
    void refresh_loads();
    void pick_status(int row);
    void pick_site(int row);
    Session& session_;
    CurveView* curve_;
    BreakdownView* breakdown_;
    FairnessView* fairness_;
    AccessView* access_;
    FirmnessView* firmness_;
    RankingPanel* ranking_;
    WeakestPanel* weakest_;
    QPushButton* rank_;
    QPushButton* hurts_;
    QLabel* statistics_;
    QTableWidget* statuses_;
    QTableWidget* loads_;
};

}  // namespace otoro::desktop
