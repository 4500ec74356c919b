#include "desktop/pages/study_page.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QFrame>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QMenu>
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <QVBoxLayout>

#include "desktop/map/map_view.h"
#include "desktop/parts/access_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/best_set_panel.h"
#include "desktop/parts/closure_editor.h"
#include "desktop/parts/detour_panel.h"
#include "desktop/parts/elided.h"
#include "desktop/parts/fairness_view.h"
#include "desktop/parts/firmness_view.h"
#include "desktop/parts/gain_line.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/question_line.h"
#include "desktop/parts/question_list.h"
#include "desktop/parts/ranking_panel.h"
#include "desktop/parts/reach_panel.h"
#include "desktop/parts/reassign_panel.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/road_cards.h"
#include "desktop/parts/room_panel.h"
#include "desktop/parts/route_menu.h"
#include "desktop/parts/route_panel.h"
#include "desktop/parts/shown_name.h"
#include "desktop/parts/verdict_view.h"
#include "desktop/parts/weakest_panel.h"
#include "desktop/theme.h"
#include "desktop/words.h"
#include "files/closure_file.h"
#include "files/read_places.h"
#include "geo/ellipsoid.h"
#include "service/findings.h"
#include "service/road_reading.h"

namespace otoro::desktop {

StudyPage::StudyPage(Session& session, Jobs& jobs, QWidget* parent) : QWidget(parent), session_(session), jobs_(jobs) {
    setObjectName("page");
    question_ = new QuestionLine(session.document, this);
    questions_ = new QuestionList(session.document, session.answers, this);
    verdict_ = new VerdictView(session, this);
    plans_ = new PlanList(session, this);
    map_ = new MapView(session, this);
    legend_ = new Legend(session, *map_, this);
    answer_ = new AnswerPanel(session, this);
    reach_ = new ReachPanel(session, *map_, answer_);
    answer_->put_first(reach_);
    reassign_ = new ReassignPanel(session, answer_);
    room_ = new RoomPanel(session, answer_);
    detours_ = new DetourPanel(session, *map_, answer_);
    for (QWidget* part : std::initializer_list<QWidget*>{room_, reassign_, detours_}) answer_->put_first(part);
    route_ = new RoutePanel(session, answer_);
    answer_->put_first(route_);
    best_ = new BestSetPanel(session, answer_);
    answer_->put_first(best_);
    map_->set_ground_note([this](const service::SpotReading& reading) { return reach_->note_on(reading); });
    records_ = new RecordsPanel(session, this);

    auto* top = new QFrame(this);
    top->setObjectName("bar");
    auto* top_box = new QHBoxLayout(top);
    top_box->setContentsMargins(16, 8, 12, 8);
    top_box->addWidget(question_, 1);
    top_box->addWidget(verdict_, 0, Qt::AlignVCenter);

    auto* across = across_ = new QSplitter(Qt::Horizontal, this);
    auto* left = left_ = new QSplitter(Qt::Vertical, this);
    left->addWidget(questions_);
    left->addWidget(plans_);
    left->setStretchFactor(1, 1);
    left->setSizes({theme::scaled(250), theme::scaled(330)});
    left->setChildrenCollapsible(false);
    left->setHandleWidth(1);
    across->addWidget(left);
    auto* map_and_legend = new QWidget(this);
    auto* map_box = new QVBoxLayout(map_and_legend);
    map_box->setContentsMargins(0, 0, 0, 0);
    map_box->setSpacing(0);
    map_box->addWidget(map_, 1);
    map_box->addWidget(legend_);
    across->addWidget(map_and_legend);
    across->addWidget(answer_);
    across->setStretchFactor(1, 1);
    across->setSizes({theme::scaled_column(215), 740, theme::scaled_column(330)});
    across->setChildrenCollapsible(false);
    across->setHandleWidth(1);
    auto* down = new QSplitter(Qt::Vertical, this);
    down->addWidget(across);
    down->addWidget(records_);
    down->setStretchFactor(0, 1);
    down->setSizes({540, records_->is_open() ? 150 : 1});  // the least there is room for
    down->setChildrenCollapsible(false);
    connect(records_, &RecordsPanel::opened, down, [down](bool open) {
        const int all = down->height();
        down->setSizes({open ? all * 2 / 3 : all, open ? all / 3 : 1});
    });
    down->setHandleWidth(2);

    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(top);
    box->addWidget(down, 1);
    connect(map_, &MapView::site_menu_wanted, this, &StudyPage::offer_site_menu);
    connect(map_, &MapView::spot_menu_wanted, this, &StudyPage::offer_spot_menu);
    connect(map_, &MapView::road_pressed, this, &StudyPage::show_road);
    connect(map_, &MapView::remark, this, &StudyPage::remark);
    connect(map_, &MapView::trouble, this, &StudyPage::trouble);
    connect(reach_, &ReachPanel::trouble, this, &StudyPage::trouble);
    connect(map_, &MapView::ground_pressed, reach_, &ReachPanel::pick_at);
    connect(reassign_, &ReassignPanel::flows_drawn, map_, &MapView::set_flows);
    connect(reassign_, &ReassignPanel::trouble, this, &StudyPage::trouble);
    connect(detours_, &DetourPanel::trouble, this, &StudyPage::trouble);
    connect(plans_, &PlanList::best_wanted, best_, &BestSetPanel::open);
    connect(best_, &BestSetPanel::trouble, this, &StudyPage::trouble);
    connect(best_, &BestSetPanel::marked, map_, &MapView::set_marks);
    const auto show_marks = [this](const std::vector<geo::LonLat>& where) {
        map_->set_marks(where);
        map_->bring_into_sight(where);
    };
    connect(&answer_->ranking(), &RankingPanel::looked_at, this, show_marks);
    connect(&answer_->ranking(), &RankingPanel::trouble, this, &StudyPage::trouble);
    connect(&answer_->weakest(), &WeakestPanel::looked_at, this, show_marks);
    connect(&answer_->weakest(), &WeakestPanel::trouble, this, &StudyPage::trouble);
    connect(&answer_->fairness(), &FairnessView::trouble, this, &StudyPage::trouble);
    connect(&answer_->firmness(), &FirmnessView::trouble, this, &StudyPage::trouble);
    auto& access = answer_->access();
    connect(&access, &AccessView::trouble, this, &StudyPage::trouble);
    connect(&access, &AccessView::found, map_, &MapView::set_access);
    connect(&access, &AccessView::found, records_, &RecordsPanel::set_access);
    connect(&access, &AccessView::map_wanted, map_, [this] { map_->set_look(access_look()); });
    connect(room_, &RoomPanel::trouble, this, &StudyPage::trouble);
    connect(reassign_, &ReassignPanel::export_wanted, this, &StudyPage::reassigned_export_wanted);
    connect(route_, &RoutePanel::export_wanted, this, &StudyPage::route_export_wanted);
    connect(route_, &RoutePanel::copy_wanted, this, &StudyPage::route_copy_wanted);
    connect(route_, &RoutePanel::looked_at, map_, [this](geo::LonLat spot) {
        map_->set_marks({spot});
        map_->bring_into_sight({spot});
    });
    connect(&session_.route, &RoutePlanner::failed, this, &StudyPage::trouble);
    connect(records_, &RecordsPanel::picked, this, &StudyPage::show_picked);
    connect(records_, &RecordsPanel::show_wanted, map_, &MapView::show_picked);
    connect(records_, &RecordsPanel::export_wanted, this, &StudyPage::export_wanted);
    connect(question_, &QuestionLine::profiles_wanted, this, &StudyPage::profiles_wanted);
    recall();
}

namespace {
constexpr const char* kAcross = "study/across";
constexpr const char* kLeft = "study/left";
constexpr const char* kLook = "map/look";
}  // namespace

void StudyPage::remember() const {
    QSettings settings;
    settings.setValue(kAcross, across_->saveState());
    settings.setValue(kLeft, left_->saveState());
    settings.setValue(kLook, map_->style_now().look->key());
}

void StudyPage::recall() {
    const QSettings settings;
    across_->restoreState(settings.value(kAcross).toByteArray());
    left_->restoreState(settings.value(kLeft).toByteArray());
    map_->set_look(look_called(settings.value(kLook).toString()));
}

void StudyPage::show_picked() {
    const auto answer = session_.answers.shown();
    if (!answer) return;
    std::vector<geo::LonLat> where;
    const auto& demand = answer->ready->inputs.demand;
    for (const std::uint32_t i : session_.selection.picked().places)
        if (i < demand.count() && demand.at(i).position) where.push_back(*demand.at(i).position);
    if (const auto site = session_.selection.picked().site; site && site->value() < answer->outcome.sites.size())
        if (const auto& p = answer->outcome.sites[site->value()].planned.site.position) where.push_back(*p);
    map_->bring_into_sight(where);
}

void StudyPage::offer_site_menu(SiteIndex index, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer || index.value() >= answer->outcome.sites.size()) return;
    const auto& planned = answer->outcome.sites[index.value()].planned;
    const QString name = elided(QString::fromStdString(service::label(planned.site)));
    const auto change = [this, planned](service::Change c, const QString& plan_name) {
        session_.document.change_plan(plan_name, change_of(planned, c));
    };
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    add_title(*menu, planned.in_use ? name : tr("%1, if it were open").arg(name));
    if (!planned.in_use) add_gain_line(*menu, session_, index);
    const bool today = session_.document.plan_index() == 0;
    if (planned.site.state != places::SiteState::open)
        menu->addAction(
            today ? tr("New plan: open %1").arg(on_button(name)) : tr("Open %1 in this plan").arg(on_button(name)),
            this, [=] { change(service::Change::open, StudyPage::tr("%1 opens").arg(name)); });
    else
        menu->addAction(
            today ? tr("New plan: close %1").arg(on_button(name)) : tr("Close %1 in this plan").arg(on_button(name)),
            this, [=] { change(service::Change::close, StudyPage::tr("%1 closes").arg(name)); });
    if (planned.added)
        menu->addAction(tr("Take %1 out of this plan").arg(on_button(name)), this,
                        [this, planned] { session_.document.take_out(change_of(planned, service::Change::add)); });
    if (planned.in_use)
        menu->addAction(tr("Pick the places it serves"), this, [this, index] {
            Picked s;
            s.site = index;
            if (const auto a = session_.answers.shown())
                for (std::uint32_t i = 0; i < a->outcome.places.size(); ++i)
                    if (a->outcome.places[i].served() && a->outcome.places[i].site == index) s.places.push_back(i);
            session_.selection.pick(std::move(s));
        });
    if (planned.in_use)
        menu->addAction(tr("Reach of %1 alone").arg(on_button(name)), this,
                        [this, id = planned.site.id] { map_->reach_of_site(id); });
    if (map_->style_now().reach.one_site)
        menu->addAction(tr("Reach of all sites again"), this, [this] { map_->reach_of_site(std::nullopt); });
    if (best_->isVisible()) {
        using Role = BestSetPanel::Role;
        auto* roles = menu->addMenu(tr("In the best set"));
        for (const auto& [role, text] :
             {std::pair{Role::may, tr("may be chosen")}, std::pair{Role::must, tr("must be chosen")},
              std::pair{Role::never, tr("is never chosen")}}) {
            auto* action =
                roles->addAction(text, this, [this, planned, role = role] { best_->set_role(planned, role); });
            action->setCheckable(true);
            action->setChecked(best_->role_of(planned) == role);
        }
    }
    add_stop_action(*menu, session_, planned.site);
    menu->popup(at);
}

void StudyPage::offer_spot_menu(geo::LonLat spot, const QPoint& at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName("spot");
    if (session_.answers.shown()) {
        add_title(*menu, tr("A site here"));
        add_gain_line(*menu, session_, spot);
        menu->addAction(tr("New site here"), this, [this, spot] {
            std::vector<std::string> taken;
            for (const auto& s : session_.answers.shown()->outcome.sites) taken.push_back(s.planned.site.id);
            const auto id = service::free_name(tr("New site").toStdString(), taken);
            session_.document.change_plan(QString::fromStdString(id), {service::Change::add, id, spot});
        });
    }
    if (session_.answers.shown() && session_.answers.up_to_date()) {
        const bool here = session_.document.question().towards == service::Towards::demand;
        menu->addAction(here ? tr("The way here, turn by turn") : tr("The way from here, turn by turn"), this,
                        [this, spot, at] { show_way(spot, at); });
    }
    if (session_.answers.shown()) {
        const bool away = session_.document.question().towards == service::Towards::demand;
        menu->addAction(away ? tr("Reach from here") : tr("Reach to here"), this,
                        [this, spot] { map_->set_reach_from(spot); });
        if (map_->reach_from())
            menu->addAction(tr("Reach of the sites again"), this, [this] { map_->set_reach_from(std::nullopt); });
        if (map_->style_now().reach.one_site)
            menu->addAction(tr("Reach of all sites again"), this, [this] { map_->reach_of_site(std::nullopt); });
    }
    const auto& asked = session_.document.question().demand;
    const QString demand = asked.empty() ? tr("places drawn") : QString::fromStdString(asked.front());
    menu->addAction(tr("Add a place to the %1 here").arg(on_button(elided(demand))), this, [this, spot, demand] {
        session_.document.edit(tr("add a place"), [&](service::Study& s) {
            s = service::with_place(std::move(s), demand.toStdString(), spot, Weight::one());
        });
    });
    if (const auto& picked = session_.selection.picked().places; picked.size() == 1)
        menu->addAction(tr("Attach the picked place here"), this, [this, spot, place = picked.front()] {
            session_.document.edit(tr("attach by hand"), [&](service::Study& s) {
                const auto asked = s.demand_of(s.question());
                if (place >= asked.count()) return;
                const service::SetName set{service::SetKind::demand, asked.set_of(place).name};
                const service::AttachAnyway by_hand{set, {{asked.local(place), spot}}};
                s = service::fixed(std::move(s), by_hand, Task());
            });
        });
    add_route_actions(*menu, session_, spot, map_->stop_at(map_->screen_of(spot)), route_->chosen());
    add_title(*menu, tr("Roads closed or slowed (in this plan)"));
    const auto offer = [this, spot, at](ClosureEditor::For purpose) {
        roads::Closure here;
        here.vertices = {spot};
        auto* editor = new ClosureEditor(here, purpose, this);
        connect(editor, &ClosureEditor::wanted, this, &StudyPage::draw_closure);
        put_card(editor, at);
    };
    menu->addAction(tr("Close…"), this, [offer] { offer(ClosureEditor::For::new_closure); });
    menu->addAction(tr("Slow down…"), this, [offer] { offer(ClosureEditor::For::new_slowing); });
    menu->addAction(tr("Closures from a file…"), this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Closures from a file"));
        if (!path.isEmpty()) add_closures_from(path);
    });
    const auto& closures = session_.document.plan().closures;
    constexpr std::size_t kFew = 5;
    auto* changes = closures.size() > kFew ? menu->addMenu(tr("Change one of them")) : menu;
    for (std::size_t i = 0; i < closures.size(); ++i)
        changes->addAction(tr("Change ‘%1’…").arg(on_button(elided(plain(closures[i].name)))), this,
                           [this, i, at] { change_closure(i, at); });
    add_title(*menu, tr("The map"));
    menu->addAction(tr("Everything (0)"), map_, &MapView::fit);
    menu->addAction(tr("What is picked (Z)"), map_, &MapView::show_picked);
    menu->addAction(tr("Pick the places in a box (B)"), map_, &MapView::start_picking);
    auto* jump = menu->addMenu(tr("Go to a place that is served"));
    jump->setEnabled(session_.answers.up_to_date() && session_.answers.shown());
    for (const auto& [which, text] : {std::pair{Served::first, tr("The first of the file")},
                                      std::pair{Served::closest, tr("The closest to its site")},
                                      std::pair{Served::farthest, tr("The farthest from its site")}})
        jump->addAction(text, this, [this, which = which] { jump_to(which); });
    menu->addAction(tr("Measure a straight line…"), this, [this, spot] { measure(spot); });
    menu->addAction(tr("Copy the map"), this, &StudyPage::copy_map_wanted);
    menu->popup(at);
}

void StudyPage::jump_to(Served which) {
    const auto answer = session_.answers.shown();
    if (!answer || !session_.answers.up_to_date()) return;
    const auto& o = answer->outcome;
    const bool by_time = o.question.measure() == routing::Measure::time;
    std::optional<std::uint32_t> best;
    std::int64_t best_cost = 0;
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        const auto& p = o.places[i];
        if (!p.served()) continue;
        const std::int64_t cost = by_time ? p.time.count() : p.distance.count();
        if (!best || (which == Served::closest && cost < best_cost) ||
            (which == Served::farthest && cost > best_cost)) {
            best = i;
            best_cost = cost;
        }
        if (which == Served::first) break;
    }
    if (!best) return emit remark(tr("Nobody is served."));
    const auto& place = answer->ready->inputs.demand.at(*best);
    const auto site = *o.places[*best].site;
    session_.selection.pick({{*best}, site});
    std::vector<geo::LonLat> both{*place.position};
    if (const auto& at = o.sites[site.value()].planned.site.position) both.push_back(*at);
    map_->go_to_all(both);
    map_->read_at(map_->screen_of(*place.position));
    emit remark(tr("%1: %2 min, %3 by %4.")
                    .arg(elided(QString::fromStdString(place.id)), decimal(o.places[*best].time.minutes(), 1),
                         long_length(o.places[*best].distance),
                         elided(QString::fromStdString(service::label(o.sites[site.value()].planned.site)))));
}

void StudyPage::put_card(QWidget* card, const QPoint& at) {
    card->adjustSize();
    // On the screen as a whole, also where the spot is near its edge.
    QPoint corner = at + QPoint(10, 10);
    if (const auto* screen = QGuiApplication::screenAt(at)) {
        const QRect all = screen->availableGeometry();
        corner.setX(std::clamp(corner.x(), all.left(), std::max(all.left(), all.right() - card->width())));
        corner.setY(std::clamp(corner.y(), all.top(), std::max(all.top(), all.bottom() - card->height())));
    }
    card->move(corner);
    card->show();
}

void StudyPage::measure(std::optional<geo::LonLat> from) {
    const auto length = [](const std::vector<geo::LonLat>& points) {
        Millimetres all;
        for (std::size_t i = 1; i < points.size(); ++i) all = all + geo::distance(points[i - 1], points[i]);
        return all;
    };
    Sketch line;
    line.form = Sketch::Form::line;
    line.what = tr("Measure a straight line.");
    line.otherwise = tr("Nothing was measured.");
    line.reading = [length](const std::vector<geo::LonLat>& points) {
        const QString all = QString::fromStdString(describe(length(points)));
        if (points.size() < 3) return all;
        const auto last = geo::distance(points[points.size() - 2], points.back());
        return tr("%1 in all, %2 of it the last").arg(all, QString::fromStdString(describe(last)));
    };
    line.done = [this, length](const std::vector<geo::LonLat>& points) {
        emit remark(tr("Straight: %1.").arg(QString::fromStdString(describe(length(points)))));
    };
    map_->start_drawing(std::move(line));
    if (from) map_->draw_at(map_->screen_of(*from));
}

void StudyPage::draw_closure(const roads::Closure& like) {
    if (like.shape == roads::ClosureShape::point) return take_closure(like);
    const bool area = like.shape == roads::ClosureShape::area;
    const bool closes = like.effect == roads::ClosureEffect::closed;
    Sketch sketch;
    sketch.form = area ? Sketch::Form::area : Sketch::Form::line;
    sketch.what = closes ? (area ? tr("Close the roads in an area.") : tr("Close roads along a line."))
                         : (area ? tr("Slow the roads in an area down.") : tr("Slow roads down along a line."));
    sketch.otherwise = closes ? tr("Nothing was closed.") : tr("Nothing was slowed.");
    sketch.done = [this, like](const std::vector<geo::LonLat>& vertices) {
        auto drawn = like;
        drawn.vertices = vertices;
        take_closure(drawn);
    };
    map_->start_drawing(std::move(sketch));
}

void StudyPage::change_closure(std::size_t i, const QPoint& at) {
    const auto index = session_.document.plan_index();
    const auto& closures = session_.document.plan().closures;
    if (i >= closures.size()) return;
    auto* editor = new ClosureEditor(closures[i], ClosureEditor::For::change, this);
    // Something else may have changed the plan while the card stood open: only the closure that it showed is meant.
    const auto there = [index, i, was = closures[i]](const service::Study& s) {
        return index < s.plans.size() && i < s.plans[index].closures.size() && s.plans[index].closures[i] == was;
    };
    connect(editor, &ClosureEditor::changed, this, [this, index, i, there](roads::Closure to) {
        session_.document.edit(tr("change a closure"), [&](service::Study& s) {
            if (!there(s)) return;
            auto& c = s.plans[index].closures[i];
            if (to.name.empty()) to.name = c.name;
            c = to;
        });
    });
    connect(editor, &ClosureEditor::open_again, this, [this, index, i, there] {
        session_.document.edit(tr("open a road again"), [&](service::Study& s) {
            if (there(s))
                s.plans[index].closures.erase(s.plans[index].closures.begin() + static_cast<std::ptrdiff_t>(i));
        });
    });
    put_card(editor, at);
}

void StudyPage::take_closure(roads::Closure c) {
    const auto& in = session_.document.study().roads;
    if (!in) return;
    const bool point = c.shape == roads::ClosureShape::point;
    const bool closes = c.effect == roads::ClosureEffect::closed;
    if (!touches_a_road(*in->network, c)) {
        emit trouble(
            (point ? tr("There is no road within 50 m of this spot.") : tr("What was drawn touches no road.")) + " " +
            (closes ? tr("Nothing was closed.") : tr("Nothing was slowed.")));
        return;
    }
    if (c.name.empty()) {
        c.name = (closes ? tr("Roads closed") : tr("Roads slowed")).toStdString();
        if (point)
            if (const auto road = service::road_at(*in->network, c.vertices.front(), Millimetres::metres(50));
                road && !in->network->name(*road).empty()) {
                const QString name = QString::fromStdString(in->network->name(*road));
                c.name = (closes ? tr("%1 closed").arg(name) : tr("%1 slowed").arg(name)).toStdString();
            }
    }
    std::vector<std::string> taken;
    for (const auto& o : session_.document.plan().closures) taken.push_back(o.name);
    c.name = service::free_name(c.name, taken);
    session_.document.add_closures(c.name, {c});
    if (!point) return;
    if (const auto taken_for = service::describe_point(*in->network, c); !taken_for.empty())
        emit remark((closes ? tr("Closed: %1") : tr("Slowed: %1")).arg(QString::fromStdString(taken_for)));
}

void StudyPage::add_closures_from(const QString& path) {
    jobs_.reading.run([this, path,
                       document = session_.document.point().document](const Task& task) -> Background::Then {
        auto closures = files::read_closures(path.toStdString(), task);
        return [this, path, document, closures = std::move(closures)] {
            if (document != session_.document.point().document)
                return emit trouble(tr("Another study was opened while %1 was being read; its closures were not added.")
                                        .arg(QFileInfo(path).fileName()));
            session_.document.add_closures(files::set_name_from(path.toStdString()), closures);
            emit remark(tr("%1 from %2.")
                            .arg(counted(closures.size(), tr("closure"), tr("closures")), QFileInfo(path).fileName()));
        };
    });
}

void StudyPage::show_way(geo::LonLat spot, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer || !session_.answers.up_to_date()) return;
    const auto reading = service::read_spot(*answer->ready, answer->outcome, spot);
    put_card(way_card(*answer, reading, session_.document.question().towards, this), at);
    map_->read_at(map_->screen_of(spot));  // the same way, drawn
}

void StudyPage::show_road(LinkId link, geo::LonLat spot, const QPoint& at) {
    const auto answer = session_.answers.shown();
    if (!answer || link.value() >= answer->ready->inputs.network->link_count()) return;
    const auto close = [this, spot] {
        roads::Closure here;
        here.vertices = {spot};
        take_closure(here);
    };
    put_card(road_card(*answer, link, close, this), at);
}

}  // namespace otoro::desktop
