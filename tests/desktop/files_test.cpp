#include <QComboBox>
#include <QDir>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QImageReader>
#include <QLineEdit>
#include <QMimeData>
#include <QTreeWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/recovery_strip.h"
#include "files/study_file.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

TEST_CASE("A study is saved, opened again, and says the same") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
    REQUIRE(desk.settle_plans());
    const QString share = desk.share();
    CHECK(desk.session().document.has_unsaved_changes());
    const QString path = QString::fromStdString(desk.folder.file("mine.otoro.gpkg"));
    desk.window.files().save(path);
    REQUIRE(desk.settle());
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    CHECK(desk.session().document.path() == path);
    CHECK(desk.window.files().recent().first() == path);

    Desk other;
    other.window.take_file(path);
    REQUIRE(wait_for([&] { return other.session().document.study().inputs().has_value(); }));
    REQUIRE(other.settle());
    CHECK(other.session().document.study().plans.size() == 2);
    other.session().document.choose_plan(1);
    REQUIRE(other.settle_plans());
    CHECK(other.share() == share);
    CHECK_FALSE(other.session().document.has_unsaved_changes());
}

TEST_CASE("The answer and the map are handed out") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    for (const char* name : {"a.csv", "a.gpkg", "a.geojson"}) {
        desk.window.exports().answer(QString::fromStdString(desk.folder.file(name)));
        REQUIRE(desk.settle());
        CHECK(std::filesystem::file_size(desk.folder.file(name)) > 100'000);
    }
    const auto csv = test::contents(desk.folder.file("a.csv"));
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 9001);
    desk.window.exports().map(QString::fromStdString(desk.folder.file("m.png")));
    desk.window.exports().map(QString::fromStdString(desk.folder.file("m.svg")));
    REQUIRE(desk.settle());
    CHECK(QImageReader(QString::fromStdString(desk.folder.file("m.png"))).size().width() == desk.map().width() * 2);
    // The question and the legend stand above and below the map.
    CHECK(QImageReader(QString::fromStdString(desk.folder.file("m.png"))).size().height() >
          desk.map().height() * 2 + 100);
    CHECK(test::contents(desk.folder.file("m.svg")).find("households") != std::string::npos);
    CHECK(test::contents(desk.folder.file("m.svg")).find("<svg") != std::string::npos);
    desk.window.exports().map(QString::fromStdString(desk.folder.file("no/such/m.png")));
    REQUIRE(desk.settle());
    CHECK(desk.window.notice().text().contains("no such folder"));
}

TEST_CASE("A handed-out table judges by the standard as it stands now") {
    Desk desk;
    desk.add_saltmere();
    desk.session().document.edit("standard", [](service::Study& s) { s.question().standard->limit = Millis(1); });
    desk.window.exports().answer(QString::fromStdString(desk.folder.file("a.csv")));
    REQUIRE(desk.settle());
    CHECK(test::contents(desk.folder.file("a.csv")).find(",yes,") == std::string::npos);
}

TEST_CASE("A bad file gets a remark that names it, and the study stays as it was") {
    Desk desk;
    desk.add_saltmere();
    const auto before = desk.session().document.undo_stack().index();
    const auto bad = desk.folder.write("noise.gpkg", "this is no map");
    desk.window.take_file(QString::fromStdString(bad));
    REQUIRE(wait_for(
        [&] { return !desk.window.notice().text().isEmpty() && desk.window.notice().text().contains("noise.gpkg"); }));
    CHECK(desk.session().document.undo_stack().index() == before);
    CHECK_FALSE(desk.window.data_page().add_panel().open());

    // Points taken for roads.
    desk.window.take_file(test::saltmere("households.csv"));
    REQUIRE(wait_for([&] { return desk.window.data_page().add_panel().open(); }));
    desk.window.data_page().add_panel().role().setCurrentIndex(static_cast<int>(Role::roads));
    desk.window.data_page().add_panel().accept();
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("households.csv"); }));
    CHECK(desk.session().document.undo_stack().index() == before);
    CHECK(desk.session().document.study().roads->origin.file == "roads.gpkg");
}

TEST_CASE("What a file is taken for is guessed and can be changed") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    desk.window.take_file(test::saltmere("households.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    CHECK(panel.role().currentIndex() == static_cast<int>(Role::demand));
    CHECK(panel.field(0).currentText() == "id");
    CHECK(panel.field(1).currentText() == "residents");
    CHECK(panel.field(10).currentText() == "lon (by name)");
    panel.field(1).setCurrentIndex(0);
    panel.set_name().setText("homes");
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
    CHECK(desk.session().document.study().demand[0].set->name == "homes");
    CHECK(desk.session().document.study().demand[0].set->weight_name.empty());
    CHECK(desk.session().document.study().demand[0].set->places[0].weight == Weight::one());

    desk.window.take_file(test::saltmere("primary-schools.geojson"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    CHECK(panel.role().currentIndex() == static_cast<int>(Role::sites));
    CHECK(panel.field(3).currentText() == "places");
    panel.cancel();
    CHECK_FALSE(panel.open());
    CHECK(desk.session().document.study().sites.empty());
}

TEST_CASE("Files dropped on the window are brought in one after another") {
    Desk desk;
    QMimeData data;
    data.setUrls(
        {QUrl::fromLocalFile(test::saltmere("roads.gpkg")), QUrl::fromLocalFile(test::saltmere("pupils.csv"))});
    QDragEnterEvent enter({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(&desk.window, &enter);
    CHECK(enter.isAccepted());
    QDropEvent drop({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(&desk.window, &drop);
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.accept();
    const bool both = wait_for([&] { return desk.session().document.study().roads.has_value() && panel.open(); });
    INFO(desk.window.notice().text().toStdString()
         << " roads " << desk.session().document.study().roads.has_value() << " open " << panel.open());
    REQUIRE(both);
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
}

TEST_CASE("After a crash the study can be brought back") {
    test::Folder folder;
    const QString recovery = QString::fromStdString(folder.file("recovery"));
    {
        MainWindow window(recovery);
        window.session().document.edit("bring in", [](service::Study& s) {
            auto homes = files::read_demand({{OTORO_SALTMERE "/pupils.csv", "", "", "", ""}, {}, {}}, Task());
            s = with_demand(s, {std::make_shared<const places::DemandSet>(homes.demand), {}});
        });
        bool kept = false;
        QObject::connect(&window.files(), &StudyFiles::copy_kept, [&] { kept = true; });
        window.files().keep_copy();
        REQUIRE(wait_for([&] { return kept; }));
        // As a program that is no longer running would have left it.
        QFile::copy(window.files().copy_path(), recovery + "/999999999.otoro.gpkg");
    }
    MainWindow next(recovery);
    next.show();
    CHECK(next.recovery().text().contains("stopped before a study was saved"));
    REQUIRE(next.files().left_behind().size() == 1);
    QTest::mouseClick(&next.recovery().bring_back(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !next.session().document.study().demand.empty(); }));
    CHECK(next.session().document.study().demand[0].set->count() == 1400);
    CHECK(next.session().document.has_unsaved_changes());
    CHECK(next.files().left_behind().empty());
    CHECK(next.recovery().text().isEmpty());
}

TEST_CASE("Leaving in order keeps no copy behind") {
    test::Folder folder;
    const QString recovery = QString::fromStdString(folder.file("recovery"));
    {
        MainWindow window(recovery);
        window.files().keep_copy();  // nothing is unsaved yet
        CHECK(QDir(recovery).entryList(QDir::Files).isEmpty());
        window.session().document.edit("rename", [](service::Study& s) { s.name = "Not empty any more"; });
        bool kept = false;
        QObject::connect(&window.files(), &StudyFiles::copy_kept, [&] { kept = true; });
        window.files().keep_copy();
        REQUIRE(wait_for([&] { return kept; }));
        CHECK(QFile::exists(window.files().copy_path()));
        window.files().keep_copy();  // one is being written while the window goes
    }
    CHECK(QDir(recovery).entryList(QDir::Files).isEmpty());
}
