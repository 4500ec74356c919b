/// Who serves whom on a county, in the real window.
#include <QMouseEvent>
#include <QPushButton>

#include "desktop/main_window.h"
#include "desktop/map/map_view.h"
#include "desktop/pages/study_page.h"
#include "desktop/parts/detour_panel.h"
#include "desktop/parts/reassign_panel.h"
#include "service/pair_matrix.h"
#include "waiting.h"

namespace otoro::bench {
namespace {
using namespace otoro::desktop;

void ask(MainWindow& window, const service::Serving& serving) {
    window.session().document.edit("serving", [&](service::Study& s) { s.question().serving = serving; });
}

/// How long until the next thing is answered once long work is left: no longer than without it.
void stopping(MainWindow& window, const std::string& what, const service::Serving& serving) {
    const auto answered = [&] { return window.session().answers.up_to_date(); };
    ask(window, service::Nearest{});
    wait_for(answered);
    window.session().document.edit("limit", [](service::Study& s) { s.question().limit = Millis::minutes(45); });
    const double usual = wait_for(answered).seconds;
    ask(window, serving);
    QElapsedTimer timer;
    timer.start();
    constexpr qint64 kAWhileMs = 400;
    wait_for([&] { return timer.elapsed() > kAWhileMs; });
    ask(window, service::Nearest{});
    const double left = std::max(0.0, wait_for(answered).seconds - usual);
    window.session().document.edit("limit", [](service::Study& s) { s.question().limit.reset(); });
    wait_for(answered);
    row("  left half way: later than usual" + what, ms(left), "0.2 s", left / 0.2, 1.0);
}

}  // namespace

void serving_acts(MainWindow& window) {
    auto& session = window.session();
    auto& map = window.study_page().map();
    const auto answered = [&] { return session.answers.up_to_date(); };
    map.fit();
    wait_for([&] { return map.settled(); });
    act(
        "five nearest of fifty sites, until answered",
        [&] {
            ask(window, service::SeveralNearest{routing::Measure::time, 5, 2});
        },
        answered);
    act(
        "as capacity allows, least travel", [&] { ask(window, service::AsCapacityAllows{}); }, answered);
    act(
        "as capacity allows, nearest first",
        [&] {
            ask(window,
                service::AsCapacityAllows{routing::Measure::time, service::AsCapacityAllows::Fill::nearest_first});
        },
        answered);
    act(
        "as recorded, and who should move", [&] { ask(window, service::AsRecorded{}); },
        [&] { return answered() && window.study_page().reassign().reassigner().up_to_date(); });
    act(
        "  picking all who should move", [&] { window.study_page().reassign().pick_all(); }, [] { return true; });
    session.selection.pick({});
    act(
        "lines to sites", [&] { map.set_layer_shown(Layer::lines, true); },
        [&] { return map.settled() && !map.desire().lines().empty(); });
    map.set_layer_shown(Layer::lines, false);
    stopping(window, ": least travel", service::AsCapacityAllows{});
    stopping(window, ": recorded", service::AsRecorded{});
    act(
        "the nearest again", [&] { ask(window, service::Nearest{}); }, answered);
    act(
        "detours, and the ways of the worst", [&] { map.set_look(detour_look()); },
        [&] { return map.settled() && window.study_page().detours().up_to_date(); });
    map.set_look(time_look());

    std::vector<service::Stop> stops;
    const auto demand = session.document.study().demand_of(session.document.question());
    for (std::uint32_t i = 0; i < 8; ++i) {
        const auto& place = demand.at(demand.count() / 9 * (i + 1));
        stops.push_back({place.id, *place.position});
    }
    act(
        "a route over eight stops", [&] { session.route.add(stops); },
        [&] { return session.route.up_to_date() && session.route.found(); });
    act(
        "  in the best order", [&] { session.route.put_in_best_order(); },
        [&] { return session.route.up_to_date() && session.route.found(); });
    Frames pulling;
    int ways = 0;
    auto last = session.route.found();
    const auto counting = QObject::connect(&session.route, &RoutePlanner::changed, [&] {
        if (session.route.found() == last) return;
        last = session.route.found();
        ++ways;
    });
    QElapsedTimer clock;
    clock.start();
    const QPointF at = map.screen_of(session.document.study().route.stops[3].at);
    for (int i = 0; i < 120; ++i) {
        pulling.times.push_back(seconds([&] {
            session.route.try_out(3, map.place_of(at + QPointF(i, 0.5 * i)));
            QApplication::processEvents();
            map.repaint();
        }));
        const qint64 until = clock.elapsed() + 12;
        wait_for([&] { return clock.elapsed() >= until; });
    }
    pulling.say("pulling a stop");
    row("  ways a second meanwhile", fmt::format("{:.1f}", ways / (static_cast<double>(clock.elapsed()) / 1000)), "", 0,
        0);
    QObject::disconnect(counting);
    session.route.give_up_trial();
    wait_for([&] { return session.route.up_to_date(); });
    session.route.clear();
}

}  // namespace otoro::bench
