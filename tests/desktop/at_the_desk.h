#pragma once
/// \file
/// Sitting at the real window, offscreen.
#include <QAbstractButton>
#include <QApplication>
#include <QDoubleSpinBox>
#include <QElapsedTimer>
#include <QPushButton>
#include <QRadioButton>
#include <QTimer>
#include <QtTest>
#include <functional>

#include "desktop/main_window.h"
#include "desktop/map/map_view.h"
#include "desktop/pages/add_panel.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/exports.h"
#include "desktop/parts/find_box.h"
#include "desktop/parts/question_line.h"
#include "desktop/parts/strips.h"
#include "desktop/parts/verdict_view.h"
#include "support/files.h"

namespace otoro::test {

/// Lets the window work until something is so; sleeps meanwhile, for the processor belongs to the threads waited for.
inline bool wait_for(const std::function<bool()>& done) {
    QElapsedTimer timer;
    timer.start();
    QTimer look_again;
    look_again.setTimerType(Qt::PreciseTimer);
    look_again.start(2);
    while (!done() && timer.elapsed() < 300'000) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    return done();
}

inline QString saltmere(const char* file) { return QString(OTORO_SALTMERE "/") + file; }

class Desk {
public:
    Desk() : window(QString::fromStdString(folder.file("recovery"))) { window.show(); }

    desktop::Session& session() { return window.session(); }
    desktop::StudyPage& page() { return window.study_page(); }
    desktop::MapView& map() { return window.study_page().map(); }
    QString share() { return window.study_page().verdict().share_text(); }
    QString verdict() { return window.study_page().verdict().verdict_text(); }

    bool settle() {
        return wait_for([&] {
            return !window.jobs().busy() && (!session().document.study().inputs() || session().answers.up_to_date());
        });
    }
    /// Waits until every plan has its answer.
    bool settle_plans() {
        return wait_for([&] {
            for (std::size_t i = 0; i < session().document.study().plans.size(); ++i)
                if (!session().answers.of_plan(i)) return false;
            return session().answers.up_to_date();
        });
    }
    /// Offers a file and takes the guesses as they stand.
    void add(const QString& path) {
        window.take_file(path);
        REQUIRE(wait_for([&] { return window.data_page().add_panel().open(); }));
        window.data_page().add_panel().accept();
        REQUIRE(settle());
    }
    void add_saltmere() {
        add(saltmere("roads.gpkg"));
        add(saltmere("households.csv"));
        add(saltmere("ambulance-posts.geojson"));
        REQUIRE(settle());
    }
    /// Begins to draw a closure, as the editor's buttons do.
    void draw_closure(roads::ClosureShape shape) {
        roads::Closure like;
        like.shape = shape;
        page().draw_closure(like);
    }
    /// Writes into the find box and presses Return; waits until it is found or not.
    void find(const QString& text) {
        auto& box = window.find_box();
        box.setText(text);
        bool ended = false;
        QObject here;
        QObject::connect(&box, &desktop::FindBox::found, &here, [&] { ended = true; });
        QObject::connect(&box, &desktop::FindBox::nothing_found, &here, [&] { ended = true; });
        QTest::keyClick(&box, Qt::Key_Return);
        REQUIRE(wait_for([&] { return ended; }));
    }
    /// Presses a blank of the question and returns the editor that opens.
    QWidget* press_blank(const QString& key) {
        QTest::mouseClick(page().question().blank(key), Qt::LeftButton);
        REQUIRE(QApplication::activePopupWidget());
        return QApplication::activePopupWidget();
    }
    static void close_editor() {
        while (auto* popup = QApplication::activePopupWidget()) {
            popup->close();
            QApplication::processEvents();
            QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        }
    }
    static void choose(QWidget* editor, int i) {
        QTest::mouseClick(editor->findChildren<QRadioButton*>().at(i), Qt::LeftButton, {}, QPoint(8, 8));
    }

    Folder folder;
    desktop::MainWindow window;
};

}  // namespace otoro::test
