#include "batch/reach_options.h"

#include <fmt/format.h>

#include <cmath>
#include <locale>
#include <sstream>

namespace otoro::batch {

geo::LonLat parse_position(const std::string& text) {
    double lon = 0, lat = 0;
    char comma = 0, more = 0;
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    if (!(in >> lon >> comma >> lat) || comma != ',' || (in >> more) || std::abs(lon) > 180 || std::abs(lat) > 90)
        throw InputError({"", std::nullopt, fmt::format("'{}' is not a position such as -9.51,46.2", text), ""});
    return {lon, lat};
}

void ReachAsking::add_to(Options& app, unsigned uses) {
    roads.add_to(app);
    places.add_to(app, QuestionOptions::kWeight, false);
    app.add_option("--from", spots, "a spot instead of sites, longitude,latitude; named again for a further one")
        .reads_as("LON,LAT", parse_position)
        .one_each_time();
    asked.add_to(app, uses, true);
    changes.add_to(app);
    app.add_flag("--quiet", quiet, "no progress, and no remarks but on how numbers were read");
}

Asking::Ready ReachAsking::ready_to_ask(Console& console, const Task& task) const {
    if (!places.sites.given() && spots.empty()) throw Misuse("--sites", "sites, or a spot with --from, are needed");
    if (places.sites.given() && !spots.empty()) throw Misuse("--from", "either sites or spots, not both");
    auto question = asked.question();
    question.profile = roads.heeding_heights(std::move(question.profile), console);
    auto from = std::make_shared<places::SiteSet>();
    from->name = "spots";
    from->attaching.rule = places.attaching.rule();
    for (const auto& text : spots) {
        const geo::LonLat at = parsed("--from", text, parse_position);
        from->sites.push_back({fmt::format("spot {}", from->sites.size() + 1), text, at, places::SiteState::open, {}});
    }
    service::Study study;
    study = with_roads(std::move(study), read_roads(roads, question.profile, task));
    tell_reading(console, study.roads->origin);
    study = places.read_into(std::move(study), question, asked.serving, console, task);
    if (!spots.empty()) {
        question.sites = {from->name};
        study = with_sites(std::move(study), {from, {}});
    }
    if (!places.demand.given()) {
        auto nobody = std::make_shared<places::DemandSet>();
        nobody->name = "places";
        nobody->attaching.rule = places.attaching.rule();
        question.demand = {nobody->name};
        study = with_demand(std::move(study), {nobody, {}});
    }
    question.name = "Reach";
    study.question() = std::move(question);
    service::Plan plan;
    changes.add_changes(plan, *study.roads->network, study.sites_of(study.question()), console, task);
    if (changes.given()) plan.name += ", changed";
    return {prepare(*study.inputs(), study.question(), nullptr, task), plan};
}

void LimitOptions::add_to(Options& app) {
    auto const list = app.add_option("--limits", limits, "how far: 5min,8min or 400m,800m")
                          .parted_by(',')
                          .reads_as("AMOUNT,...", parse_amount);
    auto const step = app.add_option("--every", every, "limits in steps of this, such as 2min, up to --up-to")
                          .reads_as("AMOUNT", parse_amount);
    auto const last = app.add_option("--up-to", up_to, "the last of the steps").reads_as("AMOUNT", parse_amount);
    auto const own = app.add_option("--limit-field", field,
                                    "field of the sites with a limit of their own: minutes, or "
                                    "an amount such as 8min or 800m")
                         .type_name("FIELD");
    step.needs(last);
    last.needs(step);
    for (const auto& other : {step, own}) list.excludes(other);
    step.excludes(own);
}

void LimitOptions::fill(service::ReachRequest& request, const service::Ready& ready, const service::Plan& plan) const {
    if (!field.empty()) {
        for (const auto& site : sites_under(ready.inputs.sites, plan, ready.question.use))
            request.own_limits.push_back(site.site.limit);
        return;
    }
    for (const auto& text : limits) request.limits.push_back(parsed("--limits", text, parse_amount));
    if (every.empty()) {
        if (limits.empty()) throw Misuse("--limits", "a limit is needed, such as 8min");
        return;
    }
    const Amount step = parsed("--every", every, parse_amount), last = parsed("--up-to", up_to, parse_amount);
    request.limits = steps("--every", step, last);
}

std::vector<Amount> steps(const std::string& option, const Amount& by, const Amount& last) {
    if (by.index() != last.index())
        throw Misuse(option, "steps and the last limit must both be times or both be lengths");
    const double step = service::count_of(by), end = service::count_of(last);
    if (step <= 0) throw Misuse(option, "a step of nothing never comes to an end");
    if (end / step > static_cast<double>(service::kMostLimits))
        throw Misuse(option, fmt::format("that makes {:.0f} limits; at most {} can be told apart",
                                         std::ceil(end / step), service::kMostLimits));
    std::vector<Amount> out;
    for (double at = step; at < end + step * 0.999; at += step)
        out.push_back(service::amount_of(std::min(at, end), service::measure_of(by)));
    return out;
}

}  // namespace otoro::batch
