#pragma once
/// \file
/// A colour for every site, so that those near one another are never alike.
#include <QColor>
#include <vector>

#include "service/outcome.h"

namespace otoro::desktop {

/// One colour a site, in the order of the sites; ink for those not in use.
///
/// Sites choose one after another, in order, from a palette of twelve: the colour that differs most from those of the
/// nearest sites that have chosen already, open or not, as people with full colour vision see it and as those without
/// red or green receptors do (Brettel, Vienot and Mollon 1997, in the linear form of Vienot, Brettel and Mollon 1999).
/// They choose by where they stand today; those that a plan moves or adds then choose again. So no plan changes the
/// colour of a site that it leaves where it is, nor does dragging another.
///
/// Quadratic in the sites; worked out anew only when one of them has moved. Safe from many threads.
std::vector<QColor> site_colours(const std::vector<service::SiteOutcome>& sites);

/// How different two colours are to the eye that tells them apart worst: the least CIE76 distance in L*a*b* over full
/// colour vision, protanopia and deuteranopia.
double difference(const QColor& a, const QColor& b);

}  // namespace otoro::desktop
