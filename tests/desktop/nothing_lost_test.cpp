#include <QComboBox>
#include <QDir>
#include <QFileInfo>
#include <QLineEdit>
#include <QRadioButton>
#include <catch2/catch.hpp>
#include <semaphore>

#include "desktop/at_the_desk.h"
#include "desktop/dialogs.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/curve_view.h"
#include "desktop/parts/recovery_strip.h"
#include "desktop/parts/save_place.h"
#include "files/atomic_file.h"
#include "files/study_file.h"
#include "geo/error.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Answering;
using test::Desk;
using test::press;
using test::wait_for;

namespace {

QString in(const Desk& desk, const char* name) { return QString::fromStdString(desk.folder.file(name)); }

service::Study read(const QString& path) { return files::open_study(path.toStdString(), Task()); }

Amount limit_of(const service::Study& s) { return s.question().standard->limit; }

/// A study with pupils in it and nothing else: quick to save.
void add_pupils(Session& session, const char* name = "pupils") {
    session.document.edit("add", [&](service::Study& s) {
        auto set = std::make_shared<places::DemandSet>(
            files::read_demand({{OTORO_SALTMERE "/pupils.csv", "", "", "", ""}, {}, {}}, Task()).demand);
        set->name = name;
        s = with_demand(std::move(s), {set, {}});
    });
}

bool saved(Desk& desk, const QString& path) {
    bool done = false, ok = false;
    desk.window.files().save(path, [&](bool was) { done = true, ok = was; });
    return wait_for([&] { return done; }) && ok;
}

}  // namespace

TEST_CASE("A key pressed on the curve right after saving is not in the file, and the window knows") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    auto& curve = desk.page().answer().curve();
    QTest::keyClick(&curve, Qt::Key_Right);
    const auto at_saving = limit_of(desk.session().document.study());
    REQUIRE(saved(desk, in(desk, "a.otoro.gpkg")));
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    QTest::keyClick(&curve, Qt::Key_Right);  // within the time in which presses are one step of undo
    CHECK(desk.session().document.has_unsaved_changes());
    CHECK(limit_of(read(in(desk, "a.otoro.gpkg"))) == at_saving);

    Answering asked({press(QMessageBox::Cancel)});
    CHECK_FALSE(desk.window.close());
    CHECK(asked.given() == 1);
    desk.session().document.undo_stack().undo();  // back to what is in the file
    CHECK(limit_of(desk.session().document.study()) == at_saving);
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    desk.session().document.undo_stack().undo();
    CHECK(desk.session().document.has_unsaved_changes());
}

TEST_CASE("What is edited while a file is being written stays unsaved") {
    Desk desk;
    add_pupils(desk.session());
    bool done = false;
    desk.window.files().save(in(desk, "a.otoro.gpkg"), [&](bool) { done = true; });
    desk.session().document.edit("rename", [](service::Study& s) { s.name = "Later"; });
    REQUIRE(wait_for([&] { return done; }));
    CHECK(desk.session().document.has_unsaved_changes());
    CHECK(read(in(desk, "a.otoro.gpkg")).name != "Later");
    CHECK(desk.session().document.path() == in(desk, "a.otoro.gpkg"));
}

TEST_CASE("A save that ends after another study was opened says nothing of that one") {
    Desk desk;
    add_pupils(desk.session());
    REQUIRE(saved(desk, in(desk, "other.otoro.gpkg")));
    bool done = false;
    desk.window.files().save(in(desk, "first.otoro.gpkg"), [&](bool) { done = true; });
    desk.session().document.put({}, {});
    add_pupils(desk.session(), "others");
    REQUIRE(wait_for([&] { return done; }));
    CHECK(desk.session().document.path().isEmpty());
    CHECK(desk.session().document.has_unsaved_changes());
    CHECK(read(in(desk, "first.otoro.gpkg")).demand[0].set->name == "pupils");
}

TEST_CASE("New, Save chosen, and saving fails: the study stays, and a later save makes no new one") {
    Desk desk;
    add_pupils(desk.session());
    std::filesystem::create_directory(desk.folder.file("gone"));
    REQUIRE(saved(desk, in(desk, "gone/a.otoro.gpkg")));
    desk.session().document.edit("rename", [](service::Study& s) { s.name = "Precious"; });
    std::filesystem::remove_all(desk.folder.file("gone"));
    {
        Answering asked({press(QMessageBox::Save)});
        QTest::keyClick(&desk.window, Qt::Key_N, Qt::ControlModifier);
        REQUIRE(wait_for([&] { return !desk.window.notice().text().isEmpty() && !desk.window.jobs().busy(); }));
        CHECK(asked.given() == 1);
    }
    CHECK(desk.window.notice().text().contains("no such folder"));
    CHECK(desk.session().document.study().name == "Precious");
    CHECK(desk.session().document.has_unsaved_changes());
    REQUIRE(saved(desk, in(desk, "b.otoro.gpkg")));
    QApplication::processEvents();
    CHECK(desk.session().document.study().name == "Precious");
    CHECK(read(in(desk, "b.otoro.gpkg")).name == "Precious");
    CHECK(desk.window.notice().text().startsWith("Saved"));
}

TEST_CASE(
    "Closing, Save chosen, and saving fails or is stopped: the window stays, and a later save does not close it") {
    Desk desk;
    add_pupils(desk.session());
    {
        Answering asked({press(QMessageBox::Save), test::type_name(in(desk, "no/such/a"))});
        CHECK_FALSE(desk.window.close());
        REQUIRE(wait_for([&] { return desk.window.notice().text().contains("no such folder"); }));
    }
    CHECK(desk.window.isVisible());
    {
        Answering asked({press(QMessageBox::Save), test::type_name(in(desk, "stopped"))});
        desk.window.close();
        desk.window.jobs().saving.stop();
        REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    }
    REQUIRE(saved(desk, in(desk, "b.otoro.gpkg")));
    QApplication::processEvents();
    CHECK(desk.window.isVisible());
    CHECK(desk.window.close());
    CHECK_FALSE(desk.window.isVisible());
}

TEST_CASE("Closing, Save chosen: the window closes when the file is there, under the ending that was promised") {
    Desk desk;
    add_pupils(desk.session());
    Answering asked({press(QMessageBox::Save), test::type_name(in(desk, "mine"))});
    desk.window.close();
    REQUIRE(wait_for([&] { return !desk.window.isVisible(); }));
    CHECK(read(in(desk, "mine.otoro.gpkg")).demand.size() == 1);
}

TEST_CASE("Save as asks about the file that it will really write") {
    Desk desk;
    add_pupils(desk.session());
    const auto there = desk.folder.write("there.otoro.gpkg", "somebody's");
    QString said;
    {
        Answering asked({test::type_name(in(desk, "there")), press(QMessageBox::No, &said),
                         test::type_name(in(desk, "free.GPKG"))});
        desk.window.activateWindow();
        REQUIRE(wait_for([&] { return desk.window.isActiveWindow(); }));
        QTest::keyClick(&desk.window, Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
        INFO("answers left: " << asked.left() << ", " << said.toStdString());
        REQUIRE(wait_for([&] { return !desk.session().document.has_unsaved_changes(); }));
    }
    CHECK(said.contains("there.otoro.gpkg"));
    CHECK(test::contents(there) == "somebody's");
    CHECK(desk.session().document.path() == in(desk, "free.GPKG"));
    CHECK(read(in(desk, "free.GPKG")).demand.size() == 1);
}

TEST_CASE("The ending follows the chosen kind unless one was typed") {
    const std::vector<FileKind> kinds{{"Table", ".csv"}, {"GeoPackage", ".gpkg"}, {"GeoJSON", ".geojson"}};
    CHECK(with_ending("/x/answer", kinds, 0) == "/x/answer.csv");
    CHECK(with_ending("/x/answer", kinds, 2) == "/x/answer.geojson");
    CHECK(with_ending("/x/answer.gpkg", kinds, 0) == "/x/answer.gpkg");
    CHECK(with_ending("/x/answer.GeoJSON", kinds, 0) == "/x/answer.GeoJSON");
    CHECK(with_ending("/x/plan 1.5", kinds, 1) == "/x/plan 1.5.gpkg");
    CHECK(with_ending("/x/a.b/c", {{"Studies", ".otoro.gpkg"}}, 0) == "/x/a.b/c.otoro.gpkg");
    CHECK(with_ending("/x/c.gpkg", {{"Studies", ".otoro.gpkg"}}, 0) == "/x/c.gpkg");
}

TEST_CASE("Every copy that was left is offered until it is decided, also when a study is opened from outside") {
    test::Folder folder;
    const QString recovery = QString::fromStdString(folder.file("recovery"));
    QDir().mkpath(recovery);
    service::Study s;
    for (const char* name : {"One", "Two", "Three"}) {
        s.name = name;
        files::save_study(s, (recovery + "/" + name + ".otoro.gpkg").toStdString(), Task());
    }
    s.name = "Outside";
    files::save_study(s, folder.file("outside.otoro.gpkg"), Task());
    MainWindow window(recovery);
    window.show();
    window.take_file(QString::fromStdString(folder.file("outside.otoro.gpkg")));
    REQUIRE(wait_for([&] { return window.session().document.study().name == "Outside"; }));
    auto& strip = window.recovery();
    CHECK(strip.text().contains("one of 3"));

    QTest::mouseClick(&strip.throw_away(), Qt::LeftButton);
    CHECK(strip.text().contains("one of 2"));
    CHECK(window.files().left_behind().size() == 2);
    QTest::mouseClick(&strip.take_back(), Qt::LeftButton);
    CHECK(window.files().left_behind().size() == 3);

    QTest::mouseClick(&strip.next(), Qt::LeftButton);
    QTest::mouseClick(&strip.bring_back(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return window.session().document.has_unsaved_changes(); }));
    CHECK(window.session().document.study().name != "Outside");
    CHECK(strip.text().contains("one of 2"));
    bool kept = wait_for([&] { return QFileInfo::exists(window.files().copy_path()); });
    CHECK(kept);
    CHECK(window.files().left_behind().size() == 2);
}

TEST_CASE("The copy of a window that is open is nobody else's to bring back") {
    test::Folder folder;
    const QString recovery = QString::fromStdString(folder.file("recovery"));
    MainWindow one(recovery);
    add_pupils(one.session());
    bool kept = false;
    QObject::connect(&one.files(), &StudyFiles::copy_kept, [&] { kept = true; });
    one.files().keep_copy();
    REQUIRE(wait_for([&] { return kept; }));
    MainWindow two(recovery);
    CHECK(two.files().left_behind().empty());
}

TEST_CASE("Edits made during a save keep their copy") {
    Desk desk;
    add_pupils(desk.session());
    bool kept = false;
    QObject::connect(&desk.window.files(), &StudyFiles::copy_kept, [&] { kept = true; });
    bool done = false;
    desk.window.files().save(in(desk, "a.otoro.gpkg"), [&](bool) { done = true; });
    desk.session().document.edit("rename", [](service::Study& s) { s.name = "Later"; });
    desk.window.files().keep_copy();
    REQUIRE(wait_for([&] { return done && kept; }));
    CHECK(read(desk.window.files().copy_path()).name == "Later");
    REQUIRE(saved(desk, in(desk, "a.otoro.gpkg")));
    CHECK_FALSE(QFileInfo::exists(desk.window.files().copy_path()));
}

TEST_CASE("A copy that cannot be written is said") {
    Desk desk;
    std::filesystem::remove_all(desk.folder.file("recovery"));
    (void)desk.folder.write("recovery", "a file where the folder was");
    add_pupils(desk.session());
    desk.window.files().keep_copy();
    CHECK(wait_for([&] { return desk.window.notice().text().contains("No copy for after a crash"); }));
}

TEST_CASE("Two windows on one study: the second is told, and nobody's work is written over unasked") {
    Desk one, two;
    add_pupils(one.session());
    const QString path = in(one, "shared.otoro.gpkg");
    REQUIRE(saved(one, path));
    CHECK(one.window.notice().text().startsWith("Saved"));
    two.window.take_file(path);
    REQUIRE(wait_for([&] { return !two.session().document.study().demand.empty(); }));
    CHECK(two.window.notice().text().contains("open in another window"));

    one.session().document.edit("rename", [](service::Study& s) { s.name = "By one"; });
    two.session().document.edit("rename", [](service::Study& s) { s.name = "By two"; });
    REQUIRE(saved(one, path));
    CHECK_FALSE(saved(two, path));
    CHECK(read(path).name == "By one");
    CHECK(two.session().document.has_unsaved_changes());
    CHECK(two.window.notice().text().contains("was written by another window"));
    const auto buttons = two.window.notice().findChildren<QPushButton*>();
    const auto over =
        std::find_if(buttons.begin(), buttons.end(), [](const QPushButton* b) { return b->text() == "Write over it"; });
    REQUIRE(over != buttons.end());
    QTest::mouseClick(*over, Qt::LeftButton);
    REQUIRE(wait_for([&] { return !two.session().document.has_unsaved_changes(); }));
    CHECK(read(path).name == "By two");
    REQUIRE(saved(two, path));  // its own file again
}

TEST_CASE("A fix that works in the background is merged with what is edited meanwhile") {
    Desk desk;
    desk.add_saltmere();
    auto& fixer = desk.window.data_page().fixer();
    REQUIRE(wait_for([&] { return fixer.up_to_date(); }));
    const auto gaps = std::find_if(fixer.findings().begin(), fixer.findings().end(),
                                   [](const auto& f) { return f.kind == service::FindingKind::gaps; });
    REQUIRE(gaps != fixer.findings().end());
    fixer.fix(*gaps->fix, "close gaps");
    // Both a place more and a rule of attaching while the roads are worked out anew.
    desk.session().document.edit("add a place", [](service::Study& s) {
        s = service::with_place(std::move(s), "households", {-9.5, 46.2}, Weight::one());
    });
    places::AttachRule rule;
    rule.limit = Millimetres::metres(99);
    fixer.fix(service::SetAttachRule{{service::SetKind::demand, "households"}, rule}, "rule");
    desk.session().document.edit("add a place", [](service::Study& s) {
        s = service::with_place(std::move(s), "households", {-9.51, 46.2}, Weight::one());
    });
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    const auto& s = desk.session().document.study();
    CHECK(s.roads->preparation.closed.size() >= gaps->count);
    CHECK(s.demand[0].set->count() == 9002);
    CHECK(s.demand[0].set->attaching.rule.limit == Millimetres::metres(99));
}

TEST_CASE("A fix of roads that were replaced meanwhile is not put over them, and says so") {
    Desk desk;
    desk.add_saltmere();
    auto& fixer = desk.window.data_page().fixer();
    REQUIRE(wait_for([&] { return fixer.up_to_date(); }));
    const auto gaps = std::find_if(fixer.findings().begin(), fixer.findings().end(),
                                   [](const auto& f) { return f.kind == service::FindingKind::gaps; });
    REQUIRE(gaps != fixer.findings().end());
    const auto fix = *gaps->fix;
    fixer.fix(fix, "close gaps");
    const auto other = files::add_roads({{desk.folder.write("x.geojson", test::kCrossRoads), "", ""}, {}}, {}, Task());
    desk.session().document.edit("roads", [&](service::Study& s) { s = with_roads(std::move(s), other); });
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.study().roads->network == other.network);
    CHECK(desk.window.notice().text().contains("was not done"));
    // Pressed again on what is not there any more: refused, not believed.
    fixer.fix(fix, "close gaps");
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("not those in which this gap was found"); }));
    CHECK(desk.session().document.study().roads->network == other.network);
}

TEST_CASE("A set under a name that is taken: replace it, or add it beside") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    desk.add(test::saltmere("pupils.csv"));
    desk.window.take_file(test::saltmere("pupils.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    CHECK(panel.beside().isVisible());
    CHECK(panel.beside().text().contains("pupils 2"));
    panel.accept();
    REQUIRE(wait_for([&] { return desk.session().document.study().demand.size() == 2; }));
    CHECK(desk.session().document.study().demand[1].set->name == "pupils 2");

    desk.window.take_file(test::saltmere("pupils.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.field(1).setCurrentIndex(0);
    panel.replace().click();
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.study().demand.size() == 2);
    CHECK(desk.session().document.study().demand[0].set->weight_name.empty());
}

TEST_CASE("A file that fails stays in its panel, where it can be put right") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    desk.window.take_file(test::saltmere("households.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.role().setCurrentIndex(static_cast<int>(Role::roads));
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(panel.open());
    CHECK(panel.message().contains("households.csv"));
    panel.role().setCurrentIndex(static_cast<int>(Role::demand));
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
    CHECK_FALSE(panel.open());
    CHECK_FALSE(desk.window.notice().is_trouble());  // what was wrong holds no longer
}

TEST_CASE("Stopping while a file is looked at leaves adding possible") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    panel.offer(test::saltmere("households.csv"));
    desk.window.jobs().reading.stop();
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    desk.window.take_file(test::saltmere("pupils.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));
}

TEST_CASE("A file that waits to be added is in sight from every page") {
    Desk desk;
    desk.window.take_file(test::saltmere("households.csv"));
    desk.window.take_file(test::saltmere("pupils.csv"));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.waiting().size() == 2 && panel.open(); }));
    desk.window.show_study();
    const auto labels = desk.window.findChildren<QLabel*>();
    CHECK(std::any_of(labels.begin(), labels.end(),
                      [](const QLabel* l) { return l->isVisible() && l->text().contains("wait to be added"); }));
}

TEST_CASE("Saving twice in quick succession is nobody else's doing") {
    Desk desk;
    add_pupils(desk.session());
    REQUIRE(saved(desk, in(desk, "a.otoro.gpkg")));
    int good = 0, bad = 0;
    for (int i = 0; i < 4; ++i) {
        desk.session().document.edit("rename", [&](service::Study& s) { s.name = "Number " + std::to_string(i); });
        desk.window.files().save(in(desk, "a.otoro.gpkg"), [&](bool ok) { ++(ok ? good : bad); });
    }
    REQUIRE(wait_for([&] { return good + bad == 4; }));
    CHECK(good == 4);
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    CHECK(read(in(desk, "a.otoro.gpkg")).name == "Number 3");
}

TEST_CASE("The file that vanished is written anew, and a link to it is followed") {
    Desk desk;
    add_pupils(desk.session());
    std::filesystem::create_symlink("real.otoro.gpkg", desk.folder.file("link.otoro.gpkg"));
    REQUIRE(saved(desk, in(desk, "link.otoro.gpkg")));
    std::filesystem::remove(desk.folder.file("real.otoro.gpkg"));
    desk.session().document.edit("rename", [](service::Study& s) { s.name = "Again"; });
    REQUIRE(saved(desk, in(desk, "link.otoro.gpkg")));
    CHECK(std::filesystem::is_symlink(desk.folder.file("link.otoro.gpkg")));
    CHECK(read(in(desk, "real.otoro.gpkg")).name == "Again");
}

TEST_CASE("What was begun for one study does not land in another") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    desk.window.take_file(test::saltmere("households.csv"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.accept();
    desk.session().document.put({}, {});
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.study().demand.empty());
    CHECK(panel.open());
    CHECK(panel.message().contains("Another study was opened"));
    panel.accept();
    REQUIRE(wait_for([&] { return !desk.session().document.study().demand.empty(); }));

    desk.add(test::saltmere("roads.gpkg"));
    desk.add(test::saltmere("ambulance-posts.geojson"));
    auto& fixer = desk.window.data_page().fixer();
    REQUIRE(wait_for([&] { return fixer.up_to_date(); }));
    fixer.set_join_rule(roads::JoinRule::crossings);
    desk.page().offer_spot_menu({-9.5, 46.2}, desk.window.pos());
    CHECK(QApplication::activePopupWidget());
    const auto before = desk.session().document.study();
    desk.session().document.put(before, {});
    CHECK_FALSE(QApplication::activePopupWidget());  // a menu about what is not there any more
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.study().roads->preparation.rule == roads::JoinRule::ends);
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
}

TEST_CASE("Saving in the middle of a drag saves the plan as it was") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const QPoint at =
        desk.map().screen_of(*desk.session().answers.shown()->outcome.sites[0].planned.site.position).toPoint();
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, at);
    QMouseEvent move(QEvent::MouseMove, at + QPoint(40, 40), desk.map().mapToGlobal(at + QPoint(40, 40)), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(&desk.map(), &move);
    REQUIRE(saved(desk, in(desk, "a.otoro.gpkg")));
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, at + QPoint(40, 40));
    CHECK(desk.session().document.has_unsaved_changes());
    CHECK(read(in(desk, "a.otoro.gpkg")).plans.size() == 1);
    CHECK(desk.session().document.study().plans.size() == 2);
}

TEST_CASE("Leaving one file out while it is read leaves the others waiting") {
    Desk desk;
    auto& panel = desk.window.data_page().add_panel();
    desk.window.take_file(test::saltmere("roads.gpkg"));
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.accept();
    desk.window.take_file(test::saltmere("pupils.csv"));
    desk.window.take_file(test::saltmere("households.csv"));
    panel.cancel();
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 2; }));
    CHECK_FALSE(desk.session().document.study().roads);
    panel.accept();
    REQUIRE(wait_for([&] { return panel.open() && panel.waiting().size() == 1; }));
    panel.accept();
    REQUIRE(wait_for([&] { return desk.session().document.study().demand.size() == 2; }));
}

TEST_CASE("Going back to what was saved before, while something newer is being saved, is a change") {
    Desk desk;
    desk.add_saltmere();
    const auto path = QString::fromStdString(desk.folder.file("s.otoro.gpkg"));
    desk.window.files().save(path);
    REQUIRE(desk.settle());
    REQUIRE_FALSE(desk.session().document.has_unsaved_changes());
    desk.session().document.edit("name", [](service::Study& s) { s.name = "newer"; });
    desk.window.files().save(path);
    desk.session().document.undo_stack().undo();
    CHECK(desk.session().document.has_unsaved_changes());  // the file is about to be the newer one
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(desk.session().document.has_unsaved_changes());
    CHECK(files::open_study(path.toStdString(), Task()).name == "newer");
    desk.session().document.undo_stack().redo();
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    // A save that fails leaves it as it was.
    desk.window.files().save(QString::fromStdString(desk.folder.file("no/such/s.otoro.gpkg")));
    CHECK(desk.session().document.has_unsaved_changes());
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
}

namespace {

/// An export that is not written before it is let go on, and then is, or fails.
class SlowExport {
public:
    SlowExport(Desk& desk, const QString& path) {
        desk.window.jobs().exporting.run([gate = gate_, path](const Task& task) -> Background::Then {
            gate->open.acquire();
            task.check();
            if (gate->fails) refuse(path.toStdString(), "the disk is full", "Make room");
            files::write_text(path.toStdString(), "whole");
            return [] {};
        });
    }
    ~SlowExport() { gate_->open.release(); }
    SlowExport(const SlowExport&) = delete;
    SlowExport& operator=(const SlowExport&) = delete;
    void go_on(bool fails = false) {
        gate_->fails = fails;
        gate_->open.release();
    }

private:
    struct Gate {
        std::counting_semaphore<> open{0};
        bool fails = false;
    };
    std::shared_ptr<Gate> gate_ = std::make_shared<Gate>();
};

}  // namespace

TEST_CASE("Closing while something is being exported waits for it, stops it, or does not close") {
    const auto closes = [](Desk& desk, QMessageBox::StandardButton button) {
        QString said;
        Answering asked({press(button, &said)});
        CHECK_FALSE(desk.window.close());
        CHECK(asked.given() == 1);
        CHECK(said.contains("not written yet"));
    };
    Desk desk;
    const QString path = in(desk, "answer.csv");
    SECTION("It is waited for") {
        SlowExport slow(desk, path);
        closes(desk, QMessageBox::Cancel);
        closes(desk, QMessageBox::Yes);
        CHECK(desk.window.isVisible());
        slow.go_on();
        REQUIRE(wait_for([&] { return !desk.window.isVisible(); }));
        CHECK(QFileInfo(path).size() == 5);
    }
    SECTION("It is stopped") {
        SlowExport slow(desk, path);
        closes(desk, QMessageBox::Abort);
        slow.go_on();  // it comes to where it asks whether to stop
        REQUIRE(wait_for([&] { return !desk.window.isVisible(); }));
        CHECK_FALSE(QFileInfo::exists(path));
    }
    SECTION("It stays open when that was chosen last, and when the export fails") {
        SlowExport slow(desk, path);
        closes(desk, QMessageBox::Yes);
        closes(desk, QMessageBox::Cancel);
        slow.go_on();
        REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
        SlowExport full(desk, path);
        closes(desk, QMessageBox::Yes);
        full.go_on(true);
        REQUIRE(wait_for([&] { return desk.window.notice().text().contains("the disk is full"); }));
        QApplication::processEvents();
        CHECK(desk.window.isVisible());
    }
}
