/// The window on small screens, with large type, and from one sitting to the next.
#include <QSettings>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/records_panel.h"
#include "desktop/theme.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

TEST_CASE("The window has room on a screen of 1024x700") {
    Desk desk;
    desk.add_saltmere();
    for (const bool data : {true, false}) {
        data ? desk.window.show_data() : desk.window.show_study();
        QApplication::processEvents();
        CHECK(desk.window.minimumSizeHint().width() <= 1024);
        CHECK(desk.window.minimumSizeHint().height() <= 700);
    }
}

TEST_CASE("Records are closed until they are pulled up, and stay as they were left") {
    QSettings().remove("records/open");
    {
        Desk desk;
        desk.add_saltmere();
        desk.window.show_study();
        auto& records = desk.page().records();
        CHECK_FALSE(records.is_open());
        const int low = records.height();
        QTest::mouseClick(&records.open_button(), Qt::LeftButton);
        QApplication::processEvents();
        CHECK(records.is_open());
        CHECK(records.height() > 2 * low);
    }
    Desk again;
    CHECK(again.page().records().is_open());
    QTest::mouseClick(&again.page().records().open_button(), Qt::LeftButton);
    CHECK_FALSE(again.page().records().is_open());
}

TEST_CASE("The map shows everything anew when the window grows, unless the planner has chosen what to see") {
    Desk desk;
    desk.add_saltmere();
    desk.window.show_study();
    desk.window.resize(1100, 720);
    REQUIRE(wait_for([&] { return desk.map().settled(); }));
    desk.map().fit();
    const double small = desk.map().viewport().pixels_per_metre;
    desk.window.resize(1800, 1100);
    REQUIRE(wait_for([&] { return desk.map().viewport().pixels_per_metre > small * 1.2; }));
    desk.map().zoom_by(2, desk.map().rect().center());
    const double chosen = desk.map().viewport().pixels_per_metre;
    desk.window.resize(1100, 720);
    QApplication::processEvents();
    CHECK(desk.map().viewport().pixels_per_metre == chosen);
}

TEST_CASE("Exporting without an answer says so before it asks for a file") {
    Desk desk;
    for (auto* action : desk.window.actions())
        if (action->text().startsWith("Export the answer")) action->trigger();
    CHECK(desk.window.notice().text().contains("no answer to export"));
}
