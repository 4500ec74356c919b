/// Where one begins: the empty desk, the example, several files at once, and what is known before they are added.
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QSettings>
#include <QTableWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/pages/about_sheet.h"
#include "desktop/pages/start_page.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/preview_view.h"
#include "desktop/parts/site_picker.h"
#include "desktop/words.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

TEST_CASE("The empty desk offers the example, which opens as a new study with its questions") {
    Desk desk;
    CHECK(desk.window.start_page().isVisible());
    REQUIRE_FALSE(example_study().isEmpty());
    QTest::mouseClick(&desk.window.start_page().example(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
    REQUIRE(desk.settle());
    CHECK(desk.page().isVisible());
    CHECK(desk.session().document.study().questions.size() == 6);
    CHECK(desk.session().document.study().plans.size() > 1);
    CHECK(desk.session().document.path().isEmpty());  // saved elsewhere, never over the example
}

TEST_CASE("Recent studies stand on the empty desk with their folders, and one press opens them") {
    QString saved;
    Desk first;
    first.add_saltmere();
    saved = QString::fromStdString(first.folder.file("winter.otoro.gpkg"));
    first.window.files().save(saved);
    REQUIRE(first.settle());
    Desk desk;
    auto& recent = desk.window.start_page().recent();
    REQUIRE(recent.count() > 0);
    CHECK(recent.item(0)->text().startsWith("winter.otoro.gpkg"));
    CHECK(recent.item(0)->text().contains(" in "));
    QTest::mouseClick(recent.viewport(), Qt::LeftButton, {}, recent.visualItemRect(recent.item(0)).center());
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
    CHECK(desk.session().document.path() == saved);
}

TEST_CASE("Several files are added in one go, each as it is recognised") {
    Desk desk;
    for (const char* file :
         {"roads.gpkg", "households.csv", "ambulance-posts.geojson", "zones.geojson", "water.geojson"})
        desk.window.take_file(test::saltmere(file));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 5; }));
    CHECK(panel.all_button().text().contains("5"));
    QTest::mouseClick(&panel.all_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return panel.waiting().isEmpty(); }));
    const auto& study = desk.session().document.study();
    CHECK(study.roads);
    CHECK(study.demand.size() == 1);
    CHECK(study.sites.size() == 1);
    CHECK(study.zones.size() == 1);
    CHECK(study.water);
    // What would replace something is asked about all the same.
    for (const char* file : {"households.csv", "roads.gpkg", "pupils.csv"}) desk.window.take_file(test::saltmere(file));
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 3; }));
    panel.cancel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.cancel();
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 1; }));
    desk.window.take_file(test::saltmere("roads.gpkg"));
    REQUIRE(wait_for([&] { return panel.waiting().size() == 2; }));
    panel.accept_all();
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 1; }));
    CHECK(study.demand.size() == 2);
    CHECK(panel.isVisible());  // the roads wait for a decision
}

TEST_CASE("A file shows its first records and where they lie before it is added") {
    Desk desk;
    desk.add(test::saltmere("roads.gpkg"));
    desk.window.take_file(test::saltmere("households.csv"));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    auto& table = panel.previewed().table();
    REQUIRE(wait_for([&] { return table.rowCount() == 5; }));
    CHECK(table.horizontalHeaderItem(0)->text() == "id");
    CHECK(table.item(0, 0)->text() == "H00001");
    // A condition narrows it.
    panel.filter().setText("id = 'H00042'");
    REQUIRE(wait_for([&] { return table.rowCount() == 1; }));
    CHECK(table.item(0, 0)->text() == "H00042");
    panel.filter().setText("id = ");
    REQUIRE(wait_for([&] { return !panel.previewed().note().isEmpty(); }));
}

TEST_CASE("Places that were typed are there again after the sheet was closed") {
    Desk desk;
    desk.window.data_page().type_places();
    auto* sheet = desk.window.findChild<QDialog*>("typing");
    REQUIRE(sheet);
    sheet->findChild<QPlainTextEdit*>()->setPlainText("id,lon,lat\nA,-9.49,46.2\n");
    QTest::keyClick(sheet, Qt::Key_Escape);
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    desk.window.data_page().type_places();
    sheet = desk.window.findChild<QDialog*>("typing");
    REQUIRE(sheet);
    CHECK(sheet->findChild<QPlainTextEdit*>()->toPlainText().contains("A,-9.49,46.2"));
}

TEST_CASE("Find suggests while one types, and a suggestion is gone to") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.window.activateWindow();
    auto& box = desk.window.find_box();
    box.setFocus();
    REQUIRE(wait_for([&] { return box.hasFocus(); }));
    QTest::keyClicks(&box, "mar");
    REQUIRE(wait_for([&] { return !box.suggestions().empty(); }));
    CHECK(box.suggestions()[0].name == "Market Cross");
    CHECK(box.suggestions().size() <= 12);
    Desk::close_editor();
    QTest::keyClick(&box, Qt::Key_Return);
    REQUIRE(wait_for([&] { return desk.session().selection.picked().site.has_value(); }));
    CHECK(desk.session().selection.picked().site == SiteIndex(0u));
}

TEST_CASE("The list for a new plan is searched, and Return takes what is left") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto* button = desk.page().plans().findChild<QPushButton*>();
    QTest::mouseClick(button, Qt::LeftButton);
    auto* picker = qobject_cast<SitePicker*>(QApplication::activePopupWidget());
    REQUIRE(picker);
    CHECK(picker->list().count() == 9);
    picker->filter().setText("quay");
    QTest::keyClick(&picker->filter(), Qt::Key_Return);
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().name == "Quay opens");
}

TEST_CASE("A name that cannot be had is said, and nothing is renamed") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.new_plan("A", {{service::Change::open, "C1", {}}});
    desk.session().document.new_plan("B", {{service::Change::open, "C2", {}}});
    desk.session().document.rename_plan(2, "A");
    CHECK(desk.session().document.study().plans[2].name == "B");
    CHECK(desk.window.notice().text().contains("called \u2018A\u2019 already"));
    desk.session().document.rename_plan(2, "C");
    CHECK_FALSE(desk.window.notice().is_trouble());
}

TEST_CASE("Lengths are said in miles where the planner wants them") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.session().document.edit("limit", [](service::Study& s) { s.question().limit = Millimetres::metres(16'093); });
    REQUIRE(desk.settle());
    CHECK(desk.page().question().text().contains("km"));
    choose_miles(true);
    emit desk.session().document.question_changed();
    CHECK(desk.page().question().text().contains("10 mi"));
    CHECK_FALSE(desk.page().question().text().contains("km"));
    choose_miles(false);
    QSettings().remove("units/miles");
}

TEST_CASE("About says the licences") {
    Desk desk;
    desk.window.show_about();
    auto* sheet = desk.window.findChild<AboutSheet*>();
    REQUIRE(sheet);
    CHECK(sheet->isVisible());
}

TEST_CASE("Return among the suggestions goes to the first, and what is typed on is looked for anew") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.window.activateWindow();
    auto& box = desk.window.find_box();
    box.setFocus();
    REQUIRE(wait_for([&] { return box.hasFocus(); }));
    QTest::keyClicks(&box, "qua");
    REQUIRE(wait_for([&] { return QApplication::activePopupWidget() != nullptr; }));
    QTest::keyClick(QApplication::activePopupWidget(), Qt::Key_Return);
    REQUIRE(wait_for([&] { return desk.session().selection.picked().site.has_value(); }));
    CHECK(desk.session().selection.picked().site == SiteIndex(5u));
    // Another study meanwhile: what was found in the one before is not gone to.
    box.clear();
    QTest::keyClicks(&box, "mark");
    desk.session().document.put({}, {});
    QTest::keyClick(&box, Qt::Key_Return);
    REQUIRE(wait_for([&] { return desk.window.notice().is_trouble(); }));
    CHECK_FALSE(desk.session().selection.picked().site);
}

TEST_CASE("Opening a blank and leaving it changes nothing, in miles and with a decimal comma too") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.session().document.edit("limits", [](service::Study& s) {
        auto& q = s.question();
        q.limit = Millimetres::metres(12'345);
        q.standard = service::Standard{Share::percent(84.37), Amount(Millis(492'345))};
        q.profile.one_speed = Speed::km_per_hour(37.123);
        q.off_road_speed = Speed::km_per_hour(4.321);
    });
    REQUIRE(desk.settle());
    const auto question = desk.session().document.question();
    const int steps = desk.session().document.undo_stack().index();
    for (const bool miles : {false, true}) {
        set_wording({',', {'.'}, miles});
        emit desk.session().document.question_changed();
        for (const char* key :
             {"demand", "weight", "serving", "sites", "travel", "towards", "limit", "share", "standard"}) {
            INFO(key);
            auto* editor = desk.press_blank(key);
            for (auto* box : editor->findChildren<QDoubleSpinBox*>()) {
                box->setFocus();
                QTest::keyClick(box, Qt::Key_Tab);
            }
            if (QApplication::activePopupWidget() == editor) QTest::keyClick(editor, Qt::Key_Return);
            Desk::close_editor();
            CHECK(desk.session().document.question() == question);
        }
    }
    set_wording({});
    CHECK(desk.session().document.undo_stack().index() == steps);
}
