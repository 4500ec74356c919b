#pragma once
/// \file
/// Cards over the map that are read: the way to a spot, turn by turn, and what is known of a road.
#include <QFrame>
#include <functional>

#include "desktop/models/session.h"
#include "service/assign.h"

namespace otoro::desktop {

/// The turns between a spot and its nearest site, with a button that copies them. Closes by itself.
/// \param answer the one that the spot was read from
QFrame* way_card(const PlanAnswer& answer, const service::SpotReading& reading, service::Towards towards,
                 QWidget* parent);

/// Name, class, length, speed and piece of a road. \param close called when it is to be closed; the card is gone then
QFrame* road_card(const PlanAnswer& answer, LinkId link, const std::function<void()>& close, QWidget* parent);

}  // namespace otoro::desktop
