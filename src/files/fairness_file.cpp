#include "files/fairness_file.h"

#include <fmt/format.h>

#include "files/measure_units.h"
#include "files/shape_table.h"
#include "geo/amounts.h"
#include "geo/wording.h"

namespace otoro::files {
namespace {

using service::Fairness;

std::string figures(const std::optional<Fairness>& f, double unit) {
    if (!f) return ",,,";
    return fmt::format("{:.5f},{:.5f},{:.5f},{:.6f}", f->mean / unit, f->best_tenth / unit, f->worst_tenth / unit,
                       f->gini);
}

}  // namespace

std::string fairness_csv(const service::Outcome& o, const std::optional<service::Standard>& standard,
                         const service::FairnessAnswer& fair) {
    const double unit = unit_of(fair.measure);
    std::string text = fmt::format(
        "by,name,places,weight,weight_within,share_within_percent,weight_missed,mean,best_tenth,worst_tenth,gini,"
        "weight_in_worst_tenth,unit{}",
        kCsvEnd);
    const auto inside = standard ? within(o, standard->limit) : o.tally(service::Status::served);
    Weight in_worst;
    for (const std::uint32_t i : fair.worst_places) in_worst += o.weights[i];
    const auto row = [&](const char* by, const std::string& name, const service::Tally& all, Weight in, Weight missed,
                         Weight worst, const std::optional<Fairness>& own) {
        text += fmt::format("{},{},{},{},{},{:.4f},{},{},{},{}{}", by, csv_cell(name), all.places,
                            plain_number(all.weight.value()), plain_number(in.value()),
                            share_of(in, all.weight).percent(), plain_number(missed.value()), figures(own, unit),
                            plain_number(worst.value()), unit_name(fair.measure), kCsvEnd);
    };
    row("all", "", o.all, inside.weight, o.all.weight - inside.weight, in_worst, fair.all);
    for (const auto* rows : {&fair.zones, &fair.groups})
        for (const auto& r : *rows)
            row(rows == &fair.zones ? "zone" : "group", r.row.none ? "" : r.row.name, r.row.all, r.row.inside.weight,
                r.not_inside, r.in_worst, r.own);
    return text;
}

std::string lorenz_csv(const Fairness& fair) {
    std::string text = fmt::format("weight_percent,travel_percent{}", kCsvEnd);
    for (const auto& p : fair.lorenz) text += fmt::format("{:.6f},{:.6f}{}", 100 * p.weight, 100 * p.travel, kCsvEnd);
    return text;
}

std::string fairness_words(const service::Outcome& o, const service::FairnessAnswer& fair, const std::string& counted) {
    if (!fair.all) return "Nobody is served.";
    const double unit = unit_of(fair.measure);
    const char* name = unit_name(fair.measure);
    std::string text =
        fmt::format("Mean {} {}; the worst-served tenth {} {} on average, the best-served {} {}; Gini {}.",
                    said(fair.all->mean / unit, 1), name, said(fair.all->worst_tenth / unit, 1), name,
                    said(fair.all->best_tenth / unit, 1), name, said(fair.all->gini, 2));
    for (const auto* rows : {&fair.zones, &fair.groups}) {
        if (rows->empty() || rows->front().not_inside.count() == 0) continue;
        const auto& worst = rows->front();
        text +=
            fmt::format(" Most are missed in {}: {} {}{}.",
                        worst.row.none ? (rows == &fair.zones ? "no zone" : "no group") : worst.row.name,
                        describe_lack(worst.not_inside), counted,
                        o.question.standard ? " not within " + describe(o.question.standard->limit) : " not served");
    }
    return text;
}

}  // namespace otoro::files
