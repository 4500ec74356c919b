#include "desktop/map/looks/map_look.h"

#include <algorithm>

#include "desktop/theme.h"

namespace otoro::desktop {

std::vector<QColor> OutcomeLook::site_colours(const std::vector<service::SiteOutcome>& sites) const {
    return std::vector<QColor>(sites.size(), theme::kInk);
}

void GroundLook::paint_legend(QPainter& p, const QRectF& where, const service::Outcome*, const Amount& limit) const {
    ReachStyle style;
    style.limits = {limit};
    paint_ground_legend(p, where, *ground(style, limit));
}

const std::vector<const MapLook*>& map_looks() {
    static const std::vector<const MapLook*> all{&time_look(),  &who_serves_look(), &load_look(),   &detour_look(),
                                                 &reach_look(), &uncovered_look(),  &change_look(), &access_look()};
    return all;
}

const MapLook& look_called(const QString& key) {
    const auto& all = map_looks();
    const auto at = std::find_if(all.begin(), all.end(), [&](const MapLook* look) { return look->key() == key; });
    return at == all.end() ? *all.front() : **at;
}

double share_of_limit(const service::PlaceOutcome& place, const Amount& limit) {
    const bool time = std::holds_alternative<Millis>(limit);
    const auto whole = time ? std::get<Millis>(limit).count() : std::get<Millimetres>(limit).count();
    const auto value = time ? place.time.count() : place.distance.count();
    if (whole <= 0) return value > 0 ? 10.0 : 0.0;
    return static_cast<double>(value) / static_cast<double>(whole);
}

}  // namespace otoro::desktop
