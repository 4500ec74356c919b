#include "files/write_answer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <iterator>
#include <nlohmann/json.hpp>

#include "files/atomic_file.h"
#include "files/gdal_writer.h"
#include "files/geojson.h"
#include "files/source.h"
#include "geo/amounts.h"

namespace otoro::files {
namespace {

/// One row, ready to be written in any format. Empty optionals are empty cells.
struct AnswerRow {
    std::string demand_id;
    std::optional<int> rank;
    std::optional<std::string> site_id;
    std::string status;
    std::optional<double> minutes, metres, off_road_m, straight_m;
    double weight = 0;
    std::optional<bool> within_standard;
    std::string note;
};

AnswerRow row_of(const service::Ready& ready, const service::Outcome& o, std::uint32_t i) {
    const auto& place = o.places[i];
    AnswerRow r;
    r.demand_id = ready.inputs.demand->places[i].id;
    r.status = name(place.status);
    r.weight = o.weights[i].value();
    if (const auto& a = (*ready.attached)[i]) r.off_road_m = a->off_road.metres();
    if (o.question.standard) r.within_standard = is_within(place, o.question.standard->limit);
    if (place.served()) {
        r.rank = 1;
        r.site_id = o.sites[place.nearest->value()].planned.site.id;
        r.minutes = place.time.minutes();
        r.metres = place.distance.metres();
        r.straight_m = straight_line(o, ready.inputs.demand->places[i].position, place).metres();
    } else {
        r.note = reason(o, DemandIndex(i));
    }
    return r;
}

template <class Use>
void each_row(const service::Ready& ready, const service::Outcome& o, const Task& task, Use&& use) {
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        if (i % 8192 == 0) task.at("writing the answer", static_cast<double>(i) / static_cast<double>(o.places.size()));
        use(i, row_of(ready, o, i));
    }
}

std::string csv_row(const AnswerRow& r) {
    const auto number = [](const std::optional<double>& v, int decimals) {
        return v ? fmt::format("{:.{}f}", *v, decimals) : std::string();
    };
    return fmt::format("{},{},{},{},{},{},{},{},{},{},{}\r\n", csv_cell(r.demand_id), r.rank ? "1" : "",
                       r.site_id ? csv_cell(*r.site_id) : "", r.status, number(r.minutes, 5), number(r.metres, 3),
                       number(r.off_road_m, 3), number(r.straight_m, 3), plain_number(r.weight),
                       r.within_standard ? (*r.within_standard ? "yes" : "no") : "", csv_cell(r.note));
}

void write_csv(const service::Ready& ready, const service::Outcome& o, const std::string& path, const Task& task) {
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        out.write("demand_id,rank,site_id,status,minutes,metres,off_road_m,straight_m,weight,within_standard,note\r\n");
        each_row(ready, o, task, [&](std::uint32_t, const AnswerRow& r) { out.write(csv_row(r)); });
        out.close();
    });
}

/// The shape of a row: nothing, a place, or a line from the place to its site.
std::vector<geo::LonLat> shape_of(const service::Ready& ready, const service::Outcome& o, std::uint32_t i,
                                  AnswerShape shape) {
    const auto& from = ready.inputs.demand->places[i].position;
    if (shape == AnswerShape::points) return from ? std::vector{*from} : std::vector<geo::LonLat>();
    if (!o.places[i].served()) return {};
    return {*from, *o.sites[o.places[i].nearest->value()].planned.site.position};
}

/// A text as JSON has it; bytes that are no UTF-8 are replaced.
std::string quoted(const std::string& text) {
    return nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

std::string json_row(const AnswerRow& r, const std::vector<geo::LonLat>& shape) {
    const auto number = [](const std::optional<double>& v) { return v ? plain_number(*v) : std::string("null"); };
    const auto text = [](bool there, const std::string& t) { return there ? quoted(t) : std::string("null"); };
    return fmt::format(
        R"({{"type":"Feature","properties":{{"demand_id":{},"rank":{},"site_id":{},"status":"{}","minutes":{},"metres":{},"off_road_m":{},"straight_m":{},"weight":{},"within_standard":{},"note":{}}},"geometry":{}}})",
        quoted(r.demand_id), r.rank ? "1" : "null", text(r.site_id.has_value(), r.site_id.value_or("")), r.status,
        number(r.minutes), number(r.metres), number(r.off_road_m), number(r.straight_m), plain_number(r.weight),
        r.within_standard ? (*r.within_standard ? R"("yes")" : R"("no")") : "null", text(!r.note.empty(), r.note),
        geojson_shape(shape));
}

/// GeoJSON after RFC 7946. Written here because GDAL's writer does not say when the disk refuses.
void write_geojson(const service::Ready& ready, const service::Outcome& o, const std::string& path, AnswerShape shape,
                   const Task& task) {
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        out.write(
            fmt::format("{{\"type\":\"FeatureCollection\",\"name\":\"answer\",\"description\":{},\"features\":[\n",
                        quoted(sentence(o.question, *ready.inputs.demand))));
        each_row(ready, o, task, [&](std::uint32_t i, const AnswerRow& r) {
            out.write((i > 0 ? ",\n" : "") + json_row(r, shape_of(ready, o, i, shape)));
        });
        out.write("\n]}\n");
        out.close();
    });
}

void write_geopackage(const service::Ready& ready, const service::Outcome& o, const std::string& path,
                      AnswerShape shape, const Task& task) {
    write_atomically(path, [&](const std::string& temporary) {
        GdalWriter out(temporary, path);
        auto layer = out.layer("answer", shape == AnswerShape::points ? wkbPoint : wkbLineString,
                               {{"demand_id", OFTString},
                                {"rank", OFTInteger},
                                {"site_id", OFTString},
                                {"status", OFTString},
                                {"minutes", OFTReal},
                                {"metres", OFTReal},
                                {"off_road_m", OFTReal},
                                {"straight_m", OFTReal},
                                {"weight", OFTReal},
                                {"within_standard", OFTString},
                                {"note", OFTString}},
                               sentence(o.question, *ready.inputs.demand), GdalWriter::SpatialIndex::none);
        each_row(ready, o, task, [&](std::uint32_t i, const AnswerRow& r) {
            auto row = layer.row();
            row.set(0, r.demand_id);
            if (r.rank) row.set(1, *r.rank);
            if (r.site_id) row.set(2, *r.site_id);
            row.set(3, r.status);
            int field = 4;
            for (const auto& v : {r.minutes, r.metres, r.off_road_m, r.straight_m}) {
                if (v) row.set(field, *v);
                ++field;
            }
            row.set(8, r.weight);
            if (r.within_standard) row.set(9, std::string(*r.within_standard ? "yes" : "no"));
            if (!r.note.empty()) row.set(10, r.note);
            const auto drawn = shape_of(ready, o, i, shape);
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
    const double unit = time ? 60'000.0 : 1'000'000.0;
    const auto in = [&](double v) { return fmt::format("{:.2f} {}", v / unit, time ? "min" : "km"); };
    return fmt::format("mean {}, median {}, 90th percentile {}, worst {}", in(s->mean),
                       in(static_cast<double>(s->median)), in(static_cast<double>(s->p90)),
                       in(static_cast<double>(s->worst)));
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

void write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                  AnswerShape shape, const Task& task) {
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (ending == ".csv" || is_device_or_pipe(path)) return write_csv(ready, outcome, path, task);
    if (ending == ".gpkg") return write_geopackage(ready, outcome, path, shape, task);
    if (ending == ".geojson" || ending == ".json") return write_geojson(ready, outcome, path, shape, task);
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
    std::string text = sentence(o.question, *ready.inputs.demand) + "\n";
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
    text += fmt::format("Time: {}\nDistance: {}\n", statistics_line(o, routing::Measure::time),
                        statistics_line(o, routing::Measure::distance));
    return text;
}

}  // namespace otoro::files
