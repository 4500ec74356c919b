/// What a planner feels of a county in the real window: how long it holds its breath, and how quickly a moved map is
/// painted.
#include <fmt/format.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPushButton>
#include <QTableView>
#include <QTemporaryDir>
#include <QTextBrowser>
#include <QTimer>
#include <QWheelEvent>

#include "desktop/main_window.h"
#include "desktop/map/map_view.h"
#include "desktop/pages/data_page.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/exports.h"
#include "desktop/parts/find_box.h"
#include "desktop/parts/records_panel.h"
#include "desktop/theme.h"
#include "files/add_data.h"
#include "files/atomic_file.h"
#include "waiting.h"

namespace {
using namespace otoro;
using namespace otoro::bench;
using namespace otoro::desktop;

service::Study county(const std::string& folder) {
    const auto layer = [&](const char* file) { return files::LayerChoice{folder + "/" + file, "", ""}; };
    service::Study s;
    s.name = "County";
    s = with_roads(std::move(s), files::add_roads({layer("roads.gpkg"), {}}, {}, Task()));
    s = with_demand(std::move(s), files::add_demand({layer("households.csv"), {}, {}}, "", Task()));
    const auto& net = *s.roads->network;
    auto sites = std::make_shared<places::SiteSet>();
    sites->name = "posts";
    constexpr std::uint32_t kSites = 60;
    for (std::uint32_t i = 0; i < kSites; ++i)
        sites->sites.push_back({fmt::format("P{}", i), "",
                                net.position(NodeId(static_cast<std::uint32_t>(std::uint64_t{net.node_count()} *
                                                                               (2 * i + 1) / (2 * kSites)))),
                                i % 6 == 5 ? places::SiteState::candidate : places::SiteState::open, std::nullopt});
    // A little more room than is asked for, and a record that is anything.
    auto demand = std::make_shared<places::DemandSet>(*s.demand.front().set);
    Weight all;
    demand->recorded = places::TextColumn("recorded");
    for (std::uint32_t i = 0; i < demand->count(); ++i) {
        all += demand->places[i].weight;
        demand->recorded.push_back(fmt::format("P{}", (i / 97) % kSites));
    }
    for (auto& site : sites->sites) site.capacity = Weight(all.count() * 21 / 20 / (kSites * 5 / 6));
    s = with_demand(std::move(s), {demand, s.demand.front().origin});
    return with_sites(std::move(s), {sites, {}});
}

void acts(MainWindow& window) {
    auto& session = window.session();
    auto& map = window.study_page().map();
    auto& records = window.study_page().records();
    const auto idle = [&] { return !window.jobs().busy(); };
    const auto arranged = [&] { return !records.demand().arranging(); };
    const QTemporaryDir folder;
    const auto file = [&](const char* name) { return folder.filePath(name); };
    window.activateWindow();
    window.find_box().setFocus();
    act(
        "finding while one types",
        [&] {
            window.find_box().setText("H5");
            emit window.find_box().textEdited("H5");
        },
        [&] { return !window.find_box().suggestions().empty(); });
    window.find_box().clear();
    act(
        "opening the records", [&] { QMetaObject::invokeMethod(&records.open_button(), "click"); },
        [&] { return arranged() && records.demand().rowCount() > 0; });
    act(
        "filtering the records", [&] { records.filter().setText("beyond"); },
        [&] { return records.demand().filtered() && arranged(); });
    act(
        "  and all of them again", [&] { records.filter().clear(); },
        [&] { return !records.demand().filtered() && arranged(); });
    act(
        "sorting the records",
        [&] { records.demand_table().sortByColumn(DemandSource::kMinutes, Qt::DescendingOrder); }, arranged);
    const auto middle = map.viewport().centre;
    const auto corner = [&](double by) { return map.place_of(map.viewport().to_screen(middle + QPointF(by, by))); };
    act(
        "picking ten thousand places in a box", [&] { map.pick_between(corner(-4'000), corner(4'000), false); },
        [] { return true; });
    session.selection.pick({});
    QMetaObject::invokeMethod(&records.open_button(), "click");
    act(
        "exporting the map", [&] { window.exports().map(file("map.png")); }, idle);
    act(
        "exporting the answer", [&] { window.exports().answer(file("answer.csv")); }, idle);
    act(
        "the network summary", [&] { window.data_page().show_summary(); },
        [&] { return window.findChild<QTextBrowser*>()->toPlainText().size() > 200; });
    std::string closures = R"({"type":"FeatureCollection","features":[)";
    const auto& net = *session.document.study().roads->network;
    for (std::uint32_t i = 0; i < 300; ++i) {
        const auto p = net.shape(LinkId(i * 1'000)).front();
        closures += fmt::format(R"({}{{"type":"Feature","properties":{{"name":"works"}},"geometry":)"
                                R"({{"type":"Point","coordinates":[{:.7f},{:.7f}]}}}})",
                                i > 0 ? "," : "", p.lon, p.lat);
    }
    files::write_text(file("works.geojson").toStdString(), closures + "]}");
    act(
        "300 closures from a file", [&] { window.study_page().add_closures_from(file("works.geojson")); },
        [&] { return idle() && session.answers.up_to_date(); });
    act(
        "undoing them", [&] { session.document.undo_stack().undo(); }, [&] { return session.answers.up_to_date(); });
    act(
        "saving the study", [&] { window.files().save(file("county.otoro.gpkg")); }, idle);
}

void run(const std::string& folder, const QString& pictures) {
    auto study = county(folder);
    const QTemporaryDir recovery;
    MainWindow window(recovery.path());
    window.resize(1280, 800);
    window.show();
    auto& session = window.session();
    auto& map = window.study_page().map();
    bool prepared = false;
    QString said;
    QObject::connect(&session.answers, &Answers::prepared, [&] { prepared = true; });
    fmt::print("{:<44} {:>12}   {:<40} {:>8}\n", "in the window, on the county", "figure", "against", "ratio");
    const auto picture = [&](const char* name) {
        if (!pictures.isEmpty()) window.grab().save(pictures + "/" + name + ".png");
    };
    double putting = seconds([&] {
        session.document.put(std::move(study), "");
        window.show_study();
    });
    row("putting the study on the desk", ms(putting), "", 0, 0);
    auto w = wait_for([&] { return map.settled() && map.tiles().drawn_count() > 0; });
    row("  until the map is drawn", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    picture("county-drawn");
    w = wait_for([&] { return session.answers.up_to_date(); });
    row("  until it is answered", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    w = wait_for([&] { return map.settled(); });
    row("  until the answer is drawn", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    picture("county-answered");

    const auto frame = [&](Frames& frames, const std::function<void()>& act) {
        frames.times.push_back(seconds([&] {
            act();
            QApplication::processEvents();
            map.repaint();
        }));
    };
    const auto pan = [&](const std::string& what) {
        Frames frames;
        const QPoint middle = map.rect().center();
        const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button) {
            QMouseEvent e(type, at, map.mapToGlobal(at), button,
                          type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, {});
            QApplication::sendEvent(&map, &e);
        };
        send(QEvent::MouseButtonPress, middle, Qt::LeftButton);
        for (int i = 1; i <= 200; ++i)
            frame(frames, [&] {
                send(QEvent::MouseMove, middle + QPointF(3.0 * (i <= 100 ? i : 200 - i), 1.5 * i), Qt::NoButton);
            });
        send(QEvent::MouseButtonRelease, middle, Qt::LeftButton);
        frames.say(what);
    };
    if (!prepared) pan("panning while searches are prepared");
    if (!prepared) {
        w = wait_for([&] { return prepared; });
        row("until searches are prepared", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    }
    map.fit();
    for (int i = 0; i < 5; ++i) map.zoom_by(1.6, QPointF(map.rect().center()));
    w = wait_for([&] { return map.settled(); });
    row("five steps nearer, until drawn", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    picture("county-near");
    pan("panning");
    Frames zooming;
    for (int i = 0; i < 60; ++i)
        frame(zooming, [&] { map.zoom_by(i < 30 ? 1 / 1.1 : 1.1, QPointF(map.rect().center())); });
    zooming.say("zooming");
    picture("county-zooming");
    w = wait_for([&] { return map.settled(); });
    session.document.new_plan("One more", {{service::Change::open, "P5", {}}});
    w = wait_for([&] { return session.answers.up_to_date(); });
    row("a plan, until it is answered", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    // A site under the mouse for some seconds, at the pace of a hand.
    map.fit();
    wait_for([&] { return map.settled(); });
    const auto at = map.screen_of(*session.answers.shown()->outcome.sites[12].planned.site.position);
    int answers = 0;
    quint64 drawn = map.tiles().drawn_count();
    const auto counting =
        QObject::connect(&session.answers, &Answers::changed, [&] { answers += session.answers.trying_out() ? 1 : 0; });
    const auto send_to_site = [&](QEvent::Type type, QPointF where, Qt::MouseButton button) {
        QMouseEvent e(type, where, map.mapToGlobal(where), button,
                      type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, {});
        QApplication::sendEvent(&map, &e);
    };
    Frames dragging;
    send_to_site(QEvent::MouseButtonPress, at, Qt::LeftButton);
    QElapsedTimer clock;
    clock.start();
    for (int i = 1; i <= 300; ++i) {
        const double angle = i * 0.05;
        frame(dragging, [&] {
            send_to_site(QEvent::MouseMove, at + QPointF(60 * std::sin(angle), 40 * (1 - std::cos(angle))),
                         Qt::NoButton);
        });
        const double left = 1.0 / 60 - dragging.times.back();
        if (left > 0)
            wait_for(
                [&, until = clock.elapsed() + static_cast<qint64>(left * 1000)] { return clock.elapsed() >= until; });
    }
    const double dragged = static_cast<double>(clock.elapsed()) / 1000;
    picture("county-dragging");
    dragging.say("dragging a site");
    row("  answers a second meanwhile", fmt::format("{:.1f}", answers / dragged),
        fmt::format("tiles drawn a second: {:.0f}", static_cast<double>(map.tiles().drawn_count() - drawn) / dragged),
        0, 0);
    w = wait_for([&] {
        return session.answers.shown()->outcome.plan.changes.back().position ==
               map.place_of(at + QPointF(60 * std::sin(15.0), 40 * (1 - std::cos(15.0))));
    });
    row("  the last answer after the last move", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0,
        0);
    w = wait_for([&] { return map.settled(); });
    row("  until it is drawn", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0, 0);
    QObject::disconnect(counting);
    send_to_site(QEvent::MouseButtonRelease, at, Qt::LeftButton);
    wait_for([&] { return session.answers.up_to_date() && map.settled(); });
    Frames hovering;
    for (int i = 0; i < 60; ++i) frame(hovering, [&] { map.read_at(QPointF(100 + 8 * i, 100 + 4 * i)); });
    hovering.say("reading out a spot with its route");
    // Reached ground: the look chosen, a limit pulled, a spot pulled about.
    for (int i = 0; i < 5; ++i) map.zoom_by(1.6, QPointF(map.rect().center()));
    wait_for([&] { return map.settled(); });
    act(
        "reached ground in sight", [&] { map.set_look(reach_look()); }, [&] { return map.settled(); });
    picture("county-reach");
    Frames pulling;
    ReachStyle style = map.style_now().reach;
    for (int i = 0; i < 120; ++i)
        frame(pulling, [&] {
            style.limits.front() = Millis(120'000 + 1'000 * i);
            map.set_reach(style);
        });
    pulling.say("pulling a limit");
    Frames spotting;
    for (int i = 0; i < 120; ++i)
        frame(spotting, [&] { map.set_reach_from(map.place_of(map.rect().center() + QPointF(i, 0.5 * i))); });
    spotting.say("pulling the spot that reach is from");
    w = wait_for([&] { return map.settled(); });
    row("  the last ground after the last move", ms(w.seconds), fmt::format("longest pause {}", ms(w.longest_pause)), 0,
        0);
    map.set_reach_from(std::nullopt);
    map.set_look(time_look());
    wait_for([&] { return map.settled(); });
    serving_acts(window);
    acts(window);
    picture("county-plan");
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print(stderr, "usage: otoro-bench-window FOLDER_OF_COUNTY [FOLDER_FOR_PICTURES]\n");
        return 2;
    }
    QApplication app(argc, argv);
    QApplication::setApplicationName("otoro-bench-window");
    theme::apply(app, 10);
    try {
        run(argv[1], argc > 2 ? QString::fromLocal8Bit(argv[2]) : QString());
    } catch (const std::exception& e) {
        fmt::print(stderr, "otoro-bench-window: {}\n", e.what());
        return 1;
    }
    return 0;
}
