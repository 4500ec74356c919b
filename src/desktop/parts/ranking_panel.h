#pragma once
/// \file
/// Every candidate ranked alone by weighted criteria; rows and map are linked, and a row becomes a plan.
#include <QWidget>
#include <array>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/ranking.h"

class QLabel;
class QPushButton;
class QSpinBox;
class QTableWidget;

namespace otoro::desktop {

class RankingPanel : public QWidget {
    Q_OBJECT
public:
    explicit RankingPanel(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        std::vector<service::RankedCandidate> all;
    };
    /// Comes into sight and works them out.
    void open();
    [[nodiscard]] QTableWidget& list() const { return *list_; }
    [[nodiscard]] QSpinBox& weight(service::Criterion c) const { return *weights_[static_cast<std::size_t>(c)]; }
    [[nodiscard]] QPushButton& plan_button() const { return *plan_; }
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }
    /// What was found, by the weights as they are.
    [[nodiscard]] const std::vector<service::RankedCandidate>& ranked() const { return ranked_; }

signals:
    void trouble(const QString& why);
    /// A candidate is to be seen on the map.
    void looked_at(const std::vector<otoro::geo::LonLat>& where);
    void export_wanted();

private:
    [[nodiscard]] service::CriterionWeights weights() const;
    void follow();
    void ask();
    void rank();
    void refresh();
    void pick(int row);
    void make_plan();
    Session& session_;
    WorkedOut<Found> work_;
    std::vector<service::RankedCandidate> ranked_;
    double done_ = 0;  ///< of the work under way, 0 to 1
    std::array<QSpinBox*, service::kCriteria> weights_{};
    QLabel* note_;
    QPushButton* again_;
    QPushButton* plan_;
    QTableWidget* list_;
};

}  // namespace otoro::desktop
