// Standards of several steps, candidates ranked, what hurts most, who fares worse, and plans made of plans, in the
// window.
#include <QCheckBox>
#include <QComboBox>
#include <QMenu>
#include <QPlainTextEdit>
#include <QSpinBox>
#include <QTableWidget>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/access_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/best_set_panel.h"
#include "desktop/parts/fairness_view.h"
#include "desktop/parts/firmness_view.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/more_sets_view.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/plan_list.h"
#include "desktop/parts/ranking_panel.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/weakest_panel.h"
#include "service/candidate.h"
#include "service/steps.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

/// The window on Saltmere's ambulances: 90 % within 8 min.
struct Siting : Desk {
    Siting() {
        add_saltmere();
        session().document.edit("standard", [](service::Study& s) {
            s.question().standard = service::Standard{Share::percent(80), Millis::minutes(8), {}};
        });
        REQUIRE(settle());
    }
    AnswerPanel& answer() { return page().answer(); }
    const service::Question& question() { return session().document.question(); }
    void press(QMenu& menu, const QString& text) {
        for (auto* action : menu.actions()) {
            if (action->menu() && action->text() == text) return;
            if (action->text() == text) {
                action->trigger();
                menu.close();
                return;
            }
        }
        FAIL("no such entry: " << text.toStdString());
    }
    QMenu& plan_menu(std::size_t plan) { return *page().plans().plan_menu(plan, {}); }
    QMenu& below(QMenu& menu, const QString& text) {
        for (auto* action : menu.actions())
            if (action->menu() && action->text() == text) return *action->menu();
        FAIL("no such menu: " << text.toStdString());
        return menu;
    }
};

}  // namespace

TEST_CASE("A step is added to the standard, and the verdict says what fails first and by how many") {
    Siting d;
    CHECK(d.verdict() == QString::fromUtf8("\u2713 met"));
    CHECK(d.page().question().blank("steps") == nullptr);
    auto* editor = d.press_blank("standard");
    QTest::mouseClick(editor->findChild<QPushButton*>("add_step"), Qt::LeftButton);
    REQUIRE(d.question().standard->further.size() == 1);
    CHECK(d.question().standard->further[0] == service::Step{Share::percent(100), Millis::minutes(16), {}});
    Desk::close_editor();
    // Judged at once, without asking again: somebody lives farther than 16 minutes.
    CHECK(d.session().answers.up_to_date());
    CHECK(d.verdict() == QString::fromUtf8("\u2717 not met"));
    CHECK(d.page().question().text().contains("and all within 16 min."));
    CHECK(d.page().verdict().accessibleName().contains("all within 16 min: 9"));
    CHECK(d.page().verdict().accessibleName().contains("residents short"));
    // Its share, limit, and how many sites, in its own blank.
    editor = d.press_blank("steps");
    editor->findChild<QDoubleSpinBox*>("step_share")->setValue(50);
    CHECK(d.verdict() == QString::fromUtf8("\u2713 met"));
    editor->findChild<QSpinBox*>("step_sites")->setValue(2);
    editor->findChild<QDoubleSpinBox*>("step_amount")->setValue(12);
    Desk::close_editor();
    REQUIRE(d.settle());
    CHECK(d.page().question().text().contains("and 50 % within 12 min by 2."));
    // As the table of steps has it.
    service::StepsAsked asked;
    asked.steps = {d.question().standard->further[0]};
    const auto answer = d.session().answers.shown();
    const auto table = judge_steps(*answer->ready, answer->outcome, asked, Task());
    const auto verdict = *d.session().answers.verdict();
    REQUIRE(verdict.steps.size() == 2);
    CHECK(verdict.steps[1].known);
    CHECK(verdict.steps[1].inside.weight == table.of_step[0].inside.weight);
    // Undone in one go, a hand at a time; and taken away.
    editor = d.press_blank("steps");
    for (auto* button : editor->findChildren<QPushButton*>())
        if (button->accessibleName() == "Remove step 2") QTest::mouseClick(button, Qt::LeftButton);
    CHECK(d.question().standard->further.empty());
    Desk::close_editor();
    CHECK(d.page().question().blank("steps") == nullptr);
    d.session().document.undo_stack().undo();
    CHECK(d.question().standard->further.size() == 1);
    d.session().document.edit("none", [](service::Study& s) { s.question().standard->further.clear(); });
    // A standard given up and taken again in the same editor comes back with what was added there.
    editor = d.press_blank("standard");
    QTest::mouseClick(editor->findChild<QPushButton*>("add_step"), Qt::LeftButton);
    auto* there_is = editor->findChild<QCheckBox*>("has_standard");
    there_is->click();
    CHECK(!d.question().standard);
    there_is->click();
    REQUIRE(d.question().standard);
    CHECK(d.question().standard->further.size() == 1);
    Desk::close_editor();
}

TEST_CASE("Turning out is part of every time") {
    Siting d;
    const auto before = d.session().answers.verdict()->share;
    const auto time = d.session().answers.shown()->outcome.places[5].time;
    auto* editor = d.press_blank("travel");
    editor->findChild<QDoubleSpinBox*>("turnout")->setValue(1.5);
    Desk::close_editor();
    REQUIRE(d.settle());
    CHECK(d.page().question().text().contains("1.5 min to turn out"));
    CHECK(d.session().answers.shown()->outcome.places[5].time == time + Millis(90'000));
    CHECK(d.session().answers.verdict()->share < before);
}

TEST_CASE("Candidates are ranked alone, linked with the map, and the best becomes a plan") {
    Siting d;
    auto& ranking = d.answer().ranking();
    QTest::mouseClick(&d.answer().rank_button(), Qt::LeftButton);
    REQUIRE(ranking.isVisible());
    REQUIRE(wait_for([&] { return !ranking.ranked().empty(); }));
    REQUIRE(ranking.ranked().size() >= 3);
    const auto first = ranking.ranked().front();
    CHECK(ranking.list().rowCount() == static_cast<int>(ranking.ranked().size()));
    CHECK(ranking.list().item(0, 1)->text() == "100");
    // By another criterion in another order, at once.
    ranking.weight(service::Criterion::newly_within).setValue(0);
    ranking.weight(service::Criterion::worst).setValue(1);
    for (std::size_t k = 1; k < ranking.ranked().size(); ++k)
        CHECK(*ranking.ranked()[k - 1].worst <= *ranking.ranked()[k].worst);
    ranking.weight(service::Criterion::newly_within).setValue(1);
    ranking.weight(service::Criterion::worst).setValue(0);
    QTest::mouseClick(ranking.list().viewport(), Qt::LeftButton, {},
                      ranking.list().visualItemRect(ranking.list().item(0, 0)).center());
    CHECK(d.session().selection.picked().site == first.site);
    QTest::mouseClick(&ranking.plan_button(), Qt::LeftButton);
    REQUIRE(d.session().document.study().plans.size() == 2);
    REQUIRE(d.settle_plans());
    // What it said is what the answer says.
    const auto now = *d.session().answers.verdict(), today = *d.session().answers.verdict_of(0);
    CHECK(now.inside.weight - today.inside.weight == first.newly_within.weight);
    CHECK(now.share == first.verdict->share);
    CHECK(!ranking.plan_button().isEnabled());  // it was of another plan
}

TEST_CASE("Candidates are ranked too where one more site may take places from others") {
    Siting d;
    d.session().document.edit("rule", [](service::Study& s) { s.question().own_limits = true; });
    REQUIRE(d.settle());
    auto& ranking = d.answer().ranking();
    QTest::mouseClick(&d.answer().rank_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !ranking.ranked().empty(); }));
    const auto first = ranking.ranked().front();
    ranking.list().setCurrentCell(0, 0);
    QTest::mouseClick(&ranking.plan_button(), Qt::LeftButton);
    REQUIRE(d.settle_plans());
    CHECK(d.session().answers.verdict()->share == first.verdict->share);
}

TEST_CASE("What hurts most is ranked, and can be closed in a plan") {
    Siting d;
    auto& weakest = d.answer().weakest();
    QTest::mouseClick(&d.answer().weakest_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return weakest.work().found() && !weakest.work().busy(); }));
    CHECK(weakest.list().rowCount() == 5);
    const auto worst = weakest.work().found()->sites.front();
    weakest.list().setCurrentCell(0, 0);
    QTest::mouseClick(&weakest.plan_button(), Qt::LeftButton);
    REQUIRE(d.settle_plans());
    CHECK(d.session().document.plan().changes.front().change == service::Change::close);
    CHECK(d.session().answers.verdict()->share == worst.verdict.share);
    // The roads, of the plan that is in sight.
    d.session().document.choose_plan(0);
    REQUIRE(d.settle());
    weakest.open();
    REQUIRE(wait_for([&] { return weakest.work().found() && !weakest.work().busy(); }));
    QTest::mouseClick(&weakest.roads_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return weakest.work().found() && weakest.work().found()->roads_too; }));
    const auto road = weakest.work().found()->roads.front();
    for (int row = 0; row < weakest.list().rowCount(); ++row)
        if (weakest.list().item(row, 0)->data(Qt::UserRole).toInt() == 5) weakest.list().setCurrentCell(row, 0);
    QTest::mouseClick(&weakest.plan_button(), Qt::LeftButton);
    REQUIRE(d.settle_plans());
    CHECK(d.session().document.plan().closures.size() == 1);
    CHECK(d.session().answers.verdict()->share == road.verdict.share);
    // Without a standard nothing can be lost, and that is said.
    d.session().document.edit("none", [](service::Study& s) { s.question().standard.reset(); });
    REQUIRE(d.settle());
    CHECK(!weakest.plan_button().isEnabled());
}

TEST_CASE("How evenly travel is shared follows the answer, and the worst-served tenth is picked") {
    Siting d;
    d.add(test::saltmere("zones.geojson"));
    auto& fair = d.answer().fairness();
    QTest::mouseClick(&fair.open_button(), Qt::LeftButton);
    REQUIRE(
        wait_for([&] { return fair.work().found() && fair.work().found()->answer == d.session().answers.shown(); }));
    const auto found = fair.work().found();
    CHECK(fair.words().contains("The worst-served tenth travels"));
    REQUIRE(fair.table().rowCount() == static_cast<int>(found->fair.zones.size() + found->fair.groups.size()));
    Weight missed;
    for (const auto& row : found->fair.zones) missed += row.not_inside;
    CHECK(missed == d.session().answers.shown()->outcome.all.weight - d.session().answers.verdict()->inside.weight);
    QTest::mouseClick(&fair.pick_button(), Qt::LeftButton);
    CHECK(d.session().selection.picked().places == found->fair.worst_places);
    // Another standard misses others; the same answer all the same.
    d.session().document.edit("limit", [](service::Study& s) { s.question().standard->limit = Millis::minutes(3); });
    REQUIRE(wait_for([&] { return fair.work().found() != found && !fair.work().busy() && fair.work().found(); }));
    Weight more;
    for (const auto& row : fair.work().found()->fair.zones) more += row.not_inside;
    CHECK(more > missed);
    fair.set_open(false);
}

TEST_CASE("Access by floating catchments has a look of its own while it is known") {
    Siting d;
    auto& access = d.answer().access();
    CHECK(!d.page().legend().look("access")->isVisible());
    QTest::mouseClick(&access.open_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return access.work().found() && !access.work().busy(); }));
    CHECK(access.work().found()->access.within == Amount(Millis::minutes(8)));  // that of the standard
    CHECK(access.words().contains("each counts one"));
    CHECK(d.page().legend().look("access")->isVisible());
    QTest::mouseClick(&access.map_button(), Qt::LeftButton);
    CHECK(d.map().style_now().look == &access_look());
    CHECK(d.map().style_now().access.get() == &access.work().found()->access);
    const auto& rows = d.page().records().demand().source();
    CHECK(rows.columns()[DemandSource::kAccess].there);
    CHECK(rows.value(7, DemandSource::kAccess).toDouble() == Approx(1'000 * access.work().found()->access.access[7]));
    const auto none = access.work().found()->access.none.places;
    access.catchment().setValue(4);
    REQUIRE(wait_for([&] { return access.work().found() && !access.work().busy(); }));
    CHECK(access.work().found()->access.none.places > none);
    access.set_open(false);
    CHECK(d.map().style_now().access == nullptr);
    d.map().set_look(time_look());
}

TEST_CASE("The look of change holds the plan in sight against Today") {
    Siting d;
    d.session().document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
    REQUIRE(d.settle_plans());
    QTest::mouseClick(d.page().legend().look("change"), Qt::LeftButton);
    REQUIRE(d.map().style_now().base);
    CHECK(d.map().style_now().base == d.session().answers.of_plan(0));
    const auto answer = d.session().answers.shown();
    const LookedAt at{*answer->ready, answer->outcome, d.map().style_now().limit, &d.map().style_now().base->outcome};
    std::size_t newly_within = 0;
    for (std::uint32_t i = 0; i < answer->outcome.places.size(); ++i) {
        if (!answer->outcome.places[i].served()) continue;
        const auto colour = change_look().colour_of(at, i);
        newly_within += change_look().mark_of(colour) == PlaceMark::square ? 1 : 0;
    }
    CHECK(newly_within ==
          d.session().answers.verdict()->inside.places - d.session().answers.verdict_of(0)->inside.places);
    // Against another plan, and of Today against itself nothing has changed.
    d.map().compare_with("Quay opens");
    CHECK(d.map().style_now().base == answer);
    d.map().set_look(time_look());
    CHECK(!d.map().style_now().base);
}

TEST_CASE("Beside the best set stand the price of every step, others nearly as good, and how sure it is") {
    Siting d;
    auto& best = d.page().best();
    best.open();
    auto& more = best.more();
    CHECK(more.isHidden());
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr; }));
    REQUIRE(more.isVisible());
    const auto set = best.finder().found()->set;
    const auto ask = [&](MoreSetsView::Kind kind) {
        QTest::mouseClick(&more.button(kind), Qt::LeftButton);
        return wait_for(
            [&] { return more.work().found() && !more.work().busy() && more.work().found()->kind == kind; });
    };
    REQUIRE(ask(MoreSetsView::Kind::sure));
    CHECK(more.work().found()->sure.variants.size() == 8);
    CHECK(more.list().rowCount() == 8);
    CHECK(more.list().item(0, 0)->text() == "as asked");
    CHECK(more.list().item(0, 2)->text() == "0.00 %");
    REQUIRE(ask(MoreSetsView::Kind::near));
    for (const auto& other : more.work().found()->sets) {
        CHECK(other.chosen != set.chosen);
        CHECK(worse_by(set, other) <= 0.02);
    }
    REQUIRE(ask(MoreSetsView::Kind::price));
    const auto steps = more.work().found()->sets;
    REQUIRE(steps.size() >= 3);
    CHECK(steps[1].value == set.value);
    for (std::size_t k = 1; k < steps.size(); ++k) CHECK(steps[k].value >= steps[k - 1].value);
    // A point of the curve is a set, and becomes a plan.
    const auto& plot = more.plot();
    QTest::mouseClick(&more.plot(), Qt::LeftButton, {},
                      QPoint(static_cast<int>(plot.xAxis->coordToPixel(3)), plot.axisRect()->center().y()));
    REQUIRE(more.list().currentRow() == 2);
    QTest::mouseClick(&more.plan_button(), Qt::LeftButton);
    REQUIRE(d.settle_plans());
    CHECK(d.session().document.plan().name == "Best three");
    CHECK(d.session().document.plan().note.find("Choose 3 of the candidate") != std::string::npos);
    CHECK(d.session().answers.verdict()->inside.weight.count() == static_cast<std::int64_t>(steps[2].value));
}

TEST_CASE("Plans are noted, ordered, branched and merged, and their changes taken back one by one") {
    Siting d;
    auto& document = d.session().document;
    document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
    document.new_plan("Mill opens", {{service::Change::open, "C2", {}}});
    REQUIRE(d.settle_plans());
    const auto& plans = document.study().plans;
    d.press(d.plan_menu(2), "Up");
    CHECK(plans[1].name == "Mill opens");
    CHECK(document.plan().name == "Mill opens");  // it stays in sight
    d.press(d.plan_menu(1), "A plan like this one");
    REQUIRE(plans.size() == 4);
    CHECK(plans[3].name == "Mill opens 2");
    d.press(d.below(d.plan_menu(3), "Merge into it"), "Quay opens");
    CHECK(plans[3].changes.size() == 2);
    REQUIRE(d.settle_plans());
    const auto both = d.session().answers.verdict()->share;
    CHECK(both >= d.session().answers.verdict_of(1)->share);
    auto& back = d.below(d.plan_menu(3), "Take back");
    REQUIRE(back.actions().size() == 2);
    back.actions().front()->trigger();
    REQUIRE(plans[3].changes.size() == 1);
    CHECK(plans[3].changes.front().site == "C1");
    document.undo_stack().undo();
    CHECK(plans[3].changes.size() == 2);
    d.press(d.plan_menu(3), QString::fromUtf8("Note\u2026"));
    auto* card = QApplication::activePopupWidget();
    REQUIRE(card);
    card->findChild<QPlainTextEdit*>()->setPlainText("As the committee asked");
    QTest::mouseClick(card->findChild<QPushButton*>(), Qt::LeftButton);
    CHECK(plans[3].note == "As the committee asked");
    CHECK(d.page().plans().list().item(3)->toolTip().contains("As the committee asked"));
    // A site that a plan adds goes with all that is done to it.
    document.new_plan("Adds one", {{service::Change::add, "New", geo::LonLat{-9.49, 46.2}}});
    const auto last = plans.size() - 1;
    auto moves = plans[last].changes.front();
    moves.change = service::Change::move;
    moves.added = true;
    document.change_plan("moves", moves);
    REQUIRE(plans[last].changes.size() == 2);
    document.take_back(last, plans[last].changes.front());
    CHECK(plans[last].changes.empty());
    // Nothing of Today can be changed but its note.
    auto& today = d.plan_menu(0);
    for (auto* action : today.actions())
        CHECK(action->isEnabled() == (action->text() == QString::fromUtf8("Note\u2026")));
}

TEST_CASE("Further rules of the best set: what must be in it, what never, how far apart, how busy") {
    Siting d;
    auto& best = d.page().best();
    best.open();
    const auto find = [&] {
        QTest::mouseClick(&best.find_button(), Qt::LeftButton);
        return wait_for([&] { return !best.finder().busy(); });
    };
    REQUIRE(find());
    const auto free = best.finder().found()->set;
    REQUIRE(free.chosen.size() == 2);
    const auto planned = [&](SiteIndex site) {
        return d.session().answers.shown()->outcome.sites[site.value()].planned;
    };
    best.set_role(planned(free.chosen[0]), BestSetPanel::Role::never);
    REQUIRE(find());
    const auto without = best.finder().found()->set;
    CHECK(std::find(without.chosen.begin(), without.chosen.end(), free.chosen[0]) == without.chosen.end());
    CHECK(without.value <= free.value);
    best.set_role(planned(free.chosen[0]), BestSetPanel::Role::may);
    // As the menu of a site offers it.
    d.page().offer_site_menu(without.chosen[0], d.window.pos());
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    REQUIRE(menu);
    d.below(*menu, "In the best set").actions().at(1)->trigger();
    menu->close();
    CHECK(best.role_of(planned(without.chosen[0])) == BestSetPanel::Role::must);
    REQUIRE(find());
    const auto with = best.finder().found()->set;
    CHECK(std::find(with.chosen.begin(), with.chosen.end(), without.chosen[0]) != with.chosen.end());
    best.set_role(planned(without.chosen[0]), BestSetPanel::Role::may);
    // No candidate is so far from all others: what contradicts what is said.
    best.apart().setValue(100);
    REQUIRE(find());
    CHECK(!best.finder().found());
    CHECK(best.plan_button().isHidden());
    best.apart().setValue(0);
    best.budget().setValue(3);
    CHECK(!best.choose().isEnabled());
    // Rules that are folded away hold all the same, and how many do is said.
    QTest::mouseClick(&best.rules_button(), Qt::LeftButton);
    CHECK(best.rules_button().text().contains("Rules (1)"));
    REQUIRE(find());
    CHECK(best.result().contains("has no cost"));
    best.budget().setValue(0);
    best.goal().setCurrentIndex(5);
    REQUIRE(find());
    // The fewest have no price by steps.
    CHECK(!best.more().button(MoreSetsView::Kind::price).isEnabled());
    best.goal().setCurrentIndex(2);
    CHECK(best.busy().isVisible());
    best.busy().setValue(0);
    REQUIRE(find());
    const auto never_busy = best.finder().found()->set.value;
    best.busy().setValue(60);
    REQUIRE(find());
    CHECK(best.finder().found()->set.value < never_busy);
}

TEST_CASE("Candidates on a grid are a set of the study, and can be undone") {
    Siting d;
    auto& adder = d.page().best().adder();
    const auto sets = d.session().document.study().sites.size();
    const auto share = d.share();
    adder.add(CandidateAdder::Where::grid, Millimetres::metres(2'000));
    REQUIRE(wait_for([&] { return d.session().document.study().sites.size() == sets + 1; }));
    REQUIRE(d.settle());
    CHECK(d.question().sites.size() == 2);
    CHECK(d.session().document.study().sites.back().set->sites.size() > 20);
    CHECK(d.share() == share);  // candidates serve nobody yet
    QString said;
    QObject::connect(&adder, &CandidateAdder::trouble, [&](const QString& why) { said = why; });
    adder.add(CandidateAdder::Where::grid, Millimetres::metres(50));
    REQUIRE(wait_for([&] { return !said.isEmpty(); }));
    CHECK(said.contains("Choose a wider grid"));
    d.session().document.undo_stack().undo();
    CHECK(d.session().document.study().sites.size() == sets);
    CHECK(d.question().sites.size() == 1);
    // Another study is opened meanwhile: nothing is put into that.
    adder.add(CandidateAdder::Where::grid, Millimetres::metres(2'000));
    d.session().document.put({}, {});
    REQUIRE(wait_for([&] { return !adder.busy(); }));
    QTest::qWait(100);
    CHECK(d.session().document.study().sites.empty());
}

TEST_CASE("How firm the verdict is: the band, the slack, and what busy sites leave") {
    Siting d;
    auto& firm = d.answer().firmness();
    firm.set_open(true);
    REQUIRE(wait_for([&] { return firm.work().found() && !firm.work().busy(); }));
    REQUIRE(firm.band().rowCount() == 5);
    CHECK(firm.band().item(2, 1)->text() == d.share());
    const auto& band = firm.work().found()->firm.band;
    for (std::size_t i = 1; i < band.size(); ++i) CHECK(band[i].verdict.share >= band[i - 1].verdict.share);
    // Met by so much: so much slower the limit breaks it, and not before.
    const auto slack = *firm.work().found()->firm.slack;
    REQUIRE(slack > 0);
    const auto& o = d.session().answers.shown()->outcome;
    const auto limit = std::get<Millis>(d.question().standard->limit);
    CHECK(judge(o, {d.question().standard->share, limit - Millis(slack), {}}).met);
    CHECK(!judge(o, {d.question().standard->share, limit - Millis(slack + 1), {}}).met);
    CHECK(firm.words().contains("It breaks when everybody is more than"));
    // Ten calls an hour of half an hour each keep five posts busy all the time.
    firm.on_task().setValue(30);
    firm.calls().setValue(5);
    CHECK(firm.busy().value() == 50);
    const auto before = *firm.work().found()->firm.expected;
    REQUIRE(wait_for(
        [&] { return firm.work().found() && !firm.work().busy() && firm.work().found()->busy == Share::percent(50); }));
    CHECK(*firm.work().found()->firm.expected < before);
    firm.set_open(false);
}

TEST_CASE("Where fewer sites are enough the best set has fewer, and says how many bring nothing") {
    Siting d;
    auto& best = d.page().best();
    best.open();
    best.keep().setChecked(false);
    best.choose().setValue(8);
    best.limit().setValue(20);
    QTest::mouseClick(&best.find_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.finder().found() != nullptr; }));
    const auto set = best.finder().found()->set;
    REQUIRE(set.proven());
    REQUIRE(set.chosen.size() + set.spare == 8);
    REQUIRE(set.spare > 0);
    CHECK(
        best.result().contains(QString("%1 are enough: %2 more bring nothing").arg(set.chosen.size()).arg(set.spare)));
    // The price of every step says the same.
    QTest::mouseClick(&best.more().button(MoreSetsView::Kind::price), Qt::LeftButton);
    REQUIRE(wait_for([&] { return best.more().work().found() && !best.more().work().busy(); }));
    CHECK(best.more().work().found()->enough == set.chosen.size());
    CHECK(best.more().list().rowCount() == static_cast<int>(set.chosen.size()));
}
