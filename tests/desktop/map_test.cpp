#include <QCheckBox>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPlainTextEdit>
#include <QTableView>
#include <QTableWidget>
#include <QWheelEvent>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/records_panel.h"
#include "desktop/theme.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

struct Mapped : Desk {
    Mapped() {
        add_saltmere();
        window.show_study();
        REQUIRE(wait_for([&] { return map().settled() && map().width() > 300; }));
        map().fit();
    }
    QPointF on_screen(std::size_t place) {
        return map().screen_of(*session().document.study().demand[0].set->places[place].position);
    }
    QPointF site_on_screen(std::size_t site) {
        return map().screen_of(*session().document.study().sites[0].set->sites[site].position);
    }
    void move_pressed(QPointF at) {
        QMouseEvent move(QEvent::MouseMove, at, map().mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&map(), &move);
    }
    void drag(QPoint from, QPoint to) {
        QTest::mousePress(&map(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 4; ++i) move_pressed(from + (to - from) * i / 4.0);
        QTest::mouseRelease(&map(), Qt::LeftButton, {}, to);
    }
};

/// How many pixels of a picture `are` of a colour.
int pixels(const QImage& image, const std::function<bool(const QColor&)>& are) {
    int n = 0;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) n += are(image.pixelColor(x, y)) ? 1 : 0;
    return n;
}
bool beyond_colour(const QColor& c) { return c.red() > c.blue() + 45 && c.green() < 110; }
bool within_colour(const QColor& c) { return c.blue() > c.red() + 30; }

}  // namespace

TEST_CASE("Hovering a household reads out its minutes, its site and its route") {
    Mapped desk;
    const auto& o = desk.session().answers.shown()->outcome;
    desk.map().go_to(*desk.session().document.study().demand[0].set->places[42].position);
    desk.map().read_at(desk.on_screen(42));
    const QString minutes = QString::number(o.places[42].time.minutes(), 'f', 1);
    CHECK(desk.map().readout().contains(minutes + " min"));
    CHECK(desk.map().readout().contains(
        QString::fromStdString(service::label(o.sites[o.places[42].site->value()].planned.site))));
    desk.map().read_at({desk.map().width() * 0.5, desk.map().height() + 5000.0});
    CHECK(desk.map().readout().isEmpty());
}

TEST_CASE("Hovering a site says what it carries") {
    Mapped desk;
    desk.map().read_at(desk.site_on_screen(0));
    CHECK(desk.map().readout().startsWith("Market Cross  serves"));
    desk.map().read_at(desk.site_on_screen(5));
    CHECK(desk.map().readout().startsWith("Quay  candidate"));
}

TEST_CASE("The wheel zooms about the pointer, dragging pans, keys do both") {
    Mapped desk;
    auto& map = desk.map();
    const QPointF at(200, 150);
    const QPointF world = map.viewport().to_world(at);
    QWheelEvent wheel(at, map.mapToGlobal(at), {}, {0, 240}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&map, &wheel);
    CHECK(std::abs(map.viewport().to_screen(world).x() - at.x()) < 0.5);
    CHECK(std::abs(map.viewport().to_screen(world).y() - at.y()) < 0.5);
    const double zoomed = map.viewport().pixels_per_metre;
    const QPointF centre = map.viewport().centre;
    desk.drag({300, 60}, {340, 90});
    CHECK(map.viewport().centre.x() == Approx(centre.x() - 40 / zoomed));
    QTest::keyClick(&map, Qt::Key_Right);
    CHECK(map.viewport().centre.x() > centre.x() - 40 / zoomed);
    QTest::keyClick(&map, Qt::Key_Plus);
    CHECK(map.viewport().pixels_per_metre > zoomed);
    QTest::keyClick(&map, Qt::Key_0);
    CHECK(map.viewport().pixels_per_metre < zoomed);
}

TEST_CASE("Pressing a household picks its record, and picking a record lights the household") {
    Mapped desk;
    desk.map().go_to(*desk.session().document.study().demand[0].set->places[7].position);
    desk.map().zoom_by(8, desk.on_screen(7));
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, desk.on_screen(7).toPoint());
    REQUIRE(desk.session().selection.picked().places == std::vector<std::uint32_t>{7});
    auto& table = desk.page().records().demand_table();
    REQUIRE(table.selectionModel()->selectedRows().size() == 1);
    CHECK(table.model()->index(table.selectionModel()->selectedRows()[0].row(), 0).data() == "H00008");
    table.selectRow(3);
    CHECK(desk.session().selection.picked().places.size() == 1);
    CHECK(desk.map().style_now().picked == desk.session().selection.picked().places);
    QTest::keyClick(&desk.map(), Qt::Key_Escape);
    CHECK(desk.session().selection.picked().places.empty());
}

TEST_CASE("Pressing a status or a site in the answer picks its places") {
    Mapped desk;
    auto& statuses = desk.page().answer().statuses();
    emit statuses.cellClicked(1, 0);
    CHECK(desk.session().selection.picked().places.size() == 1);
    auto& loads = desk.page().answer().loads();
    emit loads.cellClicked(0, 0);
    CHECK(desk.session().selection.picked().site == SiteIndex(0u));
    CHECK(desk.session().selection.picked().places.size() == desk.session().answers.shown()->outcome.sites[0].places);
}

TEST_CASE("Dragging a site shows what moving it does, and keeps it as a plan") {
    Mapped desk;
    const auto today = desk.session().answers.shown();
    const QPoint from = desk.site_on_screen(1).toPoint();
    desk.drag(from, from + QPoint(-60, -30));
    REQUIRE(desk.settle_plans());
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().name == "Linnet Hill moved");
    CHECK(desk.session().document.plan().changes[0].change == service::Change::move);
    CHECK(desk.session().answers.shown()->outcome.sites[1].load != today->outcome.sites[1].load);
    desk.session().document.undo_stack().undo();
    CHECK(desk.session().document.study().plans.size() == 1);
}

TEST_CASE("The menu of a candidate, and of any spot, says what a site there would bring") {
    Mapped desk;
    const auto line_of = [&](const std::function<void()>& open) {
        open();
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        auto* line = menu->findChild<QLabel*>("gain");
        REQUIRE(line);
        REQUIRE(wait_for([&] { return line->text().contains("within") || line->text().contains("No road"); }));
        const QString said = line->text();
        Desk::close_editor();
        return said;
    };
    const QPoint quay = desk.site_on_screen(5).toPoint();
    const QString said = line_of([&] { QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, quay); });
    desk.session().document.new_plan("Quay opens", {{service::Change::open, "C1", {}}});
    REQUIRE(desk.settle_plans());
    CHECK(said.startsWith(desk.share() + " within 8 min (+"));
    desk.session().document.choose_plan(0);
    REQUIRE(desk.settle());

    const auto menu_at = [&](QPoint at) {
        return line_of([&] {
            QContextMenuEvent e(QContextMenuEvent::Mouse, at, desk.map().mapToGlobal(at));
            QApplication::sendEvent(&desk.map(), &e);
        });
    };
    CHECK(menu_at(quay + QPoint(14, 0)).contains("nearer for"));
    CHECK(menu_at({8, 8}) == "No road that this traveller may use is near");
}

TEST_CASE("The way to any spot is read turn by turn") {
    Mapped desk;
    const auto place = *desk.session().document.study().demand[0].set->places[40].position;
    const auto reading =
        read_spot(*desk.session().answers.shown()->ready, desk.session().answers.shown()->outcome, place);
    REQUIRE(reading.outcome.site);
    desk.page().show_way(place, desk.window.pos());
    auto* card = QApplication::activePopupWidget();
    REQUIRE(card);
    CHECK(card->findChild<QLabel*>("way")->text().startsWith(
        "From " + QString::fromStdString(service::label(
                      desk.session().answers.shown()->outcome.sites[reading.outcome.site->value()].planned.site))));
    const auto lines = card->findChild<QPlainTextEdit*>("steps")->toPlainText().split('\n');
    CHECK(static_cast<std::size_t>(lines.size()) == reading.steps.size());
    CHECK(lines.front().startsWith("1. set out along"));
    card->findChild<QPushButton*>()->click();
    CHECK(QApplication::clipboard()->text().contains(lines.back()));
    desk.page().show_way(desk.map().place_of({5, 5}), desk.window.pos());
    CHECK(QApplication::activePopupWidget()->findChild<QLabel*>("way")->text() ==
          "No road that this traveller may use is near");
    Desk::close_editor();
}

TEST_CASE("Numbers follow a site while it is dragged, and Esc leaves it where it was") {
    Mapped desk;
    const auto today = desk.session().answers.shown();
    const QPoint from = desk.site_on_screen(1).toPoint(), to = from + QPoint(-60, -30);
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, from);
    desk.move_pressed(to);
    CHECK(desk.session().answers.trying_out());
    CHECK(desk.verdict() != "out of date");  // what is shown stays until something newer is known
    const auto there = desk.map().place_of(to);
    REQUIRE(wait_for([&] { return desk.session().answers.shown()->outcome.sites[1].planned.site.position == there; }));
    CHECK(desk.session().answers.shown()->outcome.sites[1].load != today->outcome.sites[1].load);
    CHECK(desk.share() == QString::fromStdString(describe(desk.session().answers.verdict()->share)));
    CHECK_FALSE(desk.session().answers.to_export());  // nothing is handed out that no plan says
    QTest::keyClick(&desk.map(), Qt::Key_Escape);
    CHECK_FALSE(desk.session().answers.trying_out());
    REQUIRE(desk.settle());
    CHECK(desk.session().answers.shown() == today);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, to);
    CHECK(desk.session().document.study().plans.size() == 1);
}

TEST_CASE("A site let go of where it was tried has its answer at once, the same as worked out anew") {
    Mapped desk;
    const QPoint from = desk.site_on_screen(1).toPoint(), to = from + QPoint(-60, -30);
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, from);
    desk.move_pressed(to);
    const auto there = desk.map().place_of(to);
    REQUIRE(wait_for([&] { return desk.session().answers.shown()->outcome.sites[1].planned.site.position == there; }));
    const auto tried = desk.session().answers.shown();
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, to);
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().answers.up_to_date());
    CHECK(desk.session().answers.shown() == tried);
    CHECK(answer(*tried->ready, desk.session().document.plan(), Task()).places == tried->outcome.places);
    // Moved once more in the same plan, the plan says only the last move.
    desk.drag(to, to + QPoint(20, 0));
    REQUIRE(desk.settle_plans());
    CHECK(desk.session().document.plan().changes.size() == 1);
}

TEST_CASE("Answers keep coming under a mouse that never rests") {
    Mapped desk;
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    int answers = 0;
    QObject::connect(&desk.session().answers, &Answers::changed,
                     [&] { answers += desk.session().answers.trying_out() ? 1 : 0; });
    const QPoint from = desk.site_on_screen(1).toPoint();
    QTest::mousePress(&desk.map(), Qt::LeftButton, {}, from);
    QElapsedTimer timer;
    timer.start();
    const quint64 drawn = desk.map().tiles().drawn_count();
    for (int i = 1; answers < 5 && timer.elapsed() < 300'000; ++i) {
        desk.move_pressed(from + QPointF(40 * std::sin(i * 0.1), -20));
        QApplication::processEvents();
    }
    CHECK(answers >= 5);
    const QPointF last = from + QPointF(-30, 10);
    desk.move_pressed(last);
    CHECK(wait_for([&] {
        return desk.session().answers.shown()->outcome.sites[1].planned.site.position == desk.map().place_of(last) &&
               desk.map().settled();
    }));
    CHECK(desk.map().tiles().drawn_count() > drawn);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, {}, last.toPoint());
}

TEST_CASE("Where two answers are said to make the same picture they do") {
    Mapped desk;
    const auto a = desk.session().answers.shown();
    desk.session().document.new_plan(
        "Linnet Hill moved",
        {{service::Change::move, "A2", desk.map().place_of(desk.site_on_screen(1) + QPointF(-25, 5))}});
    REQUIRE(desk.settle_plans());
    const auto b = desk.session().answers.shown();
    const auto& study = desk.session().document.study();
    const auto scene = MapScene::make(study.roads->network, study.demand[0].set, nullptr);
    const QRectF all = scene->extent();
    for (const MapLook* look : map_looks()) {
        INFO(look->key().toStdString());
        MapStyle style = desk.map().style_now();
        style.look = look;
        const auto picture = [&](const Viewport& view, const PlanAnswer& answer) {
            QImage image(view.size.toSize(), QImage::Format_RGB32);
            QPainter p(&image);
            paint_ground(p, view, *scene, &answer, style);
            return image;
        };
        int same = 0, different = 0;
        for (int i = 0; i < 36; ++i) {
            const Viewport view{
                all.topLeft() + QPointF(all.width() * (i % 6 + 0.5) / 6, all.height() * (i / 6 + 0.5) / 6),
                150 / all.width() * 6,
                {150, 150}};
            const bool said = same_picture(view, *scene, *look, *a, *b);
            (said ? same : different) += 1;
            if (said) CHECK(picture(view, *a) == picture(view, *b));
        }
        CHECK(same > 0);
        CHECK(different > 0);
    }
}

TEST_CASE("Nothing on the map moves when a strip takes room from below") {
    Mapped desk;
    const QPointF before = desk.site_on_screen(1);
    desk.map().resize(desk.map().width(), desk.map().height() - 40);
    CHECK((desk.site_on_screen(1) - before).manhattanLength() < 0.01);
}

TEST_CASE("Double-clicking the map adds a site in a new plan") {
    Mapped desk;
    QTest::mouseDClick(&desk.map(), Qt::LeftButton, {},
                       QPoint(desk.map().width() / 2 + 45, desk.map().height() / 2 + 90));
    REQUIRE(desk.settle_plans());
    CHECK(desk.session().document.plan().name == "New site");
    CHECK(desk.session().answers.shown()->outcome.sites.size() == 10);
}

TEST_CASE("The legend switches looks and layers") {
    Mapped desk;
    auto& legend = desk.page().legend();
    QTest::mouseClick(legend.look("who_serves"), Qt::LeftButton);
    CHECK(desk.map().style_now().look == &who_serves_look());
    QTest::mouseClick(legend.look("time"), Qt::LeftButton);
    const auto drawn = [&] {
        QImage image(desk.map().size(), QImage::Format_RGB32);
        QPainter p(&image);
        desk.map().picture().value().paint_map(p);
        p.end();
        return pixels(image, beyond_colour);
    };
    const int before = drawn();
    CHECK(before > 300);
    legend.row(Layer::beyond)->click();
    CHECK_FALSE(desk.map().style_now().shows(Layer::beyond));
    CHECK(drawn() < before / 10);
}

TEST_CASE("A stricter standard turns more of the map beyond it") {
    Mapped desk;
    const auto drawn = [&] {
        REQUIRE(wait_for([&] { return desk.map().settled(); }));
        return pixels(desk.map().grab().toImage(), within_colour);
    };
    const int before = drawn();
    desk.session().document.edit("standard",
                                 [](service::Study& s) { s.question().standard->limit = Millis::minutes(3); });
    CHECK(drawn() < before / 2);
}

TEST_CASE("Records sort, filter and copy") {
    Mapped desk;
    auto& records = desk.page().records();
    records.filter().setText("cut off");
    auto* model = records.demand_table().model();
    CHECK(model->rowCount() ==
          static_cast<int>(desk.session().answers.shown()->outcome.tally(service::Status::cut_off).places));
    records.filter().setText("Northend");
    CHECK(model->rowCount() > 100);
    records.filter().clear();
    records.demand_table().sortByColumn(DemandSource::kMinutes, Qt::DescendingOrder);
    const double worst =
        static_cast<double>(statistics(desk.session().answers.shown()->outcome, routing::Measure::time)->worst) /
        60'000;
    CHECK(model->index(0, DemandSource::kMinutes).data(kSortRole).toDouble() == Approx(worst));
    const int last = model->rowCount() - 1;
    CHECK(model->index(last, DemandSource::kMinutes).data().toString().isEmpty());  // those without minutes come last,
                                                                                    // whichever way
    records.demand_table().sortByColumn(DemandSource::kMinutes, Qt::AscendingOrder);
    CHECK(model->index(last, DemandSource::kMinutes).data().toString().isEmpty());
    records.demand_table().selectRow(0);
    records.copy();
    const QStringList lines = QApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
    REQUIRE(lines.size() == 2);
    CHECK(lines[0].startsWith("id\tresidents\tstatus\tminutes"));
    CHECK(lines[1].count('\t') == lines[0].count('\t'));
}

TEST_CASE("A site, a household or a road is found by name") {
    Mapped desk;
    desk.find("quay");
    CHECK(desk.session().selection.picked().site == SiteIndex(5u));
    desk.find("h00042");
    CHECK(desk.session().selection.picked().places == std::vector<std::uint32_t>{41});
    desk.find("causeway");
    CHECK(desk.window.notice().text().contains("Causeway"));
    desk.find("Atlantis");
    CHECK(desk.window.notice().text().contains("Atlantis"));
}

TEST_CASE("The ramp darkens all the way and turns at the standard") {
    double last = 1e9;
    for (int step = 0; step < theme::kRampSteps; ++step) {
        const double grey = qGray(theme::ramp_colour(step).rgb());
        CHECK(grey < last);
        last = grey;
    }
    CHECK(theme::ramp(0.99).blue() > theme::ramp(0.99).red());
    CHECK(theme::ramp(1.01).red() > theme::ramp(1.01).blue());
    CHECK(theme::ramp_step(1.0) == theme::kRampSteps / 2 - 1);
    CHECK(theme::ramp_step(1.0001) == theme::kRampSteps / 2);
}

TEST_CASE("Moving the map and back draws nothing twice, and what is in sight is never blank") {
    Mapped desk;
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const auto ink = [&] {
        return pixels(desk.map().grab().toImage(), [](const QColor& c) { return c.lightness() < 200; });
    };
    desk.map().zoom_by(4, QPointF(desk.map().rect().center()));
    const int stretched = ink();  // before anything of the new scale is drawn
    CHECK(stretched > 2000);
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    REQUIRE(wait_for([&] { return desk.map().idle(); }));  // the ring around what is in sight, too
    const quint64 before = desk.map().tiles().drawn_count();
    const QPoint middle = desk.map().rect().center();
    desk.drag(middle, middle + QPoint(90, 40));
    CHECK(ink() > 2000);
    desk.drag(middle, middle - QPoint(90, 40));
    REQUIRE(wait_for([&] { return desk.map().idle(); }));
    const quint64 after = desk.map().tiles().drawn_count();
    CHECK(after - before < 12);  // a strip of the ring, not the window
    desk.drag(middle, middle + QPoint(60, 30));
    desk.drag(middle, middle - QPoint(60, 30));
    REQUIRE(wait_for([&] { return desk.map().idle(); }));
    CHECK(desk.map().tiles().drawn_count() == after);
}

TEST_CASE("A picture of the map by tiles is the picture drawn whole") {
    Mapped desk;
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    const QImage tiles = desk.map().grab().toImage();
    QImage whole(desk.map().size(), QImage::Format_RGB32);
    QPainter p(&whole);
    desk.map().picture().value().paint_map(p);
    p.end();
    const auto share = [](int a, int b) { return static_cast<double>(std::abs(a - b)) / std::max({a, b, 1}); };
    CHECK(share(pixels(tiles, beyond_colour), pixels(whole, beyond_colour)) < 0.05);
    CHECK(share(pixels(tiles, within_colour), pixels(whole, within_colour)) < 0.05);
}

TEST_CASE(
    "A large network is prepared behind the answers, which are the same after it, and its order is kept beside "
    "the study") {
    Desk desk;
    desk.session().answers.answerer().prepare_from(100);
    int prepared = 0;
    QObject::connect(&desk.session().answers, &Answers::prepared, [&] { ++prepared; });
    desk.add_saltmere();
    REQUIRE(wait_for([&] { return prepared > 0 && desk.session().answers.up_to_date(); }));
    const auto plain = desk.session().answers.shown();
    CHECK_FALSE(plain->outcome.traces->labels.prepared());
    desk.session().document.new_plan("Quay", {{service::Change::open, "C1", {}}});
    REQUIRE(desk.settle_plans());
    const auto fast = desk.session().answers.shown();
    CHECK(fast->outcome.traces->labels.prepared());
    const auto again = answer(*plain->ready, fast->outcome.plan, Task());
    REQUIRE(again.places.size() == fast->outcome.places.size());
    std::size_t differ = 0;
    for (std::size_t i = 0; i < again.places.size(); ++i)
        differ += again.places[i].site != fast->outcome.places[i].site ||
                  again.places[i].time != fast->outcome.places[i].time;
    CHECK(differ == 0);

    const auto path = desk.folder.file("prepared.gpkg");
    desk.window.files().save(QString::fromStdString(path));
    REQUIRE(desk.settle());
    CHECK(wait_for([&] { return QFile::exists(QString::fromStdString(path + ".order")); }));
}

TEST_CASE("Seen from afar only main roads are drawn, from near all of them") {
    Mapped desk;
    const auto net = desk.session().document.study().roads->network;
    const auto scene = MapScene::make(net, {}, nullptr);
    std::vector<std::uint32_t> far, near, touching;
    scene->links_in(scene->extent(), 0.001, far);
    scene->links_in(scene->extent(), 1.0, near);
    scene->links_in(scene->extent(), touching);
    CHECK(near.size() == touching.size());
    CHECK(near.size() == net->link_count());
    CHECK(!far.empty());
    CHECK(far.size() < near.size() / 2);
    for (const auto link : far)
        CHECK((scene->weight(link) == RoadWeight::major || scene->weight(link) == RoadWeight::middle ||
               scene->weight(link) == RoadWeight::ferry));
}

TEST_CASE("Of places that would cover one another the one is drawn that nine in ten are no worse than") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    const auto answer = desk.session().answers.shown();
    // Twenty places on one spot: nineteen within the limit and one beyond it, then three beyond it.
    auto demand = std::make_shared<places::DemandSet>();
    const auto spot = desk.session().document.study().roads->network->position(NodeId(0U));
    for (int i = 0; i < 20; ++i) demand->places.push_back({std::to_string(i), spot, Weight::one()});
    const auto scene = MapScene::make(nullptr, demand, nullptr);
    const auto drawn_beyond = [&](int beyond) {
        PlanAnswer crowd{answer->ready, {}};
        crowd.outcome.sites = answer->outcome.sites;
        for (int i = 0; i < 20; ++i) {
            service::PlaceOutcome p;
            p.status = service::Status::served;
            p.site = SiteIndex(0U);
            p.time = i < beyond ? Millis::minutes(30) : Millis::minutes(2);
            crowd.outcome.places.push_back(p);
        }
        QImage image(60, 60, QImage::Format_RGB32);
        QPainter painter(&image);
        paint_ground(painter, {scene->world().flat(spot), 0.05, {60, 60}}, *scene, &crowd, MapStyle{});
        painter.end();
        const auto dark = [](const QColor& c) { return c.red() > c.blue() + 20 && c.lightness() < 100; };
        return pixels(image, dark) > 3;
    };
    CHECK_FALSE(drawn_beyond(0));
    CHECK_FALSE(drawn_beyond(1));
    CHECK(drawn_beyond(3));
}

TEST_CASE("While an answer is worked out the verdict says so, and offers nothing to press") {
    Desk desk;
    desk.add(test::saltmere("roads.gpkg"));
    desk.add(test::saltmere("households.csv"));
    CHECK(desk.verdict() == "no answer yet");
    bool said = false;
    QObject::connect(&desk.session().answers, &Answers::changed,
                     [&] { said = said || (desk.session().answers.asking() && !desk.session().answers.shown()); });
    desk.add(test::saltmere("ambulance-posts.geojson"));
    CHECK(said);
    REQUIRE(wait_for([&] { return !desk.session().answers.asking(); }));
    CHECK(desk.session().answers.up_to_date());
    CHECK(desk.verdict() != "being worked out");
}
