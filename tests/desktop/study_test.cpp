#include <QAction>
#include <QCheckBox>
#include <QListWidget>
#include <QMenu>
#include <QTableWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/map/map_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/curve_view.h"
#include "desktop/parts/plan_list.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

TEST_CASE("From three files to a verdict") {
    Desk desk;
    CHECK(desk.verdict() == "no answer yet");
    desk.add_saltmere();
    REQUIRE(desk.session().answers.shown());
    const auto& o = desk.session().answers.shown()->outcome;
    CHECK(o.places.size() == 9000);
    CHECK(o.tally(service::Status::no_road_near).places == 1);
    CHECK(o.tally(service::Status::cut_off).places > 0);
    CHECK(desk.share() == QString::fromStdString(describe(desk.session().answers.verdict()->share)));
    CHECK(desk.verdict() == QString::fromUtf8("\u2717 not met"));
    CHECK(desk.page().question().text().startsWith(
        "The households, counted by residents, are each served by the nearest by time of the open ambulance "
        "posts, driving to the place"));
    CHECK(desk.page().answer().statuses().rowCount() == 3);
    CHECK(desk.page().answer().loads().rowCount() == 5);
    CHECK(wait_for([&] { return desk.window.data_tab().text() == "Data (7)"; }));
}

TEST_CASE("Each blank of the question can be changed, and the answer follows") {
    Desk desk;
    desk.add_saltmere();
    auto& session = desk.session();
    const auto first = session.answers.shown();

    Desk::choose(desk.press_blank("travel"), 1);
    Desk::close_editor();
    CHECK(session.document.question().profile.mode == travel::Mode::respond);
    REQUIRE(desk.settle());
    CHECK(session.answers.shown() != first);
    CHECK(statistics(session.answers.shown()->outcome, routing::Measure::time)->mean <
          statistics(first->outcome, routing::Measure::time)->mean);

    desk.press_blank("serving")->findChild<QComboBox*>("measure")->setCurrentIndex(1);
    Desk::close_editor();
    CHECK(session.document.question().measure() == routing::Measure::distance);
    Desk::choose(desk.press_blank("towards"), 1);
    Desk::close_editor();
    CHECK(session.document.question().towards == service::Towards::site);
    Desk::choose(desk.press_blank("weight"), 0);
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(session.answers.shown()->outcome.all.weight == Weight::of(9000));

    auto* sites = desk.press_blank("sites");
    QTest::mouseClick(sites->findChild<QCheckBox*>(), Qt::LeftButton, {}, QPoint(8, 8));
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(desk.page().answer().loads().rowCount() == 9);

    auto* limit = desk.press_blank("limit");
    QTest::mouseClick(limit->findChild<QCheckBox*>(), Qt::LeftButton, {}, QPoint(8, 8));
    limit->findChild<QDoubleSpinBox*>("amount")->setValue(4);
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(session.document.question().limit == Amount(Millis::minutes(4)));
    CHECK(session.answers.shown()->outcome.tally(service::Status::beyond_limit).places > 0);

    auto* speed = desk.press_blank("travel");
    QTest::mouseClick(speed->findChild<QCheckBox*>(), Qt::LeftButton, {}, QPoint(8, 8));
    Desk::close_editor();
    CHECK(session.document.question().profile.one_speed == Speed::km_per_hour(40));
    REQUIRE(desk.settle());
}

TEST_CASE("Another standard is judged at once: nothing is searched again") {
    Desk desk;
    desk.add_saltmere();
    const auto answer = desk.session().answers.shown();
    const QString before = desk.share();
    auto* editor = desk.press_blank("standard");
    editor->findChild<QDoubleSpinBox*>("amount")->setValue(3);
    CHECK(desk.share() != before);  // without waiting for anything
    CHECK(desk.session().answers.up_to_date());
    CHECK(desk.session().answers.shown() == answer);
    Desk::close_editor();
    editor = desk.press_blank("share");
    editor->findChild<QDoubleSpinBox*>("amount")->setValue(1);
    CHECK(desk.verdict() == QString::fromUtf8("\u2713 met"));
    Desk::close_editor();
}

TEST_CASE("Opening a candidate makes a plan, and shows what changes from Today") {
    Desk desk;
    desk.add_saltmere();
    const auto today = desk.session().answers.verdict()->share;
    const auto& site = desk.session().document.study().sites[0].set->sites[5];
    REQUIRE(site.state == places::SiteState::candidate);
    desk.page().offer_site_menu(SiteIndex(5u), desk.window.pos());
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    REQUIRE(menu);
    REQUIRE(menu->actions().size() == 4);  // its name, what it would bring, the way to it, and a stop there
    REQUIRE(menu->actions().at(2)->text() == "New plan: open Quay");
    menu->actions().at(2)->trigger();
    Desk::close_editor();
    REQUIRE(desk.settle_plans());
    CHECK(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().name == "Quay opens");
    CHECK(desk.session().answers.verdict()->share > today);
    CHECK(desk.page().plans().list().count() == 2);

    desk.page().plans().list().setCurrentRow(0);
    CHECK(desk.session().document.plan_index() == 0);
    CHECK(desk.session().answers.verdict()->share == today);
    CHECK(desk.session().answers.up_to_date());
}

TEST_CASE("Undo and redo walk through everything") {
    Desk desk;
    desk.add_saltmere();
    const auto today = desk.share();
    desk.session().document.new_plan("Mill opens", {{service::Change::open, "C2", {}}});
    REQUIRE(desk.settle_plans());
    Desk::choose(desk.press_blank("travel"), 2);
    Desk::close_editor();
    REQUIRE(desk.settle());
    auto& undo = desk.session().document.undo_stack();
    undo.undo();
    CHECK(desk.session().document.question().profile.mode == travel::Mode::drive);
    undo.undo();
    CHECK(desk.session().document.study().plans.size() == 1);
    REQUIRE(desk.settle());
    CHECK(desk.share() == today);
    undo.undo();
    CHECK(desk.session().document.study().sites.empty());
    CHECK(desk.verdict() == "no answer yet");
    while (undo.canUndo()) undo.undo();
    CHECK(desk.session().document.study().empty());
    while (undo.canRedo()) undo.redo();
    REQUIRE(desk.settle());
    CHECK(desk.session().document.question().profile.mode == travel::Mode::walk);
    CHECK(desk.session().document.study().plans.size() == 2);
}

TEST_CASE("Turning a number is one step of undo") {
    Desk desk;
    desk.add_saltmere();
    const int before = desk.session().document.undo_stack().index();
    auto* spin = desk.press_blank("standard")->findChild<QDoubleSpinBox*>("amount");
    for (double v = 8; v < 12; v += 0.5) spin->setValue(v);
    Desk::close_editor();
    CHECK(desk.session().document.undo_stack().index() == before + 1);
    desk.session().document.undo_stack().undo();
    CHECK(desk.session().document.question().standard->limit == Amount(Millis::minutes(8)));
}

TEST_CASE("Of many quick changes only the last is answered") {
    Desk desk;
    desk.add_saltmere();
    int said = 0;
    QObject::connect(&desk.session().answers, &Answers::changed,
                     [&] { said += desk.session().answers.up_to_date() ? 1 : 0; });
    for (int i = 0; i < 40; ++i)
        desk.session().document.edit(
            "speed", [&](service::Study& s) { s.question().profile.one_speed = Speed::km_per_hour(20 + i); });
    CHECK(desk.verdict() == "out of date");
    REQUIRE(desk.settle());
    CHECK(desk.session().answers.shown()->outcome.question.profile.one_speed == Speed::km_per_hour(59));
    CHECK(said < 40);
}

TEST_CASE("The curve's cross moves the standard, with the mouse and with keys") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.page().answer().curve().cross().x() > 0; }));
    auto& curve = desk.page().answer().curve();
    curve.replot();
    const QPoint cross = curve.cross().toPoint();
    QTest::mousePress(&curve, Qt::LeftButton, {}, cross);
    QMouseEvent move(QEvent::MouseMove, cross - QPoint(20, 0), curve.mapToGlobal(cross - QPoint(20, 0)), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(&curve, &move);
    QTest::mouseRelease(&curve, Qt::LeftButton, {}, cross - QPoint(20, 0));
    const auto dragged = std::get<Millis>(desk.session().document.question().standard->limit);
    CHECK(dragged < Millis::minutes(8));
    QTest::keyClick(&curve, Qt::Key_Right);
    CHECK(std::get<Millis>(desk.session().document.question().standard->limit) == dragged + Millis(30'000));
    const auto share = desk.session().document.question().standard->share;
    QTest::keyClick(&curve, Qt::Key_Down);
    CHECK(desk.session().document.question().standard->share < share);
}

TEST_CASE("Plans can be renamed and removed, Today cannot") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.new_plan("A", {{service::Change::open, "C1", {}}});
    desk.session().document.new_plan("A", {{service::Change::open, "C2", {}}});
    CHECK(desk.session().document.plan().name == "A 2");
    desk.session().document.rename_plan(2, "B");
    CHECK(desk.session().document.study().find_plan("B"));
    desk.session().document.rename_plan(2, "A");  // taken
    CHECK(desk.session().document.study().find_plan("B"));
    desk.session().document.remove_plan(0);
    CHECK(desk.session().document.study().plans.size() == 3);
    desk.session().document.remove_plan(2);
    CHECK(desk.session().document.study().plans.size() == 2);
    REQUIRE(desk.settle());
}

TEST_CASE("Stopping leaves the answer marked out of date, and it can be worked out again") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.edit("travel", [](service::Study& s) { s.question().profile.mode = travel::Mode::walk; });
    desk.session().answers.stop_working();
    CHECK_FALSE(desk.session().answers.up_to_date());
    CHECK(desk.verdict() == "out of date");
    CHECK_FALSE(desk.session().answers.to_export());
    desk.session().answers.ask_again();
    REQUIRE(desk.settle());
    CHECK(desk.session().answers.shown()->outcome.question.profile.mode == travel::Mode::walk);
}
