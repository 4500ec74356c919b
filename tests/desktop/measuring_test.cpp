/// Routes over stops, who should move, room, detours, lines and all pairs, at the window.
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QMenu>
#include <QPushButton>
#include <QSpinBox>
#include <QTableView>
#include <QTableWidget>
#include <QTreeWidget>
#include <QtTest>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/pages/pairs_sheet.h"
#include "desktop/parts/detour_panel.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/number_box.h"
#include "desktop/parts/reassign_panel.h"
#include "desktop/parts/room_panel.h"
#include "desktop/parts/route_panel.h"
#include "files/study_file.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::test;
using desktop::Layer;

namespace {

/// The example, which has questions of every kind and a day's round.
struct Example : Desk {
    Example() {
        window.open_example();
        REQUIRE(test::wait_for([&] { return !session().document.study().demand.empty(); }));
        REQUIRE(settle());
    }
    void ask(const char* question) {
        const auto& all = session().document.study().questions;
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i].name == question) session().document.choose_question(i);
        REQUIRE(session().document.question().name == question);
        REQUIRE(settle());
    }
    desktop::RoutePlanner& route() { return session().route; }
    bool found() {
        return wait_for([&] { return route().up_to_date() && route().found(); });
    }
    /// The sheet of all pairs, asked about two sets.
    desktop::PairsSheet* pairs_of(const char* from, const char* to) {
        window.show_pairs();
        auto* sheet = window.findChild<desktop::PairsSheet*>();
        REQUIRE(sheet);
        sheet->from().setCurrentIndex(sheet->from().findText(from));
        sheet->to().setCurrentIndex(sheet->to().findText(to));
        QTest::mouseClick(&sheet->show_button(), Qt::LeftButton);
        return sheet;
    }
    void trigger(const QString& text) {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        for (auto* a : menu->actions())
            if (a->text().startsWith(text)) {
                a->trigger();
                return close_editor();
            }
        FAIL("there is no " << text.toStdString());
    }
};

/// What the legs of the route that is found come to.
double minutes_of_legs(const service::Itinerary& way) {
    double sum = 0;
    for (const auto& leg : way.legs) sum += leg.time.minutes();
    return sum;
}

}  // namespace

TEST_CASE("The day's round is looked at, put in another order and back, and handed out") {
    Example desk;
    desk.ask("Gritting");
    auto& panel = desk.page().route();
    CHECK(panel.isVisible());
    CHECK_FALSE(desk.route().found());  // of a study that was opened it is shown when it is asked for
    QTest::mouseClick(&panel.heading(), Qt::LeftButton);
    REQUIRE(desk.found());
    const auto& stops = desk.session().document.study().route.stops;
    REQUIRE(stops.size() == 9);
    const auto best = desk.route().found()->way.time;
    CHECK(minutes_of_legs(desk.route().found()->way) == Approx(best.minutes()).margin(0.001));
    REQUIRE(panel.list().topLevelItemCount() == 9);
    CHECK(panel.list().topLevelItem(0)->text(0).contains("Weir Depot"));
    panel.list().topLevelItem(0)->setExpanded(true);
    CHECK(panel.list().topLevelItem(0)->childCount() > 0);
    CHECK_THAT(panel.summary().toStdString(), Catch::Contains("9 stops and back"));

    // Alt with an arrow puts a stop later, and the way follows; undo puts it back.
    const auto before = desk.session().document.study().route;
    panel.list().setCurrentItem(panel.list().topLevelItem(2));
    QTest::keyClick(&panel.list(), Qt::Key_Down, Qt::AltModifier);
    CHECK(desk.session().document.study().route.stops[3] == before.stops[2]);
    REQUIRE(desk.found());
    CHECK(desk.route().found()->way.time > best);
    QTest::mouseClick(&panel.best_order(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return desk.found() && desk.route().found()->way.time == best; }));
    QTest::mouseClick(&panel.round(), Qt::LeftButton, {}, QPoint(8, 8));
    REQUIRE(wait_for([&] { return desk.found() && desk.route().found()->way.legs.size() == 8; }));
    desk.session().document.undo_stack().undo();
    REQUIRE(wait_for([&] { return desk.found() && desk.route().found()->way.time == best; }));

    // A disc pulled on the map moves its stop; the way follows while it is pulled.
    const QPoint from = desk.map().screen_of(stops[4].at).toPoint(), to = from + QPoint(40, 25);
    REQUIRE(desk.map().stop_at(from) == std::optional<std::size_t>(4));
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, from);
    for (int i = 1; i <= 4; ++i) {
        QMouseEvent move(QEvent::MouseMove, QPointF(from + QPoint(10 * i, 6 * i)),
                         desk.map().mapToGlobal(QPointF(from + QPoint(10 * i, 6 * i))), Qt::NoButton, Qt::LeftButton,
                         {});
        QApplication::sendEvent(&desk.map(), &move);
    }
    CHECK_FALSE(desk.route().route() == desk.session().document.study().route);
    CHECK(desk.session().document.study().route.stops[4] == stops[4]);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, to);
    REQUIRE(desk.found());
    CHECK(desk.route().found()->route == desk.session().document.study().route);
    const QPointF now = desk.map().screen_of(desk.session().document.study().route.stops[4].at);
    CHECK((now - to).manhattanLength() < 2);

    // As a line, and as text whose legs are those of the list.
    desk.window.exports().route(QString::fromStdString(desk.folder.file("round.gpkg")));
    desk.window.exports().route(QString::fromStdString(desk.folder.file("round.txt")));
    REQUIRE(desk.settle());
    CHECK_THAT(contents(desk.folder.file("round.txt")), Catch::Contains("stop 1, Weir Depot to stop 2"));
    CHECK(contents(desk.folder.file("round.gpkg")).size() > 1000);
    desk.window.exports().copy_route();
    CHECK(QApplication::clipboard()->text().toStdString() == contents(desk.folder.file("round.txt")));

    // Saved and opened again it is there.
    desk.window.files().save(QString::fromStdString(desk.folder.file("s.otoro.gpkg")));
    REQUIRE(desk.settle());
    const auto saved = desk.session().document.study().route;
    CHECK(files::open_study(desk.folder.file("s.otoro.gpkg"), Task()).route == saved);
}

TEST_CASE("Stops are made and removed from the map's menus, and a way that is not there says why") {
    Example desk;
    desk.route().clear();
    CHECK_FALSE(desk.page().route().isVisible());
    const auto& sites = desk.session().document.study().sites[0].set->sites;
    desk.page().offer_site_menu(SiteIndex(0U), desk.window.pos());
    desk.trigger("Start a route from");
    CHECK(desk.page().route().isVisible());
    CHECK_THAT(desk.page().route().summary().toStdString(), Catch::Contains("Add a second stop"));
    desk.page().offer_spot_menu({-9.4860, 46.2085}, desk.window.pos());
    desk.trigger("Stop here");
    REQUIRE(desk.found());
    CHECK(desk.route().found()->way.line.size() > 2);
    // Out at sea there is no road.
    desk.page().offer_spot_menu({-9.60, 46.2085}, desk.window.pos());
    desk.trigger("Stop here");
    REQUIRE(wait_for([&] { return desk.route().up_to_date() && !desk.route().trouble().isEmpty(); }));
    CHECK_THAT(desk.page().route().summary().toStdString(), Catch::Contains("stop 3: no road"));
    CHECK_FALSE(desk.route().found());
    auto& list = desk.page().route().list();
    list.setCurrentItem(list.topLevelItem(2));
    QTest::keyClick(&list, Qt::Key_Delete);
    REQUIRE(desk.found());
    // With a plan's closure the way goes round it.
    const auto free = desk.route().found()->way.time;
    roads::Closure here;
    const auto& line = desk.route().found()->way.line;
    here.vertices = {line[line.size() / 2]};
    desk.page().take_closure(here);
    REQUIRE(desk.settle());
    REQUIRE(wait_for(
        [&] { return desk.route().up_to_date() && (desk.route().found() || !desk.route().trouble().isEmpty()); }));
    if (desk.route().found()) CHECK(desk.route().found()->way.time > free);
    CHECK(desk.route().route().stops.front().at == *sites[0].position);
    // Picked places become stops together.
    desk.session().selection.pick({{3, 77, 500}, std::nullopt});
    desk.page().offer_spot_menu({-9.4860, 46.2085}, desk.window.pos());
    desk.trigger("Stop at the 3 places picked");
    CHECK(desk.route().route().stops.size() == 5);
}

TEST_CASE("Pupils who should move to a nearer school are a list, flows and a question of their own") {
    Example desk;
    desk.ask("Pupils on record");
    auto& panel = desk.page().reassign();
    REQUIRE(wait_for([&] { return panel.reassigner().up_to_date(); }));
    CHECK(panel.isVisible());
    const auto all = panel.reassigner().found()->moved;
    CHECK(all.moved.places == 181);
    CHECK_THAT(panel.summary().toStdString(), Catch::Contains("22 of them on record at no site in use"));
    CHECK(panel.flows().rowCount() == static_cast<int>(all.flows.size()));
    CHECK_FALSE(desk.map().flows().empty());
    // Who saves more than a kilometre: fewer, and none without a record.
    panel.who().setCurrentIndex(1);
    panel.more_than().setValue(1000);
    REQUIRE(wait_for(
        [&] { return panel.reassigner().up_to_date() && panel.reassigner().found()->moved.moved.places < 181; }));
    const auto some = panel.reassigner().found()->moved;
    CHECK(some.moved.places > 0);
    for (const auto& flow : some.flows) CHECK(flow.from.has_value());
    // A flow picks its places; of those picked, all move.
    emit panel.flows().cellClicked(0, 0);
    const auto picked = desk.session().selection.picked().places;
    std::uint32_t heaviest = 0;
    for (const auto& flow : some.flows) heaviest = std::max(heaviest, flow.tally.places);
    REQUIRE(picked.size() == heaviest);
    QTest::mouseClick(&panel.only_picked(), Qt::LeftButton, {}, QPoint(8, 8));
    REQUIRE(wait_for([&] {
        return panel.reassigner().up_to_date() && panel.reassigner().found()->moved.moved.places == picked.size();
    }));
    CHECK(panel.flows().rowCount() == 1);
    panel.add_as_demand();
    REQUIRE(wait_for([&] { return desk.session().document.question().name == "Pupils on record, reassigned"; }));
    REQUIRE(desk.settle());
    REQUIRE(wait_for([&] { return panel.reassigner().up_to_date(); }));
    panel.who().setCurrentIndex(0);
    REQUIRE(wait_for([&] {
        return panel.reassigner().up_to_date() && panel.reassigner().found()->moved.moved.places == 181 - picked.size();
    }));
    desk.ask("Ambulances");
    CHECK_FALSE(panel.isVisible());
    CHECK(desk.map().flows().empty());
}

TEST_CASE("Where schools are full, the next ten places at each are weighed") {
    Example desk;
    desk.ask("Pupils by places");
    auto& panel = desk.page().room();
    CHECK(panel.isVisible());
    CHECK_THAT(panel.summary().toStdString(), Catch::Contains("find none"));
    QTest::mouseClick(&panel.work_out(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !panel.work().busy() && panel.work().found(); }));
    const auto& all = panel.work().found()->all;
    REQUIRE(all.size() > 3);
    for (const auto& m : all) CHECK(m.find_room == Weight::of(10));  // 77 find none
    CHECK(panel.list().rowCount() == static_cast<int>(all.size()));
    for (std::size_t i = 1; i < all.size(); ++i) CHECK(all[i].saved <= all[i - 1].saved);
    desk.ask("Pupils on foot");
    CHECK_FALSE(panel.isVisible());
}

TEST_CASE("Detours are a histogram and a list of the worst, whose ways are drawn and picked") {
    Example desk;
    auto& panel = desk.page().detours();
    CHECK_FALSE(panel.isVisible());
    desk.map().set_look(desktop::detour_look());
    REQUIRE(wait_for([&] { return panel.up_to_date(); }));
    CHECK(panel.isVisible());
    const auto& d = panel.found()->detours;
    std::uint32_t places = 0;
    for (const auto& step : d.steps) places += step.places;
    CHECK(places == desk.session().answers.shown()->outcome.tally(service::Status::served).places);
    REQUIRE(d.worst.size() == 12);
    CHECK(desk.map().journeys().size() == 12);
    CHECK(panel.worst().rowCount() == 12);
    emit panel.worst().cellClicked(1, 0);
    CHECK(desk.session().selection.picked().places == std::vector<std::uint32_t>{d.worst[1].place.value()});
    desk.map().set_look(desktop::time_look());
    CHECK(desk.map().journeys().empty());
}

TEST_CASE("Lines to sites are bundled, and all the weight that is served is in them") {
    Example desk;
    CHECK(desk.map().desire().lines().empty());
    desk.page().legend().row(Layer::lines)->setChecked(true);
    REQUIRE(wait_for([&] { return desk.map().settled() && !desk.map().desire().lines().empty(); }));
    const auto& o = desk.session().answers.shown()->outcome;
    double weight = 0;
    std::uint32_t places = 0;
    for (const auto& line : desk.map().desire().lines()) {
        weight += line.weight;
        places += line.places;
    }
    CHECK(places == o.tally(service::Status::served).places);
    CHECK(weight == Approx(o.tally(service::Status::served).weight.value()));
    CHECK(desk.map().desire().lines().size() < 900);  // of nine thousand places
    desk.page().legend().row(Layer::lines)->setChecked(false);
    CHECK(desk.map().desire().lines().empty());
}

TEST_CASE("The first, the closest and the farthest place are gone to with their way") {
    Example desk;
    const auto& o = desk.session().answers.shown()->outcome;
    using Served = desktop::StudyPage::Served;
    const auto picked = [&](Served which) {
        desk.page().jump_to(which);
        REQUIRE(desk.session().selection.picked().places.size() == 1);
        const auto place = desk.session().selection.picked().places.front();
        CHECK(desk.session().selection.picked().site == o.places[place].site);
        CHECK_FALSE(desk.map().readout().isEmpty());
        return place;
    };
    const auto farthest = picked(Served::farthest), closest = picked(Served::closest), first = picked(Served::first);
    CHECK(o.places[farthest].time.count() == service::statistics(o, routing::Measure::time)->worst);
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        if (!o.places[i].served()) continue;
        CHECK(o.places[closest].time <= o.places[i].time);
        CHECK(first <= i);
    }
}

TEST_CASE("All pairs between two sets are shown, summed up and written") {
    Example desk;
    auto* sheet = desk.pairs_of("sites: gritting depots", "sites: primary schools");
    REQUIRE(wait_for([&] { return !sheet->work().busy() && sheet->work().found(); }));
    const auto& found = *sheet->work().found();
    const auto depots = desk.session().document.study().find_sites("gritting depots")->set->count();
    const auto schools = desk.session().document.study().find_sites("primary schools")->set->count();
    CHECK(found.matrix.rows() == depots);
    CHECK(found.matrix.places() == schools);
    CHECK(found.statistics.all.pairs + found.statistics.all.without == std::size_t{depots} * schools);
    CHECK_THAT(sheet->summary().toStdString(), Catch::Contains("Mean"));
    const auto* model = sheet->table().model();
    CHECK(model->rowCount() == static_cast<int>(depots));
    CHECK(model->columnCount() == static_cast<int>(schools) + 2);
    CHECK(model->headerData(0, Qt::Vertical, Qt::DisplayRole).toString().contains("Depot"));
    const QString file = QString::fromStdString(desk.folder.file("pairs.csv"));
    sheet->export_to(file);
    REQUIRE(desk.settle());
    const auto text = contents(file.toStdString());
    CHECK_THAT(text, Catch::StartsWith("from_id,from_name,to_id,to_name,minutes,metres,straight_m,detour"));
    CHECK(static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n')) == 1 + found.statistics.all.pairs);
    // A set with itself: nobody is paired with himself.
    sheet->to().setCurrentIndex(sheet->from().currentIndex());
    CHECK(model->rowCount() == 0);
    QTest::mouseClick(&sheet->show_button(), Qt::LeftButton);
    REQUIRE(wait_for([&] { return !sheet->work().busy() && sheet->work().found(); }));
    CHECK(sheet->work().found()->statistics.all.pairs + sheet->work().found()->statistics.all.without ==
          std::size_t{depots} * (depots - 1));
    sheet->close();
}

TEST_CASE("The sheet of pairs says which ends no road is near, by their names, and the rest in its tip") {
    Example desk;
    desk.session().document.edit("off the roads", [](service::Study& s) {
        const auto layer = std::find_if(s.sites.begin(), s.sites.end(),
                                        [](const auto& in) { return in.set->name == "primary schools"; });
        auto moved = *layer->set;
        moved.sites[1].name = "<b>Quay & Mill";
        moved.sites[1].position->lat += 2;  // out at sea
        moved.sites[2].position.reset();
        layer->set = std::make_shared<const places::SiteSet>(moved);
    });
    REQUIRE(desk.settle());
    auto* sheet = desk.pairs_of("sites: gritting depots", "sites: primary schools");
    REQUIRE(wait_for([&] { return !sheet->work().busy() && sheet->work().found(); }));
    const auto& schools = desk.session().document.study().find_sites("primary schools")->set->sites;
    const std::string first = "to <b>Quay & Mill (" + schools[1].id + ") is left out: no road that this traveller may",
                      second = "to " + schools[2].name + " (" + schools[2].id + ") is left out: its record gives no";
    const auto escaped = [](const std::string& text) { return QString::fromStdString(text).toHtmlEscaped(); };
    QLabel* summary = nullptr;
    for (auto* label : sheet->findChildren<QLabel*>())
        if (label->text() == sheet->summary()) summary = label;
    REQUIRE(summary);
    CHECK(summary->text().contains(escaped(first)));
    CHECK(summary->text().contains("; and 1 more."));
    CHECK_FALSE(summary->text().contains(escaped(second)));
    CHECK_FALSE(summary->text().contains("no_road_near"));
    CHECK(summary->toolTip().contains(QString::fromStdString(first)));
    CHECK(summary->toolTip().contains(QString::fromStdString(second)));
    QString said;
    QObject::connect(sheet, &desktop::PairsSheet::done, [&](const QString& text) { said = text; });
    sheet->export_to(QString::fromStdString(desk.folder.file("pairs.csv")));
    REQUIRE(wait_for([&] { return !said.isEmpty(); }));
    CHECK_THAT(said.toStdString(), Catch::Contains(first) && Catch::Contains("; and 1 more."));
    sheet->close();
}

TEST_CASE("A table of pairs is added, decides, is checked and can be removed") {
    Example desk;
    desk.ask("Pupils on foot");
    const auto& pupils = *desk.session().document.study().find_demand("pupils")->set;
    const auto& schools = *desk.session().document.study().find_sites("primary schools")->set;
    std::string text = "pupil,school,visits\n";
    for (std::uint32_t i = 0; i < 40; ++i)
        text += pupils.at(DemandIndex(i)).id + "," + schools.sites[i % 2].id + ",3\n";
    text += "nobody," + schools.sites[0].id + ",1\n";
    const auto file = desk.folder.write("visits.csv", text);
    desk.window.take_file(QString::fromStdString(file));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    CHECK(panel.role().currentIndex() == static_cast<int>(desktop::Role::pairs));
    panel.accept();
    REQUIRE(desk.settle());
    REQUIRE(desk.session().document.study().pairs);
    CHECK(desk.session().document.study().pairs->values->count() == 41);
    desk.window.show_study();
    auto* editor = desk.press_blank("serving");
    Desk::choose(editor, 5);
    editor->findChild<QSpinBox*>("of_value")->setValue(100);
    Desk::close_editor();
    REQUIRE(desk.settle());
    const auto& o = desk.session().answers.shown()->outcome;
    CHECK(o.tally(service::Status::not_recorded).places > 1300);
    CHECK_THAT(desk.page().question().text().toStdString(), Catch::Contains("one with the largest value"));
    REQUIRE(wait_for([&] { return desk.window.data_page().fixer().up_to_date(); }));
    const auto& findings = desk.window.data_page().fixer().findings();
    CHECK(std::any_of(findings.begin(), findings.end(), [](const service::Finding& f) {
        return f.kind == service::FindingKind::unknown_pairs && f.count == 1;
    }));
    CHECK(std::any_of(findings.begin(), findings.end(), [](const service::Finding& f) {
        return f.kind == service::FindingKind::not_recorded && f.about == "pupils" && f.count == 22;
    }));
    // Whoever has no value goes to the nearest, if that is wanted.
    desk.press_blank("serving")->findChild<QCheckBox*>("else_nearest")->click();
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(desk.session().answers.shown()->outcome.tally(service::Status::not_recorded).places == 0);
    CHECK(desk.session().answers.shown()->outcome.tally(service::Status::served).places > 1300);
    CHECK_THAT(desk.page().question().text().toStdString(), Catch::Contains(", else the nearest by"));
}

TEST_CASE(
    "A stop in the hand is put back by whatever changes the study, and a press on it is a press on what is below") {
    Example desk;
    desk.ask("Gritting");
    desk.route().set_shown(true);
    REQUIRE(desk.found());
    const auto before = desk.session().document.study().route;
    const QPoint from = desk.map().screen_of(before.stops[4].at).toPoint();
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, QPointF(from + QPoint(30, 20)),
                     desk.map().mapToGlobal(QPointF(from + QPoint(30, 20))), Qt::NoButton, Qt::LeftButton, {});
    QApplication::sendEvent(&desk.map(), &move);
    CHECK_FALSE(desk.route().route() == before);
    // Another thing is changed meanwhile: the standard.
    desk.session().document.edit("standard", [](service::Study& s) { s.question().standard.reset(); });
    CHECK(desk.route().route() == before);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, from + QPoint(30, 20));
    CHECK(desk.session().document.study().route == before);
    // The first stop stands on a depot.
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, desk.map().screen_of(before.stops[0].at).toPoint());
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    REQUIRE(menu);
    QStringList offered;
    for (const QAction* a : menu->actions()) offered << a->text();
    CHECK_THAT(offered.join("; ").toStdString(), Catch::Contains("Stop at Weir Depot"));
    Desk::close_editor();
}

TEST_CASE("A stop pulled in the list takes its new place, and more than twelve have no best order") {
    Example desk;
    desk.ask("Gritting");
    desk.route().set_shown(true);
    REQUIRE(desk.found());
    const auto before = desk.session().document.study().route;
    auto& list = desk.page().route().list();
    list.insertTopLevelItem(5, list.takeTopLevelItem(2));  // as dropping does
    REQUIRE(wait_for([&] { return !(desk.session().document.study().route == before); }));
    CHECK(desk.session().document.study().route.stops[5] == before.stops[2]);
    CHECK(desk.session().document.study().route.stops[2] == before.stops[3]);
    REQUIRE(desk.found());
    auto more = before.stops;
    for (auto& stop : more) stop.name += " again";
    desk.route().add(more);
    REQUIRE(desk.found());
    const auto order = desk.session().document.study().route;
    desk.route().put_in_best_order();
    REQUIRE(wait_for([&] { return desk.route().up_to_date(); }));
    CHECK(desk.session().document.study().route == order);
    CHECK_THAT(desk.window.notice().text().toStdString(), Catch::Contains("the best order is found for 12 at most"));
    CHECK(desk.route().found());
    // Another study on the desk has nothing of it.
    desk.session().document.put({}, {});
    CHECK_FALSE(desk.route().shown());
    CHECK_FALSE(desk.route().found());
    CHECK_FALSE(desk.page().route().isVisible());
}

TEST_CASE("Lines to thousands of sites are all there") {
    std::vector<std::pair<At, double>> homes;
    std::vector<At> posts;
    for (int i = 0; i < 2'400; ++i) {
        homes.push_back({{i % 60 * 100.0, i / 60 * 100.0 + 20}, 1.0});
        posts.push_back({i % 60 * 100.0, i / 60 * 100.0});
    }
    Town town;
    for (int row = 0; row < 40; ++row) town.draw({{0, row * 100.0}, {5'900, row * 100.0}});
    for (int row = 0; row < 39; ++row) town.draw({{0, row * 100.0}, {0, row * 100.0 + 100}});
    auto study = study_of(town, households(homes), test::posts(posts));
    Desk desk;
    desk.session().document.put(std::move(study), {});
    desk.window.show_study();
    REQUIRE(desk.settle());
    desk.map().set_layer_shown(Layer::lines, true);
    REQUIRE(wait_for([&] { return desk.map().settled() && !desk.map().desire().lines().empty(); }));
    std::uint32_t places = 0;
    for (const auto& line : desk.map().desire().lines()) places += line.places;
    CHECK(places == desk.session().answers.shown()->outcome.tally(service::Status::served).places);
    CHECK(places == 2'400);
}

TEST_CASE("Pairs that are too many say so, and the rule without its table says what is missing") {
    Example desk;
    auto many = std::make_shared<places::DemandSet>(*desk.session().document.study().find_demand("households")->set);
    const auto once = many->places;
    many->places.insert(many->places.end(), once.begin(), once.end());
    many->name = "many";
    many->group = many->recorded = many->priority = {};
    desk.session().document.edit("add", [&](service::Study& s) { s = with_demand(std::move(s), {many, {}}); });
    auto* sheet = desk.pairs_of("demand: many", "demand: many");
    REQUIRE(wait_for([&] { return !sheet->work().busy(); }));
    CHECK_THAT(sheet->summary().toStdString(), Catch::Contains("18000 by 18000 are more than"));
    sheet->close();
    // A question by pairs without a table: nobody has a value, and nothing breaks.
    desk.session().document.edit("rule", [](service::Study& s) { s.question().serving = service::ByPairs{}; });
    REQUIRE(desk.settle());
    const auto& o = desk.session().answers.shown()->outcome;
    CHECK(o.tally(service::Status::served).places == 0);
    CHECK(o.tally(service::Status::not_recorded).places > 8'000);
    desk.session().document.undo_stack().undo();
    REQUIRE(desk.settle());
    CHECK(desk.session().answers.shown()->outcome.tally(service::Status::served).places > 8'000);
}
