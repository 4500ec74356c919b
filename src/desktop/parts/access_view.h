#pragma once
/// \file
/// Access where supply meets demand, by floating catchments: worked out while it is open, and shown on the map by its
/// look.

#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "desktop/parts/fold.h"
#include "service/floating_catchment.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {
class NumberBox;

class AccessView : public Fold {
    Q_OBJECT
public:
    explicit AccessView(Session& session, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::FloatingCatchment access;
    };
    using FoundPtr = std::shared_ptr<const Found>;
    [[nodiscard]] NumberBox& catchment() const { return *within_; }
    [[nodiscard]] QTableWidget& table() const { return *table_; }
    [[nodiscard]] QPushButton& map_button() const { return *map_; }
    [[nodiscard]] QString words() const;
    [[nodiscard]] const WorkedOut<Found>& work() const { return work_; }

signals:
    void export_wanted();
    /// The map is to show it.
    void map_wanted();
    /// What is known now; null: nothing.
    void found(const std::shared_ptr<const service::FloatingCatchment>& access);

protected:
    void follow() override;
    void closed() override { work_.forget(); }

private:
    void ask();
    void refresh();
    Session& session_;
    WorkedOut<Found> work_;
    NumberBox* within_;
    QLabel* words_;
    QPushButton* map_;
    QTableWidget* table_;
    bool set_by_hand_ = false;  ///< else the catchment follows the standard
};

}  // namespace otoro::desktop
