#pragma once
#include <QTimer>
#include <QWidget>

#include "desktop/models/record_models.h"

class QLineEdit;
class QLabel;
class QTableView;
class QTabBar;
class QStackedWidget;

namespace otoro::desktop {

/// Demand and sites as tables that sort, filter, copy, and light up what is picked elsewhere.
class RecordsPanel : public QWidget {
    Q_OBJECT
public:
    explicit RecordsPanel(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QTableView& demand_table() const { return *demand_table_; }
    [[nodiscard]] QTableView& site_table() const { return *site_table_; }
    [[nodiscard]] QLineEdit& filter() const { return *filter_; }
    /// Puts the picked rows (all rows if none) on the clipboard.
    void copy() const;

signals:
    /// Somebody picked rows here.
    void picked();

private:
    QTableView* make_table(RecordFilter& filter, const QString& name);
    void show_selection();
    void take_selection();
    void count();
    void follow();

    Session& session_;
    DemandRecords* demand_;
    SiteRecords* sites_;
    RecordFilter* demand_filter_;
    RecordFilter* site_filter_;
    QTabBar* tabs_;
    QStackedWidget* stack_;
    QTableView* demand_table_;
    QTableView* site_table_;
    QLineEdit* filter_;
    QLabel* count_;
    QTimer later_;
    bool showing_ = false;
};

}  // namespace otoro::desktop
