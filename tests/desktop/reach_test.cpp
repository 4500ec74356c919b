#include <QCheckBox>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTableWidget>
#include <catch2/catch.hpp>
#include <filesystem>
#include <map>
#include <random>

#include "desktop/at_the_desk.h"
#include "desktop/dialogs.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/reach_bar.h"
#include "desktop/parts/reach_panel.h"
#include "desktop/parts/reach_switches.h"
#include "desktop/words.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

struct Reaching : Desk {
    explicit Reaching(const QString& look = "reach") {
        add_saltmere();
        window.show_study();
        REQUIRE(wait_for([&] { return map().settled() && map().width() > 300; }));
        map().fit();
        QTest::mouseClick(page().legend().look(look), Qt::LeftButton);
        REQUIRE(wait_for([&] { return map().settled(); }));
    }
    void add_zones_and_water() {
        add(test::saltmere("zones.geojson"));
        add(test::saltmere("water.geojson"));
        REQUIRE(settle());
        window.show_study();
    }
    ReachPanel& panel() { return page().reach(); }
    /// So far that all of the town is a small part of the picture: painting roads is most of the work else.
    void go_far() { map().zoom_by(0.25, QPointF(map().rect().center())); }
    void listed() {
        REQUIRE(wait_for([&] { return !panel().asker().busy() && panel().list().rowCount() > 0; }));
    }
    /// The colour of the map at a place.
    QColor colour_at(geo::LonLat place) {
        const QImage image = map().grab().toImage();
        const double ratio = image.devicePixelRatio();
        return image.pixelColor((map().screen_of(place) * ratio).toPoint());
    }
};

/// Weight as a list says it.
double weight(const QTableWidget& list, int row) { return list.item(row, 3)->text().remove(',').toDouble(); }

}  // namespace

TEST_CASE("In the look reach, ground is filled exactly where a place would be within the limits") {
    Reaching desk;
    const auto answer = desk.session().answers.shown();
    const auto colours = *desk.map().ground_colours();
    std::mt19937 rng(3);
    std::uniform_real_distribution<double> x(0, desk.map().width()), y(0, desk.map().height());
    // Names, sites, roads and dots are drawn too: without them.
    for (const auto layer : {Layer::sites, Layer::labels, Layer::roads, Layer::within, Layer::beyond, Layer::unserved})
        desk.map().set_layer_shown(layer, false);
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const QImage image = desk.map().grab().toImage();
    int wrong = 0, inside = 0;
    const auto limit = colours.limits.back();
    const auto served_at = [&](QPointF p) {
        return service::read_spot(*answer->ready, answer->outcome, desk.map().place_of(p)).outcome;
    };
    for (int i = 0; i < 3000; ++i) {
        const double across = x(rng), down = y(rng);
        const QPoint at(static_cast<int>(across), static_cast<int>(down));
        const auto here = served_at(QPointF(at) + QPointF(0.5, 0.5));
        const bool reached = service::is_within(here, limit);
        // Not beside an edge, which is two points wide, nor where another site begins to serve: a line is drawn there.
        bool edge = false;
        for (const QPointF d : {QPointF(3, 0), QPointF(-3, 0), QPointF(0, 3), QPointF(0, -3)}) {
            const auto beside = served_at(at + d);
            edge = edge || service::is_within(beside, limit) != reached || (reached && beside.site != here.site);
        }
        if (edge) continue;
        const QColor c = image.pixelColor(at);
        const bool filled = c.green() > c.red() + 12 && c.red() < 215;
        inside += reached ? 1 : 0;
        wrong += filled != reached ? 1 : 0;
    }
    CHECK(inside > 200);
    CHECK(wrong == 0);
}

TEST_CASE("Pulling a limit in the legend moves it, double press adds one, right press takes it away") {
    Reaching desk;
    auto& bar = desk.page().legend().reach_bar();
    REQUIRE(bar.isVisible());
    REQUIRE(desk.map().style_now().reach.limits == std::vector<Amount>{Millis::minutes(4), Millis::minutes(8)});
    const QPoint from = bar.handle(0).toPoint() + QPoint(0, 4);
    QTest::mousePress(&bar, Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, from + QPoint(20, 0), bar.mapToGlobal(from + QPoint(20, 0)), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(&bar, &move);
    QTest::mouseRelease(&bar, Qt::LeftButton, {}, from + QPoint(20, 0));
    const auto moved = desk.map().style_now().reach.limits;
    REQUIRE(moved.size() == 2);
    CHECK(moved[0] > Amount(Millis::minutes(4)));
    CHECK(moved[1] == Amount(Millis::minutes(8)));
    CHECK(desk.map().settled());  // nothing is worked out for it

    QTest::mouseDClick(&bar, Qt::LeftButton, {}, QPoint(30, 14));
    CHECK(desk.map().style_now().reach.limits.size() == 3);
    QTest::mouseClick(&bar, Qt::RightButton, {}, bar.handle(0).toPoint() + QPoint(0, 4));
    CHECK(desk.map().style_now().reach.limits.size() == 2);
    bar.setFocus();
    QTest::keyClick(&bar, Qt::Key_Delete);
    CHECK(desk.map().style_now().reach.limits.size() == 1);
    QTest::keyClick(&bar, Qt::Key_Delete);
    CHECK(desk.map().style_now().reach.limits.size() == 1);  // one stays
    const auto before = desk.map().style_now().reach.limits[0];
    QTest::keyClick(&bar, Qt::Key_Left);
    CHECK(desk.map().style_now().reach.limits[0] < before);
}

TEST_CASE("Limits are typed too, in minutes or metres") {
    Reaching desk;
    auto& limits = desk.page().legend().reach().limits();
    limits.setText("5, 10 15 min");
    // Escape gives up what is half typed, and no more.
    const QString stood = limits.text();
    limits.selectAll();
    QTest::keyClicks(&limits, "9");
    QTest::keyClick(&limits, Qt::Key_Escape);
    CHECK(limits.text() == stood);
    QTest::keyClick(&limits, Qt::Key_Return);
    CHECK(desk.map().style_now().reach.limits ==
          std::vector<Amount>{Millis::minutes(5), Millis::minutes(10), Millis::minutes(15)});
    limits.setText("far away");
    QTest::keyClick(&limits, Qt::Key_Return);
    CHECK(desk.map().style_now().reach.limits.size() == 3);
    CHECK(limits.property("wrong").toBool());
    limits.setText("400; 800 m");
    QTest::keyClick(&limits, Qt::Key_Return);
    CHECK(desk.map().style_now().reach.limits ==
          std::vector<Amount>{Millimetres::metres(400), Millimetres::metres(800)});
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    CHECK(limits_from("1,5 min") == std::vector<Amount>{Millis(90'000)});
    CHECK(limits_from("2 km") == std::vector<Amount>{Millimetres::metres(2000)});
    CHECK(limits_from("").empty());
    CHECK(limits_from("0 min").empty());
    CHECK(said_limits({Millis(90'000), Millis::minutes(4)}) == "1.5, 4 min");
}

TEST_CASE("Areas are listed heaviest first, agree with the table, and are gone to when pressed") {
    Reaching desk;
    desk.listed();
    auto& list = desk.panel().list();
    double sum = 0;
    for (int row = 0; row < list.rowCount(); ++row) {
        sum += weight(list, row);
        if (row > 0) CHECK(weight(list, row) <= weight(list, row - 1));
    }
    const auto verdict = desk.session().answers.verdict();
    CHECK(sum == Approx(verdict->inside.weight.value()));
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(list.item(0, 0)).center());
    const auto& picked = desk.session().selection.picked();
    CHECK(picked.site);
    double weight_picked = 0;
    for (const auto i : picked.places) weight_picked += desk.session().answers.shown()->outcome.weights[i].value();
    CHECK(weight_picked == Approx(weight(list, 0)));
}

TEST_CASE("Uncovered ground is listed patch by patch, and follows the plan") {
    Reaching desk("uncovered");
    desk.listed();
    auto& list = desk.panel().list();
    const double before = weight(list, 0);
    CHECK(before > 1000);
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(list.item(0, 0)).center());
    CHECK_FALSE(desk.session().selection.picked().places.empty());
    for (const auto i : desk.session().selection.picked().places)
        CHECK_FALSE(is_within(desk.session().answers.shown()->outcome.places[i], desk.map().style_now().limit));
    QTest::mouseClick(desk.page().legend().look("time"), Qt::LeftButton);
    CHECK_FALSE(desk.panel().isVisible());
}

namespace {

using File = Exports::GroundFile;

bool written(Desk& desk, File what, const char* name) {
    const std::string path = desk.folder.file(name);
    desk.window.exports().ground(QString::fromStdString(path), what, 400);
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    return std::filesystem::exists(path);
}

}  // namespace

TEST_CASE("Areas, roads, lines, circles and a raster of ground are written from the window") {
    Reaching desk;
    for (const auto& [what, name] : {std::pair{File::areas, "areas.gpkg"}, std::pair{File::roads, "roads.fgb"},
                                     std::pair{File::lines, "lines.geojson"},
                                     std::pair{File::circles, "circles.geojson"}, std::pair{File::surface, "s.tif"}})
        CHECK(written(desk, what, name));
}

TEST_CASE("What is uncovered, and what a plan changes, is written from the window, and what cannot be is said") {
    Reaching desk;
    desk.add_zones_and_water();
    auto& exports = desk.window.exports();
    for (const auto& [what, name] : {std::pair{File::uncovered, "uncovered.shp"}, std::pair{File::zones, "zones.csv"},
                                     std::pair{File::failing, "failing.geojson"}})
        CHECK(written(desk, what, name));
    CHECK(test::contents(desk.folder.file("zones.csv")).starts_with("zone_id,zone_name,"));
    CHECK_FALSE(written(desk, File::change, "change.geojson"));  // nothing to compare with
    desk.session().document.new_plan("One less", {{service::Change::close, "A1", {}}});
    REQUIRE(desk.settle());
    desk.map().compare_reach(MapView::Compared{false, "Today"});
    CHECK(written(desk, File::change, "change.geojson"));
    exports.ground(test::saltmere("roads.gpkg"), File::areas);
    CHECK_FALSE(desk.window.jobs().busy());  // a file that the study was read from is never written over
    exports.map(QString::fromStdString(desk.folder.file("map.svg")));
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    CHECK(test::contents(desk.folder.file("map.svg")).find("path") != std::string::npos);
}

namespace {

/// Chooses an entry as a planner does.
void choose(QComboBox& box, const QString& text) {
    const int at = box.findText(text);
    REQUIRE(at >= 0);
    box.setCurrentIndex(at);
    emit box.activated(at);
}

}  // namespace

TEST_CASE("How many sites reach ground is drawn and listed, and adds up to each site's own") {
    Reaching desk;
    auto& switches = desk.page().legend().reach();
    choose(switches.overlap(), "how many sites");
    desk.listed();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    REQUIRE(desk.panel().asker().found()->areas->request.overlap == service::Overlap::count);
    double counted = 0;
    for (const auto& a : desk.panel().asker().found()->areas->areas)
        counted += a.sites_reaching * a.inside.weight.value();
    // Ground that several reach is darker than ground that one does.
    for (const auto layer : {Layer::sites, Layer::labels, Layer::roads, Layer::within, Layer::beyond, Layer::unserved})
        desk.map().set_layer_shown(layer, false);
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    std::map<std::uint32_t, int> light;
    for (const auto& a : desk.panel().asker().found()->areas->areas) {
        const auto& place = desk.session().answers.shown()->ready->inputs.demand.at(a.places.front());
        light[a.sites_reaching] = desk.colour_at(*place.position).lightness();
    }
    REQUIRE(light.size() > 1);
    CHECK(light.rbegin()->second < light.begin()->second);

    choose(switches.overlap(), "each site's own");
    REQUIRE(wait_for([&] {
        const auto found = desk.panel().asker().found();
        return !desk.panel().asker().busy() && found && found->areas->request.overlap == service::Overlap::each;
    }));
    double each = 0;
    for (const auto& a : desk.panel().asker().found()->areas->areas) each += a.inside.weight.value();
    CHECK(each == counted);  // within the last limit, band by band
}

TEST_CASE("Two plans' reaches are laid over one another, and what is gained and lost is drawn, listed and picked") {
    Reaching desk;
    desk.session().document.new_plan("One less", {{service::Change::close, "A1", {}}});
    REQUIRE(desk.settle());
    auto& switches = desk.page().legend().reach();
    REQUIRE(switches.compared().isVisible());
    choose(switches.compared(), "against the plan Today");
    CHECK(desk.map().style_now().reach.comparing);
    REQUIRE(wait_for([&] { return desk.panel().asker().found() && desk.panel().asker().found()->change; }));
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const auto change = *desk.panel().asker().found()->change;
    CHECK(change.gained.empty());
    CHECK(change.lost_square_metres > 0);
    auto& list = desk.panel().list();
    REQUIRE(list.rowCount() == 3);
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(list.item(1, 0)).center());
    CHECK(desk.session().selection.picked().places.size() == change.lost_places.places);
    for (const auto i : desk.session().selection.picked().places)
        CHECK_FALSE(is_within(desk.session().answers.shown()->outcome.places[i], desk.map().style_now().limit));
    // Nothing is compared with itself.
    desk.session().document.choose_plan(0);
    REQUIRE(desk.settle());
    CHECK_FALSE(desk.map().style_now().reach.comparing);
}

TEST_CASE("Zones are listed by what they miss, and pressing one picks the places that fail") {
    Reaching desk("uncovered");
    desk.add_zones_and_water();
    choose(desk.page().legend().reach().cover(), "zones, by any site");
    REQUIRE(wait_for([&] {
        const auto found = desk.panel().asker().found();
        return !desk.panel().asker().busy() && found && !found->zones.empty();
    }));
    auto& list = desk.panel().list();
    REQUIRE(list.rowCount() > 1);
    for (int row = 1; row < list.rowCount(); ++row) CHECK(weight(list, row) <= weight(list, row - 1));
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(list.item(0, 0)).center());
    double picked = 0;
    for (const auto i : desk.session().selection.picked().places) {
        CHECK_FALSE(is_within(desk.session().answers.shown()->outcome.places[i], desk.map().style_now().limit));
        picked += desk.session().answers.shown()->outcome.weights[i].value();
    }
    CHECK(picked == Approx(weight(list, 0)));
}

TEST_CASE("Roads, lines and circles are drawn over ground, water and what is outside the zones is cut off") {
    Reaching desk;
    desk.add_zones_and_water();
    desk.listed();
    desk.go_far();
    auto& switches = desk.page().legend().reach();
    using service::ReachView;
    const auto settled_with = [&](bool ReachView::*of) {
        switches.box(of).click();
        REQUIRE(wait_for([&] {
            const auto found = desk.panel().asker().found();
            return !desk.panel().asker().busy() && found && found->asked.view.*of && desk.map().settled();
        }));
        return desk.panel().asker().found();
    };
    const double all = settled_with(&ReachView::roads)->areas->areas.front().square_metres;
    const QImage before = desk.map().grab().toImage();
    CHECK_FALSE(settled_with(&ReachView::circles)->circles.empty());
    CHECK(desk.map().grab().toImage() != before);
    CHECK(desk.panel().summary().contains("promise"));
    CHECK_FALSE(settled_with(&ReachView::lines)->lines.empty());
    const auto sum = [](const service::Reach& reach) {
        double out = 0;
        for (const auto& a : reach.areas) out += a.square_metres;
        return out;
    };
    CHECK(all > 0);
    const double whole = sum(*desk.panel().asker().found()->areas);
    const double dry = sum(*settled_with(&ReachView::off_water)->areas);
    CHECK(dry < whole);
    CHECK(sum(*settled_with(&ReachView::in_zones)->areas) <= dry);
    // A speed is typed; nonsense is shown as such and changes nothing.
    auto& speed = switches.circle_speed();
    REQUIRE(speed.isVisible());
    speed.setText("sixty");
    QTest::keyClick(&speed, Qt::Key_Return);
    CHECK(speed.property("wrong").toBool());
    speed.setText("60");
    QTest::keyClick(&speed, Qt::Key_Return);
    CHECK(desk.session().document.question().reach.circle_speed == Speed::km_per_hour(60));
}

TEST_CASE("How reach is looked at is the question's: it is undone, saved, opened again, and changes no answer") {
    Reaching desk;
    desk.listed();
    const auto answer = desk.session().answers.shown();
    auto& bar = desk.page().legend().reach_bar();
    bar.setFocus();
    QTest::keyClick(&bar, Qt::Key_Left);
    choose(desk.page().legend().reach().overlap(), "all together");
    const auto kept = desk.session().document.question().reach;
    CHECK(kept.overlap == service::Overlap::merged);
    CHECK(kept.limits.size() == 2);
    CHECK(desk.session().answers.shown() == answer);
    CHECK(desk.session().answers.up_to_date());
    CHECK(desk.session().answers.verdict_on(0));

    const QString path = QString::fromStdString(desk.folder.file("kept.otoro.gpkg"));
    desk.window.files().save(path);
    REQUIRE(desk.settle());
    while (desk.session().document.undo_stack().canUndo() &&
           !(desk.session().document.question().reach == service::ReachView{}))
        desk.session().document.undo_stack().undo();
    CHECK(desk.map().style_now().reach.limits == std::vector<Amount>{Millis::minutes(4), Millis::minutes(8)});
    CHECK(desk.map().style_now().reach.overlap == service::Overlap::nearest);

    Desk second;
    second.window.files().open(path);
    REQUIRE(wait_for([&] { return !second.session().document.study().demand.empty(); }));
    CHECK(second.session().document.question().reach == kept);
    CHECK(second.map().style_now().reach.limits == kept.limits);
}

TEST_CASE("Pressing ground on the map picks the places of its area") {
    Reaching desk;
    desk.listed();
    const auto& areas = desk.panel().asker().found()->areas->areas;
    REQUIRE_FALSE(areas.empty());
    const auto& heaviest = *std::max_element(
        areas.begin(), areas.end(), [](const auto& a, const auto& b) { return a.inside.weight < b.inside.weight; });
    const auto& demand = desk.session().answers.shown()->ready->inputs.demand;
    desk.panel().pick_at(*demand.at(heaviest.places[heaviest.places.size() / 2]).position);
    CHECK(desk.session().selection.picked().places.size() == heaviest.places.size());
    CHECK(desk.session().selection.picked().site == heaviest.site);
    desk.panel().pick_at({-9.9, 46.2});
    CHECK(desk.session().selection.picked().places.empty());
}

TEST_CASE("Reach of one site alone is all that it reaches, until Esc or until it closes") {
    Reaching desk;
    desk.listed();
    desk.map().reach_of_site("A1");
    REQUIRE(wait_for([&] {
        const auto found = desk.panel().asker().found();
        return !desk.panel().asker().busy() && found && !found->asked.sites.empty() && desk.map().settled();
    }));
    const auto& areas = desk.panel().asker().found()->areas->areas;
    REQUIRE(areas.size() == 2);
    for (const auto& a : areas) CHECK(a.site == SiteIndex(0U));
    service::ReachRequest alone;
    alone.limits = desk.map().style_now().reach.limits;
    alone.overlap = service::Overlap::each;
    const auto answer = desk.session().answers.shown();
    const auto each = reach_areas(answer->ready, answer->outcome.plan, alone, Task());
    CHECK(each.areas[0].square_metres == areas[0].square_metres);
    CHECK(each.areas[1].inside.weight == areas[1].inside.weight);
    // A surface is of that site alone, too: where another is nearer it takes longer.
    const auto surface_of = [&](const char* name) {
        const std::string path = desk.folder.file(name);
        desk.window.exports().ground(QString::fromStdString(path), Exports::GroundFile::surface, 400);
        REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
        return test::contents(path);
    };
    const std::string alone_surface = surface_of("alone.tif");
    desk.map().let_go();
    CHECK_FALSE(desk.map().style_now().reach.one_site);
    CHECK(surface_of("all.tif") != alone_surface);
    desk.map().reach_of_site("A1");
    CHECK(desk.map().style_now().reach.one_site);
    desk.session().document.new_plan("One less", {{service::Change::close, "A1", {}}});
    REQUIRE(desk.settle());
    CHECK_FALSE(desk.map().style_now().reach.one_site);
}

TEST_CASE("A view that asks for zones' own sites or sites' own limits goes on where sites name none") {
    Reaching desk("uncovered");
    desk.add_zones_and_water();
    desk.map().change_reach([](ReachStyle& s) {
        s.cover = service::CoverList::own_zones;
        s.own_limits = true;
    });
    const auto found_for_this = [&] {
        const auto asked = desk.map().ground_asked();
        return asked && !desk.panel().asker().busy() && desk.panel().asker().has(*asked);
    };
    REQUIRE(wait_for(found_for_this));
    CHECK_FALSE(desk.panel().asker().found()->zones.empty());
    CHECK(desk.page().legend().reach().cover().currentText() == "zones, by any site");
    desk.map().set_look(reach_look());
    REQUIRE(wait_for(found_for_this));
    CHECK_FALSE(desk.panel().asker().found()->areas->areas.empty());
    CHECK_FALSE(desk.page().legend().reach().box(&service::ReachView::own_limits).isVisible());
}

TEST_CASE("A question without a standard is looked at as it says itself, not as the one before it did") {
    Reaching desk;
    desk.session().document.edit("no standard", [](service::Study& s) {
        s.question().standard->limit = Millis::minutes(14);
        auto without = s.question();
        without.standard.reset();
        s = with_question(std::move(s), without);
    });
    REQUIRE(desk.settle());
    REQUIRE(desk.session().document.question_index() == 1);
    CHECK(desk.map().style_now().limit == Amount(Millis::minutes(8)));
    desk.session().document.choose_question(0);
    REQUIRE(desk.settle());
    CHECK(desk.map().style_now().limit == Amount(Millis::minutes(14)));
    CHECK(desk.map().style_now().reach.limits == std::vector<Amount>{Millis::minutes(7), Millis::minutes(14)});
}

namespace {

/// Ground of every kind is listed, exported and drawn at once.
struct BusyWithGround : Reaching {
    BusyWithGround() {
        go_far();
        map().change_reach([](ReachStyle& s) {
            s.overlap = service::Overlap::count;
            s.circles = s.roads = true;
        });
        window.exports().ground(QString::fromStdString(folder.file("g.gpkg")), Exports::GroundFile::areas);
        window.exports().map(QString::fromStdString(folder.file("map.png")));
    }
};

}  // namespace

TEST_CASE("While ground is listed, exported or drawn, the window may be closed") {
    const BusyWithGround begun;
    BusyWithGround further;
    // The one is closed at once, the other when the list is being worked out or is done.
    REQUIRE(wait_for(
        [&] { return further.panel().asker().busy() || further.panel().asker().has(*further.map().ground_asked()); }));
}

TEST_CASE("While ground is listed, exported or drawn, another study may be opened") {
    const test::Folder kept;
    const QString path = QString::fromStdString(kept.file("other.otoro.gpkg"));
    {
        Desk saved;
        saved.add_saltmere();
        saved.window.files().save(path);
        REQUIRE(saved.settle());
    }
    BusyWithGround desk;
    test::Answering asked({test::press(QMessageBox::Discard)});
    desk.window.take_file(path);
    REQUIRE(wait_for([&] { return !desk.window.jobs().busy(); }));
    REQUIRE(desk.settle());
    CHECK(desk.session().document.path() == path);
    CHECK(desk.session().document.question().reach == service::ReachView{});
    CHECK(desk.map().style_now().reach.overlap == service::Overlap::nearest);
    REQUIRE(wait_for([&] {
        const auto now = desk.map().ground_asked();
        return now && !desk.panel().asker().busy() && desk.panel().asker().has(*now) && desk.map().settled();
    }));
}
