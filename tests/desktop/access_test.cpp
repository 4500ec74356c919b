#include <QAbstractItemView>
#include <QAbstractSpinBox>
#include <QComboBox>
#include <QFontInfo>
#include <QFontMetricsF>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QShortcut>
#include <algorithm>
#include <catch2/catch.hpp>
#include <set>

#include "desktop/at_the_desk.h"
#include "desktop/pages/help_sheet.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/plan_list.h"
#include "desktop/theme.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

TEST_CASE("Every control has a name for those who cannot see it, and can be reached by keyboard") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    int controls = 0;
    std::set<QString> names;
    for (auto* w : desk.window.findChildren<QWidget*>()) {
        const bool control = qobject_cast<QAbstractButton*>(w) || qobject_cast<QLineEdit*>(w) ||
                             qobject_cast<QComboBox*>(w) || qobject_cast<QAbstractSpinBox*>(w) ||
                             qobject_cast<QAbstractItemView*>(w) || qobject_cast<MapView*>(w);
        // Parts inside a control (a scroll area's corner, a header, a clear button) belong to it.
        const bool inner =
            w->objectName().startsWith("qt_") || w->inherits("QHeaderView") || w->inherits("QTableCornerButton") ||
            qobject_cast<QLineEdit*>(w->parentWidget()) || qobject_cast<QComboBox*>(w->parentWidget()) ||
            w->parentWidget()->inherits("QComboBoxPrivateContainer") ||
            qobject_cast<QAbstractSpinBox*>(w->parentWidget()) || w->parentWidget()->inherits("QTabBar") ||
            w->inherits("QTableView") == false && w->parentWidget()->inherits("QTableView");
        if (!control || inner) continue;
        ++controls;
        const auto* button = qobject_cast<QAbstractButton*>(w);
        INFO(w->metaObject()->className() << " " << w->objectName().toStdString());
        // What is read out: words, not a mark, and different from every other control of its kind in sight.
        const QString said = w->accessibleName().isEmpty() && button ? button->text() : w->accessibleName();
        INFO(said.toStdString());
        CHECK(std::count_if(said.begin(), said.end(), [](QChar c) { return c.isLetter(); }) >= 3);
        if (w->isVisible()) CHECK(names.insert(QString(w->metaObject()->className()) + said).second);
        CHECK((w->focusPolicy() & Qt::TabFocus));
    }
    CHECK(controls > 30);
}

TEST_CASE("Keys go where the help says") {
    Desk desk;
    desk.add_saltmere();
    desk.window.activateWindow();
    REQUIRE(wait_for([&] { return desk.window.isActiveWindow(); }));
    QTest::keyClick(&desk.window, Qt::Key_1, Qt::ControlModifier);
    CHECK(desk.window.data_page().isVisible());
    QTest::keyClick(&desk.window, Qt::Key_2, Qt::ControlModifier);
    CHECK(desk.page().isVisible());
    QTest::keyClick(&desk.window, Qt::Key_F, Qt::ControlModifier);
    CHECK(desk.window.find_box().hasFocus());
    const int before = desk.session().document.undo_stack().index();
    QTest::keyClick(&desk.map(), Qt::Key_Z, Qt::ControlModifier);
    CHECK(desk.session().document.undo_stack().index() == before - 1);
    QTest::keyClick(&desk.map(), Qt::Key_F1);
    CHECK(desk.window.findChild<HelpSheet*>());
}

TEST_CASE("A blank opens with the keyboard and closes with Escape") {
    Desk desk;
    desk.add_saltmere();
    auto* blank = desk.page().question().blank("serving");
    blank->setFocus();
    QTest::keyClick(blank, Qt::Key_Space);
    auto* editor = QApplication::activePopupWidget();
    REQUIRE(editor);
    QTest::keyClick(editor, Qt::Key_Escape);
    CHECK_FALSE(QApplication::activePopupWidget());
}

TEST_CASE("The type family is there and its figures are all as wide as one another") {
    const QFont font = theme::type();
    CHECK(QFontInfo(font).family() == "Open Sans");
    const QFontMetricsF m(font);
    for (char d = '1'; d <= '9'; ++d) CHECK(m.horizontalAdvance(QChar(d)) == m.horizontalAdvance('0'));
}

TEST_CASE("An empty window says what to do next") {
    Desk desk;
    const auto labels = desk.window.data_page().findChildren<QLabel*>();
    CHECK(std::any_of(labels.begin(), labels.end(),
                      [](const QLabel* l) { return l->text().contains("A study starts from three files"); }));
    CHECK(desk.page().question().text().contains("(no demand yet)"));
    CHECK_FALSE(desk.page().question().blank("demand")->isEnabled());
}

TEST_CASE("No shortcut of the window means two things") {
    Desk desk;
    std::set<QString> keys;
    const auto take = [&](const QKeySequence& key, const QString& what) {
        if (key.isEmpty()) return;
        INFO(what.toStdString() << " " << key.toString().toStdString());
        CHECK(keys.insert(key.toString()).second);
    };
    for (auto* a : desk.window.findChildren<QAction*>())
        for (const auto& key : a->shortcuts()) take(key, a->text());
    for (auto* s : desk.window.findChildren<QShortcut*>())
        if (s->context() != Qt::WidgetShortcut) take(s->key(), "shortcut");
    CHECK(keys.size() > 15);
}

TEST_CASE("Tab goes through the study page as one reads it, and comes round") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.window.activateWindow();
    REQUIRE(wait_for([&] { return desk.window.isActiveWindow(); }));
    auto* first = desk.page().question().blank("demand");
    first->setFocus();
    std::vector<QWidget*> order;
    for (int i = 0; i < 120; ++i) {
        auto* now = QApplication::focusWidget();
        REQUIRE(now);
        if (!order.empty() && now == order.front()) break;
        order.push_back(now);
        QTest::keyClick(now, Qt::Key_Tab);
    }
    const auto place = [&](const QWidget* w) {
        const auto at = std::find(order.begin(), order.end(), w);
        REQUIRE(at != order.end());
        return at - order.begin();
    };
    // The sentence, then the lists, the map, its legend, the answer.
    CHECK(place(first) < place(desk.page().question().blank("standard")));
    CHECK(place(desk.page().question().blank("standard")) < place(&desk.page().plans().list()));
    CHECK(place(&desk.page().plans().list()) < place(&desk.map()));
    CHECK(place(&desk.map()) < place(desk.page().legend().look("time")));
}
