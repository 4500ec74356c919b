#include "desktop/map/map_view.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPaintEvent>
#include <QPainter>
#include <QResizeEvent>
#include <QThreadPool>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <utility>

#include "desktop/map/route_drawing.h"
#include "desktop/models/background.h"
#include "desktop/parts/elided.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "service/reach.h"
#include "service/road_reading.h"
#include "service/sentence.h"

namespace otoro::desktop {
namespace {
constexpr std::uint32_t kLargeScene = 60'000;  // roads and places together: made off the interface thread
constexpr double kSiteReach = 11;              // px
constexpr double kPlaceReach = 6;              // px
constexpr double kRoadReach = 5;               // px
constexpr double kMostPixelsPerMetre = 4;

QString describe_reading(const service::SpotReading& r, const service::Outcome& outcome, const QString& what) {
    using service::Status;
    const auto& p = r.outcome;
    if (!p.site)
        return what + MapView::tr("  not served: %1")
                          .arg(p.status == Status::cut_off ? MapView::tr("cut off from every site") : words(p.status));
    const QString site = QString::fromStdString(service::label(outcome.sites[p.site->value()].planned.site));
    return what + MapView::tr("  %1 min, %2 by road (%3 straight), %4 m off road, by %5")
                      .arg(decimal(p.time.minutes(), 1), long_length(p.distance), long_length(r.straight),
                           decimal(r.attachment->off_road.metres(), 0), site);
}
}  // namespace

MapView::MapView(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), tiles_(this), reach_(this), overlay_(this), desire_(this), ways_(this) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Map of the answer"));
    setAccessibleDescription(tr("Arrow keys point at a spot and read it out, F1 tells all keys"));
    setAttribute(Qt::WA_OpaquePaintEvent);
    hover_.setSingleShot(true);
    hover_.setInterval(12);
    connect(&hover_, &QTimer::timeout, this, [this] { read_at(last_at_); });
    connect(&tiles_, &MapTiles::changed, this, qOverload<>(&MapView::update));
    connect(&reach_, &ReachLayer::changed, this, qOverload<>(&MapView::update));
    connect(&overlay_, &GroundOverlay::changed, this, qOverload<>(&MapView::update));
    connect(&desire_, &DesireLayer::changed, this, qOverload<>(&MapView::update));
    connect(&desire_, &DesireLayer::failed, this, &MapView::trouble);
    connect(&ways_, &PaintedAhead::changed, this, qOverload<>(&MapView::update));
    connect(&ways_, &PaintedAhead::failed, this, &MapView::trouble);
    connect(&overlay_, &GroundOverlay::failed, this, &MapView::trouble);
    connect(&reach_, &ReachLayer::failed, this,
            [this](const QString& why) { emit trouble(tr("Reached ground could not be drawn. %1").arg(why)); });
    connect(&tiles_, &MapTiles::failed, this,
            [this](const QString& why) { emit trouble(tr("A part of the map could not be drawn. %1").arg(why)); });
    one_click_.setSingleShot(true);
    connect(&one_click_, &QTimer::timeout, this, [this] {
        if (const auto road = std::exchange(pressed_road_, std::nullopt))
            emit road_pressed(road->link, road->spot, road->global);
    });
    connect(&session_.document, &Document::edited, this, [this] {
        forget_drag();
        pressed_road_.reset();
    });
    connect(&session_.document, &Document::study_replaced, this,
            [this, document = session_.document.point().document]() mutable {
                if (std::exchange(document, session_.document.point().document) == document) return;  // only its name
                fitted_ = false;
                if (sketch_) give_up_drawing();
                cursor_.reset();
                reach_from_.reset();
                compared_.reset();
                one_site_.reset();
                set_marks({});
            });
    connect(&session_.document, &Document::data_changed, this, &MapView::rebuild_scene);
    connect(&session_.document, &Document::question_changed, this, &MapView::rebuild_scene);
    connect(&session_.answers, &Answers::changed, this, &MapView::follow_session);
    connect(&session_.selection, &Selection::changed, this, &MapView::follow_session);
    connect(&session_.answers, &Answers::verdicts_changed, this, [this] {
        if (style_.look->compares()) follow_session();  // it may be what the answer is held against
    });
    for (const auto signal : {&RoutePlanner::changed, &RoutePlanner::stops_changed})
        connect(&session_.route, signal, this, &MapView::follow_ways);
    connect(&session_.document, &Document::plans_changed, this, [this] { follow_session(); });
    connect(&session_.document, &Document::plan_chosen, this, [this] { follow_session(); });
    connect(&session_.document, &Document::questions_changed, this, [this] { follow_session(); });
    rebuild_scene();
}

void MapView::rebuild_scene() {
    const auto& study = session_.document.study();
    const auto demand = study.demand_of(session_.document.question());
    const auto network = study.roads ? study.roads->network : nullptr;
    const auto water = study.water ? study.water->areas : nullptr;
    const auto zones = study.zones_of(session_.document.question());
    if (!scene_is_current()) {
        const std::uint32_t size = (network ? network->link_count() : 0) + demand.count();
        building_ = ++scenes_;
        if (size < kLargeScene) {
            take_scene(MapScene::make(network, demand, water, zones));
        } else {
            // What is there stays until the new one is ready.
            QThreadPool::globalInstance()->start(
                [guard = QPointer(this), number = building_, network, demand, water, zones] {
                    std::shared_ptr<const MapScene> scene;
                    QString why;
                    try {
                        scene = MapScene::make(network, demand, water, zones);
                    } catch (...) {
                        why = what_went_wrong();
                    }
                    QMetaObject::invokeMethod(qApp, [guard, number, scene = std::move(scene), why] {
                        if (!guard || guard->building_ != number) return;
                        if (scene) return guard->take_scene(scene);
                        guard->building_ = 0;
                        emit guard->trouble(MapView::tr("The map could not be drawn. %1").arg(why));
                    });
                });
        }
    }
    follow_session();
}

bool MapView::scene_is_current() const {
    const auto& study = session_.document.study();
    return scene_ && scene_->network() == (study.roads ? study.roads->network.get() : nullptr) &&
           scene_->demand() == study.demand_of(session_.document.question()) &&
           scene_->water() == (study.water ? study.water->areas.get() : nullptr) &&
           scene_->zones() == study.zones_of(session_.document.question()).get();
}

void MapView::take_scene(std::shared_ptr<const MapScene> scene) {
    building_ = 0;
    const bool had_something = scene_ && (scene_->network() || scene_->demand().count() > 0);
    const bool has_something = scene->network() || scene->demand().count() > 0;
    const geo::LonLat centre = scene_ ? scene_->world().place(view_.centre) : geo::LonLat{};
    scene_ = std::move(scene);
    if (!fitted_ || !had_something)
        fit();
    else
        view_.centre = scene_->world().flat(centre);
    fitted_ = has_something;
    drawn_way_.reset();
    follow_ways();
    set_found(drawn_found_, found_is_stale_);
    clear_reading();
    follow_session();
}

void MapView::follow_session() {
    // Without a standard: as far as anybody is served, else what a new question has.
    const auto& question = session_.answers.question();
    style_.limit = question.standard ? question.standard->limit : question.limit.value_or(service::Standard{}.limit);
    follow_reach();
    follow_base();
    style_.stale = !session_.answers.up_to_date();
    style_.picked = session_.selection.picked().places;
    style_.picked_site = session_.selection.picked().site;
    if (session_.answers.shown() != read_from_) clear_reading();
    wish();
    update();
}

void MapView::follow_base() {
    style_.base = nullptr;
    if (!style_.look->compares()) return;
    const auto& plans = session_.document.study().plans;
    const auto named =
        std::find_if(plans.begin(), plans.end(), [&](const service::Plan& p) { return p.name == compared_with_; });
    style_.base = session_.answers.of_plan(named == plans.end() ? 0 : static_cast<std::size_t>(named - plans.begin()));
}

void MapView::set_access(std::shared_ptr<const service::FloatingCatchment> access) {
    if (access == style_.access) return;
    style_.access = std::move(access);
    emit style_changed();
    wish();
    update();
}

void MapView::compare_with(const std::string& plan) {
    compared_with_ = plan;
    follow_base();
    emit style_changed();
    wish();
    update();
}

void MapView::wish() {
    if (!scene_ || width() < 2 || height() < 2) return;
    const auto answer = session_.answers.shown();
    const bool fits = answer && scene_->demand() == answer->ready->inputs.demand;
    tiles_.set_content(scene_, fits ? answer : nullptr, style_);
    tiles_.look_at(view_, devicePixelRatioF());
    const auto colours = ground_colours();
    reach_.set_content(
        scene_, colours && fits && drawn_live(style_) ? answer : nullptr,
        colours && !colours->limits.empty() ? service::measure_of(colours->limits.front()) : service::ValueOf::time,
        reach_from());
    reach_.look_at(view_, devicePixelRatioF());
    overlay_.look_at(view_, devicePixelRatioF());
    desire_.set_content(scene_, fits && style_.shows(Layer::lines) ? answer : nullptr, view_, devicePixelRatioF());
    ways_.look_at(view_, devicePixelRatioF());
}

void MapView::set_look(const MapLook& look) {
    style_.look = &look;
    follow_base();
    emit style_changed();
    wish();
    update();
}

void MapView::set_layer_shown(Layer layer, bool shown) {
    if (shown)
        style_.hidden.erase(layer);
    else
        style_.hidden.insert(layer);
    emit style_changed();
    wish();
    update();
}

void MapView::fit() {
    if (!scene_) return;
    const QRectF all = scene_->extent();
    view_.size = size();
    fitted_size_ = size();
    moved_ = false;
    view_.centre = all.center();
    const double across =
        std::min(view_.size.width() / std::max(all.width(), 1.0), view_.size.height() / std::max(all.height(), 1.0));
    view_.pixels_per_metre = std::min(across * 0.95, 0.5);
    wish();
    update();
}

void MapView::zoom_by(double factor, QPointF about) {
    const QPointF held = view_.to_world(about);
    const QRectF all = scene_ ? scene_->extent() : QRectF(0, 0, 1000, 1000);
    const double least = 0.3 * std::min(width() / std::max(all.width(), 1.0), height() / std::max(all.height(), 1.0));
    view_.pixels_per_metre = std::clamp(view_.pixels_per_metre * factor, least, kMostPixelsPerMetre);
    view_.centre += held - view_.to_world(about);
    moved_ = true;
    clear_reading();
    wish();
    update();
}

void MapView::go_to(geo::LonLat place) {
    moved_ = true;
    view_.centre = scene_->world().flat(place);
    view_.pixels_per_metre = std::max(view_.pixels_per_metre, 0.25);
    wish();
    update();
}

void MapView::go_to_all(const std::vector<geo::LonLat>& places) {
    if (places.empty()) return;
    geo::Box box;
    for (const auto& p : places) box.add(scene_->world().near(p));
    const QPointF low = scene_->world().flat({box.west, box.south}), high = scene_->world().flat({box.east, box.north});
    const double across = std::max({std::abs(high.x() - low.x()) / std::max(1.0, view_.size.width()),
                                    std::abs(high.y() - low.y()) / std::max(1.0, view_.size.height()), 1e-9});
    if (0.8 / across < 0.25)
        view_.pixels_per_metre = 0.8 / across;
    else
        view_.pixels_per_metre = std::min(view_.pixels_per_metre, 0.25);
    go_to(box.centre());
    view_.pixels_per_metre = std::min(0.8 / across, view_.pixels_per_metre);
    wish();
}

QPointF MapView::screen_of(geo::LonLat place) const { return view_.to_screen(scene_->world().flat(place)); }

std::vector<service::SiteOutcome> MapView::sites_now() const {
    if (const auto a = session_.answers.shown()) return a->outcome.sites;
    std::vector<service::SiteOutcome> out;
    const auto& question = session_.document.question();
    for (auto& s : sites_under(session_.document.study().sites_of(question), session_.document.plan(), question.use)) {
        service::SiteOutcome o;
        o.planned = std::move(s);
        out.push_back(std::move(o));
    }
    return out;
}

std::vector<service::SiteOutcome> MapView::sites_drawn() const {
    auto sites = sites_now();
    if (!dragged_ || !drag_moved_) return sites;
    const auto at = dragged_->index.value();
    if (at < sites.size() && sites[at].planned.site.id == dragged_->site.site.id) {
        sites[at].planned.site.position = place_of(last_at_);
        sites[at].planned.changed = true;
    }
    return sites;
}

std::optional<SiteIndex> MapView::site_at(QPointF at) const {
    std::optional<SiteIndex> best;
    if (!style_.shows(Layer::sites)) return best;  // nobody can grab what is not there to be seen
    double least = kSiteReach;
    const auto sites = sites_now();
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        if (!sites[i].planned.site.position) continue;
        const QPointF d = screen_of(*sites[i].planned.site.position) - at;
        if (const double away = std::hypot(d.x(), d.y()); away < least) {
            least = away;
            best = SiteIndex(i);
        }
    }
    return best;
}

std::optional<std::uint32_t> MapView::place_at(QPointF at) const {
    if (!scene_ || scene_->demand().count() == 0 || !scene_is_current()) return std::nullopt;
    const double reach = kPlaceReach / view_.pixels_per_metre;
    const QPointF world = view_.to_world(at);
    std::vector<std::uint32_t> found;
    scene_->places_in(QRectF(world.x() - reach, world.y() - reach, 2 * reach, 2 * reach), found);
    std::optional<std::uint32_t> best;
    double least = reach;
    for (const auto i : found) {
        const QPointF d = scene_->place(i) - world;
        if (const double away = std::hypot(d.x(), d.y()); away < least || (away == least && best && i < *best)) {
            least = away;
            best = i;
        }
    }
    return best;
}

void MapView::clear_reading() {
    read_from_ = session_.answers.shown();
    readout_.clear();
    route_.clear();
}

void MapView::read_at(QPointF at) {
    clear_reading();
    const auto answer = session_.answers.shown();
    if (answer && session_.answers.up_to_date() && scene_ && scene_is_current()) {
        const auto site = site_at(at);
        const auto place = site ? std::nullopt : place_at(at);
        if (site && site->value() < answer->outcome.sites.size()) {
            const auto& s = answer->outcome.sites[site->value()];
            const QString state = words(s.planned.site.state);
            readout_ = s.planned.in_use ? tr("%1  serves %2, weight %3")
                                              .arg(QString::fromStdString(service::label(s.planned.site)),
                                                   counted(s.places, tr("place"), tr("places")),
                                                   QString::fromStdString(describe(s.load)))
                                        : tr("%1  %2; press for what it would change")
                                              .arg(QString::fromStdString(service::label(s.planned.site)), state);
        } else if (place) {
            const auto r = service::read_place(*answer->ready, answer->outcome, DemandIndex(*place));
            readout_ = describe_reading(r, answer->outcome,
                                        QString::fromStdString(answer->ready->inputs.demand.at(*place).id));
            route_ = r.route;
        } else {
            const auto r =
                service::read_spot(*answer->ready, answer->outcome, scene_->world().place(view_.to_world(at)));
            if (r.attachment) {
                const auto& network = *answer->ready->inputs.network;
                const QString road = QString::fromStdString(network.name(r.attachment->link));
                readout_ = describe_reading(r, answer->outcome, road.isEmpty() ? tr("here") : road);
                route_ = r.route;
                if (ground_note_ && ground_colours())
                    if (const QString note = ground_note_(r); !note.isEmpty()) readout_ += "  \u00b7  " + note;
            }
        }
    }
    update();
}

void MapView::paintEvent(QPaintEvent*) {
    if (tiles_.device_pixel_ratio() != devicePixelRatioF()) wish();
    QPainter painter(this);
    painter.fillRect(rect(), theme::kPaper);
    tiles_.paint(painter, view_);
    if (const auto colours = ground_colours()) {
        reach_.paint(painter, view_, *colours);
        overlay_.paint(painter, view_);
    }
    desire_.paint(painter, view_);
    if (style_.stale && session_.answers.shown()) paint_veil(painter, view_);
    if (!scene_ || (!scene_->network() && scene_->demand().count() == 0)) return paint_empty(painter);
    paint_names(painter);
    paint_closures(painter, view_, scene_->world(), session_.document.plan().closures);
    if (scene_is_current()) paint_picked(painter, view_, *scene_, style_.picked);
    ways_.paint(painter, view_);
    paint_route(painter, view_, scene_->world(), route_);
    paint_marks(painter);
    paint_drawing(painter);
    paint_sites(painter, view_, scene_->world(), sites_drawn(), style_);
    if (session_.route.shown()) paint_stops(painter, view_, scene_->world(), session_.route.route());
    paint_spot(painter);
    paint_scale_bar(painter, view_);
    paint_cursor(painter);
    paint_readout(painter);
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme::kAccent, 1));
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void MapView::follow_ways() {
    update();  // the stops, which are painted live
    const auto found = session_.route.shown() ? session_.route.found() : nullptr;
    ways_.set_stale(found && !(found->route == session_.route.route()));
    if (!scene_ || (!found && journeys_->empty() && flows_->empty())) {
        drawn_way_.reset();
        return ways_.set_content({});
    }
    if (found == drawn_way_ && journeys_ == drawn_journeys_ && flows_ == drawn_flows_ && !ways_.empty()) return;
    drawn_way_ = found;
    drawn_journeys_ = journeys_;
    drawn_flows_ = flows_;
    ways_.set_content(
        [found, journeys = journeys_, flows = flows_, scene = scene_](QPainter& painter, const Viewport& view) {
            for (const auto& journey : *journeys) paint_journey(painter, view, scene->world(), journey);
            paint_flows(painter, view, scene->world(), *flows);
            if (found) paint_way(painter, view, scene->world(), found->way.line);
        });
}

void MapView::paint_names(QPainter& painter) {
    if (!style_.shows(Layer::labels)) return;
    if (style_.shows(Layer::zones)) paint_zone_names(painter, view_, *scene_);
    if (!style_.shows(Layer::roads) || !scene_->network()) return;
    road_names_.look_at(view_, scene_);
    road_names_.paint(painter, view_);
}

void MapView::paint_empty(QPainter& painter) const {
    painter.setFont(theme::type(1.2));
    painter.setPen(theme::kSoftInk);
    painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                     building_ != 0
                         ? tr("The map is being drawn.")
                         : tr("No roads or places yet.\nDrop a file of roads here, or add one on the Data page."));
}

void MapView::paint_readout(QPainter& painter) const {
    const QString said = sketch_ ? drawing_hint() : readout_;
    if (said.isEmpty()) return;
    painter.setFont(theme::type(1.0));
    const QFontMetricsF metrics(painter.font());
    const QString text = metrics.elidedText(said, Qt::ElideRight, width() - 44);
    const QRectF box(12, 12, metrics.horizontalAdvance(text) + 20, metrics.height() + 12);
    painter.setPen(QPen(theme::kRule, 1));
    painter.setBrush(QColor(255, 255, 255, 240));
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme::kInk);
    painter.drawText(box, Qt::AlignCenter, text);
}

void MapView::resizeEvent(QResizeEvent*) {
    const bool first = view_.size.width() < 150;
    // The upper left corner stays where it is, so that nothing moves when a strip below comes or goes.
    if (!first)
        view_.centre +=
            QPointF((width() - view_.size.width()) / 2, (height() - view_.size.height()) / 2) / view_.pixels_per_metre;
    view_.size = size();
    // A window made larger or smaller shows everything still, unless the planner has chosen what to look at.
    constexpr double kStrip = 120;
    const bool another =
        std::abs(width() - fitted_size_.width()) > kStrip || std::abs(height() - fitted_size_.height()) > kStrip;
    if (first || (!moved_ && another))
        fit();
    else
        wish();
}

void MapView::wheelEvent(QWheelEvent* e) { zoom_by(std::pow(1.0016, e->angleDelta().y()), e->position()); }

void MapView::set_marks(std::vector<geo::LonLat> marks) {
    marks_ = std::move(marks);
    update();
}

void MapView::set_flows(std::vector<FlowDrawn> flows) {
    if (flows == *flows_) return;
    flows_ = std::make_shared<const std::vector<FlowDrawn>>(std::move(flows));
    follow_ways();
}

void MapView::set_journeys(std::vector<std::vector<geo::LonLat>> journeys) {
    if (journeys.empty() && journeys_->empty()) return;
    journeys_ = std::make_shared<const std::vector<std::vector<geo::LonLat>>>(std::move(journeys));
    follow_ways();
}

void MapView::bring_into_sight(const std::vector<geo::LonLat>& places) {
    if (!scene_ || places.empty()) return;
    const QRectF seen = QRectF(rect()).adjusted(8, 8, -8, -8);
    if (std::none_of(places.begin(), places.end(), [&](const geo::LonLat& p) { return seen.contains(screen_of(p)); }))
        go_to_all(places);
}

std::optional<LinkId> MapView::road_near(QPointF at) const {
    if (!scene_ || !scene_->network() || !scene_is_current()) return std::nullopt;
    return service::road_at(*scene_->network(), place_of(at),
                            Millimetres::from_metres(kRoadReach / view_.pixels_per_metre));
}

void MapView::paint_marks(QPainter& painter) const {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    for (const auto& m : marks_) {
        const QPointF at = screen_of(m);
        for (const QPen& pen : {QPen(theme::kPaper, 5), QPen(theme::kAccent, 2.2)}) {
            painter.setPen(pen);
            painter.drawEllipse(at, 15, 15);
            for (const double a : {0.0, 90.0, 180.0, 270.0}) {
                const QPointF d(std::cos(a * M_PI / 180), std::sin(a * M_PI / 180));
                painter.drawLine(at + d * 15, at + d * 23);
            }
        }
    }
}

std::optional<MapPicture> MapView::picture() const {
    if (!scene_) return std::nullopt;
    const auto& document = session_.document;
    MapPicture p;
    p.scene = scene_;
    p.answer = session_.answers.shown();
    p.view = view_;
    p.style = style_;
    p.ground = ground_asked();
    p.sites = sites_now();
    p.closures = document.plan().closures;
    p.desire = desire_.lines();
    p.flows = *flows_;
    p.journeys = *journeys_;
    if (session_.route.shown()) p.route = session_.route.route();
    p.way = session_.route.found();
    p.size = size();
    p.title = QString::fromStdString(document.study().name);
    p.plan = QString::fromStdString(document.plan().name);
    constexpr int kMostLetters = 700;  // a name may have ten thousand
    p.question = elided(QString::fromStdString(service::sentence(
                            session_.answers.question(), p.answer ? p.answer->ready->inputs.demand
                                                                  : document.study().demand_of(document.question()))),
                        kMostLetters);
    if (const auto v = session_.answers.verdict())
        p.verdict = style_.stale ? tr("out of date")
                    : v->steps.front().judged() == service::Judged::nobody
                        ? judged_words(v->judged())
                        : tr("%1, %2").arg(QString::fromStdString(describe(v->share)), judged_words(v->judged()));
    return p;
}

void MapView::leaveEvent(QEvent*) {
    hover_.stop();
    clear_reading();
    update();
}

}  // namespace otoro::desktop
