/// Other rules than the nearest, chosen on the question line.
#include <QComboBox>
#include <QLabel>
#include <QRadioButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QtTest>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/map/looks/map_look.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/question_line.h"

using namespace otoro;
using namespace otoro::test;
using service::Status;

namespace {

/// Pupils to schools with places, on Saltmere.
struct Pupils : Desk {
    Pupils() {
        add(saltmere("roads.gpkg"));
        add(saltmere("pupils.csv"));
        add(saltmere("primary-schools.geojson"));
        window.show_study();
        REQUIRE(settle());
    }
    const service::Outcome& outcome() { return session().answers.shown()->outcome; }
};

}  // namespace

TEST_CASE("Schools are filled as capacity allows, and what that costs is said beside the map") {
    Pupils desk;
    const auto nearest = desk.outcome().tally(Status::served).places;
    Desk::choose(desk.press_blank("serving"), 2);
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK_THAT(desk.page().question().text().toStdString(), Catch::Contains("as capacity allows (least travel)"));
    const auto& o = desk.outcome();
    REQUIRE(o.capacity);
    CHECK(o.capacity->proven);
    CHECK(o.tally(Status::site_full).places + o.tally(Status::served).places == nearest);
    for (const auto& s : o.sites)
        if (s.planned.in_use && s.planned.site.capacity) CHECK(s.load <= *s.planned.site.capacity);
    const auto labels = desk.page().answer().findChildren<QLabel*>();
    CHECK(std::any_of(labels.begin(), labels.end(), [](const QLabel* l) { return l->text().contains("proven"); }));
    // The route that is read out for a place is the one to the school that takes it.
    for (std::uint32_t i = 0; i < o.places.size(); i += 97) {
        const auto reading = read_place(*desk.session().answers.shown()->ready, o, DemandIndex(i));
        CHECK(reading.outcome == o.places[i]);
        CHECK(reading.route.empty() == !o.places[i].site.has_value());
    }
    desk.session().document.undo_stack().undo();
    REQUIRE(desk.settle());
    CHECK(desk.outcome().tally(Status::served).places == nearest);
}

TEST_CASE("The answer goes out with all the fields of its file, unless that has changed meanwhile") {
    Desk desk;
    const test::Folder folder;
    const auto pupils =
        folder.write("pupils.csv", "ref,lon,lat,bus pass\nP 1,-9.4689,46.2190,yes\nP 2,-9.5210,46.2171,\n");
    desk.add(saltmere("roads.gpkg"));
    desk.window.take_file(QString::fromStdString(pupils));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.role().setCurrentIndex(static_cast<int>(desktop::Role::demand));
    panel.accept();
    REQUIRE(desk.settle());
    desk.add(saltmere("primary-schools.geojson"));
    desk.window.show_study();
    REQUIRE(desk.settle());
    const auto out = folder.file("answer.csv");
    desk.window.exports().answer_with_fields(QString::fromStdString(out));
    REQUIRE(wait_for([&] { return std::filesystem::exists(out); }));
    CHECK_THAT(test::contents(out), Catch::Contains(",ref,lon,lat,bus pass\r\nP 1,") &&
                                        Catch::Contains(",P 1,-9.4689,46.2190,yes\r\n") &&
                                        Catch::EndsWith(",P 2,-9.5210,46.2171,\r\n"));
    REQUIRE(desk.settle());
    // Another record stands there now, or none.
    for (const auto& [text, said] :
         {std::pair{
              "ref,lon,lat,bus pass\nP 1,-9.4689,46.2190,yes\nP 3,-9.5210,46.2171,\n",
              "record 2: the file has changed since the demand was read from it: this record has the id 'P 3', and "
              "had 'P 2'"},
          std::pair{"ref,lon,lat,bus pass\nP 1,-9.4689,46.2190,yes\n", "record 2: the file has changed since"}}) {
        (void)folder.write("pupils.csv", text);
        const auto again = folder.file("again.csv");
        desk.window.exports().answer_with_fields(QString::fromStdString(again));
        REQUIRE(wait_for([&, why = said] { return desk.window.notice().text().contains(why); }));
        CHECK_FALSE(std::filesystem::exists(again));
    }
    std::filesystem::remove(pupils);
    desk.window.exports().answer_with_fields(QString::fromStdString(folder.file("again.csv")));
    REQUIRE(wait_for([&] { return desk.window.notice().text().contains("pupils.csv"); }));
}

TEST_CASE("A school that should have a least is said to be short of it, and gets it where sites fill up") {
    Desk desk;
    desk.add(saltmere("roads.gpkg"));
    desk.add(saltmere("pupils.csv"));
    const test::Folder folder;
    desk.window.take_file(QString::fromStdString(
        folder.write("schools.csv",
                     "id,name,lon,lat,places,needs\nS1,Curlew,-9.4689496,46.2190638,,\n"
                     "S2,Tidemill,-9.5210763,46.2170858,500,400\nS3,Lantern,-9.4919628,46.2098564,,\n")));
    auto& panel = desk.window.data_page().add_panel();
    REQUIRE(wait_for([&] { return panel.open(); }));
    panel.field(7).setCurrentText("needs");
    panel.accept();
    REQUIRE(desk.settle());
    desk.window.show_study();
    REQUIRE(desk.settle());
    const auto outcome = [&]() -> const service::Outcome& { return desk.session().answers.shown()->outcome; };
    REQUIRE(outcome().sites[1].planned.site.least == Weight::of(400));
    const Weight load = outcome().sites[1].load;
    REQUIRE(load < Weight::of(400));
    const auto said = [&] {
        QStringList all;
        for (const auto* label : desk.page().answer().findChildren<QLabel*>()) all << label->text();
        return all.join("\n").toStdString();
    };
    const std::string lacks = describe(Weight::of(400) - load);
    CHECK_THAT(said(), Catch::Contains("1 of 1 site short of the least they should have, " + lacks + " in all"));
    CHECK_THAT(desk.page().answer().loads().item(1, 1)->text().toStdString(), Catch::EndsWith(", " + lacks + " short"));
    Desk::choose(desk.press_blank("serving"), 2);
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(outcome().sites[1].load >= Weight::of(400));
    CHECK_THAT(said(), Catch::Contains("every site has the least that it should"));
    CHECK_THAT(desk.page().answer().loads().item(1, 1)->toolTip().toStdString(), Catch::Contains("at least 400"));
}

TEST_CASE("Several nearest are counted by those that are needed") {
    Pupils desk;
    auto* editor = desk.press_blank("serving");
    Desk::choose(editor, 1);
    editor->findChild<QSpinBox*>("several_count")->setValue(3);
    editor->findChild<QSpinBox*>("several_needed")->setValue(2);
    Desk::close_editor();
    REQUIRE(desk.settle());
    CHECK(desk.session().document.question().serving ==
          service::Serving(service::SeveralNearest{desk.session().document.question().measure(), 3, 2}));
    CHECK(desk.outcome().journeys->count() >= 3 * desk.outcome().tally(Status::served).places);
    CHECK_THAT(desk.page().question().text().toStdString(), Catch::Contains("3 nearest by time (2 needed)"));
}

TEST_CASE("A rule that the data cannot answer says what it needs, and cannot be chosen") {
    Pupils desk;
    const auto before = desk.session().document.question().serving;
    auto* editor = desk.press_blank("serving");
    const auto buttons = editor->findChildren<QRadioButton*>();
    REQUIRE(buttons.size() == 6);
    CHECK_FALSE(buttons[5]->isEnabled());
    CHECK(buttons[5]->toolTip().contains("there is no table of pairs"));
    CHECK_FALSE(buttons[4]->isEnabled());
    CHECK(buttons[4]->toolTip().contains("there are no zones"));
    Desk::choose(editor, 4);
    Desk::close_editor();
    CHECK(desk.session().document.question().serving == before);
}

TEST_CASE("Where pupils go today is an answer too, with those whose record names no school") {
    Pupils desk;
    auto* editor = desk.press_blank("serving");
    Desk::choose(editor, 3);
    Desk::close_editor();
    REQUIRE(desk.settle());
    const auto& o = desk.outcome();
    CHECK(o.tally(Status::not_recorded).places == 22);  // 15 have none, 7 a school that is closed
    CHECK(displaced(o).tally.places > 100);
    // In the look of loads they stand out, and marks are as large as the loads.
    const auto gauges = desktop::load_look().gauges(o.sites);
    REQUIRE(gauges.size() == o.sites.size());
    double largest = 0;
    for (std::size_t i = 0; i < gauges.size(); ++i) {
        CHECK(gauges[i].has_value() == o.sites[i].planned.in_use);
        if (gauges[i]) largest = std::max(largest, gauges[i]->size);
    }
    CHECK(largest == 1);
}
