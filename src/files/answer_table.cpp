#include "files/answer_table.h"

#include "service/breakdown.h"

namespace otoro::files {

using service::SummedBy;

namespace {

/// Whether the site that serves need not be the nearest: then it is told which is, and what that would save.
bool names_nearest(const service::Serving& serving) {
    return !std::holds_alternative<service::Nearest>(serving) &&
           !std::holds_alternative<service::SeveralNearest>(serving);
}

}  // namespace

std::vector<AnswerColumn> answer_columns(const service::Ready& ready) {
    using Kind = AnswerColumn::Kind;
    std::vector<AnswerColumn> out{{"demand_id"},
                                  {"rank", Kind::whole},
                                  {"site_id"},
                                  {"status"},
                                  {"minutes", Kind::number, 5},
                                  {"metres", Kind::number, 3},
                                  {"off_road_m", Kind::number, 3},
                                  {"straight_m", Kind::number, 3},
                                  {"weight", Kind::number},
                                  {"within_standard"},
                                  {"note"}};
    if (names_nearest(ready.question.serving)) {
        out.push_back({"nearest_site_id"});
        out.push_back({"extra_minutes", Kind::number, 5});
        out.push_back({"extra_metres", Kind::number, 3});
    }
    if (can_sum_up(ready, SummedBy::zone)) out.push_back({"zone"});
    if (can_sum_up(ready, SummedBy::group)) out.push_back({"group"});
    out.push_back({"site_name"});
    return out;
}

namespace {

Cell text_or_empty(std::string text) { return text.empty() ? Cell() : Cell(std::move(text)); }

AnswerRow row_of(const service::Ready& ready, const service::Outcome& o, DemandIndex place,
                 const service::PlaceRow& said) {
    const auto i = place.value();
    const auto& journey = said.journey;
    AnswerRow row{{}, place, journey};
    auto& c = row.cells;
    const auto number = [&](bool there, double v) { c.push_back(there ? Cell(v) : Cell()); };
    c.emplace_back(ready.inputs.demand.at(i).id);
    c.push_back(journey ? Cell(std::int64_t{journey->rank}) : Cell());
    c.push_back(journey ? Cell(o.sites[journey->site.value()].planned.site.id) : Cell());
    c.emplace_back(std::string(name(said.status)));
    number(journey.has_value(), journey ? journey->time.minutes() : 0);
    number(journey.has_value(), journey ? journey->distance.metres() : 0);
    const auto& attached = (*ready.attached)[i];
    number(attached.has_value(), attached ? attached->off_road.metres() : 0);
    number(journey.has_value(),
           journey ? straight_line(o, ready.inputs.demand.at(i).position, journey->site).metres() : 0);
    c.emplace_back(said.weight.value());
    if (const auto& standard = o.question.standard)
        c.emplace_back(std::string(
            journey && !service::is_beyond(journey->time, journey->distance, standard->limit) ? "yes" : "no"));
    else
        c.emplace_back();
    c.push_back(journey ? Cell() : Cell(reason(o, place, said.status)));
    if (names_nearest(o.question.serving)) {
        const auto& nearest = (*o.by_nearest)[i];
        c.push_back(nearest.site ? Cell(o.sites[nearest.site->value()].planned.site.id) : Cell());
        const bool both = journey && nearest.site;
        number(both, both ? (journey->time - nearest.time).minutes() : 0);
        number(both, both ? (journey->distance - nearest.distance).metres() : 0);
    }
    for (const auto by : {SummedBy::zone, SummedBy::group})
        if (can_sum_up(ready, by)) c.push_back(text_or_empty(name_of(ready, place, by)));
    c.push_back(journey ? text_or_empty(o.sites[journey->site.value()].planned.site.name) : Cell());
    return row;
}

}  // namespace

void each_row(const service::Ready& ready, const service::Outcome& o, const WhichPlaces& which, const Task& task,
              const std::function<void(const AnswerRow&)>& use) {
    const std::size_t n = which ? which->size() : o.places.size();
    for (std::size_t i = 0; i < n; ++i) {
        if (i % 8192 == 0) task.at("writing the answer", static_cast<double>(i) / static_cast<double>(n));
        const DemandIndex place = which ? (*which)[i] : DemandIndex(static_cast<std::uint32_t>(i));
        for (const auto& said : rows_of(o, place)) use(row_of(ready, o, place, said));
    }
}

}  // namespace otoro::files
