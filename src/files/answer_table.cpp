#include "files/answer_table.h"

#include "service/breakdown.h"

namespace otoro::files {

using service::SummedBy;

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
    if (can_sum_up(ready, SummedBy::zone)) out.push_back({"zone"});
    if (can_sum_up(ready, SummedBy::group)) out.push_back({"group"});
    return out;
}

namespace {

Cell text_or_empty(std::string text) { return text.empty() ? Cell() : Cell(std::move(text)); }

/// The row of a place, of one of its journeys if it is served.
AnswerRow row_of(const service::Ready& ready, const service::Outcome& o, DemandIndex place,
                 const service::Journey* journey) {
    const auto i = place.value();
    const auto& p = o.places[i];
    AnswerRow row{{}, place, journey ? std::optional(journey->site) : std::nullopt};
    auto& c = row.cells;
    const auto number = [&](bool there, double v) { c.push_back(there ? Cell(v) : Cell()); };
    c.emplace_back(ready.inputs.demand.at(i).id);
    c.push_back(journey ? Cell(std::int64_t{journey->rank}) : Cell());
    c.push_back(journey ? Cell(o.sites[journey->site.value()].planned.site.id) : Cell());
    c.emplace_back(std::string(name(p.status)));
    number(journey != nullptr, journey ? journey->time.minutes() : 0);
    number(journey != nullptr, journey ? journey->distance.metres() : 0);
    const auto& attached = (*ready.attached)[i];
    number(attached.has_value(), attached ? attached->off_road.metres() : 0);
    number(journey != nullptr,
           journey ? straight_line(o, ready.inputs.demand.at(i).position, journey->site).metres() : 0);
    c.emplace_back(o.weights[i].value());
    if (o.question.standard)
        c.emplace_back(std::string(is_within(p, o.question.standard->limit) ? "yes" : "no"));
    else
        c.emplace_back();
    c.push_back(p.served() ? Cell() : Cell(reason(o, place)));
    for (const auto by : {SummedBy::zone, SummedBy::group})
        if (can_sum_up(ready, by)) c.push_back(text_or_empty(name_of(ready, place, by)));
    return row;
}

}  // namespace

void each_row(const service::Ready& ready, const service::Outcome& o, const WhichPlaces& which, const Task& task,
              const std::function<void(const AnswerRow&)>& use) {
    const std::size_t n = which ? which->size() : o.places.size();
    for (std::size_t i = 0; i < n; ++i) {
        if (i % 8192 == 0) task.at("writing the answer", static_cast<double>(i) / static_cast<double>(n));
        const DemandIndex place = which ? (*which)[i] : DemandIndex(static_cast<std::uint32_t>(i));
        const auto journeys = journeys_of(o, place);
        if (journeys.empty()) use(row_of(ready, o, place, nullptr));
        for (const auto& journey : journeys) use(row_of(ready, o, place, &journey));
    }
}

}  // namespace otoro::files
