#pragma once
/// \file
/// The map: shows the answer, reads out the spot under the mouse, and lets sites be picked, moved and added.
#include <QTimer>
#include <QWidget>
#include <functional>

#include "desktop/map/desire_lines.h"
#include "desktop/map/flow_drawing.h"
#include "desktop/map/ground_overlay.h"
#include "desktop/map/map_picture.h"
#include "desktop/map/map_tiles.h"
#include "desktop/map/reach_layer.h"
#include "desktop/map/road_names.h"
#include "desktop/map/sketch.h"
#include "desktop/models/session.h"

namespace otoro::desktop {

class MapView : public QWidget {
    Q_OBJECT
public:
    explicit MapView(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] const MapStyle& style_now() const { return style_; }
    void set_look(const MapLook& look);
    /// The plan that looks which compare hold the one in sight against: by its name; Today for a name that is none.
    void compare_with(const std::string& plan);
    /// What the look that shows access shows; null: nothing is known of it.
    void set_access(std::shared_ptr<const service::FloatingCatchment> access);
    void set_layer_shown(Layer layer, bool shown);
    /// Which limits reached ground is drawn for, and how, while a hand is at it; it is the question's when `keep_reach`
    /// follows. Of ground that is drawn live only colours follow: nothing is worked out again, unless the limits turn
    /// from times to lengths.
    void set_reach(const ReachStyle& reach);
    /// What is seen of reach becomes part of the question, as a step that can be undone.
    void keep_reach();
    /// The same at one go.
    void change_reach(const std::function<void(ReachStyle&)>& change);
    /// What reach is compared with: a plan under this question, or another question under this plan.
    struct Compared {
        bool question = false;
        std::string name;
        bool operator==(const Compared&) const = default;
    };
    void compare_reach(const std::optional<Compared>& with);
    /// Reach of one site in use alone; it goes on while another question or plan has it, too.
    void reach_of_site(const std::optional<std::string>& id);
    /// Nothing while that is not there, or is what is in sight.
    [[nodiscard]] std::optional<Compared> compared() const;
    /// What is asked of ground as it is shown now; nothing without an answer, or in looks that draw none.
    /// \param in_any_look as reach would be looked at in those
    [[nodiscard]] std::optional<GroundAsked> ground_asked(bool in_any_look = false) const;
    /// What was found is drawn where the live layer draws nothing of it. \param stale it was asked for something else
    void set_found(const GroundFoundPtr& found, bool stale);
    /// Reach is of this spot instead of the sites; it can be pulled about on the map. Nothing: of the sites again.
    void set_reach_from(const std::optional<geo::LonLat>& spot);
    /// Nothing in other looks, where it is not seen.
    [[nodiscard]] std::optional<geo::LonLat> reach_from() const {
        return style_.look == &reach_look() ? reach_from_ : std::nullopt;
    }
    /// What is said besides of the ground under the pointer.
    void set_ground_note(std::function<QString(const service::SpotReading&)> note) { ground_note_ = std::move(note); }
    /// How ground is drawn now; nothing in looks that draw none.
    [[nodiscard]] std::optional<GroundColours> ground_colours() const;
    void fit();
    void zoom_by(double factor, QPointF about);
    /// Moves so that the place is in the middle, close enough to see its surroundings.
    void go_to(geo::LonLat place);
    /// Shows all of these; close up if there is but one, nothing if there is none.
    void go_to_all(const std::vector<geo::LonLat>& places);
    [[nodiscard]] const Viewport& viewport() const { return view_; }
    [[nodiscard]] QPointF screen_of(geo::LonLat place) const;

    /// Everything as seen now, to be drawn afresh; nothing while there is no scene yet.
    [[nodiscard]] std::optional<MapPicture> picture() const;

    /// What the readout says now; empty if nothing.
    [[nodiscard]] const QString& readout() const { return readout_; }
    /// Reads out what is under a point of the widget, as the mouse does.
    void read_at(QPointF at);
    /// Whether the picture shown is of the current view and answer.
    [[nodiscard]] bool settled() const {
        return building_ == 0 && tiles_.settled() && reach_.settled() && overlay_.settled() && desire_.settled() &&
               ways_.settled();
    }
    [[nodiscard]] const DesireLayer& desire() const { return desire_; }
    [[nodiscard]] const MapTiles& tiles() const { return tiles_; }
    /// Whether nothing is left to be drawn anywhere.
    [[nodiscard]] bool idle() { return building_ == 0 && tiles_.idle(); }

    /// What a finding points at: drawn until something else is shown, or Esc is pressed.
    void set_marks(std::vector<geo::LonLat> marks);
    [[nodiscard]] const std::vector<geo::LonLat>& marks() const { return marks_; }
    /// Drawn under the sites until they are others.
    void set_flows(std::vector<FlowDrawn> flows);
    [[nodiscard]] const std::vector<FlowDrawn>& flows() const { return *flows_; }
    /// Ways that are shown until they are others.
    void set_journeys(std::vector<std::vector<geo::LonLat>> journeys);
    [[nodiscard]] const std::vector<std::vector<geo::LonLat>>& journeys() const { return *journeys_; }
    /// The next presses on the map draw this; a double press (or Enter) ends it, Esc gives up.
    void start_drawing(Sketch sketch);
    [[nodiscard]] bool drawing() const { return sketch_.has_value(); }
    void give_up_drawing();
    /// Adds a point of the widget to the drawing under way; false without one.
    bool draw_at(QPointF at);
    /// What is said of the drawing under way; empty without one.
    [[nodiscard]] QString drawing_hint() const;
    /// The next two presses, or a pull of the mouse, pick the places in a box.
    void start_picking();
    /// Picks the places in a box between two opposite corners. \param more besides those that are picked
    void pick_between(geo::LonLat a, geo::LonLat b, bool more);
    /// Shows all that is picked.
    void show_picked();
    /// Lets go, one thing after another: of what is drawn, dragged, marked and picked.
    void let_go();
    /// Where the keyboard points to, on the widget; nothing while it does not.
    [[nodiscard]] std::optional<QPointF> cursor_at() const;
    /// Points the keyboard to a place, and reads it out.
    void point_to(geo::LonLat place);
    /// The stop of the route that is drawn there, by its number.
    [[nodiscard]] std::optional<std::size_t> stop_at(QPointF at) const;
    /// Whether a site is in the hand.
    [[nodiscard]] bool dragging() const { return dragged_.has_value(); }
    /// Moves so that some of these are in sight, if none is.
    void bring_into_sight(const std::vector<geo::LonLat>& places);
    [[nodiscard]] geo::LonLat place_of(QPointF at) const { return scene_->world().place(view_.to_world(at)); }

    [[nodiscard]] QSize minimumSizeHint() const override { return {320, 240}; }

signals:
    void style_changed();
    void site_menu_wanted(otoro::SiteIndex site, const QPoint& global);
    void spot_menu_wanted(otoro::geo::LonLat spot, const QPoint& global);
    void road_pressed(otoro::LinkId link, otoro::geo::LonLat spot, const QPoint& global);
    void trouble(const QString& why);
    void ground_pressed(otoro::geo::LonLat spot);  ///< where nothing else is
    void remark(const QString& what);              ///< how a drawing ended, how many are picked

protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

private:
    void rebuild_scene();
    void take_scene(std::shared_ptr<const MapScene> scene);
    /// Whether what is drawn is what the study has now; while a large scene is made it is not.
    [[nodiscard]] bool scene_is_current() const;
    void follow_session();
    void wish();
    void pick(QPointF at, bool more);
    void clear_reading();
    [[nodiscard]] std::vector<service::SiteOutcome> sites_now() const;
    /// The same with the one that is being dragged under the mouse.
    [[nodiscard]] std::vector<service::SiteOutcome> sites_drawn() const;
    [[nodiscard]] std::optional<SiteIndex> site_at(QPointF at) const;
    /// Ways are drawn ahead: the route over stops, journeys that are shown, flows.
    void follow_ways();
    [[nodiscard]] std::optional<std::uint32_t> place_at(QPointF at) const;
    void finish_drawing();
    void add_site_at(QPointF at);
    void show_menu(QPointF at, const QPoint& global);
    /// Moves what the keyboard points to, and the map when that leaves it; a site in its hand goes along.
    void move_cursor(QPointF by);
    void go_to_site(int step);
    void pick_up_or_drop();
    /// Takes a site that the plan adds out of it: the one that is picked, or pointed at.
    void take_out_picked();
    void drag_to(QPointF at);
    void drop_at(QPointF at);
    void paint_cursor(QPainter& painter) const;
    void paint_names(QPainter& painter);
    void paint_marks(QPainter& painter) const;
    void paint_drawing(QPainter& painter) const;
    [[nodiscard]] std::optional<LinkId> road_near(QPointF at) const;
    void paint_empty(QPainter& painter) const;
    void paint_readout(QPainter& painter) const;

    Session& session_;
    std::shared_ptr<const MapScene> scene_;
    Viewport view_;
    bool fitted_ = false;
    bool moved_ = false;  ///< by the planner, since all was fitted in
    QSizeF fitted_size_;  ///< that of the widget when it was
    void follow_base();
    std::string compared_with_;
    MapStyle style_;
    MapTiles tiles_;
    ReachLayer reach_;
    GroundOverlay overlay_;
    DesireLayer desire_;
    PaintedAhead ways_;
    GroundFoundPtr drawn_found_;
    bool found_is_stale_ = false;
    std::optional<Compared> compared_;
    std::optional<std::string> one_site_;
    [[nodiscard]] std::optional<SiteIndex> one_site() const;
    [[nodiscard]] std::optional<Against> against() const;
    void follow_reach();
    std::optional<geo::LonLat> reach_from_;
    std::function<QString(const service::SpotReading&)> ground_note_;
    std::optional<std::size_t> dragged_stop_;
    bool dragging_spot_ = false;
    [[nodiscard]] bool on_spot(QPointF at) const;
    void paint_spot(QPainter& painter) const;
    bool reach_held_ = false;        ///< a hand is at the limits: what is seen is not the question's yet
    service::ReachView reach_kept_;  ///< the question's when it was looked at last
    RoadNames road_names_;
    quint64 building_ = 0;  ///< the number of the scene being made, or 0
    quint64 scenes_ = 0;

    QPointF pressed_at_, last_at_;
    bool pressed_ = false;
    bool panning_ = false;
    /// A site in the hand: who it is, and where it was picked up.
    struct Dragged {
        service::PlannedSite site;
        SiteIndex index;
    };
    /// Lets go of a site where it was; what was tried out with it is dropped.
    void give_up_drag();
    /// Forgets the hand without touching what is tried out.
    void forget_drag();
    std::optional<Dragged> dragged_;
    bool drag_moved_ = false;
    /// A press on a road waits to see whether it is the first half of a double click.
    struct PressedRoad {
        LinkId link;
        geo::LonLat spot;
        QPoint global;
    };
    std::optional<PressedRoad> pressed_road_;
    QTimer one_click_;
    QTimer hover_;
    QString readout_;
    PlanAnswerPtr read_from_;
    std::vector<geo::LonLat> route_;
    std::vector<geo::LonLat> marks_;
    /// What is drawn of ways, and what is to be.
    using Journeys = std::shared_ptr<const std::vector<std::vector<geo::LonLat>>>;
    Journeys journeys_ = std::make_shared<const std::vector<std::vector<geo::LonLat>>>();
    Journeys drawn_journeys_;
    using Flows = std::shared_ptr<const std::vector<FlowDrawn>>;
    Flows flows_ = std::make_shared<const std::vector<FlowDrawn>>();
    Flows drawn_flows_;
    std::shared_ptr<const RoutePlanner::Found> drawn_way_;
    std::optional<Sketch> sketch_;
    std::vector<geo::LonLat> drawn_;
    std::optional<QPointF> box_from_;  ///< a box is being pulled open from here
    std::optional<QPointF> cursor_;    ///< where the keyboard points to, in the flat world
};

}  // namespace otoro::desktop
