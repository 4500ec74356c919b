#pragma once
#include <QTimer>
#include <QWidget>

#include "desktop/map/map_view.h"
#include "desktop/models/reach_asker.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace otoro::desktop {

/// Areas of reach, uncovered patches or zones, largest weight first, or what changes: pressing one goes there and picks
/// its places. Shown while the map has a look of ground.
class ReachPanel : public QWidget {
    Q_OBJECT
public:
    ReachPanel(Session& session, MapView& map, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget& list() const { return *list_; }
    [[nodiscard]] ReachAsker& asker() { return asker_; }
    /// What is said above the list.
    [[nodiscard]] QString summary() const;
    /// Whose ground a spot is on, and what is in that area; empty while that is not known.
    [[nodiscard]] QString note_on(const service::SpotReading& reading) const;
    /// Picks the smallest area, or the patch, that a spot of the map is in; lets go of what is picked if there is none.
    void pick_at(geo::LonLat spot);

signals:
    void trouble(const QString& why);

private:
    void follow();
    void ask();
    void refresh();
    void begin_list(const QStringList& heads, int rows);
    void put_row(int row, std::uint32_t number, const QStringList& cells, const QString& tip);
    void list_areas(const GroundFound& found);
    void list_patches(const service::Uncovered& uncovered);
    void list_zones(const GroundFound& found);
    void list_change(const GroundFound& found);
    /// The ground of an entry of the list, by its number.
    [[nodiscard]] reach::Polygons ground_of(std::uint32_t number) const;
    [[nodiscard]] double square_metres_of(std::uint32_t number) const;
    [[nodiscard]] Picked picked_of(std::uint32_t number) const;
    [[nodiscard]] std::uint32_t entries() const;
    void go_to(int row);
    Session& session_;
    MapView& map_;
    ReachAsker asker_;
    QTimer soon_;  ///< limits that are being pulled are asked about when they rest
    QLabel *heading_, *summary_;
    QPushButton* stop_;
    QTableWidget* list_;
    GroundFoundPtr listed_;  ///< what the list is of
};

}  // namespace otoro::desktop
