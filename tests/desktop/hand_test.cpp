/// What the hand and the keys do on the map: point, read, draw, measure, pick in a box, move a site.
#include <QClipboard>
#include <QLabel>
#include <QMenu>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/closure_editor.h"
#include "desktop/parts/number_box.h"
#include "geo/ellipsoid.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

struct AtTheMap : Desk {
    AtTheMap() {
        add_saltmere();
        window.show_study();
        map().setFocus();
        REQUIRE(wait_for([&] { return map().settled(); }));
    }
    void key(int key, Qt::KeyboardModifiers with = {}) { QTest::keyClick(&map(), static_cast<Qt::Key>(key), with); }
    [[nodiscard]] geo::LonLat site(std::size_t i) {
        return *session().document.study().sites[0].set->sites[i].position;
    }
};

}  // namespace

TEST_CASE("Arrows point at a spot, which is read out, and the map follows at its edge") {
    AtTheMap desk;
    CHECK_FALSE(desk.map().cursor_at());
    desk.key(Qt::Key_Right);
    REQUIRE(desk.map().cursor_at());
    const QPointF middle = *desk.map().cursor_at();
    desk.key(Qt::Key_Right);
    CHECK((*desk.map().cursor_at() - middle).x() == Approx(24));
    desk.key(Qt::Key_Down, Qt::ShiftModifier);
    CHECK((*desk.map().cursor_at() - middle).y() == Approx(3));
    // What is said is what the mouse would read there, and screen readers are told.
    desk.map().point_to(desk.site(1));
    const QString said = desk.map().readout();
    CHECK(said.contains("serves"));
    CHECK(desk.map().accessibleDescription() == said);
    const auto before = desk.map().viewport().centre;
    for (int i = 0; i < 60; ++i) desk.key(Qt::Key_Left);
    CHECK(desk.map().viewport().centre.x() < before.x());
    CHECK(QRectF(desk.map().rect()).contains(*desk.map().cursor_at()));
    desk.key(Qt::Key_Escape);
    CHECK_FALSE(desk.map().cursor_at());
}

TEST_CASE("A site is gone to, moved and put back by keys alone") {
    AtTheMap desk;
    desk.key(Qt::Key_PageDown);
    REQUIRE(desk.map().cursor_at());
    CHECK((*desk.map().cursor_at() - desk.map().screen_of(desk.site(0))).manhattanLength() < 1);
    desk.key(Qt::Key_PageDown);
    CHECK((*desk.map().cursor_at() - desk.map().screen_of(desk.site(1))).manhattanLength() < 1);
    desk.key(Qt::Key_G);
    CHECK(desk.map().dragging());
    desk.key(Qt::Key_Right);
    REQUIRE(wait_for([&] { return desk.session().answers.trying_out(); }));
    desk.key(Qt::Key_Escape);
    CHECK_FALSE(desk.map().dragging());
    CHECK(desk.session().document.study().plans.size() == 1);
    desk.map().point_to(desk.site(1));
    desk.key(Qt::Key_G);
    desk.key(Qt::Key_Right);
    desk.key(Qt::Key_Return);
    REQUIRE(desk.settle_plans());
    REQUIRE(desk.session().document.study().plans.size() == 2);
    CHECK(desk.session().document.plan().changes[0].change == service::Change::move);
    CHECK(desk.session().document.plan().changes[0].site == "A2");
}

TEST_CASE("A closure is drawn and a place picked without a mouse") {
    AtTheMap desk;
    desk.map().point_to(desk.site(0));
    desk.draw_closure(roads::ClosureShape::area);
    for (const auto& [key, times] :
         {std::pair{Qt::Key_Left, 3}, std::pair{Qt::Key_Right, 6}, std::pair{Qt::Key_Down, 4}}) {
        for (int i = 0; i < times; ++i) desk.key(key);
        desk.key(Qt::Key_Space);
    }
    desk.key(Qt::Key_Return);
    CHECK_FALSE(desk.map().drawing());
    REQUIRE(desk.settle_plans());
    CHECK(desk.session().document.plan().closures.size() == 1);
    desk.session().document.choose_plan(0);
    const auto& places = desk.session().document.study().demand[0].set->places;
    desk.map().go_to(*places[40].position);
    desk.map().zoom_by(50, desk.map().rect().center());
    desk.map().point_to(*places[40].position);
    desk.key(Qt::Key_Space);
    CHECK(desk.session().selection.picked().places == std::vector<std::uint32_t>{40});
}

TEST_CASE("The menu of a spot opens where the keys point") {
    AtTheMap desk;
    desk.map().point_to(desk.site(0));
    desk.key(Qt::Key_Down);
    desk.key(Qt::Key_Down);
    QContextMenuEvent menu(QContextMenuEvent::Keyboard, QPoint(1, 1));
    QApplication::sendEvent(&desk.map(), &menu);
    auto* open = desk.page().findChild<QMenu*>("spot");
    REQUIRE(open);
    CHECK((QPointF(desk.map().mapFromGlobal(open->pos())) - *desk.map().cursor_at()).manhattanLength() < 400);
    Desk::close_editor();
}

TEST_CASE("Places are picked in a box, by a pull with Shift or by two presses, and shown") {
    AtTheMap desk;
    const auto& places = desk.session().document.study().demand[0].set->places;
    const QPoint from(300, 200), to(380, 280);
    std::vector<std::uint32_t> inside;
    const QPointF a = desk.map().viewport().to_world(from), b = desk.map().viewport().to_world(to);
    for (std::uint32_t i = 0; i < places.size(); ++i) {
        if (!places[i].position) continue;
        const QPointF at = desk.map().viewport().to_world(desk.map().screen_of(*places[i].position));
        if (at.x() >= a.x() && at.x() <= b.x() && at.y() >= a.y() && at.y() <= b.y()) inside.push_back(i);
    }
    REQUIRE(inside.size() > 50);
    QTest::mousePress(&desk.map(), Qt::LeftButton, Qt::ShiftModifier, from);
    QMouseEvent move(QEvent::MouseMove, to, desk.map().mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                     Qt::ShiftModifier);
    QApplication::sendEvent(&desk.map(), &move);
    QTest::mouseRelease(&desk.map(), Qt::LeftButton, Qt::ShiftModifier, to);
    CHECK(desk.session().selection.picked().places == inside);
    CHECK(desk.window.notice().text().contains("picked"));
    desk.key(Qt::Key_Escape);
    CHECK(desk.session().selection.picked().places.empty());
    desk.key(Qt::Key_B);
    CHECK(desk.map().drawing_hint().contains("corner"));
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, from);
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, to);
    CHECK(desk.session().selection.picked().places == inside);
    const double scale = desk.map().viewport().pixels_per_metre;
    desk.key(Qt::Key_Z);
    CHECK(desk.map().viewport().pixels_per_metre > scale);
}

TEST_CASE("A straight line is measured as it is drawn") {
    AtTheMap desk;
    const auto a = desk.site(0), b = desk.site(1);
    desk.page().measure(a);
    QTest::mouseClick(&desk.map(), Qt::LeftButton, {}, desk.map().screen_of(b).toPoint());
    CHECK(desk.map().drawing_hint().contains("km"));
    desk.key(Qt::Key_Return);
    const auto said = desk.window.notice().text();
    CHECK(said.startsWith("Straight: "));
    // To a pixel's width.
    const double km = said.mid(10).section(' ', 0, 0).toDouble();
    CHECK(km == Approx(geo::distance_metres(a, b) / 1000).epsilon(0.01));
}

TEST_CASE("Slowing down is an entry of its own, with the same editor") {
    AtTheMap desk;
    const auto& network = *desk.session().document.study().roads->network;
    const auto spot = network.shape(LinkId(10u)).front();
    desk.page().offer_spot_menu(spot, desk.window.pos());
    auto* menu = desk.page().findChild<QMenu*>("spot");
    REQUIRE(menu);
    QAction* slow = nullptr;
    for (auto* a : menu->actions())
        if (a->text().startsWith("Slow down")) slow = a;
    REQUIRE(slow);
    menu->close();
    slow->trigger();
    auto* editor = qobject_cast<ClosureEditor*>(QApplication::activePopupWidget());
    REQUIRE(editor);
    editor->minutes().setValue(3);
    QTest::mouseClick(editor->button("point"), Qt::LeftButton);
    REQUIRE(desk.settle_plans());
    const auto& closure = desk.session().document.plan().closures.at(0);
    CHECK(closure.effect == roads::ClosureEffect::delay);
    CHECK(closure.delay == Millis::minutes(3));
    CHECK(closure.name.find("slowed") != std::string::npos);
    // Drawing says what it is for.
    auto like = closure;
    like.shape = roads::ClosureShape::line;
    desk.page().draw_closure(like);
    CHECK(desk.map().drawing_hint().contains("Slow roads down along a line"));
    desk.key(Qt::Key_Escape);
    CHECK(desk.window.notice().text().contains("Nothing was slowed"));
}

TEST_CASE("Delete takes a site of the plan out, and no other") {
    AtTheMap desk;
    desk.session().document.new_plan("One more", {{service::Change::add, "X", desk.map().place_of({300, 200})}});
    REQUIRE(desk.settle_plans());
    desk.session().selection.pick({{}, SiteIndex(0u)});
    desk.key(Qt::Key_Delete);
    CHECK(desk.session().answers.shown()->outcome.sites.size() == 10);
    CHECK(desk.window.notice().text().contains("there today"));
    desk.session().selection.pick({{}, SiteIndex(9u)});
    desk.key(Qt::Key_Delete);
    REQUIRE(desk.settle_plans());
    CHECK(desk.session().answers.shown()->outcome.sites.size() == 9);
}

TEST_CASE("What was shown on the map goes with Escape, wherever the keys are") {
    AtTheMap desk;
    desk.map().set_marks({desk.site(0)});
    desk.window.study_tab().setFocus();
    QTest::keyClick(&desk.window.study_tab(), Qt::Key_Escape);
    CHECK(desk.map().marks().empty());
}

TEST_CASE("The map is put on the clipboard with its question and legend") {
    AtTheMap desk;
    QApplication::clipboard()->clear();
    desk.window.exports().copy_map();
    REQUIRE(wait_for([&] { return !QApplication::clipboard()->image().isNull(); }));
    CHECK(QApplication::clipboard()->image().height() > 2 * desk.map().height() + 100);
}

TEST_CASE("A closure that gets another name keeps every digit of what it does") {
    AtTheMap desk;
    roads::Closure slow;
    slow.name = "works";
    slow.vertices = {desk.site(0)};
    slow.effect = roads::ClosureEffect::slowed;
    slow.factor_per_mille = 1'333;
    roads::Closure late = slow;
    late.name = "barrier";
    late.effect = roads::ClosureEffect::delay;
    late.delay = Millis(100'000);
    desk.session().document.add_closures("p", {slow, late});
    for (std::size_t i : {0, 1}) {
        desk.page().change_closure(i, desk.window.pos());
        auto* editor = qobject_cast<ClosureEditor*>(QApplication::activePopupWidget());
        REQUIRE(editor);
        editor->called().setText(QString("renamed %1").arg(i));
        QTest::mouseClick(editor->button("change"), Qt::LeftButton);
    }
    const auto& closures = desk.session().document.plan().closures;
    CHECK(closures[0].name == "renamed 0");
    CHECK(closures[0].factor_per_mille == 1'333);
    CHECK(closures[1].delay == Millis(100'000));
    // A card that stood open while the plan changed changes nothing else.
    desk.page().change_closure(1, desk.window.pos());
    auto* editor = qobject_cast<ClosureEditor*>(QApplication::activePopupWidget());
    REQUIRE(editor);
    desk.session().document.edit("remove", [](service::Study& s) {
        s.plans[1].closures.erase(s.plans[1].closures.begin());
        s.plans[1].closures.push_back(s.plans[1].closures[0]);
        s.plans[1].closures.back().name = "another";
    });
    emit editor->open_again();
    CHECK(desk.session().document.plan().closures.size() == 2);
    Desk::close_editor();
}

TEST_CASE("A place that stands nowhere is in no box") {
    Desk desk;
    desk.add(test::saltmere("roads.gpkg"));
    desk.add(QString::fromStdString(
        desk.folder.write("homes.csv", "id,lon,lat\nA,-9.49,46.21\nB,,\nC,-9.48,46.2\nD,200,95\n")));
    desk.window.show_study();
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    desk.map().pick_between({-10, 45}, {-9, 47}, false);
    CHECK(desk.session().selection.picked().places == std::vector<std::uint32_t>{0, 2});
}

TEST_CASE("A map whose question has names of ten thousand letters can be drawn") {
    AtTheMap desk;
    desk.session().document.edit("name", [](service::Study& s) { s.name = std::string(10'000, 'n'); });
    desk.session().document.edit("profile", [](service::Study& s) {
        s.question().profile.name = std::string(10'000, 'p');
        s.profiles.push_back(s.question().profile);
    });
    const auto picture = desk.map().picture();
    REQUIRE(picture);
    CHECK(picture->sheet().height() < desk.map().height() + 600);
    CHECK_FALSE(picture->image(1).isNull());
}
