#include "desktop/models/ground_finder.h"

#include <algorithm>
#include <cmath>

namespace otoro::desktop {
bool names_zones(const service::Outcome& outcome) {
    return std::any_of(outcome.sites.begin(), outcome.sites.end(),
                       [](const auto& s) { return s.planned.in_use && !s.planned.site.zone.empty(); });
}
bool has_own_limits(const service::Outcome& outcome) {
    return std::any_of(outcome.sites.begin(), outcome.sites.end(),
                       [](const auto& s) { return s.planned.site.limit.has_value(); });
}

std::vector<Amount> line_steps(const Amount& farthest) {
    constexpr double kAbout = 8;
    const auto measure = service::measure_of(farthest);
    const double unit = measure == service::ValueOf::time ? 60'000 : 1'000, end = service::count_of(farthest) / unit;
    if (end <= 0) return {};
    const double power = std::pow(10.0, std::floor(std::log10(end / kAbout)));
    double step = power;
    for (const double factor : {2.0, 5.0, 10.0})
        if (end / step > kAbout) step = power * factor;
    std::vector<Amount> out;
    for (double at = step; at < end * (1 + 1e-9); at += step) out.push_back(service::amount_of(at * unit, measure));
    return out;
}

service::ReachRequest GroundAsked::request(const Task& task) const {
    service::ReachRequest out;
    out.overlap = view.overlap;
    out.full = view.full;
    out.limits = view.limits;
    if (!from) out.sites = sites;
    // How many sites there are is told for one limit; areas of several would lie over one another.
    if (view.overlap == service::Overlap::count && out.limits.size() > 1) out.limits = {out.limits.back()};
    const auto& ready = *answer->ready;
    if (view.own_limits && !from && has_own_limits(answer->outcome)) {
        for (const auto& s : answer->outcome.sites) out.own_limits.push_back(s.planned.site.limit);
        out.limits.clear();
    }
    if (view.in_zones && zones) {
        task.at("laying zones together", 0);
        std::vector<geo::Area> areas;
        for (const auto& z : zones->zones) areas.push_back(z.area);
        out.within =
            std::make_shared<const reach::Polygons>(service::ground_in(std::move(areas), *ready.inputs.network));
    }
    if (view.off_water && water) {
        task.at("laying water together", 0);
        out.off = std::make_shared<const reach::Polygons>(service::ground_in(*water, *ready.inputs.network));
    }
    return out;
}

GroundFoundPtr find_ground(GroundAsked asked, double least_patch, const Task& task) {
    auto out = std::make_shared<GroundFound>();
    const PlanAnswer& answer = *asked.answer;
    const auto& plan = answer.outcome.plan;
    out->ready = asked.from && !asked.uncovered ? ready_from(answer.ready, {*asked.from}, task) : answer.ready;
    if (asked.uncovered) {
        if (asked.view.cover == service::CoverList::patches || !asked.zones)
            out->uncovered = service::uncovered(answer.ready, plan, asked.standard, least_patch, task);
        else
            out->zones = zones_covered(answer.ready, plan, *asked.zones, asked.standard,
                                       asked.view.cover == service::CoverList::own_zones && names_zones(answer.outcome)
                                           ? service::AnswersFor::own
                                           : service::AnswersFor::any,
                                       task);
    } else if (asked.against) {
        const auto& other = *asked.against;
        const auto ready = other.inputs == answer.ready->inputs && same_answer(other.question, answer.ready->question)
                               ? answer.ready
                               : prepare(other.inputs, other.question, answer.ready.get(), task);
        out->change = reach_change(ready, other.plan, other.limit, out->ready, plan, asked.view.limits.back(), task);
    } else {
        const auto request = asked.request(task);
        out->areas = reach_areas(out->ready, plan, request, task);
        if (asked.view.roads) out->roads = reached_roads(out->ready, plan, request, task);
        if (asked.view.lines) {
            auto lines = request;
            if (!lines.limits.empty()) lines.limits = line_steps(lines.limits.back());
            if (!lines.limits.empty() || !lines.own_limits.empty())
                out->lines = equal_lines(out->ready, plan, lines, task);
        }
        if (asked.view.circles) {
            const bool time = service::measure_of(request.limits.empty() ? Amount(Millis(0)) : request.limits.back()) ==
                              service::ValueOf::time;
            out->circles = reach_circles(out->ready, plan, request, std::nullopt,
                                         time ? std::optional(asked.view.circle_speed) : std::nullopt, task);
        }
    }
    out->asked = std::move(asked);
    return out;
}

}  // namespace otoro::desktop
