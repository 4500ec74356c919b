#pragma once
/// \file
/// Access where supply meets demand, by floating catchments: worked out while it is open, and shown on the map by its
/// look.
#include <QTimer>
#include <QWidget>

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/floating_catchment.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class NumberBox;

class AccessView : public QWidget {
    Q_OBJECT
public:
    explicit AccessView(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::FloatingCatchment access;
    };
    using FoundPtr = std::shared_ptr<const Found>;
    /// Opened, or a heading alone. Remembered from one sitting to the next.
    void set_open(bool open);
    [[nodiscard]] QPushButton& open_button() const { return *open_; }
    [[nodiscard]] NumberBox& catchment() const { return *within_; }
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    [[nodiscard]] QPushButton& map_button() const { return *map_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void trouble(const QString& why);
    void export_wanted();
    /// The map is to show it.
    void map_wanted();
    /// What is known now; null: nothing.
    void found(const std::shared_ptr<const service::FloatingCatchment>& access);

private:
    void follow();
    void ask();
    void refresh();
    Session& session_;
    WorkedOut<Found> work_;
    QPushButton* open_;
    QWidget* body_;
    NumberBox* within_;
    QLabel* words_;
    QPushButton* map_;
    QTableWidget* table_;
    QTimer later_;
    bool set_by_hand_ = false;  ///< else the catchment follows the standard
};

}  // namespace otoro::desktop
