/// Each zone as one.
#include <tuple>

#include "service/serve.h"
#include "service/travel_table.h"

namespace otoro::service {
namespace {

/// What one site means to one zone: the weight that it reaches, and what that costs.
struct ZoneSite {
    Weight reached;
    std::uint32_t places = 0;
    Wide travel = 0;
    std::optional<SiteIndex> site;
    /// More weight, or more places, or less travel for the same.
    [[nodiscard]] bool better_than(const ZoneSite& o) const {
        if (reached != o.reached) return reached > o.reached;
        if (reached.count() == 0 && places != o.places) return places > o.places;
        return o.site ? travel < o.travel : site.has_value();
    }
};

}  // namespace

void serve(const WholeZones&, const Ready& ready, Outcome& o, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    if (!ready.zone_of) return;
    const auto& zone_of = *ready.zone_of;
    const bool by_time = ready.question.measure() == routing::Measure::time;
    std::vector<ZoneSite> best(ready.inputs.zones->zones.size());
    // Twice from every site: which it is that a zone goes to is known only at the end.
    each_site_to_all(
        ready, o.plan,
        [&](SiteIndex site, std::span<const PlaceOutcome> row) {
            std::vector<ZoneSite> now(best.size());
            for (std::size_t i = 0; i < row.size(); ++i) {
                if (zone_of[i] == places::kNoZone || !row[i].served()) continue;
                ZoneSite& z = now[zone_of[i]];
                z.reached += o.weights[i];
                ++z.places;
                z.travel += Wide{by_time ? row[i].time.count() : row[i].distance.count()} * o.weights[i].count();
            }
            for (std::size_t z = 0; z < now.size(); ++z) {
                if (now[z].places == 0) continue;
                now[z].site = site;
                if (now[z].better_than(best[z])) best[z] = now[z];
            }
        },
        task);
    each_site_to_all(
        ready, o.plan,
        [&](SiteIndex site, std::span<const PlaceOutcome> row) {
            for (std::size_t i = 0; i < row.size(); ++i)
                if (zone_of[i] != places::kNoZone && best[zone_of[i]].site == site) o.places[i] = row[i];
        },
        task);
}

}  // namespace otoro::service
