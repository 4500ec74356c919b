#pragma once
/// \file
/// How firm the verdict is: the band when all speeds fall or rise, how much slower everybody may be, and what can be
/// expected when sites are busy. Worked out while it is open.

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "desktop/parts/fold.h"
#include "service/firmness.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class NumberBox;

class FirmnessView : public Fold {
    Q_OBJECT
public:
    explicit FirmnessView(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::Standard standard;
        Share busy;
        service::Firmness firm;
    };
    [[nodiscard]] NumberBox& busy() const { return *busy_; }
    [[nodiscard]] NumberBox& calls() const { return *calls_; }
    [[nodiscard]] NumberBox& on_task() const { return *on_task_; }
    [[nodiscard]] QTableWidget& band() const { return *band_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

protected:
    void follow() override;
    void closed() override { work_.forget(); }

private:
    void ask();
    void refresh();
    void busy_from_calls();
    Session& session_;
    WorkedOut<Found> work_;
    QTableWidget* band_;
    QLabel* words_;
    NumberBox* busy_;
    NumberBox* calls_;
    NumberBox* on_task_;
};

}  // namespace otoro::desktop
