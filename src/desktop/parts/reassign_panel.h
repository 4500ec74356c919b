#pragma once
#include <QWidget>

#include "desktop/map/flow_drawing.h"
#include "desktop/models/reassigner.h"
#include "desktop/models/session.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class NumberBox;

/// Who should move from the recorded site to the nearest, and the flows between sites that come of it. Shown where
/// places are served as recorded.
class ReassignPanel : public QWidget {
    Q_OBJECT
public:
    explicit ReassignPanel(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget& flows() const { return *flows_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] Reassigner& reassigner() { return reassigner_; }
    [[nodiscard]] NumberBox& more_than() const { return *more_than_; }
    [[nodiscard]] QComboBox& who() const { return *who_; }
    [[nodiscard]] QCheckBox& only_picked() const { return *only_picked_; }
    /// Picks all who move, for the map and the list.
    void pick_all();
    /// The demand with its new record joins the study, under a question of its own; it may be large, and is made off
    /// the interface thread.
    void add_as_demand();

signals:
    void flows_drawn(const std::vector<otoro::desktop::FlowDrawn>& flows);
    void trouble(const QString& why);
    /// \param flows the flows instead of the places
    void export_wanted(bool flows);

private:
    void take_who();
    void take_added();
    void refresh();
    void pick(int row);
    Session& session_;
    Reassigner reassigner_;
    /// A study with those who move, made of the one that stood at this point.
    WorkedOut<service::Study> adding_;
    Document::Point added_to_;
    QLabel* summary_;
    QComboBox* who_;
    NumberBox* more_than_;
    QCheckBox* only_picked_;
    QTableWidget* flows_;
    QPushButton* more_;
    bool draws_ = true;
};

}  // namespace otoro::desktop
