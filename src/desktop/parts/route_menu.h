#pragma once
/// \file
/// What can be done with the route from the map's menus.
#include <QMenu>
#include <optional>

#include "desktop/models/session.h"

namespace otoro::desktop {

/// At a spot of the map. \param stop the stop that is drawn there \param chosen the one chosen in the list
void add_route_actions(QMenu& menu, Session& session, geo::LonLat spot, std::optional<std::size_t> stop,
                       std::optional<std::size_t> chosen);
/// At a site.
void add_stop_action(QMenu& menu, Session& session, const places::Site& site);

}  // namespace otoro::desktop
