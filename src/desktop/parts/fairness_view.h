#pragma once
/// \file
/// Whether some fare worse than others: the worst-served tenth, the Lorenz curve of travel, and zones and groups with
/// those who miss most first. Worked out while it is open.
#include <qcustomplot.h>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "desktop/parts/fold.h"
#include "service/fairness.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

class FairnessView : public Fold {
    Q_OBJECT
public:
    explicit FairnessView(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::Question question;
        service::FairnessAnswer fair;
    };
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    [[nodiscard]] QPushButton& pick_button() const { return *pick_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void export_wanted();

protected:
    void follow() override;

private:
    void ask();
    void refresh();
    void pick_row(int row);
    Session& session_;
    WorkedOut<Found> work_;
    QLabel* words_;
    QCustomPlot* plot_;
    QCPCurve* lorenz_;
    QPushButton* pick_;
    QTableWidget* table_;
};

}  // namespace otoro::desktop
