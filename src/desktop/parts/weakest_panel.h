#pragma once
/// \file
/// What hurts most: the closing of each open site and of each road, ranked by the cover that is lost.
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/weakest.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

class WeakestPanel : public QWidget {
    Q_OBJECT
public:
    explicit WeakestPanel(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::Standard standard;
        std::vector<service::SiteLoss> sites;
        std::vector<service::RoadLoss> roads;
        bool roads_too = false;
    };
    /// Comes into sight and works out what the sites' closing costs.
    void open();
    [[nodiscard]] QTableWidget& list() const { return *list_; }
    [[nodiscard]] QPushButton& roads_button() const { return *roads_; }
    [[nodiscard]] QPushButton& plan_button() const { return *plan_; }
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void trouble(const QString& why);
    void looked_at(const std::vector<otoro::geo::LonLat>& where);

private:
    void follow();
    void ask(bool roads_too);
    void refresh();
    void pick(int row);
    void make_plan();
    Session& session_;
    WorkedOut<Found> work_;
    QLabel* note_;
    QPushButton* again_;
    QPushButton* roads_;
    QPushButton* plan_;
    QTableWidget* list_;
};

}  // namespace otoro::desktop
