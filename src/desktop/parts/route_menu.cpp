#include "desktop/parts/route_menu.h"

#include <QCoreApplication>

#include "desktop/parts/elided.h"
#include "desktop/parts/gain_line.h"
#include "desktop/parts/shown_name.h"
#include "desktop/words.h"
#include "service/road_reading.h"

namespace otoro::desktop {
namespace {

struct RouteMenu {
    Q_DECLARE_TR_FUNCTIONS(RouteMenu)
};

constexpr std::size_t kMostPicked = 50;  // more are no round that anybody drives

/// A spot is called after its road.
service::Stop stop_at(const Session& session, geo::LonLat spot) {
    const auto& roads = session.document.study().roads;
    if (roads)
        if (const auto road = service::road_at(*roads->network, spot, Millimetres::metres(250)))
            return {roads->network->name(*road), spot};
    return {{}, spot};
}

/// Places that are picked, in the order of their numbers.
std::vector<service::Stop> picked_stops(const Session& session) {
    std::vector<service::Stop> out;
    const auto demand = session.document.study().demand_of(session.document.question());
    for (const std::uint32_t i : session.selection.picked().places)
        if (i < demand.count() && demand.at(i).position) out.push_back({demand.at(i).id, *demand.at(i).position});
    return out;
}

}  // namespace

void add_route_actions(QMenu& menu, Session& session, geo::LonLat spot, std::optional<std::size_t> stop,
                       std::optional<std::size_t> chosen) {
    if (!session.document.study().roads) return;
    add_title(menu, RouteMenu::tr("Route over stops"));
    auto& route = session.route;
    if (stop) {
        menu.addAction(RouteMenu::tr("Remove stop %1").arg(*stop + 1), &route,
                       [&route, stop] { route.take_out(*stop); });
    } else {
        menu.addAction(route.route().stops.empty() ? RouteMenu::tr("Start from here") : RouteMenu::tr("Stop here"),
                       &route, [&session, spot] { session.route.add({stop_at(session, spot)}); });
        if (chosen)
            menu.addAction(RouteMenu::tr("Move stop %1 here").arg(*chosen + 1), &route,
                           [&route, chosen, spot] { route.move_to(*chosen, spot); });
    }
    const auto picked = picked_stops(session);
    if (picked.empty()) return;
    auto* action = menu.addAction(RouteMenu::tr("Stop at the %1 picked")
                                      .arg(counted(picked.size(), RouteMenu::tr("place"), RouteMenu::tr("places"))),
                                  &route, [&route, picked] { route.add(picked); });
    action->setEnabled(picked.size() <= kMostPicked);
}

void add_stop_action(QMenu& menu, Session& session, const places::Site& site) {
    if (!site.position || !session.document.study().roads) return;
    const QString name = elided(QString::fromStdString(service::label(site)));
    const bool first = session.route.route().stops.empty();
    menu.addAction(first ? RouteMenu::tr("Start a route from %1").arg(on_button(name))
                         : RouteMenu::tr("Stop at %1").arg(on_button(name)),
                   &session.route, [&session, stop = service::Stop{service::label(site), *site.position}] {
                       session.route.add({stop});
                   });
}

}  // namespace otoro::desktop
