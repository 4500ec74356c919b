#pragma once
/// \file
/// Every plan under every question in one table.
#include <QWidget>

#include "desktop/models/plan_figures.h"
#include "desktop/models/session.h"

class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

/// A row a plan, a column a question, each cell coloured and marked against the question's own standard. The cell of
/// the plan and question in sight is chosen; choosing another puts those in sight.
class PlanTable : public QWidget {
    Q_OBJECT
public:
    PlanTable(Session& session, PlanFigures& figures, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    /// What cells say.
    [[nodiscard]] QComboBox& shown() const { return *shown_; }
    [[nodiscard]] QString note() const;

signals:
    /// The plan and question in sight are to be looked at.
    void open_wanted();
    void export_wanted();

private:
    void refresh();
    void take_choice(int row, int column);
    void refresh_choice();
    Session& session_;
    PlanFigures& figures_;
    QComboBox* shown_;
    QLabel* note_;
    QPushButton* stop_;
    QTableWidget* table_;
};

}  // namespace otoro::desktop
