#include <QAction>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QShortcut>
#include <QTableView>
#include <QTableWidget>
#include <QTreeWidget>
#include <catch2/catch.hpp>
#include <map>

#include "desktop/application.h"
#include "desktop/at_the_desk.h"
#include "desktop/dialogs.h"
#include "desktop/pages/profile_sheet.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/closure_editor.h"
#include "desktop/parts/curve_view.h"
#include "desktop/parts/findings_list.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/sources_list.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

void move_mouse(QWidget& w, QPoint to, Qt::MouseButtons held) {
    QMouseEvent e(QEvent::MouseMove, to, w.mapToGlobal(to), Qt::NoButton, held, {});
    QApplication::sendEvent(&w, &e);
}

/// The first open site on the map, taken in the hand and moved a good way.
QPoint pick_up_a_site(Desk& desk) {
    auto& map = desk.map();
    const QPoint at = map.screen_of(*desk.session().answers.shown()->outcome.sites[0].planned.site.position).toPoint();
    QTest::mousePress(&map, Qt::LeftButton, {}, at);
    move_mouse(map, at + QPoint(30, 20), Qt::LeftButton);
    move_mouse(map, at + QPoint(60, 40), Qt::LeftButton);
    return at + QPoint(60, 40);
}

/// What is shown is the plan's own answer, wherever one looks.
void check_all_agree(Desk& desk) {
    REQUIRE(desk.settle_plans());
    auto& session = desk.session();
    CHECK_FALSE(session.answers.trying_out());
    CHECK_FALSE(desk.map().dragging());
    const auto answer = session.answers.shown();
    CHECK(answer->outcome.plan.same_as(session.document.plan()));
    const auto own = service::answer(
        *service::prepare(*session.document.study().inputs(), session.document.question(), nullptr, Task()),
        session.document.plan(), Task());
    CHECK(answer->outcome.digest == own.digest);
    const auto verdict = judge(own, *session.document.question().standard);
    CHECK(desk.share() == QString::fromStdString(describe(verdict.share)));
    auto* row = desk.page().plans().list().item(static_cast<int>(session.document.plan_index()));
    CHECK(row->data(Qt::AccessibleTextRole).toString().endsWith(desk.share()));
    CHECK(row->isSelected());
}

void give_a_long_name(std::string& name) { name = std::string(400, 'w'); }

}  // namespace

TEST_CASE("A drag given up in any way leaves everything as it was") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const auto before = desk.session().document.study().plans;
    const QString share = desk.share();
    const auto check = [&](const char* how) {
        INFO(how);
        check_all_agree(desk);
        CHECK(desk.session().document.study().plans == before);
        CHECK(desk.share() == share);
    };
    QPoint at = pick_up_a_site(desk);
    CHECK(desk.session().answers.trying_out());
    QTest::mousePress(&desk.map(), Qt::RightButton, {}, at);
    QTest::mouseRelease(&desk.map(), Qt::RightButton, {}, at);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at);
    Desk::close_editor();
    check("the right button");

    at = pick_up_a_site(desk);
    QTest::keyClick(&desk.map(), Qt::Key_Escape);
    move_mouse(desk.map(), at + QPoint(5, 5), Qt::LeftButton);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at);
    check("Escape");

    at = pick_up_a_site(desk);
    QEvent away(QEvent::WindowDeactivate);
    QApplication::sendEvent(&desk.map(), &away);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at);
    check("another window in front");

    at = pick_up_a_site(desk);
    desk.window.show_data();
    desk.window.show_study();
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at);
    check("another page");

    pick_up_a_site(desk);
    desk.session().answers.stop_working();
    desk.session().answers.ask_again();
    QTest::keyClick(&desk.map(), Qt::Key_Escape);
    check("stopping");
}

TEST_CASE("Undo while an added site is in the hand takes the site away, and nothing breaks") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.session().document.new_plan("extra", {{service::Change::add, "X", desk.map().place_of({300, 200})}});
    REQUIRE(desk.settle_plans());
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const QPoint at =
        desk.map().screen_of(*desk.session().answers.shown()->outcome.sites.back().planned.site.position).toPoint();
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, at);
    move_mouse(desk.map(), at + QPoint(25, 25), Qt::LeftButton);
    CHECK(desk.session().answers.trying_out());
    desk.session().document.undo_stack().undo();
    move_mouse(desk.map(), at + QPoint(35, 35), Qt::LeftButton);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at + QPoint(35, 35));
    CHECK(desk.session().document.study().plans.size() == 1);
    check_all_agree(desk);
}

TEST_CASE("The standard's cross is put back by Escape") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& curve = desk.page().answer().curve();
    REQUIRE(wait_for([&] { return curve.cross().x() > 0; }));
    curve.replot();
    const auto before = desk.session().document.question().standard;
    const QPoint cross = curve.cross().toPoint();
    QTest::mousePress(&curve, Qt::LeftButton, {}, cross);
    move_mouse(curve, cross - QPoint(25, 0), Qt::LeftButton);
    CHECK(desk.session().document.question().standard != before);
    QTest::keyClick(&curve, Qt::Key_Escape);
    CHECK(desk.session().document.question().standard == before);
    move_mouse(curve, cross - QPoint(35, 0), Qt::LeftButton);
    CHECK(desk.session().document.question().standard == before);
}

TEST_CASE("Undo and redo stay on the plan they change") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.new_plan("A", {{service::Change::open, "C1", {}}});
    desk.session().document.new_plan("B", {{service::Change::open, "C2", {}}});
    desk.session().document.choose_plan(1);
    desk.session().document.change_plan("more", {service::Change::open, "C3", {}});
    desk.session().document.choose_plan(2);
    auto& undo = desk.session().document.undo_stack();
    undo.undo();
    CHECK(desk.session().document.plan().name == "A");
    CHECK(desk.session().document.plan().changes.size() == 1);
    desk.session().document.choose_plan(0);
    undo.redo();
    CHECK(desk.session().document.plan().name == "A");
    CHECK(desk.session().document.plan().changes.size() == 2);
    undo.undo();
    undo.undo();  // B goes: back to where it was made
    CHECK(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().name == "A");
    undo.undo();
    CHECK(desk.session().document.plan().name == "Today");
    check_all_agree(desk);
    desk.session().document.rename_plan(0, "x");
    undo.redo();
    desk.session().document.edit("travel", [](service::Study& s) { s.question().profile.mode = travel::Mode::walk; });
    undo.undo();
    CHECK(desk.session().document.plan().name == "A");  // a change of the question stays where one is
    desk.session().document.remove_plan(1);
    CHECK(desk.session().document.plan().name == "Today");
    undo.undo();
    CHECK(desk.session().document.plan().name == "A");
}

TEST_CASE("Closures from a file are one step and one plan with the file's name, and each can be removed") {
    Desk desk;
    desk.add_saltmere();
    std::string features;
    for (int i = 0; i < 26; ++i)
        features += std::string(i ? "," : "") + R"({"type":"Feature","properties":{"name":"works )" +
                    std::to_string(i) + R"("},"geometry":{"type":"Point","coordinates":[)" +
                    std::to_string(-9.50 + 0.002 * i) + ",46.2]}}";
    const auto path =
        desk.folder.write("winter_works.geojson", R"({"type":"FeatureCollection","features":[)" + features + "]}");
    const int steps = desk.session().document.undo_stack().index();
    desk.page().add_closures_from(QString::fromStdString(path));
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.undo_stack().index() == steps + 1);
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().name == "winter works");
    CHECK(desk.session().document.plan().closures.size() == 26);
    REQUIRE(desk.settle_plans());
    desk.page().offer_spot_menu({-9.5, 46.2}, desk.window.pos());
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    REQUIRE(menu);
    const auto all = menu->actions();
    const auto change = std::find_if(all.begin(), all.end(), [](const QAction* a) { return a->menu() != nullptr; });
    REQUIRE(change != all.end());
    const auto entries = (*change)->menu()->actions();
    const auto works =
        std::find_if(entries.begin(), entries.end(), [](const QAction* a) { return a->text().contains("works 7"); });
    REQUIRE(works != entries.end());
    menu->close();
    (*works)->trigger();
    auto* editor = qobject_cast<ClosureEditor*>(QApplication::activePopupWidget());
    REQUIRE(editor);
    QTest::mouseClick(editor->button("open"), Qt::LeftButton);
    CHECK(desk.session().document.plan().closures.size() == 25);
    CHECK(desk.session().document.plan().closures[7].name == "works 8");
}

TEST_CASE("What is done with a set is done with the one whose card was pressed") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.edit("sites of the same name", [](service::Study& s) {
        auto set = std::make_shared<places::SiteSet>(*s.sites[0].set);
        set->name = "households";
        s = with_sites(std::move(s), {set, {}});
    });
    auto& sources = desk.window.data_page().sources();
    const auto act = [&](service::SetKind kind, const char* what) {
        QMenu menu;
        sources.fill_menu(menu, {kind, "households"});
        for (auto* a : menu.actions())
            if (a->text() == what) return a->trigger();
        FAIL("no such entry");
    };
    auto& fixer = desk.window.data_page().fixer();
    places::AttachRule rule;
    rule.limit = Millimetres::metres(42);
    fixer.fix(service::SetAttachRule{{service::SetKind::sites, "households"}, rule}, "rule");
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.study().find_sites("households")->set->attaching.rule == rule);
    CHECK_FALSE(desk.session().document.study().find_demand("households")->set->attaching.rule.limit);
    act(service::SetKind::sites, "Use as demand too");
    CHECK(desk.session().document.study().find_demand("households")->set->count() ==
          9000);  // the one that was there stands
    CHECK(desk.session().document.study().find_demand("households 2"));
    act(service::SetKind::sites, "Remove");
    CHECK_FALSE(desk.session().document.study().find_sites("households"));
    CHECK(desk.session().document.study().find_demand("households"));
}

TEST_CASE("A plan that changes sites of another set than the question's says that it does not apply") {
    Desk desk;
    desk.add_saltmere();
    desk.add(test::saltmere("primary-schools.geojson"));
    desk.session().document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
    REQUIRE(desk.settle_plans());
    const auto quay = desk.session().answers.verdict()->share;
    desk.session().document.choose_plan(0);
    const auto today = desk.session().answers.verdict()->share;
    CHECK(quay != today);
    desk.session().document.edit("schools", [](service::Study& s) { s.question().sites = {"primary schools"}; });
    REQUIRE(desk.settle_plans());
    CHECK(desk.page().plans().list().item(1)->toolTip().contains("does not apply here"));
    CHECK(desk.session().answers.verdict_of(1)->share == desk.session().answers.verdict_of(0)->share);
    desk.session().document.edit("posts", [](service::Study& s) { s.question().sites = {"ambulance posts"}; });
    REQUIRE(desk.settle_plans());
    CHECK_FALSE(desk.page().plans().list().item(1)->toolTip().contains("apply"));
    CHECK(desk.session().answers.verdict_of(1)->share == quay);
}

TEST_CASE("Hidden sites cannot be grabbed") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    desk.map().set_layer_shown(Layer::sites, false);
    const QPoint at = pick_up_a_site(desk);
    CHECK_FALSE(desk.session().answers.trying_out());
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at);
    CHECK(desk.session().document.study().plans.size() == 1);
}

TEST_CASE("A double click on a road adds a site there, and a single one tells of the road") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    // In the middle of a long road, far from every place.
    const auto& network = *desk.session().document.study().roads->network;
    std::optional<QPoint> on_road;
    for (std::uint32_t i = 0; i < network.link_count() && !on_road; ++i) {
        const auto shape = network.shape(LinkId(i));
        desk.map().go_to(geo::between(shape[0], shape[1], 0.5));
        const QPoint middle = desk.map().rect().center();
        int pressed = 0;
        const auto heard = QObject::connect(&desk.map(), &MapView::road_pressed, [&] { ++pressed; });
        QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, middle);
        (void)QTest::qWaitFor([&] { return pressed != 0; }, QApplication::doubleClickInterval() + 1'000);
        QObject::disconnect(heard);
        Desk::close_editor();
        if (pressed == 1) on_road = middle;
        if (i > 5) break;
    }
    REQUIRE(on_road);
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, *on_road);
    QTest::mouseDClick(&desk.map(), Qt::LeftButton, {}, *on_road);
    CHECK_FALSE(QApplication::activePopupWidget());
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().changes[0].change == service::Change::add);
    QTest::qWait(QApplication::doubleClickInterval() + 100);
    CHECK_FALSE(QApplication::activePopupWidget());
}

TEST_CASE("Drawing says how it ends, ends visibly, and is given up when another study comes") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& map = desk.map();
    desk.draw_closure(roads::ClosureShape::area);
    CHECK(map.drawing_hint().contains("double click"));
    QTest::mouseClick(&map, Qt::LeftButton, {}, {300, 200});
    QTest::mouseClick(&map, Qt::LeftButton, {}, {360, 200});
    QTest::keyClick(&map, Qt::Key_Return);
    CHECK_FALSE(map.drawing());
    CHECK(desk.window.notice().text().contains("three points"));
    CHECK(desk.session().document.study().plans.size() == 1);
    desk.draw_closure(roads::ClosureShape::line);
    QTest::keyClick(&map, Qt::Key_Escape);
    CHECK(desk.window.notice().text().contains("given up"));
    desk.draw_closure(roads::ClosureShape::line);
    desk.session().document.put({}, {});
    CHECK_FALSE(map.drawing());
    CHECK(map.cursor().shape() == Qt::ArrowCursor);
}

TEST_CASE("Closing the road where there is none says so") {
    Desk desk;
    desk.add_saltmere();
    roads::Closure far;
    far.vertices = {{-8.0, 46.2}};
    desk.page().take_closure(far);
    CHECK(desk.window.notice().text().contains("no road within 50 m"));
    CHECK(desk.session().document.study().plans.size() == 1);
}

TEST_CASE("After a fix the selection stays on the finding it was on") {
    Desk desk;
    desk.add_saltmere();
    auto& fixer = desk.window.data_page().fixer();
    auto& list = desk.window.data_page().findings();
    REQUIRE(wait_for([&] { return fixer.up_to_date(); }));
    list.pick(service::FindingKind::gaps, "roads", 1);
    const QString finding = list.list().currentItem()->parent()->text(0).section(' ', 1, 1);
    const int gaps = list.list().currentItem()->parent()->childCount();
    QTest::mouseClick(&list.fix_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy() && fixer.up_to_date(); }));
    REQUIRE(list.list().currentItem()->parent());
    CHECK(list.list().currentItem()->parent()->text(0).contains(finding));
    CHECK(list.list().currentItem()->parent()->childCount() == gaps - 1);
    list.pick(service::FindingKind::weights, "households");
    const QString key = list.list().currentItem()->text(0);
    desk.session().document.edit("tolerance", [](service::Study& s) { s.gap_tolerance = Millimetres::metres(1); });
    REQUIRE(wait_for([&] { return fixer.up_to_date(); }));
    CHECK(list.list().currentItem()->text(0) == key);
}

TEST_CASE("Numbers are typed with a comma or a point, and nothing is read as something else") {
    Desk desk;
    desk.add_saltmere();
    auto* box = desk.press_blank("standard")->findChild<NumberBox*>("amount");
    REQUIRE(box);
    const auto type = [&](const QString& text) {
        box->selectAll();
        QTest::keyClicks(box, text);
        QTest::keyClick(box, Qt::Key_Return);
    };
    type("7.5");
    CHECK(desk.session().document.question().standard->limit == Amount(Millis(450'000)));
    type("6,5");
    CHECK(desk.session().document.question().standard->limit == Amount(Millis(390'000)));
    QString refused;
    QObject::connect(box, &NumberBox::refused, [&](const QString& why) { refused = why; });
    type("7000");
    CHECK(refused.contains("7000"));
    CHECK(refused.contains("600"));
    CHECK(desk.session().document.question().standard->limit == Amount(Millis(390'000)));
    refused.clear();
    type("1,234.5");
    CHECK_FALSE(refused.isEmpty());
    CHECK(desk.session().document.question().standard->limit == Amount(Millis(390'000)));
    Desk::close_editor();
}

TEST_CASE("Return in a sheet presses no button") {
    Desk desk;
    desk.window.data_page().type_places();
    desk.window.data_page().show_summary();
    desk.window.show_profiles();
    int sheets = 0;
    for (auto* sheet : desk.window.findChildren<QDialog*>()) {
        ++sheets;
        for (const auto* b : sheet->findChildren<QPushButton*>()) {
            INFO(sheet->objectName().toStdString() << ": " << b->text().toStdString());
            CHECK_FALSE(b->isDefault());
            CHECK_FALSE(b->autoDefault());
        }
    }
    CHECK(sheets == 3);
}

TEST_CASE("A profile that is edited keeps what the question says beside it") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_profiles();
    auto* sheet = desk.window.findChild<ProfileSheet*>();
    QTest::mouseClick(&sheet->copy_button(), Qt::LeftButton);
    QTest::mouseClick(&sheet->use_button(), Qt::LeftButton);
    desk.session().document.edit("one speed",
                                 [](service::Study& s) { s.question().profile.one_speed = Speed::km_per_hour(40); });
    sheet->minutes(0).setValue(0.05);
    CHECK(desk.session().document.question().profile.turning->left == Millis(3000));
    CHECK(desk.session().document.question().profile.one_speed == Speed::km_per_hour(40));
    CHECK_FALSE(desk.session().document.study().profiles[0].one_speed);

    // Left open over another study: what it showed is not there any more.
    desk.session().document.put({}, {});
    CHECK(sheet->list().count() == 4);
    sheet->minutes(0).setValue(0.15);
    sheet->table().item(2, 2)->setText("12");
    CHECK(desk.session().document.study().profiles.empty());
}

TEST_CASE("Names of 400 letters widen nothing") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.edit("names", [](service::Study& s) {
        give_a_long_name(s.name);
        auto demand = std::make_shared<places::DemandSet>(*s.demand[0].set);
        auto sites = std::make_shared<places::SiteSet>(*s.sites[0].set);
        give_a_long_name(demand->name);
        give_a_long_name(demand->weight_name);
        give_a_long_name(sites->name);
        for (auto& site : sites->sites) site.id = site.name = site.id + std::string(400, 'm');
        s.question().demand = {demand->name};
        s.question().sites = {sites->name};
        s.demand[0] = {demand, s.demand[0].origin};
        give_a_long_name(s.demand[0].origin.file);
        s.sites[0] = {sites, s.sites[0].origin};
        s.profiles.push_back(
            {travel::Mode::walk, std::nullopt, std::string(400, 'p'), travel::standard_table(travel::Mode::walk)});
        s.question().profile = s.profiles[0];
    });
    desk.session().document.new_plan(QString(400, 'q'),
                                     {{service::Change::add, std::string(400, 's'), geo::LonLat{-9.47, 46.2}}});
    REQUIRE(desk.settle_plans());
    desk.window.resize(1024, 700);
    desk.window.notice().trouble(QString(400, 'x'));
    for (const bool data : {true, false}) {
        if (data)
            desk.window.show_data();
        else
            desk.window.show_study();
        QApplication::processEvents();
        for (auto* w : desk.window.findChildren<QWidget*>())
            if (w->isVisible() && w->minimumSizeHint().width() > 300)
                UNSCOPED_INFO(w->metaObject()->className()
                              << " " << w->objectName().toStdString() << " " << w->minimumSizeHint().width());
        CHECK(desk.window.minimumSizeHint().width() <= 1024);
        CHECK(desk.window.width() == 1024);
    }
    desk.window.take_file(
        QString::fromStdString(desk.folder.write(std::string(200, 'f') + ".csv", "id,lon,lat\na,1,2\n")));
    REQUIRE(wait_for([&] { return desk.window.data_page().add_panel().open(); }));
    CHECK(desk.window.minimumSizeHint().width() <= 1024);
    desk.window.show_study();
    CHECK(desk.window.minimumSizeHint().width() <= 1024);
}

TEST_CASE("Find goes on to the next match, through all sets, and says what it found") {
    Desk desk;
    desk.add_saltmere();
    desk.add(test::saltmere("primary-schools.geojson"));
    const auto& schools = desk.session().document.study().find_sites("primary schools")->set->sites;
    desk.find(QString::fromStdString(schools[2].name));
    CHECK(desk.window.notice().text().contains(QString::fromStdString(schools[2].name)));
    CHECK(desk.window.notice().text().contains("primary schools"));
    std::set<QString> said;
    for (int i = 0; i < 3; ++i) {
        desk.find("row");
        said.insert(desk.window.notice().text());
    }
    CHECK(said.size() == 3);
    CHECK(
        std::all_of(said.begin(), said.end(), [](const QString& s) { return s.contains("Return goes to the next"); }));
    desk.find("nowhere at all");
    CHECK(desk.window.notice().is_trouble());
    desk.window.find_box().setFocus();
    QTest::keyClicks(&desk.window.find_box(), "x");
    CHECK_FALSE(desk.window.notice().is_trouble());  // it holds no longer
}

TEST_CASE("A record that is picked comes into sight") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.map().go_to(*desk.session().document.study().demand[0].set->places[0].position);
    desk.map().zoom_by(50, desk.map().rect().center());
    auto& table = desk.page().records().demand_table();
    std::uint32_t far = 0;
    const auto& places = desk.session().document.study().demand[0].set->places;
    const auto out_of_sight = [&](std::uint32_t i) {
        return places[i].position && !desk.map().rect().contains(desk.map().screen_of(*places[i].position).toPoint());
    };
    while (!out_of_sight(far)) ++far;
    table.selectRow(table.model()->index(static_cast<int>(far), 0).row());
    CHECK_FALSE(out_of_sight(far));
    const auto centre = desk.map().viewport().centre;
    table.selectRow(table.model()->index(static_cast<int>(far), 0).row());
    CHECK(desk.map().viewport().centre == centre);  // in sight already
}

TEST_CASE("What is thrown in a slot becomes a message, not the end") {
    Desk desk;
    auto* app = qobject_cast<Application*>(qApp);
    REQUIRE(app);
    QObject::connect(app, &Application::trouble, &desk.window, &MainWindow::tell_trouble);
    QTimer::singleShot(0, [] { throw std::runtime_error("a slot broke"); });
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("a slot broke"); }));
    desk.window.jobs().fixing.run([](const Task&) -> Background::Then { throw std::bad_alloc(); });
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("not enough memory"); }));
    desk.window.jobs().reading.run([](const Task&) -> Background::Then { throw 7; });
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("unexpected"); }));
    desk.window.jobs().reading.run(
        [](const Task&) -> Background::Then { return [] { throw std::runtime_error("the end broke"); }; });
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("the end broke"); }));
    CHECK_FALSE(desk.window.jobs().busy());
}

TEST_CASE("No shortcut means two things") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_data();
    std::map<QString, int> uses;
    for (const auto* s : desk.window.findChildren<QShortcut*>())
        if (s->context() != Qt::WidgetShortcut) ++uses[s->key().toString()];
    for (const auto* a : desk.window.findChildren<QAction*>())
        for (const auto& k : a->shortcuts())
            if (a->shortcutContext() != Qt::WidgetShortcut) ++uses[k.toString()];
    CHECK(uses.size() > 10);
    for (const auto& [key, n] : uses) {
        INFO(key.toStdString());
        CHECK(n == 1);
    }
    QApplication::clipboard()->setText("id,lon,lat\nh,-9.5,46.2\n");
    desk.window.activateWindow();
    REQUIRE(wait_for([&] { return desk.window.isActiveWindow(); }));
    QTest::keyClick(&desk.window, Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(wait_for([&] { return desk.window.data_page().add_panel().open(); }));
}

TEST_CASE("Each work has its own progress and its own stop") {
    Desk desk;
    std::atomic<bool> reading = true, fixing = true;
    const auto until_stopped = [](std::atomic<bool>& on, const char* step) {
        return [&on, step](const Task& task) -> Background::Then {
            while (on) task.at(step, 0.5);
            return [] {};
        };
    };
    desk.window.jobs().reading.run(until_stopped(reading, "reading long"));
    desk.window.jobs().fixing.run(until_stopped(fixing, "fixing long"));
    const auto line = [&](const char* text) -> ProgressLine* {
        for (auto* l : desk.window.findChildren<ProgressLine*>())
            if (l->text().contains(text)) return l;
        return nullptr;
    };
    REQUIRE(wait_for([&] { return line("reading long") && line("fixing long"); }));
    QTest::mouseClick(&line("reading long")->stop_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !desk.window.jobs().reading.busy(); }));
    CHECK(desk.window.jobs().fixing.busy());
    CHECK_FALSE(line("reading long"));
    CHECK(line("fixing long"));
    fixing = false;
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
}

TEST_CASE("While an older answer stands there is a way to go on after stopping") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.session().document.edit("travel", [](service::Study& s) { s.question().profile.mode = travel::Mode::walk; });
    desk.session().answers.stop_working();
    QPushButton* again = nullptr;
    for (auto* b : desk.page().verdict().findChildren<QPushButton*>())
        if (b->isVisible()) again = b;
    REQUIRE(again);
    QTest::mouseClick(again, Qt::LeftButton);
    REQUIRE(desk.settle());
    check_all_agree(desk);
}

TEST_CASE("Remarks go away by themselves, errors stay until they hold no longer") {
    Desk desk;
    desk.window.notice().set_remark_time(30);
    desk.window.notice().say("a remark");
    CHECK(desk.window.notice().text() == "a remark");
    CHECK(wait_for([&] { return desk.window.notice().text().isEmpty(); }));
    desk.window.notice().trouble("an error", "topic");
    desk.window.notice().say("a remark");
    CHECK(desk.window.notice().text() == "an error");
    desk.window.notice().settled("another");
    CHECK(desk.window.notice().text() == "an error");
    desk.window.notice().settled("topic");
    CHECK(desk.window.notice().text().isEmpty());
}

TEST_CASE("Errors stand one behind another, and a remark hides none of them") {
    Notice notice;
    notice.say("Saved");
    CHECK(notice.text() == "Saved");
    notice.trouble("the first error", "one");
    notice.trouble("the second error", "two");
    CHECK(notice.text().contains("second"));
    notice.say("3 places found");
    CHECK(notice.text().contains("second"));
    notice.settled("two");
    CHECK(notice.text().contains("first"));
    CHECK(notice.is_trouble());
    int chosen = 0;
    notice.offer("written by somebody else", {{"Save anyway", [&] { ++chosen; }}}, "save");
    notice.say("3 places found");
    CHECK(notice.text().contains("somebody else"));
    notice.trouble("the first error again", "one");  // takes the place of the one before it
    notice.settled("save");
    CHECK(notice.text().contains("again"));
    notice.settled("one");
    CHECK(notice.text().isEmpty());
    CHECK(chosen == 0);
}
