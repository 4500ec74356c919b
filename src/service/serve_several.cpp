/// The few nearest sites of each place, or all.
#include <fmt/format.h>

#include "geo/error.h"
#include "service/access_legs.h"
#include "service/few_nearest.h"
#include "service/serve.h"
#include "service/travel_table.h"

namespace otoro::service {
namespace {

/// More would not fit into the memory of a desk's machine: 12 bytes each.
constexpr std::size_t kMostJourneys = 60'000'000;

[[noreturn]] void too_many(std::size_t places, std::size_t sites) {
    throw InputError({"", std::nullopt,
                      fmt::format("{} places with {} sites each are more than the {} million journeys that can be held",
                                  places, sites, kMostJourneys / 1'000'000),
                      "Ask for fewer nearest sites, or write a table of all pairs instead"});
}

/// All sites within the question's limit, from rows of single sites.
JourneyTable all_within(const Ready& ready, const Outcome& o, const Task& task) {
    std::vector<std::vector<ReachableSite>> of_place(o.places.size());
    const bool by_time = ready.question.measure() == routing::Measure::time;
    std::size_t count = 0;
    each_site_to_all(
        ready, o.plan,
        [&](SiteIndex site, std::span<const PlaceOutcome> row) {
            for (std::size_t i = 0; i < row.size(); ++i) {
                if (!row[i].served()) continue;
                if (++count > kMostJourneys) too_many(o.places.size(), o.sites.size());
                const auto ms = static_cast<std::uint32_t>(row[i].time.count()),
                           mm = static_cast<std::uint32_t>(row[i].distance.count());
                of_place[i].push_back({by_time ? ms : mm, static_cast<std::uint32_t>(site.value()), by_time ? mm : ms});
            }
        },
        task);
    JourneyTable out;
    out.reserve(of_place.size(), count);
    for (auto& row : of_place) {
        std::sort(row.begin(), row.end());
        out.add_row(row);
    }
    return out;
}

}  // namespace

void serve(const SeveralNearest& rule, const Ready& ready, Outcome& o, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    const std::size_t in_use = static_cast<std::size_t>(
        std::count_if(o.sites.begin(), o.sites.end(), [](const SiteOutcome& s) { return s.planned.in_use; }));
    const std::size_t wanted = std::min<std::size_t>(rule.count, in_use);
    if (wanted * o.places.size() > kMostJourneys) too_many(o.places.size(), wanted);
    o.journeys = std::make_shared<const JourneyTable>(
        rule.count == 0 ? all_within(ready, o, task)
                        : FewNearest(ready, o.traces->costed, o.sites).of_all(rule.count, task));
    const std::size_t needed = std::max(1U, rule.needed);
    if (needed == 1) return;  // by the nearest, as it is
    const bool by_time = ready.question.measure() == routing::Measure::time;
    for (std::size_t i = 0; i < o.places.size(); ++i) {
        PlaceOutcome& p = o.places[i];
        if (p.status == Status::no_road_near || p.status == Status::bad_location) continue;
        const auto row = o.journeys->of(i);
        const bool only_within =
            ((rule.count == 0 && ready.question.limit) || ready.question.own_limits) && p.status != Status::cut_off;
        p = {};
        if (row.size() < needed) {
            // Of all within the limit those beyond it are not known: there may be enough of them.
            p.status = only_within ? Status::beyond_limit : Status::cut_off;
            p.rank = static_cast<std::uint16_t>(row.size());
            continue;
        }
        const ReachableSite& r = row[needed - 1];
        p.site = SiteIndex(r.site);
        p.rank = static_cast<std::uint16_t>(needed);
        p.time = Millis(by_time ? r.cost : r.other);
        p.distance = Millimetres(by_time ? r.other : r.cost);
        p.status = is_beyond(p.time, p.distance, ready.question.limit) ? Status::beyond_limit : Status::served;
    }
}

}  // namespace otoro::service
