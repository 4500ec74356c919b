#pragma once
#include <QFrame>

#include "desktop/map/map_view.h"

class QCheckBox;
class QLabel;
class QPushButton;

namespace otoro::desktop {
class ReachBar;
class ReachSwitches;

/// The legend of the map, which is also the switch for what is shown.
class Legend : public QFrame {
    Q_OBJECT
public:
    Legend(Session& session, MapView& map, QWidget* parent = nullptr);
    [[nodiscard]] QCheckBox* row(Layer layer) const { return rows_.at(layer); }
    [[nodiscard]] ReachBar& reach_bar() const { return *reach_bar_; }
    [[nodiscard]] ReachSwitches& reach() const { return *reach_; }
    /// The switch of a look, by its key.
    [[nodiscard]] QPushButton* look(const QString& key) const { return looks_.at(key); }

private:
    void refresh();
    QCheckBox* add_row(Layer layer, const QString& text);
    Session& session_;
    MapView& map_;
    std::map<Layer, QCheckBox*> rows_;
    std::map<QString, QPushButton*> looks_;
    QLabel* stale_;
    QWidget* bar_;
    ReachBar* reach_bar_;
    ReachSwitches* reach_;
    QWidget* keys_;
    std::size_t key_count_ = 0;
};

}  // namespace otoro::desktop
