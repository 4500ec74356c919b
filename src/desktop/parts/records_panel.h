#pragma once
#include <QStackedWidget>
#include <QTimer>
#include <QWidget>

#include "desktop/models/record_models.h"

class QLineEdit;
class QLabel;
class QTableView;
class QTabBar;
class QPushButton;

namespace otoro::desktop {

/// Demand and sites as tables that sort, filter, copy, and light up what is picked elsewhere.
class RecordsPanel : public QWidget {
    Q_OBJECT
public:
    explicit RecordsPanel(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QTableView& demand_table() const { return *demand_table_; }
    [[nodiscard]] QTableView& site_table() const { return *site_table_; }
    [[nodiscard]] QLineEdit& filter() const { return *filter_; }
    /// Pulled up, or only a line that says how many there are. Remembered from one sitting to the next.
    void set_open(bool open);
    [[nodiscard]] bool is_open() const { return stack_->isVisibleTo(this); }
    [[nodiscard]] QPushButton& open_button() const { return *open_; }
    /// Puts the picked rows (all rows if none) on the clipboard.
    void copy() const;

signals:
    /// Somebody picked rows here.
    void picked();
    void opened(bool open);

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
    QPushButton* open_;
    QPushButton* copy_;
    QTimer later_;
    bool showing_ = false;
};

}  // namespace otoro::desktop
