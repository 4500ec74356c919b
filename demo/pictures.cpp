/// Takes pictures of the real window on the demo study, without a display.
#include <QApplication>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QDialog>
#include <QDir>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTableWidget>
#include <QTimer>
#include <QTreeWidget>
#include <cstdio>
#include <functional>
#include <string_view>

#include "desktop/main_window.h"
#include "desktop/map/map_view.h"
#include "desktop/pages/compare_page.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/pairs_sheet.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/access_view.h"
#include "desktop/parts/answer_panel.h"
#include "desktop/parts/best_set_panel.h"
#include "desktop/parts/closure_editor.h"
#include "desktop/parts/detour_panel.h"
#include "desktop/parts/difference_view.h"
#include "desktop/parts/exports.h"
#include "desktop/parts/fairness_view.h"
#include "desktop/parts/findings_list.h"
#include "desktop/parts/firmness_view.h"
#include "desktop/parts/legend.h"
#include "desktop/parts/more_sets_view.h"
#include "desktop/parts/question_line.h"
#include "desktop/parts/ranking_panel.h"
#include "desktop/parts/reach_panel.h"
#include "desktop/parts/reassign_panel.h"
#include "desktop/parts/records_panel.h"
#include "desktop/parts/room_panel.h"
#include "desktop/parts/sources_list.h"
#include "desktop/parts/strips.h"
#include "desktop/parts/weakest_panel.h"
#include "desktop/theme.h"
#include "service/road_reading.h"

namespace {
using namespace otoro::desktop;

/// Lets the window work until `done`, asleep meanwhile, or gives up after five minutes.
bool wait_for(const std::function<bool()>& done) {
    QElapsedTimer timer;
    timer.start();
    QTimer look_again;
    look_again.start(5);
    while (!done() && timer.elapsed() < 300'000) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    return done();
}

class Photographer {
public:
    Photographer(MainWindow& window, QDir folder) : window_(window), folder_(std::move(folder)) {}
    void take(const QString& name) {
        // What is being written is said when it is there.
        for (int i = 0; i < 2; ++i) {
            settle();
            window_.notice().hide();
        }
        settle();
        window_.grab().save(folder_.filePath(name + ".png"));
    }
    /// With the popups that are open drawn where they stand.
    void take_with_popup(const QString& name) {
        settle();
        QPixmap picture = window_.grab();
        QPainter painter(&picture);
        if (auto* popup = QApplication::activePopupWidget())
            painter.drawPixmap(popup->pos() - window_.pos(), popup->grab());
        painter.end();
        picture.save(folder_.filePath(name + ".png"));
    }
    void settle() {
        auto& map = window_.study_page().map();
        wait_for([&] {
            const auto& session = window_.session();
            if (window_.jobs().busy()) return false;
            if (!session.document.study().inputs()) return true;
            // Every plan and every question says its share.
            for (std::size_t p = 0; p < session.document.study().plans.size(); ++p)
                if (!session.answers.of_plan(p)) return false;
            for (std::size_t q = 0; q < session.document.study().questions.size(); ++q)
                if (session.document.study().questions[q].standard && !session.answers.verdict_on(q)) return false;
            return session.answers.up_to_date();
        });
        QElapsedTimer timer;
        timer.start();
        wait_for([&] { return timer.elapsed() > 400 && map.settled(); });
    }

private:
    MainWindow& window_;
    QDir folder_;
};

/// Reach as it is looked at in all its ways. \pre the study is Saltmere's, under Today
void take_reach(MainWindow& window, Photographer& camera) {
    auto& map = window.study_page().map();
    auto& asker = window.study_page().reach().asker();
    const auto take = [&](const char* name, const std::function<void(ReachStyle&)>& change) {
        const auto before = map.style_now().reach;
        map.change_reach(change);
        wait_for([&] {
            const auto asked = map.ground_asked();
            return asked && !asker.busy() && asker.has(*asked);
        });
        camera.take(name);
        map.change_reach([&](ReachStyle& s) { s = before; });
    };
    take("reach-each", [](ReachStyle& s) { s.overlap = otoro::service::Overlap::each; });
    take("reach-count", [](ReachStyle& s) { s.overlap = otoro::service::Overlap::count; });
    take("reach-circles", [](ReachStyle& s) { s.circles = s.lines = s.off_water = true; });
    take("reach-roads", [](ReachStyle& s) { s.roads = s.in_zones = true; });
    map.compare_reach(MapView::Compared{false, window.session().document.study().plans.back().name});
    take("reach-change", [](ReachStyle&) {});
    map.compare_reach(std::nullopt);
    map.set_look(uncovered_look());
    take("zones-covered", [](ReachStyle& s) { s.cover = otoro::service::CoverList::zones; });
    map.set_look(reach_look());
}

/// Scrolls the answer panel to one of its parts.
void scroll_to(MainWindow& window, QWidget& part) {
    QApplication::processEvents();
    window.study_page().answer().ensureWidgetVisible(&part, 0, 4);
    QApplication::processEvents();
}

/// Standards of several steps, how firm and how even the answer is, candidates ranked, what hurts most, what changes.
void take_siting(MainWindow& window, Photographer& camera) {
    auto& document = window.session().document;
    auto& answer = window.study_page().answer();
    auto& map = window.study_page().map();
    document.choose_question(0);
    document.choose_plan(0);
    camera.settle();
    document.edit("steps", [](otoro::service::Study& s) {
        s.question().standard->further = {{otoro::Share::percent(100), otoro::Millis::minutes(20), {}},
                                          {otoro::Share::percent(60), otoro::Millis::minutes(12), {2, {}}}};
    });
    camera.settle();
    answer.firmness().set_open(true);
    answer.fairness().set_open(true);
    wait_for([&] { return answer.firmness().work().found() && answer.fairness().work().found(); });
    scroll_to(window, answer.fairness());
    window.study_page().question().blank("steps")->click();
    camera.take_with_popup("steps");
    if (auto* popup = QApplication::activePopupWidget()) popup->close();
    camera.take("firm");
    answer.firmness().set_open(false);
    answer.fairness().set_open(false);
    document.undo_stack().undo();
    camera.settle();
    answer.rank_button().click();
    wait_for([&] { return !answer.ranking().ranked().empty(); });
    answer.ranking().list().setCurrentCell(0, 0);
    answer.weakest_button().click();
    wait_for([&] { return answer.weakest().work().found() && !answer.weakest().work().busy(); });
    answer.weakest().roads_button().click();
    wait_for([&] { return answer.weakest().work().found() && answer.weakest().work().found()->roads_too; });
    scroll_to(window, answer.weakest());
    camera.take("alone");
    answer.ranking().hide();
    answer.weakest().hide();
    answer.access().set_open(true);
    wait_for([&] { return answer.access().work().found() && !answer.access().work().busy(); });
    map.set_marks({});
    map.set_look(access_look());
    scroll_to(window, answer.access());
    camera.take("access");
    answer.access().set_open(false);
    document.choose_plan(1);
    map.set_look(change_look());
    window.study_page().answer().ensureVisible(0, 0);
    camera.take("change");
    map.set_look(who_serves_look());
    document.choose_plan(0);
    camera.settle();
}

void take_best(MainWindow& window, Photographer& camera) {
    auto& document = window.session().document;
    document.choose_question(0);
    document.choose_plan(0);
    camera.settle();
    auto& best = window.study_page().best();
    best.open();
    best.find_button().click();
    wait_for([&] { return best.finder().found() != nullptr; });
    auto& more = best.more();
    more.button(MoreSetsView::Kind::price).click();
    wait_for([&] { return more.work().found() && !more.work().busy(); });
    more.list().setCurrentCell(2, 0);
    camera.take("best");
    more.button(MoreSetsView::Kind::near).click();
    wait_for([&] { return more.work().found() && !more.work().busy(); });
    camera.take("near");
    more.button(MoreSetsView::Kind::sure).click();
    wait_for([&] { return more.work().found() && !more.work().busy(); });
    camera.take("sure");
    best.plan_button().click();
    camera.take("best-plan");
    document.undo_stack().undo();
}

void take_compare(MainWindow& window, Photographer& camera) {
    auto& document = window.session().document;
    const auto plan = document.plan_index(), question = document.question_index();
    window.show_compare();
    document.choose_question(0);
    document.choose_plan(1);
    wait_for([&] {
        auto& page = window.compare_page();
        return page.figures().up_to_date() && page.two().found() && window.session().answers.up_to_date();
    });
    camera.take("compare");
    window.show_study();
    document.choose_question(question);
    document.choose_plan(plan);
}

/// Recorded schools against the nearest, and the day's round.
void take_moving(MainWindow& window, Photographer& camera) {
    auto& document = window.session().document;
    document.choose_question(4);
    window.study_page().map().set_look(who_serves_look());
    wait_for([&] { return window.study_page().reassign().reassigner().up_to_date(); });
    camera.take("recorded");
    window.study_page().map().set_flows({});
    document.choose_question(1);
    window.study_page().map().set_layer_shown(Layer::lines, true);
    camera.take("lines");
    window.study_page().map().set_layer_shown(Layer::lines, false);
    document.choose_question(2);
    window.study_page().map().set_look(time_look());
    window.session().route.set_shown(true);
    wait_for([&] { return window.session().route.found() != nullptr; });
    camera.take("round");
    window.session().route.set_shown(false);
    document.choose_question(0);
    camera.settle();
}

/// Pupils to schools as long as there are places, and the rule being chosen.
void take_serving(MainWindow& window, Photographer& camera) {
    auto& document = window.session().document;
    document.choose_question(1);
    document.edit("serving", [](otoro::service::Study& s) {
        s.question().serving = otoro::service::AsCapacityAllows{otoro::routing::Measure::distance};
    });
    camera.settle();
    window.study_page().room().work_out().click();
    wait_for([&] { return window.study_page().room().work().found() != nullptr; });
    camera.take("capacity");
    window.study_page().map().set_look(load_look());
    camera.take("load");
    window.study_page().map().set_look(who_serves_look());
    window.study_page().question().blank("serving")->click();
    camera.take_with_popup("serving");
    if (auto* popup = QApplication::activePopupWidget()) popup->close();
    document.undo_stack().undo();
    document.choose_question(0);
    window.study_page().map().set_look(detour_look());
    wait_for([&] { return window.study_page().detours().up_to_date(); });
    camera.take("detour");
    window.study_page().map().set_look(who_serves_look());
    camera.settle();
}

}  // namespace

int main(int argc, char** argv) {
    // --at WIDTHxHEIGHT POINTS: the main views alone, at another size of window and type.
    double points = 10;
    QSize at(1280, 800);
    bool only_views = false;
    if (argc > 3 && std::string_view(argv[1]) == "--at") {
        const auto parts = QString::fromLocal8Bit(argv[2]).split('x');
        at = QSize(parts.value(0).toInt(), parts.value(1).toInt());
        points = QString::fromLocal8Bit(argv[3]).toDouble();
        only_views = true;
        argv += 3;
        argc -= 3;
    }
    if (argc < 3) {
        std::fprintf(stderr, "usage: otoro-pictures [--at WIDTHxHEIGHT POINTS] STUDY FOLDER [FILE_TO_BRING_IN]\n");
        return 2;
    }
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);  // nothing remembered of other sittings
    QApplication app(argc, argv);
    QApplication::setApplicationName("otoro-pictures");
    QSettings().clear();
    theme::apply(app, points);
    const QDir folder(QString::fromLocal8Bit(argv[2]));
    folder.mkpath(".");
    MainWindow window(folder.filePath(".recovery"));
    window.resize(at);
    window.show();
    Photographer camera(window, folder);
    camera.take("empty");
    window.take_file(QString::fromLocal8Bit(argv[1]));
    if (!wait_for([&] { return window.session().document.study().inputs().has_value(); })) {
        std::fprintf(stderr, "otoro-pictures: the study did not open: %s\n", qPrintable(window.notice().text()));
        return 1;
    }
    auto& map = window.study_page().map();
    // On a busy machine the strip of progress stood below the map when that was fitted, on an idle one it did not.
    camera.settle();
    map.fit();
    camera.take("study");
    if (only_views) {
        map.set_look(reach_look());
        wait_for([&] { return window.study_page().reach().list().rowCount() > 0; });
        camera.take("reach");
        window.session().document.choose_question(1);
        map.set_look(who_serves_look());
        window.study_page().records().set_open(true);
        camera.take("pupils");
        window.study_page().records().set_open(false);
        take_moving(window, camera);
        take_best(window, camera);
        take_siting(window, camera);
        take_compare(window, camera);
        window.show_data();
        wait_for([&] { return window.data_page().fixer().up_to_date(); });
        camera.take("data");
        if (argc > 3) {
            window.take_file(QString::fromLocal8Bit(argv[3]));
            wait_for([&] { return window.data_page().add_panel().open(); });
            camera.take("add");
        }
        return 0;
    }
    window.exports().map(folder.filePath("map.png"));
    window.exports().map(folder.filePath("map.svg"));

    window.session().document.choose_plan(1);
    camera.take("plan");
    map.set_look(who_serves_look());
    camera.take("who-serves");
    take_best(window, camera);
    take_siting(window, camera);
    take_compare(window, camera);
    take_serving(window, camera);
    take_moving(window, camera);
    window.session().document.choose_plan(0);
    camera.settle();
    map.set_look(reach_look());
    wait_for([&] { return window.study_page().reach().list().rowCount() > 0; });
    camera.take("reach");
    window.exports().map(folder.filePath("reach-map.png"));
    take_reach(window, camera);
    map.go_to({-9.4800, 46.2060});
    map.zoom_by(0.55, map.rect().center());
    camera.take("reach-near");
    map.change_reach([](ReachStyle& s) { s.lines = s.roads = true; });
    camera.take("reach-near-roads");
    map.change_reach([](ReachStyle& s) { s.lines = s.roads = false; });
    map.fit();
    map.set_look(uncovered_look());
    wait_for([&] { return window.study_page().reach().list().rowCount() > 0; });
    camera.take("uncovered");
    map.set_look(time_look());
    window.session().document.choose_plan(1);
    camera.settle();

    const auto& island = window.session().document.study().sites[0].set->sites[7];
    map.go_to(*island.position);
    map.zoom_by(0.5, map.rect().center());
    camera.settle();
    map.read_at(map.screen_of(*island.position) + QPointF(60, -40));
    camera.take("route");
    map.fit();

    window.session().document.choose_plan(0);
    camera.settle();
    // A street read out by keys alone, with the records of what is not served.
    auto& records = window.study_page().records();
    records.set_open(true);
    records.filter().setText("cut off");
    map.setFocus();
    map.go_to({-9.4700, 46.2080});
    map.zoom_by(1.6, map.rect().center());
    camera.settle();
    map.point_to({-9.4700, 46.2080});
    camera.take("records");
    map.let_go();
    records.filter().clear();
    records.set_open(false);
    map.fit();
    {
        otoro::roads::Closure here;
        here.vertices = {{-9.4860, 46.2085}};
        auto* editor = new ClosureEditor(here, ClosureEditor::For::new_slowing, &window);
        editor->adjustSize();
        editor->move(window.mapToGlobal(QPoint(470, 260)));
        editor->show();
        camera.take_with_popup("slowing");
        editor->close();
    }
    window.study_page().question().blank("travel")->click();
    camera.take_with_popup("question");
    if (auto* popup = QApplication::activePopupWidget()) popup->close();

    {
        const auto& quay = window.session().document.study().sites[0].set->sites[5];
        QContextMenuEvent press(QContextMenuEvent::Mouse, map.screen_of(*quay.position).toPoint(),
                                map.mapToGlobal(map.screen_of(*quay.position).toPoint()));
        QApplication::sendEvent(&map, &press);
        wait_for([] {
            return QApplication::activePopupWidget() && QApplication::activePopupWidget()->findChild<QLabel*>("gain") &&
                   QApplication::activePopupWidget()->findChild<QLabel*>("gain")->text().contains("within");
        });
        camera.take_with_popup("candidate");
        if (auto* popup = QApplication::activePopupWidget()) popup->close();
    }
    window.session().document.choose_plan(0);
    map.go_to({-9.4915, 46.2040});
    map.zoom_by(1.6, map.rect().center());
    otoro::roads::Closure area;
    area.shape = otoro::roads::ClosureShape::area;
    area.vertices = {{-9.4985, 46.2035}, {-9.4885, 46.2030}, {-9.4880, 46.2000}, {-9.4990, 46.2005}};
    window.study_page().take_closure(area);
    camera.take("closure");
    if (const auto& network = *window.session().document.study().roads->network;
        const auto road = otoro::service::road_at(network, {-9.4860, 46.2085}, otoro::Millimetres::metres(500))) {
        window.study_page().show_road(*road, {-9.4860, 46.2085}, window.mapToGlobal(QPoint(560, 300)));
        camera.take_with_popup("road");
        if (auto* popup = QApplication::activePopupWidget()) popup->close();
    }
    window.session().document.undo_stack().undo();
    window.session().document.choose_plan(0);
    map.go_to({-9.4840, 46.2110});
    map.zoom_by(0.7, map.rect().center());
    camera.settle();
    window.study_page().show_way({-9.4775, 46.2145}, window.mapToGlobal(QPoint(225, 395)));
    camera.take_with_popup("way");
    if (auto* popup = QApplication::activePopupWidget()) popup->close();
    map.fit();
    camera.settle();

    window.show_data();
    wait_for([&] { return window.data_page().fixer().up_to_date(); });
    window.data_page().fixer().compare_rules();
    wait_for([&] { return !window.data_page().fixer().join_evidence().empty(); });
    window.data_page().findings().pick(otoro::service::FindingKind::gaps, "roads");
    if (auto* row = window.data_page().findings().list().currentItem()) row->setExpanded(true);
    camera.take("data");
    const auto take_sheet = [&](const QString& name) {
        camera.settle();
        for (auto* sheet : window.findChildren<QDialog*>()) {
            if (!sheet->isVisible()) continue;
            sheet->grab().save(folder.filePath(name + ".png"));
            sheet->close();
        }
    };
    window.data_page().sources().attaching_wanted({otoro::service::SetKind::demand, "households"});
    take_sheet("attaching");
    window.show_profiles();
    take_sheet("profiles");
    window.data_page().show_summary();
    take_sheet("summary");
    window.show_pairs();
    if (auto* pairs = window.findChild<PairsSheet*>()) {
        pairs->from().setCurrentIndex(pairs->from().findText("sites: gritting depots"));
        pairs->to().setCurrentIndex(pairs->to().findText("sites: primary schools"));
        pairs->show_button().click();
        wait_for([&] { return pairs->work().found() != nullptr; });
    }
    take_sheet("pairs");
    if (argc > 3) {
        window.take_file(QString::fromLocal8Bit(argv[3]));
        wait_for([&] { return window.data_page().add_panel().open(); });
        camera.take("add");
    }
    std::printf("pictures in %s\n", qPrintable(folder.absolutePath()));
    return 0;
}
