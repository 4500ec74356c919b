#pragma once
#include <QWidget>

#include "desktop/models/session.h"

class QListWidget;
class QMenu;
class QPushButton;

namespace otoro::desktop {

/// Plans, each a line with its share drawn as a bar against the standard.
class PlanList : public QWidget {
    Q_OBJECT
public:
    explicit PlanList(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QListWidget& list() const { return *list_; }
    /// What can be done with a plan.
    [[nodiscard]] QMenu* plan_menu(std::size_t plan, const QPoint& at);

signals:
    void best_wanted();

private:
    void refresh();
    void offer_new_plan();
    void offer_plan_menu(const QPoint& at);
    void edit_note(std::size_t plan, const QPoint& at);
    Session& session_;
    QListWidget* list_;
    QPushButton* new_plan_;
    QPushButton* best_;
};

}  // namespace otoro::desktop
