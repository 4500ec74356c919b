// Plans side by side, in the window.
#include <QCheckBox>
#include <QComboBox>
#include <QSpinBox>
#include <QTableWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/pages/compare_page.h"
#include "desktop/parts/best_set_panel.h"
#include "desktop/parts/difference_view.h"
#include "desktop/parts/plan_table.h"
#include "files/study_file.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

/// The window on Saltmere's ambulances, a second question, and a plan that opens the quay.
struct Comparing : Desk {
    Comparing() {
        add_saltmere();
        session().document.edit("standard", [](service::Study& s) {
            s.question().name = "Ambulances";
            s.question().standard = service::Standard{Share::percent(90), Millis::minutes(8)};
        });
        session().document.copy_question();
        session().document.edit("limit", [](service::Study& s) {
            s.question().name = "In five";
            s.question().standard = service::Standard{Share::percent(50), Millis::minutes(5)};
        });
        session().document.choose_question(0);
        session().document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
        REQUIRE(settle_plans());
    }
    ComparePage& compare() { return window.compare_page(); }
    bool settle_table() {
        return wait_for([&] { return compare().figures().up_to_date(); });
    }
    QString cell(int row, int column) {
        auto* item = compare().plans().table().item(row, column);
        return item != nullptr ? item->text() : QString();
    }
};

}  // namespace

TEST_CASE("Every plan stands under every question, marked against its own standard") {
    Comparing d;
    QTest::mouseClick(&d.window.compare_tab(), Qt::LeftButton);
    REQUIRE(d.settle_table());
    auto& table = d.compare().plans().table();
    REQUIRE(table.rowCount() == 2);
    REQUIRE(table.columnCount() == 2);
    // The shares of the list of plans, to the digit.
    CHECK(d.cell(0, 0).contains(QString::fromStdString(describe(d.session().answers.verdict_of(0)->share))));
    CHECK(d.cell(1, 0).contains(QString::fromStdString(describe(d.session().answers.verdict_of(1)->share))));
    CHECK(d.cell(0, 0).startsWith(QString::fromUtf8("\u25cb")));  // not met
    CHECK(d.cell(1, 0).startsWith(QString::fromUtf8("\u25cf")));  // met
    CHECK(d.cell(1, 0).contains("+"));
    // What it says follows the choice, and the study.
    d.compare().plans().shown().setCurrentIndex(4);
    CHECK(d.cell(0, 0) == "5");
    CHECK(d.cell(1, 0) == "6");
    d.compare().plans().shown().setCurrentIndex(0);
    d.session().document.edit("standard", [](service::Study& s) { s.questions[1].standard.reset(); });
    REQUIRE(d.settle_table());
    CHECK(d.cell(0, 1) == "no standard");
    d.session().document.undo_stack().undo();
    REQUIRE(d.settle_table());
    CHECK(d.cell(0, 1) != "no standard");
    // Where nobody is nothing is met or missed, and no share is said.
    d.session().document.edit("weights", [](service::Study& s) {
        auto set = std::make_shared<places::DemandSet>(*s.demand[0].set);
        for (auto& p : set->places) p.weight = Weight();
        s.demand[0].set = set;
    });
    REQUIRE(d.settle_table());
    CHECK(d.cell(0, 0) == "nobody there");
    CHECK(d.cell(1, 1) == "nobody there");
    CHECK(table.item(0, 0)->toolTip().contains("90 % within 8 min: nobody there"));
    const auto& numbers = d.compare().two().numbers();
    REQUIRE(numbers.item(0, 0)->text().startsWith("% within"));
    // As little as a mean. The two side by side are worked out apart from the table.
    REQUIRE(wait_for([&] { return numbers.item(0, 1)->text() == numbers.item(2, 1)->text(); }));
    CHECK_FALSE(numbers.item(0, 1)->text().contains("0"));
}

TEST_CASE("A cell puts its question and plan in sight, and opens them") {
    Comparing d;
    d.window.show_compare();
    REQUIRE(d.settle_table());
    auto& table = d.compare().plans().table();
    CHECK(table.currentRow() == 1);
    QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, table.visualItemRect(table.item(0, 1)).center());
    CHECK(d.session().document.question_index() == 1);
    CHECK(d.session().document.plan_index() == 0);
    REQUIRE(d.settle_plans());
    CHECK(d.compare().isVisible());
    table.setFocus();
    QTest::keyClick(&table, Qt::Key_Up);
    QTest::keyClick(&table, Qt::Key_Down);
    CHECK(d.session().document.plan_index() == 1);
    QTest::keyClick(&table, Qt::Key_Return);
    CHECK(d.page().isVisible());
}

TEST_CASE("Two plans are laid side by side, and who gains is picked on the map") {
    Comparing d;
    d.window.show_compare();
    auto& two = d.compare().two();
    REQUIRE(wait_for([&] { return two.found() && two.found()->after == d.session().answers.of_plan(1); }));
    for (const std::size_t plan : {0U, 1U}) {
        // As everywhere: rounded down, so that no miss becomes a met one.
        const auto share = describe(d.session().answers.verdict_of(plan)->share);
        CHECK(two.numbers().item(0, 1 + static_cast<int>(plan))->text().toStdString() + " %" == share);
    }
    const auto gained = two.found()->sums.of(service::Difference::newly_within);
    CHECK(gained.places > 100);
    CHECK(two.kinds().item(0, 2)->text().toStdString() == describe(gained.weight));
    QTest::mouseClick(two.kinds().viewport(), Qt::LeftButton, {},
                      two.kinds().visualItemRect(two.kinds().item(0, 0)).center());
    CHECK(d.page().isVisible());
    CHECK(d.session().selection.picked().places.size() == gained.places);
    // The other way round what was gained is lost.
    d.window.show_compare();
    d.session().document.choose_plan(0);
    two.against().setCurrentIndex(1);
    emit two.against().activated(1);
    REQUIRE(wait_for([&] { return two.found() && two.found()->after == d.session().answers.of_plan(0); }));
    CHECK(two.found()->sums.of(service::Difference::newly_beyond).places == gained.places);
}

TEST_CASE("A plan is held against itself as another question asks, and a change is shown on the map") {
    Comparing d;
    d.session().document.choose_question(1);
    d.session().document.edit("slower", [](service::Study& s) { s.question().turnout = Millis::minutes(2); });
    d.session().document.choose_question(0);
    REQUIRE(d.settle_plans());
    d.window.show_compare();
    auto& two = d.compare().two();
    REQUIRE(wait_for([&] { return two.found() != nullptr; }));
    const int last = two.against().count() - 1;
    CHECK(two.against().itemText(last).contains("itself as"));
    two.against().setCurrentIndex(last);
    emit two.against().activated(last);
    REQUIRE(wait_for([&] { return two.found() && two.found()->as_asked; }));
    // Everybody who is served is two minutes nearer than with turning out.
    const auto& f = *two.found();
    CHECK(f.was.plan == f.is.plan);
    CHECK(f.was.figures->mean == Approx(f.is.figures->mean + 120'000));
    CHECK(f.sums.of(service::Difference::farther).places == 0);
    CHECK(f.sums.of(service::Difference::newly_within).places > 0);
    // By the standard of the question in sight, both of them.
    CHECK(f.was.verdict->standard == d.session().document.question().standard);
    two.against().setCurrentIndex(0);
    emit two.against().activated(0);
    REQUIRE(wait_for([&] { return two.found() && !two.found()->as_asked; }));
    for (auto* button : two.findChildren<QPushButton*>())
        if (button->accessibleName() == "Show on the map what changes") QTest::mouseClick(button, Qt::LeftButton);
    CHECK(d.page().isVisible());
    CHECK(d.map().style_now().look == &change_look());
    CHECK(d.map().style_now().base == d.session().answers.of_plan(0));
    d.map().set_look(time_look());
}

TEST_CASE("Who leaves the table of plans and comes back at once finds it worked out") {
    Comparing d;
    d.window.show_compare();
    CHECK(d.compare().figures().busy());
    d.window.show_study();
    d.window.show_compare();
    CHECK(d.settle_table());
}

TEST_CASE("A window taken down while its table of plans is worked out leaves the page while the study is there") {
    struct : QObject {
        bool eventFilter(QObject*, QEvent* e) override {
            (gone ? late : hidden) |= e->type() == QEvent::Hide;
            return false;
        }
        bool gone = false, hidden = false, late = false;
    } seen;
    {
        Comparing d;
        d.window.show_compare();
        REQUIRE(d.compare().figures().busy());
        QObject::connect(&d.session().document, &QObject::destroyed, &seen, [&] { seen.gone = true; });
        d.compare().installEventFilter(&seen);
    }
    CHECK(seen.gone);
    CHECK(seen.hidden);
    CHECK_FALSE(seen.late);
}

TEST_CASE("With nothing to compare the page says what to do") {
    Desk d;
    d.window.show_compare();
    CHECK(d.window.compare_page().empty_text().contains("add roads, demand and sites"));
    d.add_saltmere();
    d.window.show_compare();
    REQUIRE(wait_for([&] { return d.window.compare_page().figures().up_to_date(); }));
    CHECK(d.window.compare_page().empty_text().contains("no plan but Today"));
}

TEST_CASE("The table of plans is written as it stands, and never over what was read") {
    Comparing d;
    d.window.show_compare();
    REQUIRE(d.settle_table());
    const auto path = QString::fromStdString(d.folder.file("plans.csv"));
    d.compare().write_figures(path);
    REQUIRE(wait_for([&] { return !d.window.jobs().busy(); }));
    const auto text = test::contents(path.toStdString());
    const double share = d.session().answers.verdict_of(1)->share.percent();
    CHECK(text.find("Ambulances,Quay opens," + std::to_string(share).substr(0, 7)) != std::string::npos);
    CHECK(text.find("In five,Today,") != std::string::npos);
    QString said;
    QObject::connect(&d.compare(), &ComparePage::trouble, [&](const QString& why) { said = why; });
    d.compare().write_figures(test::saltmere("households.csv"));
    CHECK(said.contains("were read from it"));
}

TEST_CASE("The best two posts come with their proof, and are a plan that can be undone") {
    Comparing d;
    d.session().document.choose_plan(0);
    REQUIRE(d.settle());
    auto& best = d.page().best();
    CHECK(best.isHidden());
    for (auto* button : d.page().findChildren<QPushButton*>())
        if (button->accessibleName() == "Find the best set of sites") QTest::mouseClick(button, Qt::LeftButton);
    REQUIRE(best.isVisible());
    CHECK(best.choose().value() == 2);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr; }));
    CHECK(best.result().contains("proven: no set is better"));
    const auto set = best.finder().found()->set;
    CHECK(set.chosen.size() == 2);
    CHECK(set.proven());
    QTest::mouseClick(&best.plan_button(), Qt::LeftButton);
    CHECK(d.session().document.plan().name == "Best two");
    CHECK(d.session().document.plan().note.find("no set is better") != std::string::npos);
    CHECK(best.isHidden());
    REQUIRE(d.settle_plans());
    // What it said is what the answer under the plan says.
    CHECK(d.session().answers.verdict()->inside.weight.count() == static_cast<std::int64_t>(set.value));
    const auto plans = d.session().document.study().plans.size();
    d.session().document.undo_stack().undo();
    CHECK(d.session().document.study().plans.size() == plans - 1);
}

TEST_CASE("What cannot be chosen is said where it was asked, and nothing changes") {
    Comparing d;
    auto& best = d.page().best();
    best.open();
    best.choose().setValue(50);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !best.finder().busy(); }));
    CHECK(best.result().contains("50 are to be chosen, and there are"));
    CHECK(best.plan_button().isHidden());
    // By distance, open ones too: another goal, and a set that is found for another plan is not made a plan of.
    best.choose().setValue(3);
    best.goal().setCurrentIndex(3);
    CHECK(best.close_at_most().isHidden());
    const auto& sites = d.session().answers.shown()->outcome.sites;
    const auto open = std::count_if(sites.begin(), sites.end(), [](const auto& s) {
        return s.planned.site.state == otoro::places::SiteState::open;
    });
    REQUIRE(open > 3);
    best.keep().setChecked(false);
    CHECK(best.close_at_most().isVisible());
    CHECK(best.choose().value() == 3 + open);  // as many in the end
    best.keep().setChecked(true);
    CHECK(best.choose().value() == 3);
    best.keep().setChecked(false);
    best.choose().setValue(3);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr; }));
    const auto closed = [&] { return closed_by(best.finder().found()->sites, best.finder().found()->set).size(); };
    CHECK(closed() > 2);
    CHECK(best.result().contains("and closes "));
    // So few are fewer than those that would have to stay; of as many as are open now two at most give way.
    best.close_at_most().setValue(1);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !best.finder().busy(); }));
    CHECK(!best.finder().found());
    CHECK(best.result().contains("open ones stay"));
    best.choose().setValue(static_cast<int>(open));
    best.close_at_most().setValue(2);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr; }));
    CHECK(closed() <= 2);
    best.choose().setValue(3);
    best.close_at_most().setValue(0);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr && !best.finder().busy(); }));
    CHECK(best.plan_button().isEnabled());
    d.session().document.choose_plan(0);
    REQUIRE(d.settle());
    CHECK(!best.plan_button().isEnabled());
    CHECK(best.result().contains("has changed since"));
}
