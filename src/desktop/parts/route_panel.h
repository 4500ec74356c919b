#pragma once
#include <QWidget>

#include "desktop/models/session.h"

class QCheckBox;
class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace otoro::desktop {

/// The route over stops: what it takes, its stops in order with the turns to each, which can be pulled into another
/// order. Shown while there are stops; the heading opens and closes it.
class RoutePanel : public QWidget {
    Q_OBJECT
public:
    explicit RoutePanel(Session& session, QWidget* parent = nullptr);
    /// Stops with the turns from each to the next below it.
    [[nodiscard]] QTreeWidget& list() const { return *list_; }
    [[nodiscard]] QPushButton& heading() const { return *heading_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] QPushButton& best_order() const { return *best_; }
    [[nodiscard]] QCheckBox& round() const { return *round_; }
    /// The stop that is chosen in the list.
    [[nodiscard]] std::optional<std::size_t> chosen() const;
    /// One up (-1) or down (+1).
    void shift_chosen(int by);

signals:
    void export_wanted();
    void copy_wanted();
    /// The planner looks at a stop or a turn.
    void looked_at(otoro::geo::LonLat spot);

protected:
    bool eventFilter(QObject* watched, QEvent* e) override;

private:
    void refresh();
    /// The turns of a leg are put into the list when they are looked at: there may be thousands.
    void fill_turns(QTreeWidgetItem& item);
    void refresh_summary();
    void take_order();
    void offer_menu(const QPoint& at);
    Session& session_;
    QPushButton* heading_;
    QWidget* body_;
    QLabel* summary_;
    QTreeWidget* list_;
    QCheckBox* round_;
    QPushButton *best_, *stop_;
    bool filling_ = false;
};

}  // namespace otoro::desktop
