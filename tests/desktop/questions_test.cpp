/// Several questions over shared plans, in the window.
#include <QCheckBox>
#include <QLabel>
#include <QListWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/question_list.h"
#include "files/study_file.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::saltmere;
using test::wait_for;

namespace {

/// Saltmere with households and ambulance posts, pupils and schools; asked about the first two.
struct TwoQuestions : Desk {
    TwoQuestions() {
        add_saltmere();
        add(saltmere("pupils.csv"));
        add(saltmere("primary-schools.geojson"));
    }
    QListWidget& list() { return *page().questions().list(); }
    /// A second question, about pupils on foot.
    void ask_about_pupils() {
        QTest::mouseClick(page().questions().new_question(), Qt::LeftButton);
        session().document.edit("pupils", [](service::Study& s) {
            auto& q = s.question();
            q.demand = {"pupils"};
            q.sites = {"primary schools"};
            q.profile.mode = travel::Mode::walk;
            q.standard = service::Standard{Share::percent(95), Millis::minutes(25)};
        });
        session().document.rename_question(1, "Pupils");
        REQUIRE(settle());
    }
    QString share_in_list(int row) {
        const QVariant share = list().item(row)->data(Qt::UserRole);
        return share.isValid() ? QString::fromStdString(describe(Share(share.toInt()))) : QString();
    }
};

}  // namespace

TEST_CASE("A new question is a copy of the one in sight, and each keeps its own words") {
    TwoQuestions desk;
    CHECK(desk.list().count() == 1);
    const QString first = desk.page().question().text();
    const QString first_share = desk.share();
    desk.ask_about_pupils();
    CHECK(desk.list().count() == 2);
    CHECK(desk.list().currentRow() == 1);
    CHECK(desk.page().question().text().startsWith("The pupils, counted by pupils, are each served"));
    CHECK(desk.share() != first_share);
    desk.list().setCurrentRow(0);
    REQUIRE(desk.settle());
    CHECK(desk.page().question().text() == first);
    CHECK(desk.share() == first_share);
}

TEST_CASE("The list shows the share of every question under the plan in sight, also of those out of sight") {
    TwoQuestions desk;
    desk.ask_about_pupils();
    const QString pupils = desk.share();
    desk.list().setCurrentRow(0);
    REQUIRE(desk.settle());
    REQUIRE(wait_for([&] { return !desk.share_in_list(1).isEmpty(); }));
    CHECK(desk.share_in_list(1) == pupils);
    CHECK(desk.share_in_list(0) == desk.share());
    // A school closes: the ambulances do not mind, the pupils do.
    const auto school = desk.session().document.study().sites[1].set->sites[0].id;
    desk.session().document.new_plan("closes", {{service::Change::close, school, std::nullopt, "primary schools"}});
    REQUIRE(desk.settle());
    REQUIRE(wait_for([&] { return !desk.share_in_list(1).isEmpty() && desk.share_in_list(1) != pupils; }));
    CHECK(desk.page().plans().list().item(1)->data(Qt::UserRole + 3).toString().contains("does not apply here"));
    const QString closed = desk.share_in_list(1);
    desk.list().setCurrentRow(1);
    REQUIRE(desk.settle());
    CHECK(desk.share() == closed);
    CHECK(desk.session().document.plan_index() == 1);
}

TEST_CASE("Questions are renamed, moved and removed, and all of it is undone") {
    TwoQuestions desk;
    desk.ask_about_pupils();
    auto& document = desk.session().document;
    const auto names = [&] {
        QStringList out;
        for (const auto& q : document.study().questions) out << QString::fromStdString(q.name);
        return out;
    };
    const auto before = names();
    document.move_question(1, -1);
    CHECK(names() == QStringList{"Pupils", before[0]});
    CHECK(document.question_index() == 0);
    document.rename_question(0, before[0]);  // that name is taken
    CHECK(names() == QStringList{"Pupils", before[0]});
    document.remove_question(0);
    CHECK(names() == QStringList{before[0]});
    document.remove_question(0);  // the last one stays
    CHECK(names().size() == 1);
    document.undo_stack().undo();
    CHECK(names() == QStringList{"Pupils", before[0]});
    CHECK(document.question_index() == 0);
    document.undo_stack().undo();
    CHECK(names() == before);
    REQUIRE(desk.settle());
    CHECK(desk.page().question().text().startsWith("The pupils"));
}

TEST_CASE("Until another question has its answer, the one in sight is judged by its own standard, and marked") {
    TwoQuestions desk;
    auto& document = desk.session().document;
    auto& answers = desk.session().answers;
    const auto verdict = *answers.verdict();
    const QString share = desk.share();
    document.copy_question();
    REQUIRE(desk.settle());
    document.edit("another", [](service::Study& s) {
        s.question().serving = service::SeveralNearest{};
        s.question().standard = service::Standard{Share::percent(50), Millis::minutes(1)};
    });
    // Not a turn of the window has passed: what is shown is the old answer still.
    CHECK_FALSE(answers.up_to_date());
    REQUIRE(answers.verdict());
    CHECK(answers.verdict()->standard == verdict.standard);
    CHECK(answers.verdict()->share == verdict.share);
    CHECK(answers.question().standard == verdict.standard);
    CHECK(desk.verdict() == "out of date");
    CHECK(desk.share() == share);
    CHECK(desk.map().style_now().limit == verdict.standard.limit);
    for (QWidget* part : {static_cast<QWidget*>(&desk.page().legend())}) {
        auto* mark = part->findChild<QLabel*>("out of date");
        REQUIRE(mark != nullptr);
        CHECK(mark->isVisible());
    }
    REQUIRE(desk.settle());
    CHECK(answers.verdict()->standard.limit == Amount(Millis::minutes(1)));
    CHECK_FALSE(desk.page().legend().findChild<QLabel*>("out of date")->isVisible());
    // A standard alone is judged anew at once.
    document.edit("standard", [](service::Study& s) { s.question().standard->limit = Millis::minutes(2); });
    CHECK(answers.up_to_date());
    CHECK(answers.verdict()->standard.limit == Amount(Millis::minutes(2)));
}

TEST_CASE("Looking at another question is no change of the study") {
    TwoQuestions desk;
    desk.ask_about_pupils();
    const auto path = QString::fromStdString(desk.folder.file("two.otoro.gpkg"));
    desk.window.files().save(path);
    REQUIRE(wait_for([&] { return !desk.session().document.has_unsaved_changes(); }));
    desk.list().setCurrentRow(0);
    REQUIRE(desk.settle());
    CHECK_FALSE(desk.session().document.has_unsaved_changes());
    CHECK(files::open_study(path.toStdString(), Task()).questions.size() == 2);
}

TEST_CASE("A question may be about several sets at once") {
    TwoQuestions desk;
    auto* editor = desk.press_blank("sites");
    auto* several = editor->findChild<QCheckBox*>("several");
    REQUIRE(several);
    several->click();
    for (auto* box : editor->findChildren<QCheckBox*>())
        if (box->text() == "primary schools") box->click();
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(desk.page().question().text().contains("the open ambulance posts and primary schools,"));
    const auto answer = desk.session().answers.shown();
    CHECK(answer->ready->inputs.sites.sets().size() == 2);
    // The last one cannot be taken away.
    editor = desk.press_blank("sites");
    for (auto* box : editor->findChildren<QCheckBox*>())
        if (box->isVisible() && box->isChecked() && box->objectName().isEmpty()) box->click();
    CHECK(desk.session().document.question().sites.size() == 1);
    Desk::close_editor();
}

TEST_CASE("A standard can be taken away, and given again, in the sentence") {
    TwoQuestions desk;
    auto* editor = desk.press_blank("standard");
    editor->findChild<QCheckBox*>("has_standard")->click();
    Desk::close_editor();
    CHECK(desk.page().question().text().endsWith("; no standard is set."));
    CHECK_FALSE(desk.page().question().blank("share"));
    CHECK_FALSE(desk.session().document.question().standard);
    editor = desk.press_blank("standard");
    editor->findChild<QCheckBox*>("has_standard")->click();
    Desk::close_editor();
    CHECK(desk.page().question().text().endsWith("; 90 % must be within 8 min."));
}

TEST_CASE("Return closes the editor of a blank") {
    TwoQuestions desk;
    auto* editor = desk.press_blank("limit");
    QTest::keyClick(editor, Qt::Key_Return);
    CHECK(wait_for([] { return QApplication::activePopupWidget() == nullptr; }));
}

TEST_CASE("Zones are added, summed up by, and left out again") {
    TwoQuestions desk;
    desk.add(saltmere("zones.geojson"));
    CHECK(desk.session().document.study().zones.size() == 1);
    const auto answer = desk.session().answers.shown();
    REQUIRE(answer->ready->zone_of);
    CHECK(answer->ready->inputs.zones->name == "zones");
    desk.session().document.undo_stack().undo();
    REQUIRE(desk.settle());
    CHECK(desk.session().document.study().zones.empty());
    CHECK_FALSE(desk.session().answers.shown()->ready->zone_of);
}

TEST_CASE("A site that a plan adds can be taken out of it again") {
    TwoQuestions desk;
    auto& document = desk.session().document;
    document.new_plan("more", {{service::Change::add, "N", geo::LonLat{-9.47, 46.2}, "ambulance posts"}});
    REQUIRE(desk.settle());
    const auto& planned = desk.session().answers.shown()->outcome.sites.back().planned;
    REQUIRE(planned.added);
    document.take_out(change_of(planned, service::Change::add));
    REQUIRE(desk.settle());
    CHECK(document.plan().changes.empty());
    document.undo_stack().undo();
    CHECK(document.plan().changes.size() == 1);
}

TEST_CASE("Another question in sight: its share stands in the list at once, and nothing of the one before is picked") {
    TwoQuestions desk;
    const QString ambulances = desk.share();
    desk.ask_about_pupils();
    desk.session().selection.pick({{}, SiteIndex(2U)});
    desk.list().setCurrentRow(0);
    CHECK(desk.session().selection.picked() == Picked{});
    CHECK_FALSE(desk.share_in_list(1).isEmpty());
    REQUIRE(desk.settle());
    CHECK(desk.share() == ambulances);
}

TEST_CASE("Changes of two questions are undone one by one, however quickly they were made") {
    TwoQuestions desk;
    desk.ask_about_pupils();
    auto& document = desk.session().document;
    const auto limit = [](double minutes) {
        return [minutes](service::Study& s) { s.question().limit = Millis::minutes(minutes); };
    };
    document.edit("limit", limit(30));
    document.choose_question(0);
    document.edit("limit", limit(20));
    document.undo_stack().undo();
    CHECK_FALSE(document.study().questions[0].limit);
    CHECK(document.study().questions[1].limit == Amount(Millis::minutes(30)));
    document.undo_stack().undo();
    CHECK_FALSE(document.study().questions[1].limit);
}

TEST_CASE(
    "In the editor of a blank Return takes what is typed, Escape gives up what was set, and what is no number stays") {
    TwoQuestions desk;
    auto& document = desk.session().document;
    const auto limit = [&] { return document.question().standard->limit; };
    const auto box_of = [](QWidget* editor) { return editor->findChild<NumberBox*>("amount"); };
    const auto gone = [] {
        const bool closed = wait_for([] { return QApplication::activePopupWidget() == nullptr; });
        Desk::close_editor();
        QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QApplication::processEvents();
        return closed;
    };
    const auto before = document.question();
    const int steps = document.undo_stack().index();

    auto* box = box_of(desk.press_blank("standard"));
    box->selectAll();
    QTest::keyClicks(box, "3");
    QTest::keyClick(box, Qt::Key_Escape);
    REQUIRE(gone());
    CHECK(document.question() == before);
    CHECK(document.undo_stack().index() == steps);

    // What counted already is given up as well.
    box = box_of(desk.press_blank("standard"));
    QTest::keyClick(box, Qt::Key_Up);
    CHECK_FALSE(document.question() == before);
    QTest::keyClick(box, Qt::Key_Up);
    QTest::keyClick(box, Qt::Key_Escape);
    REQUIRE(gone());
    CHECK(document.question() == before);

    box = box_of(desk.press_blank("standard"));
    box->selectAll();
    QTest::keyClicks(box, "abc");
    CHECK(box->text() == "abc");
    QTest::keyClick(box, Qt::Key_Return);
    QApplication::processEvents();
    CHECK(QApplication::activePopupWidget() != nullptr);
    CHECK(box->accessibleDescription().contains("abc"));
    CHECK(document.question() == before);
    // A step that became one with what was set just before is not given up with it.
    QTest::keyClick(box, Qt::Key_Up);
    const auto set_before = document.question();
    QTest::keyClick(box, Qt::Key_Return);
    REQUIRE(gone());
    box = box_of(desk.press_blank("standard"));
    QTest::keyClick(box, Qt::Key_Up);
    CHECK_FALSE(document.question() == set_before);
    QTest::keyClick(box, Qt::Key_Escape);
    REQUIRE(gone());
    CHECK(document.question() == set_before);

    box = box_of(desk.press_blank("standard"));
    // What was refused on the way to another box does not hold up the Return that comes later.
    box->selectAll();
    QTest::keyClicks(box, "0");
    QTest::keyClick(box, Qt::Key_Tab);
    QApplication::processEvents();
    CHECK(document.question() == set_before);
    box->setFocus();
    box->selectAll();
    QTest::keyClicks(box, "5");
    QTest::keyClick(box, Qt::Key_Return);
    REQUIRE(gone());
    CHECK(limit() == Amount(Millis(300'000)));
}
