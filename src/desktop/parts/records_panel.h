#pragma once
#include <QStackedWidget>
#include <QTimer>
#include <QWidget>
#include <optional>

#include "desktop/models/record_model.h"
#include "desktop/models/session.h"
#include "geo/wording.h"

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
    /// Puts the picked rows (all that are shown if none) on the clipboard, in the columns that are shown.
    void copy() const;
    [[nodiscard]] RecordModel& demand() const { return *demand_; }
    [[nodiscard]] RecordModel& sites() const { return *sites_; }
    /// Access by floating catchments has a column while it is known; null: it is not.
    void set_access(std::shared_ptr<const service::FloatingCatchment> access);
    /// Shows or hides a column by its key; remembered.
    void show_column(QTableView& table, const QString& key, bool shown);

signals:
    /// Somebody picked rows here.
    void picked();
    /// The places that are shown, in their order, are to be written to a file.
    void export_wanted(const std::vector<otoro::DemandIndex>& places);
    /// What is picked is to be seen on the map.
    void show_wanted();
    void opened(bool open);

private:
    QTableView* make_table(RecordModel& model, const QString& name);
    void offer_columns(QTableView& table, const QPoint& at);
    void show_columns(QTableView& table);
    /// Selects records of a table, stretch by stretch.
    static void select(QTableView& table, const RecordModel& model, const std::vector<std::uint32_t>& records);
    void export_shown();
    void show_selection();
    void take_selection();
    void count();
    void follow();

    Session& session_;
    RecordModel* demand_;
    RecordModel* sites_;
    QTabBar* tabs_;
    QStackedWidget* stack_;
    QTableView* demand_table_;
    QTableView* site_table_;
    QLineEdit* filter_;
    QLabel* count_;
    QPushButton* open_;
    QPushButton *copy_, *export_, *columns_;
    QTimer typing_;
    QTimer later_;
    bool showing_ = false;
    DemandSource::AccessPtr access_;
    std::optional<PlanAnswerPtr> filled_;  ///< what the tables were filled with, and how it was said
    Wording said_;
    bool behind_ = false;  ///< closed, and not filled with the answer shown
};

}  // namespace otoro::desktop
