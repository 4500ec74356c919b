#pragma once
/// \file
/// Lines of a menu that are read, not pressed: its title, and what a further site would bring.
#include <QMenu>
#include <variant>

#include "desktop/models/session.h"

namespace otoro::desktop {

/// A site that is not in use, or a spot where there is none yet.
using Possible = std::variant<SiteIndex, geo::LonLat>;

/// Adds a title, which a menu's own sections do not show.
void add_title(QMenu& menu, const QString& text);

/// Adds a line that says what opening this would bring to the answer on the screen. It is worked out off the interface
/// thread and fills itself in; the menu can be closed before.
void add_gain_line(QMenu& menu, const Session& session, const Possible& what);

}  // namespace otoro::desktop
