#pragma once
#include <QWidget>

#include "desktop/map/map_view.h"
#include "desktop/models/session.h"
#include "desktop/models/worked_out.h"
#include "service/detours.h"

class QLabel;
class QTableWidget;

namespace otoro::desktop {

/// How far the straight line misleads: a histogram, and the worst places, whose journeys are drawn. Shown in the look
/// *detour*.
class DetourPanel : public QWidget {
    Q_OBJECT
public:
    DetourPanel(Session& session, MapView& map, QWidget* parent = nullptr);
    struct Found {
        PlanAnswerPtr answer;
        service::Detours detours;
        std::vector<std::vector<geo::LonLat>> journeys;  ///< of the worst, drawn
    };
    [[nodiscard]] QTableWidget& worst() const { return *worst_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] const std::shared_ptr<const Found>& found() const { return work_.found(); }
    [[nodiscard]] bool up_to_date() const;

signals:
    void trouble(const QString& why);

private:
    void follow();
    void refresh();
    void pick(int row);
    Session& session_;
    MapView& map_;
    WorkedOut<Found> work_;
    QLabel* summary_;
    QWidget* histogram_;
    QTableWidget* worst_;
};

}  // namespace otoro::desktop
