#include "files/ranking_file.h"

#include <fmt/format.h>

#include "files/shape_table.h"
#include "geo/amounts.h"

namespace otoro::files {
std::string ranking_csv(const service::Outcome& base, const std::vector<service::RankedCandidate>& ranked) {
    const bool by_time = base.question.measure() == routing::Measure::time;
    const double unit = by_time ? 60'000 : 1'000'000;
    std::string text = fmt::format(
        "rank,site_id,name,score,places_newly_within,weight_newly_within,mean,worst,unit,load,cost,"
        "share_within_percent,met,lon,lat{}",
        kCsvEnd);
    for (std::size_t k = 0; k < ranked.size(); ++k) {
        const auto& r = ranked[k];
        const auto& site = base.sites[r.site.value()].planned.site;
        text += fmt::format(
            "{},{},{},{:.6f},{},{},{},{},{},{},{},{},{},{},{}{}", k + 1, csv_cell(site.id),
            csv_cell(service::label(site)), r.score, r.newly_within.places, plain_number(r.newly_within.weight.value()),
            r.mean ? fmt::format("{:.5f}", *r.mean / unit) : "",
            r.worst ? fmt::format("{:.5f}", static_cast<double>(*r.worst) / unit) : "", by_time ? "min" : "km",
            plain_number(r.served.weight.value()), r.cost ? plain_number(r.cost->value()) : "",
            r.verdict ? fmt::format("{:.4f}", r.verdict->share.percent()) : "",
            r.verdict ? cell(r.verdict->judged()) : "", site.position ? plain_number(site.position->lon) : "",
            site.position ? plain_number(site.position->lat) : "", kCsvEnd);
    }
    return text;
}

}  // namespace otoro::files
