#pragma once
/// \file
/// Plans side by side: all of them under all questions, and two of them in detail.
#include <QWidget>

#include "desktop/models/jobs.h"
#include "desktop/models/plan_figures.h"
#include "desktop/models/session.h"

class QLabel;

namespace otoro::desktop {
class DifferenceView;
class PlanTable;

class ComparePage : public QWidget {
    Q_OBJECT
public:
    ComparePage(Session& session, Jobs& jobs, QWidget* parent = nullptr);
    [[nodiscard]] PlanFigures& figures() { return figures_; }
    [[nodiscard]] PlanTable& plans() const { return *plans_; }
    [[nodiscard]] DifferenceView& two() const { return *two_; }
    [[nodiscard]] QString empty_text() const;
    /// Asks where the table of plans is to go, and writes it there.
    void choose_file();
    void write_figures(const QString& path);

signals:
    void open_wanted();  ///< the plan and question in sight, on the map
    void show_wanted();  ///< what is picked, on the map
    void done(const QString& said);
    void trouble(const QString& why);

protected:
    void showEvent(QShowEvent* e) override;
    void hideEvent(QHideEvent* e) override;

private:
    void refresh();
    Session& session_;
    Jobs& jobs_;
    PlanFigures figures_;
    QLabel* empty_;
    PlanTable* plans_;
    DifferenceView* two_;
};

}  // namespace otoro::desktop
