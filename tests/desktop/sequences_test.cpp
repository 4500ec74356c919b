/// Acts of a person at the window, in random order, for as long as OTORO_SEQUENCE_SECONDS says. After each, what is
/// shown is what the core answers; now and then the study is saved and must open again as the same. A failure names the
/// seed (OTORO_SEQUENCE_SEED) and the acts before it.
#include <QCheckBox>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QRadioButton>
#include <QSpinBox>
#include <QTableView>
#include <QTableWidget>
#include <catch2/catch.hpp>
#include <random>

#include "desktop/at_the_desk.h"
#include "desktop/dialogs.h"
#include "desktop/pages/compare_page.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/best_set_panel.h"
#include "desktop/parts/closure_editor.h"
#include "desktop/parts/curve_view.h"
#include "desktop/parts/difference_view.h"
#include "desktop/parts/findings_list.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/plan_table.h"
#include "desktop/parts/question_list.h"
#include "desktop/parts/reach_bar.h"
#include "desktop/parts/reach_panel.h"
#include "desktop/parts/reach_switches.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/route_panel.h"
#include "files/study_file.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

/// One person, one window.
class Person {
public:
    explicit Person(unsigned seed) : random_(seed) {
        desk_.add_saltmere();
        desk_.window.resize(1280, 800);
        desk_.window.show_study();
        REQUIRE(wait_for([&] { return desk_.map().settled(); }));
    }

    void act() {
        using Act = void (Person::*)();
        static const std::vector<std::pair<const char*, Act>> acts{{"click", &Person::click},
                                                                   {"double click", &Person::double_click},
                                                                   {"drag", &Person::drag},
                                                                   {"drag given up", &Person::give_up_a_drag},
                                                                   {"menu", &Person::menu},
                                                                   {"draw", &Person::draw},
                                                                   {"keys on the map", &Person::map_keys},
                                                                   {"keys on the map", &Person::map_keys},
                                                                   {"closure card", &Person::closure_card},
                                                                   {"box", &Person::box},
                                                                   {"keys on the curve", &Person::curve_keys},
                                                                   {"undo", &Person::undo},
                                                                   {"redo", &Person::redo},
                                                                   {"undo", &Person::undo},
                                                                   {"plan", &Person::choose_plan},
                                                                   {"remove plan", &Person::remove_plan},
                                                                   {"blank", &Person::blank},
                                                                   {"page", &Person::page},
                                                                   {"save", &Person::save},
                                                                   {"open", &Person::open},
                                                                   {"add a file", &Person::add_a_file},
                                                                   {"stop", &Person::stop},
                                                                   {"fix", &Person::fix},
                                                                   {"records", &Person::records},
                                                                   {"question", &Person::question},
                                                                   {"compare", &Person::compare},
                                                                   {"compare", &Person::compare},
                                                                   {"best set", &Person::best_set},
                                                                   {"best set", &Person::best_set},
                                                                   {"find", &Person::find},
                                                                   {"paste", &Person::paste},
                                                                   {"save and edit", &Person::save_and_edit},
                                                                   {"look", &Person::look},
                                                                   {"route", &Person::route},
                                                                   {"route", &Person::route},
                                                                   {"lines to sites", &Person::lines},
                                                                   {"legend of reach", &Person::reach_switches},
                                                                   {"legend of reach", &Person::reach_switches},
                                                                   {"limits of reach", &Person::reach_limits},
                                                                   {"list of ground", &Person::ground_list},
                                                                   {"export ground", &Person::export_ground}};
        const auto& [name, what] = acts[static_cast<std::size_t>(pick(0, static_cast<int>(acts.size()) - 1))];
        done_.push_back(name);
        (this->*what)();
        Desk::close_editor();
    }

    void check() {
        INFO("after " << story());
        REQUIRE(wait_for([&] { return !desk_.window.jobs().busy(); }));
        if (desk_.map().drawing()) desk_.map().let_go();
        if (desk_.map().dragging()) desk_.map().let_go();
        if (stopped_) {
            stopped_ = false;
            desk_.session().answers.ask_again();
        }
        auto& session = desk_.session();
        if (!session.document.study().inputs()) return;
        REQUIRE(desk_.settle_plans());
        CHECK_FALSE(session.answers.trying_out());
        CHECK_FALSE(desk_.map().dragging());
        REQUIRE(session.document.plan_index() < session.document.study().plans.size());
        CHECK(desk_.page().questions().list()->currentRow() == static_cast<int>(session.document.question_index()));
        CHECK(desk_.page().questions().list()->count() == static_cast<int>(session.document.study().questions.size()));
        const auto answer = session.answers.shown();
        REQUIRE(answer->outcome.plan.same_as(session.document.plan()));
        ready_ =
            service::prepare(*session.document.study().inputs(), session.document.question(), ready_.get(), Task());
        const auto own = service::answer(*ready_, session.document.plan(), Task());
        REQUIRE(answer->outcome.digest == own.digest);
        bool same = answer->outcome.places.size() == own.places.size();
        for (std::size_t i = 0; same && i < own.places.size(); ++i)
            same = answer->outcome.places[i].status == own.places[i].status &&
                   answer->outcome.places[i].time == own.places[i].time &&
                   answer->outcome.places[i].site == own.places[i].site;
        REQUIRE(same);
        if (session.document.question().standard) {
            const QString share =
                QString::fromStdString(describe(judge(own, *session.document.question().standard).share));
            CHECK(desk_.share() == share);
            auto& plans = desk_.page().plans().list();
            CHECK(plans.currentRow() == static_cast<int>(session.document.plan_index()));
            CHECK(plans.item(plans.currentRow())->data(Qt::AccessibleTextRole).toString().endsWith(share));
        }
        check_ground(own);
        check_route();
        check_compared(own);
    }

    /// What stands side by side is what is asked, to the digit, while somebody looks.
    void check_compared(const service::Outcome& own) {
        auto& page = desk_.window.compare_page();
        if (!page.isVisible()) return;
        QString why;
        const auto failed = QObject::connect(&page.figures(), &PlanFigures::failed, [&](const QString& w) { why = w; });
        page.figures().look(true);
        const bool there = wait_for([&] { return page.figures().up_to_date(); });
        QObject::disconnect(failed);
        INFO("figures: " << why.toStdString() << ", busy " << page.figures().busy() << ", found "
                         << (page.figures().found() != nullptr));
        REQUIRE(there);
        const auto& document = desk_.session().document;
        const auto& all = page.figures().found()->figures.of;
        REQUIRE(all.size() == document.study().questions.size());
        const auto& here = all[document.question_index()];
        REQUIRE(here.size() == document.study().plans.size());
        const auto& figures = here[document.plan_index()];
        CHECK(figures.plan == document.plan().name);
        CHECK(figures.verdict.has_value() == document.question().standard.has_value());
        if (figures.verdict)
            CHECK(figures.verdict->inside.weight == judge(own, *document.question().standard).inside.weight);
        CHECK(page.plans().table().currentRow() == static_cast<int>(document.plan_index()));
        CHECK(page.plans().table().currentColumn() == static_cast<int>(document.question_index()));
        if (document.study().plans.size() < 2) return;
        REQUIRE(wait_for([&] {
            return page.two().found() &&
                   page.two().found()->after == desk_.session().answers.of_plan(document.plan_index());
        }));
        CHECK(page.two().found()->is.all.weight == own.all.weight);
    }

    /// The way that is shown is the way over the stops there are, under the plan in sight.
    void check_route() {
        auto& route = desk_.session().route;
        REQUIRE(wait_for([&] { return route.up_to_date(); }));
        const auto& document = desk_.session().document;
        CHECK(route.route() == document.study().route);
        CHECK(desk_.page().route().isVisibleTo(&desk_.page()) == !document.study().route.stops.empty());
        if (!route.shown() || document.study().route.stops.size() < 2) {
            CHECK_FALSE(route.found());
            return;
        }
        std::vector<geo::LonLat> at;
        for (const auto& stop : document.study().route.stops) at.push_back(stop.at);
        auto question = document.question();
        question.towards = service::Towards::demand;
        const auto today = prepare({document.study().roads->network, std::make_shared<const places::DemandSet>(),
                                    std::make_shared<const places::SiteSet>()},
                                   question, nullptr, Task());
        const auto ready = under_closures(*today, document.plan(), Task());
        try {
            const auto own = itinerary(*ready, nullptr, at, {false, document.study().route.round}, Task());
            REQUIRE(route.found());
            CHECK(route.found()->route == document.study().route);
            CHECK(route.found()->way.time == own.time);
            CHECK(route.found()->way.distance == own.distance);
        } catch (const InputError& e) {
            CHECK_FALSE(route.found());
            CHECK_FALSE(route.trouble().isEmpty());
        }
    }

    /// What is listed beside the map is what is asked, and of all ground it is who the table has within the limit.
    void check_ground(const service::Outcome& own) {
        auto& asker = desk_.page().reach().asker();
        const auto& map = desk_.map();
        if (!map.ground_asked()) return;
        REQUIRE(wait_for([&] {
            const auto asked = map.ground_asked();
            return !asked || (!asker.busy() && asker.has(*asked));
        }));
        CHECK(desk_.session().document.question().reach.overlap == map.style_now().reach.overlap);
        const auto found = asker.found();
        if (!found || !found->areas) return;
        const auto& asked = found->asked;
        const auto& request = found->areas->request;
        const bool all = !asked.from && asked.sites.empty() && !asked.view.in_zones && !request.limits.empty() &&
                         (request.overlap == service::Overlap::nearest || request.overlap == service::Overlap::merged);
        if (!all) return;
        std::size_t listed = 0, within = 0;
        for (const auto& a : found->areas->areas)
            if (!request.full || a.to == request.limits.back()) listed += a.places.size();
        for (const auto& p : own.places) within += p.served() && is_within(p, request.limits.back()) ? 1 : 0;
        CHECK(listed == within);
    }

    void check_round_trip() {
        INFO("after " << story());
        const auto& s = desk_.session().document.study();
        const auto path = desk_.folder.file("round.otoro.gpkg");
        files::save_study(s, path, Task());
        const auto back = files::open_study(path, Task());
        CHECK(back.name == s.name);
        CHECK(back.questions == s.questions);
        CHECK(back.in_sight == s.in_sight);
        CHECK(back.zones.size() == s.zones.size());
        CHECK(back.plans == s.plans);
        CHECK(back.profiles == s.profiles);
        CHECK(back.accepted == s.accepted);
        CHECK(back.roads.has_value() == s.roads.has_value());
        if (s.roads && back.roads) CHECK(back.roads->network->digest() == s.roads->network->digest());
        REQUIRE(back.demand.size() == s.demand.size());
        for (std::size_t i = 0; i < s.demand.size(); ++i)
            CHECK(back.demand[i].set->digest() == s.demand[i].set->digest());
        REQUIRE(back.sites.size() == s.sites.size());
        for (std::size_t i = 0; i < s.sites.size(); ++i) CHECK(back.sites[i].set->digest() == s.sites[i].set->digest());
    }

    [[nodiscard]] std::size_t acts() const { return done_.size(); }

private:
    int pick(int low, int high) { return std::uniform_int_distribution<int>(low, high)(random_); }
    bool chance(int in) { return pick(1, in) == 1; }
    QPoint spot() { return {pick(5, desk_.map().width() - 5), pick(5, desk_.map().height() - 5)}; }
    /// A site's mark if there is one in sight, else anywhere.
    QPoint site_or_spot() {
        const auto answer = desk_.session().answers.shown();
        if (!answer || answer->outcome.sites.empty()) return spot();
        const auto& s =
            answer->outcome.sites[static_cast<std::size_t>(pick(0, static_cast<int>(answer->outcome.sites.size()) - 1))]
                .planned.site;
        const QPoint at = s.position ? desk_.map().screen_of(*s.position).toPoint() : spot();
        return desk_.map().rect().contains(at) ? at : spot();
    }
    [[nodiscard]] std::string story() const {
        std::string s;
        for (std::size_t i = done_.size() > 25 ? done_.size() - 25 : 0; i < done_.size(); ++i)
            s += std::string(s.empty() ? "" : ", ") + done_[i];
        return s;
    }
    void move(QPoint to, Qt::MouseButtons held) {
        QMouseEvent e(QEvent::MouseMove, to, desk_.map().mapToGlobal(to), Qt::NoButton, held, {});
        QApplication::sendEvent(&desk_.map(), &e);
    }
    void breathe() {
        if (chance(2)) QApplication::processEvents(QEventLoop::AllEvents, 5);
    }

    void click() {
        QTest::mouseClick(&desk_.map(), chance(6) ? Qt::RightButton : Qt::LeftButton,
                          chance(4) ? Qt::ControlModifier : Qt::NoModifier, chance(2) ? site_or_spot() : spot());
    }
    void double_click() {
        const QPoint at = spot();
        QTest::mouseClick(&desk_.map(), Qt::LeftButton, {}, at);
        QTest::mouseDClick(&desk_.map(), Qt::LeftButton, {}, at);
    }
    void begin_drag(QPoint& at) {
        QTest::mousePress(&desk_.map(), Qt::LeftButton, {}, at);
        for (int i = pick(1, 4); i > 0; --i) {
            at += QPoint(pick(-40, 40), pick(-40, 40));
            move(at, Qt::LeftButton);
            breathe();
        }
    }
    void drag() {
        QPoint at = chance(3) ? spot() : site_or_spot();
        begin_drag(at);
        QTest::mouseRelease(&desk_.map(), Qt::LeftButton, {}, at);
    }
    void give_up_a_drag() {
        QPoint at = site_or_spot();
        begin_drag(at);
        switch (pick(0, 6)) {
            case 0:
                QTest::keyClick(&desk_.map(), Qt::Key_Escape);
                break;
            case 1:
                QTest::mousePress(&desk_.map(), Qt::RightButton, {}, at);
                break;
            case 2:
                desk_.session().document.undo_stack().undo();
                break;
            case 3:
                desk_.session().document.undo_stack().redo();
                break;
            case 4:
                choose_plan();
                break;
            case 5:
                desk_.window.show_data();
                break;
            default:
                stop();
                break;
        }
        move(at + QPoint(10, 10), Qt::LeftButton);
        QTest::mouseRelease(&desk_.map(), Qt::LeftButton, {}, at);
        QTest::keyClick(&desk_.map(), Qt::Key_Escape);
        desk_.window.show_study();
    }
    void menu() {
        const QPoint at = chance(2) ? site_or_spot() : spot();
        QContextMenuEvent e(QContextMenuEvent::Mouse, at, desk_.map().mapToGlobal(at));
        QApplication::sendEvent(&desk_.map(), &e);
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (!menu) return;
        breathe();
        QList<QAction*> entries;
        for (auto* a : menu->actions())
            if (a->isEnabled() && !a->text().isEmpty() && !a->text().contains(QChar(0x2026)) && !a->menu())
                entries << a;
        if (!entries.isEmpty() && !chance(3)) entries[pick(0, static_cast<int>(entries.size()) - 1)]->trigger();
        if (desk_.map().drawing()) draw();
    }
    void draw() {
        if (!desk_.map().drawing())
            desk_.draw_closure(chance(2) ? roads::ClosureShape::line : roads::ClosureShape::area);
        for (int i = pick(0, 4); i > 0; --i) QTest::mouseClick(&desk_.map(), Qt::LeftButton, {}, spot());
        if (chance(4)) QTest::keyClick(&desk_.map(), Qt::Key_Backspace);
        QTest::keyClick(&desk_.map(), chance(3) ? Qt::Key_Escape : Qt::Key_Return);
    }
    void map_keys() {
        desk_.window.show_study();
        const std::array keys{Qt::Key_Left,   Qt::Key_Right,  Qt::Key_Up,        Qt::Key_Down, Qt::Key_Plus,
                              Qt::Key_Minus,  Qt::Key_0,      Qt::Key_Escape,    Qt::Key_G,    Qt::Key_PageDown,
                              Qt::Key_PageUp, Qt::Key_N,      Qt::Key_B,         Qt::Key_Z,    Qt::Key_Space,
                              Qt::Key_Return, Qt::Key_Delete, Qt::Key_Backspace, Qt::Key_Left, Qt::Key_G};
        for (int i = pick(1, 14); i > 0; --i) {
            QTest::keyClick(&desk_.map(), keys[static_cast<std::size_t>(pick(0, static_cast<int>(keys.size()) - 1))]);
            if (chance(3)) Desk::close_editor();
        }
        // A site or a drawing may be left in the hand: whatever comes next, it is not lost and does no harm.
    }
    void closure_card() {
        desk_.window.show_study();
        const auto& closures = desk_.session().document.plan().closures;
        if (closures.empty() || chance(2)) {
            roads::Closure here;
            here.vertices = {desk_.map().place_of(spot())};
            here.effect = chance(2) ? roads::ClosureEffect::slowed : roads::ClosureEffect::delay;
            here.factor_per_mille = static_cast<std::uint32_t>(pick(1'000, 9'999));
            here.delay = Millis(pick(0, 600'000));
            return desk_.page().draw_closure(here);
        }
        desk_.page().change_closure(static_cast<std::size_t>(pick(0, static_cast<int>(closures.size()) - 1)),
                                    desk_.window.pos());
        auto* editor = qobject_cast<ClosureEditor*>(QApplication::activePopupWidget());
        REQUIRE(editor);
        const auto before = closures;
        if (chance(2)) return void(QTest::mouseClick(editor->button("open"), Qt::LeftButton));
        QTest::mouseClick(editor->button("change"), Qt::LeftButton);
        CHECK(desk_.session().document.plan().closures == before);  // nothing was turned
    }
    void box() {
        desk_.window.show_study();
        desk_.map().pick_between(desk_.map().place_of(spot()), desk_.map().place_of(spot()), chance(2));
    }
    void curve_keys() {
        const std::array keys{Qt::Key_Left, Qt::Key_Right, Qt::Key_Up, Qt::Key_Down};
        for (int i = pick(1, 6); i > 0; --i)
            QTest::keyClick(&desk_.page().answer().curve(), keys[static_cast<std::size_t>(pick(0, 3))]);
    }
    void undo() {
        for (int i = pick(1, 3); i > 0; --i) desk_.session().document.undo_stack().undo();
    }
    void redo() {
        for (int i = pick(1, 4); i > 0; --i) desk_.session().document.undo_stack().redo();
    }
    void choose_plan() { desk_.page().plans().list().setCurrentRow(pick(0, desk_.page().plans().list().count() - 1)); }
    void remove_plan() {
        if (desk_.session().document.study().plans.size() > 2)
            desk_.session().document.remove_plan(
                static_cast<std::size_t>(pick(1, static_cast<int>(desk_.session().document.study().plans.size()) - 1)));
    }
    void blank() {
        desk_.window.show_study();
        const std::array keys{"demand", "weight", "serving", "sites", "travel", "towards", "limit", "standard"};
        auto* button = desk_.page().question().blank(keys[static_cast<std::size_t>(pick(0, 7))]);
        if (!button->isEnabled()) return;
        QTest::mouseClick(button, Qt::LeftButton);
        auto* editor = QApplication::activePopupWidget();
        if (!editor) return;
        if (const auto boxes = editor->findChildren<QCheckBox*>(); !boxes.isEmpty() && chance(3))
            boxes[pick(0, static_cast<int>(boxes.size()) - 1)]->click();
        const auto choices = editor->findChildren<QRadioButton*>();
        if (!choices.isEmpty() && choices[0]->isVisible())
            Desk::choose(editor, pick(0, std::min<int>(3, static_cast<int>(choices.size()) - 1)));
        if (auto* number = editor->findChild<QDoubleSpinBox*>("amount"); number && number->isEnabled())
            number->stepBy(pick(-2, 2));
    }
    void compare() {
        desk_.window.show_compare();
        breathe();
        auto& page = desk_.window.compare_page();
        auto& table = page.plans().table();
        if (table.rowCount() > 0 && table.columnCount() > 0)
            table.setCurrentCell(pick(0, table.rowCount() - 1), pick(0, table.columnCount() - 1));
        breathe();
        if (chance(3)) page.figures().stop();
        if (chance(3)) page.plans().shown().setCurrentIndex(pick(0, 5));
        if (auto& against = page.two().against(); chance(2) && against.count() > 0)
            emit against.activated(pick(0, against.count() - 1));
        if (auto& kinds = page.two().kinds(); chance(3) && kinds.rowCount() > 0)
            emit kinds.cellClicked(pick(0, kinds.rowCount() - 1), 0);
    }
    void best_set() {
        desk_.window.show_study();
        auto& best = desk_.page().best();
        best.open();
        best.goal().setCurrentIndex(pick(0, 5));
        best.choose().setValue(pick(1, 4));
        best.keep().setChecked(!chance(3));
        best.close_at_most().setValue(pick(0, 3));
        best.find_button().click();
        if (chance(3)) best.find_button().click();  // stop, if it goes on yet
        if (chance(3)) best.finder().leave_off();
        breathe();
        if (chance(2)) return;
        REQUIRE(wait_for([&] { return !best.finder().busy(); }));
        best.plan_button().click();
    }
    void question() {
        desk_.window.show_study();
        auto& document = desk_.session().document;
        auto& list = *desk_.page().questions().list();
        const int row = pick(0, list.count() - 1);
        switch (pick(0, 5)) {
            case 0:
                if (list.count() < 4) QTest::mouseClick(desk_.page().questions().new_question(), Qt::LeftButton);
                break;
            case 1:
                document.remove_question(static_cast<std::size_t>(row));
                break;
            case 2:
                document.move_question(static_cast<std::size_t>(row), chance(2) ? 1 : -1);
                break;
            case 3:
                document.rename_question(static_cast<std::size_t>(row), QString("q %1").arg(pick(0, 3)));
                break;
            default:
                list.setCurrentRow(row);
        }
    }
    void page() { chance(2) ? desk_.window.show_data() : desk_.window.show_study(); }
    QString file(int n) { return QString::fromStdString(desk_.folder.file("s" + std::to_string(n) + ".otoro.gpkg")); }
    void save() { desk_.window.files().save(file(pick(0, 1))); }
    void save_and_edit() {
        const auto before = desk_.session().document.question().standard;
        save();
        curve_keys();
        CHECK(
            (desk_.session().document.has_unsaved_changes() || desk_.session().document.question().standard == before));
    }
    void open() {
        const QString path = file(pick(0, 1));
        if (!QFileInfo::exists(path)) return;
        const bool unsaved = desk_.session().document.has_unsaved_changes();
        test::Answering asked({test::press(QMessageBox::Discard)});
        desk_.window.take_file(path);
        if (chance(2)) curve_keys();
        REQUIRE(wait_for([&] { return !desk_.window.jobs().busy(); }));
        if (unsaved) REQUIRE(wait_for([&] { return !desk_.window.jobs().busy(); }));
        ready_.reset();
    }
    void add_a_file() {
        const std::array files{"pupils.csv", "primary-schools.geojson", "water.geojson",
                               "roads.gpkg", "zones.geojson",           "gritting-depots.geojson"};
        auto& panel = desk_.window.data_page().add_panel();
        desk_.window.take_file(test::saltmere(files[static_cast<std::size_t>(pick(0, 5))]));
        if (chance(5)) desk_.window.jobs().reading.stop();
        (void)wait_for([&] { return panel.open() || !desk_.window.jobs().busy(); });
        if (!panel.open()) return;
        if (chance(3)) return panel.cancel();
        if (desk_.session().document.study().demand.size() + desk_.session().document.study().sites.size() > 6)
            panel.replace().setChecked(true);
        panel.accept();
        if (chance(4)) panel.cancel();
        if (chance(4)) curve_keys();
    }
    void stop() {
        stopped_ = true;
        desk_.session().answers.stop_working();
        if (chance(3))
            for (auto* job : desk_.window.jobs().all()) job->stop();
    }
    void fix() {
        auto& list = desk_.window.data_page().findings();
        desk_.window.show_data();
        list.pick(service::FindingKind::gaps, "roads", chance(2) ? -1 : 0);
        if (list.fix_button().isEnabled() && list.fix_button().isVisible())
            QTest::mouseClick(&list.fix_button(), Qt::LeftButton);
        if (chance(2)) undo();
        desk_.window.show_study();
    }
    void records() {
        auto& table = desk_.page().records().demand_table();
        if (table.model()->rowCount() > 0) table.selectRow(pick(0, table.model()->rowCount() - 1));
    }
    void route() {
        auto& route = desk_.session().route;
        const auto count = static_cast<int>(route.route().stops.size());
        const auto spot = [&] { return desk_.map().place_of(QPointF(pick(40, 600), pick(40, 400))); };
        const auto stop = [&] { return static_cast<std::size_t>(pick(0, std::max(0, count - 1))); };
        switch (pick(0, 9)) {
            case 0:
            case 1:
            case 2:
                if (count < 10) route.add({{"", spot()}});
                break;
            case 3:
                route.take_out(stop());
                break;
            case 4:
                route.reorder(stop(), stop());
                break;
            case 5:
                route.set_round(pick(0, 1) == 0);
                break;
            case 6:
                route.put_in_best_order();
                break;
            case 7:
                route.set_shown(pick(0, 2) > 0);
                break;
            case 8: {
                // A disc in the hand, put down or not.
                const auto which = stop();
                for (int i = 0; i < pick(1, 4); ++i) route.try_out(which, spot());
                pick(0, 1) == 0 ? route.move_to(which, spot()) : route.give_up_trial();
                break;
            }
            default:
                route.stop_working();
                if (!route.up_to_date() || !route.found()) {
                    route.set_shown(false);
                    route.set_shown(true);
                }
        }
    }

    void lines() { desk_.map().set_layer_shown(Layer::lines, pick(0, 1) == 0); }

    void look() {
        const auto& looks = map_looks();
        const auto* const look = looks[static_cast<std::size_t>(pick(0, static_cast<int>(looks.size()) - 1))];
        desk_.window.show_study();
        QTest::mouseClick(desk_.page().legend().look(look->key()), Qt::LeftButton);
    }
    void reach_switches() {
        auto& switches = desk_.page().legend().reach();
        if (chance(4)) desk_.page().map().set_look(chance(3) ? uncovered_look() : reach_look());
        const auto choose = [&](QComboBox& box) {
            if (!box.isVisible() || box.count() == 0) return;
            box.setCurrentIndex(pick(0, box.count() - 1));
            emit box.activated(box.currentIndex());
        };
        using service::ReachView;
        const std::array boxes{&ReachView::full,      &ReachView::roads,    &ReachView::lines,     &ReachView::circles,
                               &ReachView::off_water, &ReachView::in_zones, &ReachView::own_limits};
        switch (pick(0, 5)) {
            case 0:
                return choose(switches.overlap());
            case 1:
                return choose(switches.compared());
            case 2:
                return choose(switches.cover());
            case 3:
                switches.limits().setText(chance(3) ? "far" : chance(2) ? "3, 9 min" : "500, 2000 m");
                QTest::keyClick(&switches.limits(), Qt::Key_Return);
                return;
            case 4:
                return desk_.map().reach_of_site(chance(2) ? std::optional<std::string>("A2") : std::nullopt);
            default:
                auto& box = switches.box(boxes[static_cast<std::size_t>(pick(0, 6))]);
                if (box.isVisible()) box.click();
        }
    }
    void reach_limits() {
        auto& bar = desk_.page().legend().reach_bar();
        if (!bar.isVisible()) return;
        const std::array keys{Qt::Key_Left, Qt::Key_Right, Qt::Key_Insert, Qt::Key_Delete, Qt::Key_Up};
        for (int i = pick(1, 4); i > 0; --i) QTest::keyClick(&bar, keys[static_cast<std::size_t>(pick(0, 4))]);
    }
    void ground_list() {
        auto& list = desk_.page().reach().list();
        if (!list.isVisible() || list.rowCount() == 0) return;
        const auto* const item = list.item(pick(0, list.rowCount() - 1), 0);
        list.scrollToItem(item);
        QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(item).center());
    }
    void export_ground() {
        using File = Exports::GroundFile;
        const std::array all{std::pair{File::areas, "g.geojson"}, std::pair{File::roads, "g.fgb"},
                             std::pair{File::uncovered, "g.gpkg"}, std::pair{File::change, "g.shp"},
                             std::pair{File::zones, "g.csv"}};
        const auto& [what, name] = all[static_cast<std::size_t>(pick(0, 4))];
        desk_.window.exports().ground(QString::fromStdString(desk_.folder.file(name)), what);
    }
    void find() {
        desk_.window.find_box().setText(chance(2) ? "row" : "nothing like it");
        QTest::keyClick(&desk_.window.find_box(), Qt::Key_Return);
    }
    void paste() {
        QApplication::clipboard()->setText(chance(2) ? "id,lon,lat\np1,-9.49,46.2\n" : "");
        desk_.window.data_page().paste_wanted();
        REQUIRE(wait_for([&] { return !desk_.window.jobs().busy(); }));
        auto& panel = desk_.window.data_page().add_panel();
        while (!panel.waiting().isEmpty()) {
            (void)wait_for([&] { return panel.open() || panel.waiting().isEmpty(); });
            panel.cancel();
        }
    }

    Desk desk_;
    std::mt19937 random_;
    std::vector<const char*> done_;
    std::shared_ptr<const service::Ready> ready_;
    bool stopped_ = false;
};

}  // namespace

TEST_CASE("Whatever is done in whatever order, what is shown is what is so, and nothing is lost") {
    const int seconds = qEnvironmentVariableIsSet("OTORO_SEQUENCE_SECONDS")
                            ? qEnvironmentVariableIntValue("OTORO_SEQUENCE_SECONDS")
                            : 60;
    const int fixed = qEnvironmentVariableIntValue("OTORO_SEQUENCE_SEED");
    QElapsedTimer timer;
    timer.start();
    std::size_t acts = 0;
    for (unsigned seed = static_cast<unsigned>(std::max(1, fixed)); timer.elapsed() < seconds * 1000; ++seed) {
        INFO("seed " << seed);
        Person person(seed);
        while (person.acts() < 60 && timer.elapsed() < seconds * 1000) {
            person.act();
            person.check();
            if (person.acts() % 12 == 0) person.check_round_trip();
        }
        acts += person.acts();
    }
    WARN(acts << " acts");
    CHECK(acts > 20);
}
