#pragma once
/// \file
/// How firm the verdict is: the band when all speeds fall or rise, how much slower everybody may be, and what can be
/// expected when sites are busy. Worked out while it is open.
#include <QTimer>
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/firmness.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class NumberBox;

class FirmnessView : public QWidget {
    Q_OBJECT
public:
    explicit FirmnessView(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::Standard standard;
        Share busy;
        service::Firmness firm;
    };
    /// Opened, or a heading alone. Remembered from one sitting to the next.
    void set_open(bool open);
    [[nodiscard]] QPushButton& open_button() const { return *open_; }
    [[nodiscard]] NumberBox& busy() const { return *busy_; }
    [[nodiscard]] NumberBox& calls() const { return *calls_; }
    [[nodiscard]] NumberBox& on_task() const { return *on_task_; }
    [[nodiscard]] QTableWidget& band() const { return *band_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void trouble(const QString& why);

private:
    void follow();
    void ask();
    void refresh();
    void busy_from_calls();
    Session& session_;
    WorkedOut<Found> work_;
    QPushButton* open_;
    QWidget* body_;
    QTableWidget* band_;
    QLabel* words_;
    NumberBox* busy_;
    NumberBox* calls_;
    NumberBox* on_task_;
    QTimer later_;
};

}  // namespace otoro::desktop
