#pragma once
#include <QWidget>

#include "desktop/models/jobs.h"
#include "desktop/models/session.h"

class QSplitter;

namespace otoro::desktop {
class AnswerPanel;
class BestSetPanel;
class DetourPanel;
class Legend;
class MapView;
class PlanList;
class QuestionLine;
class QuestionList;
class ReachPanel;
class ReassignPanel;
class RecordsPanel;
class RoomPanel;
class RoutePanel;
class VerdictView;

/// Question and verdict on top; plans, map and answer below; records pulled up from underneath.
class StudyPage : public QWidget {
    Q_OBJECT
public:
    StudyPage(Session& session, Jobs& jobs, QWidget* parent = nullptr);
    [[nodiscard]] MapView& map() const { return *map_; }
    [[nodiscard]] Legend& legend() const { return *legend_; }
    [[nodiscard]] QuestionLine& question() const { return *question_; }
    [[nodiscard]] QuestionList& questions() const { return *questions_; }
    [[nodiscard]] VerdictView& verdict() const { return *verdict_; }
    [[nodiscard]] PlanList& plans() const { return *plans_; }
    [[nodiscard]] AnswerPanel& answer() const { return *answer_; }
    [[nodiscard]] BestSetPanel& best() const { return *best_; }
    [[nodiscard]] ReachPanel& reach() const { return *reach_; }
    [[nodiscard]] RoutePanel& route() const { return *route_; }
    [[nodiscard]] ReassignPanel& reassign() const { return *reassign_; }
    [[nodiscard]] DetourPanel& detours() const { return *detours_; }
    [[nodiscard]] RoomPanel& room() const { return *room_; }
    [[nodiscard]] RecordsPanel& records() const { return *records_; }
    /// Keeps how the page is divided, and the map's look, for the next sitting.
    void remember() const;
    /// What can be done with a site, as menu entries; used by the map.
    void offer_site_menu(SiteIndex site, const QPoint& at);
    /// What can be done at a spot of the map that is no site.
    void offer_spot_menu(otoro::geo::LonLat spot, const QPoint& at);
    /// A card with the turns between a spot and its nearest site.
    void show_way(otoro::geo::LonLat spot, const QPoint& at);
    /// What is known of a road, on a card.
    void show_road(otoro::LinkId link, otoro::geo::LonLat spot, const QPoint& at);
    /// A closure like this one: at its spot, or along what is drawn next.
    void draw_closure(const otoro::roads::Closure& like);
    /// A closure joins the plan, or makes one. Without a name it is called after its road.
    void take_closure(otoro::roads::Closure closure);
    /// The editor of a closure of the plan in sight, by its number.
    void change_closure(std::size_t closure, const QPoint& at);
    /// Which of the places that are served.
    enum class Served : std::uint8_t { first, closest, farthest };
    /// Picks it, by the question's measure, with its site and goes there; ties go to the first in file order.
    void jump_to(Served which);
    /// Straight lengths are told as they are drawn. \param from the first point, if there is one already
    void measure(std::optional<otoro::geo::LonLat> from = {});
    void add_closures_from(const QString& path);

signals:
    void profiles_wanted();
    void trouble(const QString& why);
    void remark(const QString& what);
    void copy_map_wanted();
    void route_export_wanted();
    void route_copy_wanted();
    void reassigned_export_wanted(bool flows);
    void export_wanted(const std::vector<otoro::DemandIndex>& places);

private:
    /// Shows a card beside a spot of the screen.
    static void put_card(QWidget* card, const QPoint& at);
    void show_picked();
    void recall();
    Session& session_;
    Jobs& jobs_;
    QSplitter *across_, *left_;
    QuestionLine* question_;
    QuestionList* questions_;
    VerdictView* verdict_;
    PlanList* plans_;
    MapView* map_;
    Legend* legend_;
    AnswerPanel* answer_;
    BestSetPanel* best_;
    ReachPanel* reach_;
    RoutePanel* route_;
    ReassignPanel* reassign_;
    DetourPanel* detours_;
    RoomPanel* room_;
    RecordsPanel* records_;
};

}  // namespace otoro::desktop
