#include "files/write_answer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <numeric>

#include "files/atomic_file.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/breakdown.h"
#include "service/journey_lines.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

/// The shape of a row: nothing, a place, or a straight line from the place to its site.
std::vector<geo::LonLat> shape_of(const service::Ready& ready, const service::Outcome& o, const AnswerRow& row,
                                  AnswerShape shape) {
    const auto& from = ready.inputs.demand.at(row.place).position;
    if (shape == AnswerShape::points) return from ? std::vector{*from} : std::vector<geo::LonLat>();
    if (!row.journey) return {};
    return {*from, *o.sites[row.journey->site.value()].planned.site.position};
}

/// Rows with their journeys along the roads; so many are drawn at once.
class JourneyRows {
public:
    JourneyRows(const service::Ready& ready, const service::Outcome& o, const std::function<void(const ShapeRow&)>& use,
                const Task& task)
        : ready_(ready), o_(o), use_(use), task_(task) {}
    void add(ShapeRow row, const std::optional<service::Journey>& journey) {
        if (journey) {
            journeys_.push_back(*journey);
            row.lines.emplace_back();
        }
        rows_.push_back(std::move(row));
        constexpr std::size_t kAtOnce = 50'000;
        if (rows_.size() == kAtOnce) flush();
    }
    void flush() {
        auto drawn = service::journey_lines(ready_, o_, journeys_, task_);
        auto next = drawn.begin();
        for (ShapeRow& row : rows_) {
            if (!row.lines.empty()) {
                row.lines[0] = std::move(*next++);
                if (row.lines[0].size() < 2) row.lines.clear();  // place and site are one spot
            }
            use_(row);
        }
        rows_.clear();
        journeys_.clear();
    }

private:
    const service::Ready& ready_;
    const service::Outcome& o_;
    const std::function<void(const ShapeRow&)>& use_;
    const Task& task_;
    std::vector<ShapeRow> rows_;
    std::vector<service::Journey> journeys_;
};

}  // namespace

std::string travel_words(const service::Outcome& o, Wide travel) {
    const double whole = static_cast<double>(travel) / 1e6;
    return o.question.measure() == routing::Measure::time ? said(whole / 60'000, 1) + " min"
                                                          : said(whole / 1'000'000, 1) + " km";
}

namespace {

std::string statistics_line(const service::Outcome& o, routing::Measure measure) {
    const auto s = statistics(o, measure);
    if (!s) return "no weight is served";
    const bool time = measure == routing::Measure::time;
    const auto in = [&](double v) {
        return time ? said(v / 60'000, 2) + " min" : said_long(Millimetres(std::llround(v)), 2);
    };
    return fmt::format("mean {}, median {}, 90th percentile {}, worst {}", in(s->mean),
                       in(static_cast<double>(s->median)), in(static_cast<double>(s->p90)),
                       in(static_cast<double>(s->worst)));
}

/// What capacities come to.
std::string capacity_lines(const service::Outcome& o) {
    const auto& c = *o.capacity;
    std::string text;
    if (c.room)
        text += fmt::format("Capacity: room for {}, asked for by {}{}\n", describe(*c.room), describe(c.asked),
                            c.no_room.count() > 0 ? fmt::format(": {} finds no room", describe(c.no_room)) : "");
    else
        text += fmt::format("Capacity: asked for by {}, {} finds no room; some sites state no capacity\n",
                            describe(c.asked), describe(c.no_room));
    text += fmt::format("  travel in all {}, {} more than at the nearest sites", travel_words(o, c.travel),
                        travel_words(o, c.travel - c.nearest_travel));
    if (c.proven)
        text += "; nothing is less\n";
    else if (c.bound > 0 && leaves_least(o))
        text += fmt::format("; nothing is less than {}\n", travel_words(o, c.bound));
    else if (c.bound > 0)
        text += fmt::format("; no answer leaves less than {} without room{}, and none that does as well less than {}\n",
                            describe(c.least_no_room),
                            service::short_of_least(o).of > 0
                                ? fmt::format(", or sites less than {} short of their least", describe(c.least_short))
                                : "",
                            travel_words(o, c.bound));
    else
        text += "\n";
    return text;
}

/// How the answer differs from sending everybody to the nearest site; nothing where that is the rule.
std::string against_nearest(const service::Outcome& o) {
    if (!o.by_nearest || o.journeys) return {};
    std::string text = o.capacity ? capacity_lines(o) : std::string();
    const auto displaced = service::displaced(o);
    text += fmt::format("Not at the nearest site: {} places, weight {}; {} more in all\n",
                        said_whole(displaced.tally.places), describe(displaced.tally.weight),
                        travel_words(o, displaced.extra));
    return text;
}

/// A line a zone or group; nothing where there are none.
std::string sums_by(const service::Ready& ready, const service::Outcome& o, service::SummedBy by, const char* title) {
    const auto limit = o.question.standard ? std::optional(o.question.standard->limit) : std::nullopt;
    const auto rows = sum_up(ready, o, by, limit);
    if (rows.empty()) return {};
    std::string text = fmt::format("{}:\n", title);
    for (const auto& row : rows) {
        const std::string name = !row.none ? row.name : by == service::SummedBy::zone ? "(no zone)" : "(no group)";
        text += fmt::format("  {}: {} {}, weight {} of {}", name, describe(share_of(row.inside.weight, row.all.weight)),
                            limit ? "within" : "served", describe(row.inside.weight), describe(row.all.weight));
        if (row.mean_minutes) text += ", mean " + said(*row.mean_minutes, 2) + " min";
        text += "\n";
    }
    return text;
}

}  // namespace

namespace {
Cell reassigned_cell(const service::Outcome& o, const std::vector<std::optional<SiteIndex>>& sites, DemandIndex place) {
    const auto& site = sites[place.value()];
    return site ? Cell(o.sites[site->value()].planned.site.id) : Cell();
}
}  // namespace

ShapeTable answer_shapes(const service::Ready& ready, const service::Outcome& o, const AnswerWanted& wanted,
                         const Task& task) {
    ShapeTable out;
    out.name = "answer";
    out.description = sentence(o.question, ready.inputs.demand);
    out.kind = wanted.shape == AnswerShape::points ? ShapeKind::points : ShapeKind::line;
    out.indexed = false;
    std::vector<AnswerColumn> columns = answer_columns(ready);
    std::vector<std::size_t> taken(columns.size());
    std::iota(taken.begin(), taken.end(), std::size_t{0});
    if (wanted.ids_only) {
        std::erase_if(taken, [&](std::size_t k) {
            const std::string& name = columns[k].name;
            return name != "demand_id" && name != "site_id" && !(name == "rank" && o.journeys);
        });
        std::vector<AnswerColumn> few;
        for (const std::size_t k : taken) few.push_back(columns[k]);
        columns = std::move(few);
    }
    if (!wanted.reassigned.empty()) columns.push_back({"reassigned_site_id"});
    if (wanted.beside) columns.insert(columns.end(), wanted.beside->columns.begin(), wanted.beside->columns.end());
    out.columns = shape_columns(columns);
    out.each_row = [&ready, &o, wanted, taken, task](const std::function<void(const ShapeRow&)>& use) {
        JourneyRows drawn(ready, o, use, task);
        std::optional<DemandIndex> before;
        std::vector<Cell> beside;
        each_row(ready, o, wanted.which, task, [&](const AnswerRow& row) {
            ShapeRow shaped;
            for (const std::size_t k : taken) shaped.cells.push_back(row.cells[k]);
            if (!wanted.reassigned.empty()) shaped.cells.push_back(reassigned_cell(o, wanted.reassigned, row.place));
            if (wanted.beside) {
                if (before != row.place) beside = wanted.beside->of(row.place);
                before = row.place;
                shaped.cells.insert(shaped.cells.end(), beside.begin(), beside.end());
            }
            if (wanted.shape == AnswerShape::journeys) return drawn.add(std::move(shaped), row.journey);
            if (auto line = shape_of(ready, o, row, wanted.shape); !line.empty())
                shaped.lines.push_back(std::move(line));
            use(shaped);
        });
        drawn.flush();
    };
    return out;
}

std::string write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                         const AnswerWanted& wanted, const Task& task) {
    AnswerWanted shown = wanted;
    if (!holds_shapes(path)) shown.shape = AnswerShape::points;  // journeys need not be drawn for a table
    return write_table(answer_shapes(ready, outcome, shown, task), path, task);
}

void write_loads(const service::Outcome& outcome, const std::string& path) {
    std::string text = "site_id,name,state,in_use,places,load,capacity,worst_minutes,least,short_of_least\r\n";
    for (const auto& s : outcome.sites) {
        const auto& site = s.planned.site;
        text += fmt::format("{},{},{},{},{},{},{},{},{},{}\r\n", csv_cell(site.id), csv_cell(site.name),
                            name(site.state), s.planned.in_use ? "yes" : "no", s.places, plain_number(s.load.value()),
                            site.capacity ? plain_number(site.capacity->value()) : "",
                            s.load > Weight() ? fmt::format("{:.5f}", s.worst_time.minutes()) : "",
                            site.least ? plain_number(site.least->value()) : "",
                            site.least && s.planned.in_use ? plain_number(s.short_of_least().value()) : "");
    }
    write_text(path, text);
}

std::string flows_csv(const service::Outcome& o, const service::Reassignment& moved) {
    const bool by_time = o.question.measure() == routing::Measure::time;
    std::string text = fmt::format("from_site_id,from_name,to_site_id,to_name,places,weight,{}{}",
                                   by_time ? "saved_minutes" : "saved_km", kCsvEnd);
    const auto cells = [&](SiteIndex site) {
        const auto& s = o.sites[site.value()].planned.site;
        return csv_cell(s.id) + "," + csv_cell(s.name);
    };
    for (const auto& flow : moved.flows)
        text += fmt::format("{},{},{},{},{:.3f}{}", flow.from ? cells(*flow.from) : ",", cells(flow.to),
                            flow.tally.places, plain_number(flow.tally.weight.value()),
                            static_cast<double>(flow.saved) / 1e6 / (by_time ? 60'000 : 1'000'000), kCsvEnd);
    return text;
}

std::string summary(const service::Ready& ready, const service::Outcome& o) {
    std::string text = sentence(o.question, ready.inputs.demand) + "\n";
    text += fmt::format("Plan: {}\n", o.plan.name);
    if (o.question.standard) {
        const auto v = judge(o, *o.question.standard);
        text += fmt::format("Verdict: {} within {}, {} wanted: {}\n", describe(v.share), describe(v.standard.limit),
                            describe(v.standard.share), words(v.steps.front().judged()));
        text += fmt::format("  weight {} of {} ({} of places: {} of {})\n", describe(v.inside.weight),
                            describe(v.steps.front().all.weight), describe(v.share_of_places),
                            said_whole(v.inside.places), said_whole(v.steps.front().all.places));
        const std::string whom = counted(o.question, ready.inputs.demand);
        for (std::size_t k = 1; k < v.steps.size(); ++k) text += fmt::format("  {}\n", words(v.steps[k], whom));
        if (v.steps.size() > 1) text += fmt::format("  The whole standard: {}\n", words(v.judged()));
    }
    for (const auto status : service::kAllStatuses) {
        const auto& t = o.tally(status);
        text += fmt::format("  {:<13} {:>8} places  weight {}\n", name(status), t.places, describe(t.weight));
    }
    text += against_nearest(o);
    if (const auto lacking = service::short_of_least(o); lacking.of > 0)
        text += fmt::format("Sites short of their least: {} of {}, weight {} in all\n", lacking.sites, lacking.of,
                            describe(lacking.weight));
    text += fmt::format("Time: {}\nDistance: {}\n", statistics_line(o, routing::Measure::time),
                        statistics_line(o, routing::Measure::distance));
    text += sums_by(ready, o, service::SummedBy::zone, "By zone");
    text += sums_by(ready, o, service::SummedBy::group, "By group");
    return text;
}

}  // namespace otoro::files
