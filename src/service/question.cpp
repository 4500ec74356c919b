#include "service/question.h"

#include <fmt/format.h>

#include <array>

namespace otoro::service {

std::string travel_clause(const Question& q) {
    constexpr std::array<std::string_view, 4> kDoing{"driving", "responding with priority", "walking", "cycling"};
    std::string s = fmt::format("{} {}", kDoing[static_cast<std::size_t>(q.profile.mode)],
                                q.towards == Towards::demand ? "to the place" : "to the site");
    if (!q.profile.name.empty()) s += fmt::format(" as {}", q.profile.name);
    if (q.profile.one_speed) s += fmt::format(" at {} on all roads", describe(*q.profile.one_speed));
    return s;
}

std::string sentence(const Question& q, const places::DemandSet& demand) {
    std::string s = fmt::format("The {}, ", q.demand);
    s += q.by_weight && !demand.weight_name.empty() ? fmt::format("counted by {}, ", demand.weight_name)
                                                    : "each counted once, ";
    s += fmt::format("are each served by the nearest of the {} ", q.sites);
    s += q.use == SiteUse::open ? "(open, by " : "(open and candidate, by ";
    s += q.measure == routing::Measure::time ? "time), " : "distance), ";
    s += travel_clause(q);
    if (q.off_road_speed) s += fmt::format(", off-road legs counted at {}", describe(*q.off_road_speed));
    if (q.limit) s += fmt::format(", at most {}", describe(*q.limit));
    s += q.standard ? fmt::format("; {} must be within {}.", describe(q.standard->share), describe(q.standard->limit))
                    : ".";
    return s;
}

}  // namespace otoro::service
