#pragma once
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/more_room.h"

class QLabel;
class QPushButton;
class QSpinBox;
class QTableWidget;

namespace otoro::desktop {

/// What capacities come to, and which site's next places are worth most. Shown where sites take only so many.
class RoomPanel : public QWidget {
    Q_OBJECT
public:
    explicit RoomPanel(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        std::vector<service::MoreRoom> all;
    };
    [[nodiscard]] QTableWidget& list() const { return *list_; }
    [[nodiscard]] QPushButton& work_out() const { return *go_; }
    [[nodiscard]] QSpinBox& more() const { return *more_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void trouble(const QString& why);

private:
    void follow();
    void ask();
    void refresh();
    Session& session_;
    WorkedOut<Found> work_;
    QLabel* summary_;
    QSpinBox* more_;
    QPushButton* go_;
    QTableWidget* list_;
};

}  // namespace otoro::desktop
