#include "files/write_answer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <iterator>
#include <nlohmann/json.hpp>

#include "files/atomic_file.h"
#include "files/gdal_writer.h"
#include "files/geojson.h"
#include "files/source.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/breakdown.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

/// A number in a text format.
std::string digits(double v, int decimals) {
    return decimals < 0 ? plain_number(v) : fmt::format("{:.{}f}", v, decimals);
}

void write_csv(const service::Ready& ready, const service::Outcome& o, const WhichPlaces& which,
               const std::string& path, const Task& task) {
    const auto columns = answer_columns(ready);
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        std::string head;
        for (const auto& c : columns) head += (head.empty() ? "" : ",") + c.name;
        out.write(head + "\r\n");
        each_row(ready, o, which, task, [&](const AnswerRow& row) { out.write(csv_row(columns, row.cells)); });
        out.close();
    });
}

/// The shape of a row: nothing, a place, or a line from the place to its site.
std::vector<geo::LonLat> shape_of(const service::Ready& ready, const service::Outcome& o, const AnswerRow& row,
                                  AnswerShape shape) {
    const auto& from = ready.inputs.demand.at(row.place).position;
    if (shape == AnswerShape::points) return from ? std::vector{*from} : std::vector<geo::LonLat>();
    if (!row.site) return {};
    return {*from, *o.sites[row.site->value()].planned.site.position};
}

/// A text as JSON has it; bytes that are no UTF-8 are replaced.
std::string quoted(const std::string& text) {
    return nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

std::string json_row(const std::vector<AnswerColumn>& columns, const AnswerRow& row,
                     const std::vector<geo::LonLat>& shape) {
    std::string properties;
    for (std::size_t k = 0; k < row.cells.size(); ++k) {
        const Cell& cell = row.cells[k];
        std::string value = "null";
        if (const auto* text = std::get_if<std::string>(&cell)) value = quoted(*text);
        if (const auto* whole = std::get_if<std::int64_t>(&cell)) value = std::to_string(*whole);
        if (const auto* number = std::get_if<double>(&cell)) value = plain_number(*number);
        properties += fmt::format("{}\"{}\":{}", k > 0 ? "," : "", columns[k].name, value);
    }
    return fmt::format(R"({{"type":"Feature","properties":{{{}}},"geometry":{}}})", properties, geojson_shape(shape));
}

/// GeoJSON after RFC 7946. Written here because GDAL's writer does not say when the disk refuses.
void write_geojson(const service::Ready& ready, const service::Outcome& o, const WhichPlaces& which,
                   const std::string& path, AnswerShape shape, const Task& task) {
    const auto columns = answer_columns(ready);
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        out.write(
            fmt::format("{{\"type\":\"FeatureCollection\",\"name\":\"answer\",\"description\":{},\"features\":[\n",
                        quoted(sentence(o.question, ready.inputs.demand))));
        bool first = true;
        each_row(ready, o, which, task, [&](const AnswerRow& row) {
            out.write((first ? "" : ",\n") + json_row(columns, row, shape_of(ready, o, row, shape)));
            first = false;
        });
        out.write("\n]}\n");
        out.close();
    });
}

OGRFieldType field_type(AnswerColumn::Kind kind) {
    switch (kind) {
        case AnswerColumn::Kind::text:
            return OFTString;
        case AnswerColumn::Kind::whole:
            return OFTInteger;
        case AnswerColumn::Kind::number:
            return OFTReal;
    }
    return OFTString;
}

void write_geopackage(const service::Ready& ready, const service::Outcome& o, const WhichPlaces& which,
                      const std::string& path, AnswerShape shape, const Task& task) {
    std::vector<GdalWriter::Field> fields;
    for (const auto& c : answer_columns(ready)) fields.push_back({c.name, field_type(c.kind)});
    write_atomically(path, [&](const std::string& temporary) {
        GdalWriter out(temporary, path);
        auto layer = out.layer("answer", shape == AnswerShape::points ? wkbPoint : wkbLineString, fields,
                               sentence(o.question, ready.inputs.demand), GdalWriter::SpatialIndex::none);
        each_row(ready, o, which, task, [&](const AnswerRow& r) {
            auto row = layer.row();
            for (std::size_t k = 0; k < r.cells.size(); ++k) {
                const int field = static_cast<int>(k);
                const Cell& cell = r.cells[k];
                if (const auto* text = std::get_if<std::string>(&cell)) row.set(field, *text);
                if (const auto* whole = std::get_if<std::int64_t>(&cell)) row.set(field, static_cast<int>(*whole));
                if (const auto* number = std::get_if<double>(&cell)) row.set(field, *number);
            }
            const auto drawn = shape_of(ready, o, r, shape);
            if (drawn.size() == 1) row.point(drawn[0]);
            if (drawn.size() == 2) row.line(drawn);
            row.write();
        });
        out.close();
    });
}

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

/// Weight times cost, in minutes or kilometres for a weight of one.
std::string travel_words(const service::Outcome& o, Wide travel) {
    const double whole = static_cast<double>(travel) / 1e6;
    return o.question.measure() == routing::Measure::time ? said(whole / 60'000, 1) + " min"
                                                          : said(whole / 1'000'000, 1) + " km";
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
    else if (c.bound > 0)
        text += fmt::format("; nothing is less than {}\n", travel_words(o, c.bound));
    else
        text += "\n";
    return text;
}

/// How the answer differs from sending everybody to the nearest site; nothing where that is the rule.
std::string against_nearest(const service::Outcome& o) {
    if (!o.by_nearest || o.journeys) return {};
    std::string text = o.capacity ? capacity_lines(o) : std::string();
    const auto displaced = service::displaced(o);
    text += fmt::format("Not at the nearest site: {} places, weight {}; {} more in all\n", displaced.tally.places,
                        describe(displaced.tally.weight), travel_words(o, displaced.extra));
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

std::string csv_cell(const std::string& given) {
    std::string text = as_utf8(given);
    double number = 0;
    if (!text.empty() && std::string_view("=+-@\t\r").find(text[0]) != std::string_view::npos &&
        !parse_number(text, number))
        text.insert(0, 1, '\'');
    if (text.find_first_of(",;\"\t\r\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string csv_row(const std::vector<AnswerColumn>& columns, const std::vector<Cell>& cells) {
    std::string line;
    for (std::size_t k = 0; k < cells.size(); ++k) {
        if (k > 0) line += ',';
        const Cell& cell = cells[k];
        if (const auto* text = std::get_if<std::string>(&cell)) line += csv_cell(*text);
        if (const auto* whole = std::get_if<std::int64_t>(&cell)) line += std::to_string(*whole);
        if (const auto* number = std::get_if<double>(&cell)) line += digits(*number, columns[k].decimals);
    }
    return line + kCsvEnd;
}

void write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                  AnswerShape shape, const Task& task, const WhichPlaces& which) {
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (ending == ".csv" || is_device_or_pipe(path)) return write_csv(ready, outcome, which, path, task);
    if (ending == ".gpkg") return write_geopackage(ready, outcome, which, path, shape, task);
    if (ending == ".geojson" || ending == ".json") return write_geojson(ready, outcome, which, path, shape, task);
    throw InputError(
        {path, std::nullopt, "its ending does not say which format to write", "Use .csv, .gpkg or .geojson"});
}

void write_loads(const service::Outcome& outcome, const std::string& path) {
    std::string text = "site_id,name,state,in_use,places,load,capacity,worst_minutes\r\n";
    for (const auto& s : outcome.sites) {
        const auto& site = s.planned.site;
        text += fmt::format("{},{},{},{},{},{},{},{}\r\n", csv_cell(site.id), csv_cell(site.name), name(site.state),
                            s.planned.in_use ? "yes" : "no", s.places, plain_number(s.load.value()),
                            site.capacity ? plain_number(site.capacity->value()) : "",
                            s.places > 0 ? fmt::format("{:.5f}", s.worst_time.minutes()) : "");
    }
    write_text(path, text);
}

std::string summary(const service::Ready& ready, const service::Outcome& o) {
    std::string text = sentence(o.question, ready.inputs.demand) + "\n";
    text += fmt::format("Plan: {}\n", o.plan.name);
    if (o.question.standard) {
        const auto v = judge(o, *o.question.standard);
        text += fmt::format("Verdict: {} within {}, {} wanted: {}\n", describe(v.share), describe(v.standard.limit),
                            describe(v.standard.share), v.met ? "met" : "not met");
        text += fmt::format("  weight {} of {} ({} of places: {} of {})\n", describe(v.inside.weight),
                            describe(o.all.weight), describe(v.share_of_places), v.inside.places, o.all.places);
    }
    for (const auto status : service::kAllStatuses) {
        const auto& t = o.tally(status);
        text += fmt::format("  {:<13} {:>8} places  weight {}\n", name(status), t.places, describe(t.weight));
    }
    text += against_nearest(o);
    text += fmt::format("Time: {}\nDistance: {}\n", statistics_line(o, routing::Measure::time),
                        statistics_line(o, routing::Measure::distance));
    text += sums_by(ready, o, service::SummedBy::zone, "By zone");
    text += sums_by(ready, o, service::SummedBy::group, "By group");
    return text;
}

}  // namespace otoro::files
