#include "files/compare_file.h"

#include <fmt/format.h>

#include "files/measure_units.h"
#include "files/shape_table.h"
#include "geo/amounts.h"

namespace otoro::files {
namespace {

using service::Difference;
using service::DifferenceSums;

double limit_of(const Amount& limit) {
    const auto* time = std::get_if<Millis>(&limit);
    return time != nullptr ? static_cast<double>(time->count()) / 60'000 : std::get<Millimetres>(limit).metres();
}

std::string sums_row(const std::string& by, const std::string& name, const DifferenceSums& sums, double unit) {
    std::string text =
        fmt::format("{},{},{},{}", by, csv_cell(name), sums.all.places, plain_number(sums.all.weight.value()));
    for (const auto d : {Difference::newly_within, Difference::newly_beyond, Difference::nearer, Difference::farther,
                         Difference::newly_reached, Difference::cut_off, Difference::same})
        text += fmt::format(",{},{}", sums.of(d).places, plain_number(sums.of(d).weight.value()));
    text += fmt::format(",{},{},{:.4f},{:.4f}{}", sums.changes_site.places,
                        plain_number(sums.changes_site.weight.value()), static_cast<double>(sums.saved) / 1e6 / unit,
                        static_cast<double>(sums.added) / 1e6 / unit, kCsvEnd);
    return text;
}

}  // namespace

std::string figures_csv(const std::vector<service::PlanFigures>& all) {
    std::string text = fmt::format(
        "question,plan,share_percent,share_wanted_percent,limit,met,change_percent_points,mean,median,p90,worst,unit,"
        "sites_open,cost,served_weight,whole_weight{}",
        kCsvEnd);
    const service::PlanFigures* first = nullptr;
    for (const auto& f : all) {
        if (!first || first->question != f.question) first = &f;
        text += fmt::format("{},{},", csv_cell(f.question), csv_cell(f.plan));
        if (f.verdict)
            text += fmt::format("{:.4f},{},{},{},{:.4f},", f.verdict->share.percent(),
                                plain_number(f.verdict->standard.share.percent()),
                                plain_number(limit_of(f.verdict->standard.limit)), cell(f.verdict->judged()),
                                f.verdict->share.percent() - first->verdict->share.percent());
        else
            text += ",,,,,";
        const double unit = unit_of(f.measure);
        if (f.figures)
            text += fmt::format(
                "{:.5f},{:.5f},{:.5f},{:.5f},", f.figures->mean / unit, static_cast<double>(f.figures->median) / unit,
                static_cast<double>(f.figures->p90) / unit, static_cast<double>(f.figures->worst) / unit);
        else
            text += ",,,,";
        text += fmt::format("{},{},{},{},{}{}", unit_name(f.measure), f.sites_open,
                            f.cost ? plain_number(f.cost->value()) : "", plain_number(f.served.weight.value()),
                            plain_number(f.all.weight.value()), kCsvEnd);
    }
    return text;
}

std::string differences_csv(const service::Ready& ready, const service::Outcome& before, const service::Outcome& after,
                            const std::vector<service::PlaceDifference>& all) {
    const routing::Measure measure = after.question.measure();
    const double unit = unit_of(measure);
    const auto amount = [&](const std::optional<std::int64_t>& v) {
        return v ? fmt::format("{:.5f}", static_cast<double>(*v) / unit) : std::string();
    };
    const auto site = [](const service::Outcome& o, const service::PlaceOutcome& p) {
        return p.site ? csv_cell(o.sites[p.site->value()].planned.site.id) : std::string();
    };
    std::string text = fmt::format(
        "demand_id,weight,change,changes_site,site_before,site_after,before,after,farther_by,unit,zone,group{}",
        kCsvEnd);
    for (std::uint32_t i = 0; i < all.size(); ++i) {
        const auto& d = all[i];
        if (d.kind == Difference::same && !d.changes_site) continue;
        text += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{}{}", csv_cell(ready.inputs.demand.at(i).id),
                            plain_number(after.weights[i].value()), name(d.kind), d.changes_site ? "yes" : "no",
                            site(before, before.places[i]), site(after, after.places[i]), amount(d.before),
                            amount(d.after), amount(d.farther_by()), unit_name(measure),
                            csv_cell(name_of(ready, DemandIndex(i), service::SummedBy::zone)),
                            csv_cell(name_of(ready, DemandIndex(i), service::SummedBy::group)), kCsvEnd);
    }
    return text;
}

std::string difference_sums_csv(const service::Ready& ready, const service::Outcome& outcome,
                                const std::vector<service::PlaceDifference>& all) {
    const double unit = unit_of(outcome.question.measure());
    const char* const travel = outcome.question.measure() == routing::Measure::time ? "minutes" : "km";
    std::string text = "by,name,places,weight";
    for (const char* kind :
         {"newly_within", "newly_beyond", "nearer", "farther", "newly_reached", "cut_off", "same", "changes_site"})
        text += fmt::format(",{}_places,{}_weight", kind, kind);
    text += fmt::format(",saved_{},added_{}{}", travel, travel, kCsvEnd);
    text += sums_row("all", "", sum_up(outcome, all), unit);
    for (const auto by : {service::SummedBy::zone, service::SummedBy::group})
        for (const auto& row : sum_up(ready, outcome, all, by))
            text += sums_row(by == service::SummedBy::zone ? "zone" : "group", row.row.none ? "" : row.row.name,
                             row.sums, unit);
    return text;
}

std::string differences_words(const service::Outcome& before, const service::Outcome& after, const DifferenceSums& sums,
                              const std::string& counted) {
    if (sums.of(Difference::same).places == sums.all.places && sums.changes_site.places == 0)
        return fmt::format("{} against {}: nothing changes.", after.plan.name, before.plan.name);
    const auto of = [&](Difference d) { return describe(sums.of(d).weight); };
    std::string reached;
    for (const auto& [kind, words] :
         {std::pair{Difference::newly_reached, "newly reached"}, std::pair{Difference::cut_off, "cut off"}})
        if (sums.of(kind).places > 0) reached += fmt::format(", {} {}", of(kind), words);
    return fmt::format(
        "{} against {}: {} {} newly within, {} newly beyond; {} nearer, {} farther{}; {} change their site.",
        after.plan.name, before.plan.name, of(Difference::newly_within), counted, of(Difference::newly_beyond),
        of(Difference::nearer), of(Difference::farther), reached, describe(sums.changes_site.weight));
}

}  // namespace otoro::files
